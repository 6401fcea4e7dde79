//! Odds: by step, by what copies have in common, before and after a change, and where on the plate they fail.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::flow::FailedAt;
use wembrit_core::geometry::Quarter;
use wembrit_core::ids::{PrinterId, RecipeId};
use wembrit_core::ledger::{Look, LookRow, steps};
use wembrit_core::odds::{
    Found, Judged, PROVEN, Posterior, RANGE, Share, StepLoss, Verdict, Window, believed, windows,
    worst_quarter,
};
use wembrit_core::workshop::Printer;
use wembrit_paper::{draw_stood, write_table_csv};
use wembrit_store::queries::pages::ledger::OddsPage;

use super::Page;
use super::ledger::{luck, pays_words};

/// A share that is believed, with its range.
pub(crate) struct Believed {
    pub(crate) share: String,
    pub(crate) range: String,
    /// The range as a bar: from, and how long, of 100.
    pub(crate) from: String,
    pub(crate) long: String,
    /// The share itself on that bar.
    pub(crate) at: String,
}

impl Believed {
    pub(crate) fn new(odds: &Posterior) -> Self {
        let tail = (1.0 - RANGE) / 2.0;
        Self::between(odds.mean(), odds.quantile(tail), odds.quantile(1.0 - tail))
    }

    fn of(share: &Share) -> Self {
        Self::between(share.mean, share.low, share.high)
    }

    fn between(mean: f64, low: f64, high: f64) -> Self {
        let percent = |p: f64| p * 100.0;
        Self {
            share: format!("{:.0} %", percent(mean)),
            range: format!("{:.0} to {:.0}", percent(low), percent(high)),
            from: format!("{:.1}", percent(low)),
            long: format!("{:.1}", percent(high - low)),
            at: format!("{:.1}", percent(mean)),
        }
    }
}

/// A step of the way.
pub(crate) struct StepRow {
    pub(crate) step: FailedAt,
    pub(crate) reached: u64,
    pub(crate) failed: u64,
    pub(crate) through: String,
}

/// Copies that are alike.
pub(crate) struct AlikeRow {
    pub(crate) name: String,
    pub(crate) came: String,
    pub(crate) odds: Believed,
    pub(crate) says: String,
    pub(crate) each: String,
    pub(crate) lost: String,
}

/// A way to look.
pub(crate) struct LookTable {
    pub(crate) look: Look,
    pub(crate) rows: Vec<AlikeRow>,
}

/// A recipe since it was changed.
pub(crate) struct SinceRow {
    pub(crate) part: String,
    pub(crate) changed: String,
    pub(crate) before: String,
    pub(crate) after: String,
    pub(crate) says: String,
}

/// A printer's plate with what failed where.
pub(crate) struct BedRow {
    pub(crate) name: String,
    pub(crate) drawing: String,
    pub(crate) says: Vec<String>,
    pub(crate) printer: PrinterId,
    /// The quarter that is proven worse than the rest.
    pub(crate) worst: Option<Quarter>,
    /// The one that slender parts are kept out of.
    pub(crate) kept_clear: Option<Quarter>,
}

/// The page.
#[derive(Template)]
#[template(path = "ledger/odds.html")]
pub(crate) struct OddsView {
    pub(crate) page: Page,
    pub(crate) judged: u64,
    pub(crate) came: String,
    pub(crate) odds: Believed,
    pub(crate) plates: String,
    pub(crate) plate_odds: Believed,
    pub(crate) pays: String,
    pub(crate) steps: Vec<StepRow>,
    pub(crate) looks: Vec<LookTable>,
    /// Ways to look by which all copies are alike, with what they have in common.
    pub(crate) alike: Vec<(Look, String)>,
    pub(crate) since: Vec<SinceRow>,
    pub(crate) beds: Vec<BedRow>,
}

/// `11 of 12`.
pub(crate) fn of(judged: Judged) -> String {
    format!("{} of {}", judged.good, judged.all())
}

/// What a verdict says against `others`.
fn says(verdict: Verdict, others: &str) -> String {
    match verdict {
        Verdict::Alone => "nothing beside it".to_owned(),
        Verdict::Better => format!("better than {others}"),
        Verdict::Worse => format!("worse than {others}"),
        Verdict::NotProven => "no clear difference".to_owned(),
    }
}

/// The same as a code.
const fn code(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Alone => "",
        Verdict::Better => "better",
        Verdict::Worse => "worse",
        Verdict::NotProven => "none",
    }
}

/// Most rows of one way to look.
const ROWS: usize = 20;

fn look(look: Look, rows: &[LookRow]) -> LookTable {
    let row = |r: &LookRow| AlikeRow {
        came: of(r.group.judged),
        odds: Believed::of(&r.group.share),
        says: says(r.group.verdict(), "the rest"),
        each: r.each_good().map_or_else(|| "–".into(), |m| m.written()),
        lost: r.lost.written(),
        name: r.group.name.clone(),
    };
    LookTable {
        look,
        rows: rows.iter().take(ROWS).map(row).collect(),
    }
}

/// What is said of a window.
fn window_words(found: &Found, tried: usize) -> String {
    let luck = luck(found.p);
    let name = found.window.name();
    let at = format!("{name}: {} of {} failed", found.failed, found.stood);
    if found.p <= PROVEN {
        format!(
            "{at}; by luck with {luck} after {tried} windows: {}",
            found.window.look_at()
        )
    } else {
        format!("{at}; that may be luck ({luck} after {tried} windows)")
    }
}

fn beds(data: &OddsPage) -> Vec<BedRow> {
    let bed = |printer: &Printer| {
        let on = data
            .copies
            .iter()
            .filter(|c| c.printer == printer.id && c.counts());
        let stood: Vec<_> = on.map(|c| c.stood).collect();
        if stood.is_empty() {
            return None;
        }
        let found = windows(&stood, &Window::ALL);
        let worst = worst_quarter(&found);
        let told = found.iter().filter(|f| f.p <= PROVEN);
        let mut says: Vec<String> = told.map(|f| window_words(f, Window::ALL.len())).collect();
        if says.is_empty() {
            let first = found.first().map(|f| window_words(f, Window::ALL.len()));
            says.push(first.unwrap_or_else(|| "nothing failed on it".to_owned()));
        }
        Some(BedRow {
            name: printer.name.clone(),
            drawing: draw_stood(&stood, [printer.width_mm, printer.depth_mm], worst),
            says,
            printer: printer.id,
            worst,
            kept_clear: printer.kept_clear,
        })
    };
    data.printers.values().filter_map(bed).collect()
}

impl OddsView {
    pub(crate) fn new(page: Page, data: &OddsPage) -> Self {
        let (all, plates) = (data.workshop, data.plates_lost);
        let ways = &data.looks.0;
        let one = |(way, rows): &(Look, Vec<LookRow>)| match &rows[..] {
            [row] => Some((*way, row.group.name.clone())),
            _ => None,
        };
        let alike = ways.iter().filter_map(one).collect();
        let changed = |recipe: RecipeId, version: i64| {
            let said = data
                .versions
                .iter()
                .find(|v| v.recipe == recipe && v.version == version);
            said.map_or_else(|| format!("version {version}"), |v| v.changed.clone())
        };
        let step = |(step, of): (&FailedAt, StepLoss)| StepRow {
            step: *step,
            reached: of.reached,
            failed: of.failed,
            through: format!("{:.1} %", of.odds.mean() * 100.0),
        };
        Self {
            judged: all.all(),
            came: of(all),
            odds: Believed::new(&believed(all, all)),
            plates: of(plates),
            plate_odds: Believed::new(&believed(plates, plates)),
            pays: pays_words(&data.copies, &data.looks),
            steps: FailedAt::ALL
                .iter()
                .zip(steps(&data.copies))
                .map(step)
                .collect(),
            looks: ways
                .iter()
                .filter(|(_, rows)| rows.len() > 1)
                .map(|(way, rows)| look(*way, rows))
                .collect(),
            alike,
            since: data
                .since
                .iter()
                .map(|s| SinceRow {
                    changed: changed(s.recipe, s.version),
                    before: of(s.before),
                    after: of(s.after),
                    says: says(s.shares[1].verdict(), "before"),
                    part: s.part.clone(),
                })
                .collect(),
            beds: beds(data),
            page,
        }
    }
}

/// A row of [`odds_csv`]: which, how it came out, what is believed with its range, and what follows in the table.
fn csv_row(
    look: &str,
    name: String,
    judged: Judged,
    [mean, low, high]: [f64; 3],
    more: [String; 3],
) -> Vec<String> {
    let mut row = vec![
        look.to_owned(),
        name,
        judged.good.to_string(),
        judged.failed.to_string(),
        format!("{mean:.4}"),
        format!("{low:.4}"),
        format!("{high:.4}"),
    ];
    row.extend(more);
    row
}

/// All ways to look as one table.
pub(crate) fn odds_csv(data: &OddsPage) -> String {
    let believed = |s: &Share| [s.mean, s.low, s.high];
    let mut rows = Vec::new();
    for (way, looked) in &data.looks.0 {
        for row in looked {
            let (said, group) = (code(row.group.verdict()), &row.group);
            let more = [
                said.to_owned(),
                row.cost.0.to_string(),
                row.lost.0.to_string(),
            ];
            rows.push(csv_row(
                way.as_str(),
                group.name.clone(),
                group.judged,
                believed(&group.share),
                more,
            ));
        }
    }
    for (step, of) in FailedAt::ALL.iter().zip(steps(&data.copies)) {
        let judged = Judged {
            good: of.reached - of.failed,
            failed: of.failed,
        };
        let odds = [
            of.odds.mean(),
            of.odds.quantile(0.05),
            of.odds.quantile(0.95),
        ];
        rows.push(csv_row(
            "step",
            step.to_string(),
            judged,
            odds,
            Default::default(),
        ));
    }
    for since in &data.since {
        let [before, after] = &since.shares;
        let name = |side: &str| format!("{} {side} version {}", since.part, since.version);
        rows.push(csv_row(
            "change",
            name("before"),
            since.before,
            believed(before),
            Default::default(),
        ));
        let said = [
            code(after.verdict()).to_owned(),
            String::new(),
            String::new(),
        ];
        rows.push(csv_row(
            "change",
            name("since"),
            since.after,
            believed(after),
            said,
        ));
    }
    let columns = [
        "look",
        "name",
        "good",
        "failed",
        "share_good",
        "low_90",
        "high_90",
        "verdict",
        "cost_minor",
        "lost_minor",
    ];
    write_table_csv(&columns, &rows)
}
