//! A plate at its printer: the checks before the start, the looks while it runs, going on or
//! stopping once something went wrong.

use crate::currency::Amount;
use askama::Template;
use jiff::tz::TimeZone;
use wembrit_core::flow::{FailureCause, PlateState, RunsMeet};
use wembrit_core::ids::{BatchId, PlateId, PrinterId};
use wembrit_core::running::going_on::{chance_bad, trouble};
use wembrit_core::running::looks::{Look, looks};
use wembrit_core::running::preflight::preflight;
use wembrit_core::running::{Answers, CheckItem, KnownBefore, Pour, PrinterState, Verdict};
use wembrit_core::stores::Keeps;
use wembrit_core::units::Money;
use wembrit_core::workshop::resin_use;
use wembrit_store::queries::pages::runs::RunSheet;

use super::Page;
use super::links::Memory;
use super::live::RunLive;
use super::show::{self, count, give_or_take, hours, known_by, tenth};

/// Why a run cannot be written down at these times.
pub(crate) fn meet_words(met: &RunsMeet, zone: &TimeZone) -> String {
    let from = show::when(met.from_ms, zone);
    let till = met.to_ms.map_or_else(
        || "and has not been taken off yet".to_owned(),
        |to| format!("until {}", show::when(to, zone)),
    );
    format!(
        "Not written down: {} was printing plate {} from {from} {till}. Plate {} cannot have run there at the same time. Correct the times of one of the two.",
        met.printer, met.other, met.plate
    )
}

/// A check as it is shown.
pub(crate) struct CheckRow {
    pub(crate) name: &'static str,
    /// `good`, `doubt`, `stop` or `ask`.
    pub(crate) kind: &'static str,
    pub(crate) words: String,
    pub(crate) why: &'static str,
    pub(crate) ticked: bool,
    pub(crate) reason: String,
    /// The page about it.
    pub(crate) about: Option<(String, &'static str)>,
}

/// Something to look for.
pub(crate) struct LookRow {
    /// The vat is filled up: how much can be said.
    pub(crate) refills: bool,
    pub(crate) at: String,
    pub(crate) what: &'static str,
    pub(crate) help: &'static str,
    /// What is pressed when it is done; nothing for the end.
    pub(crate) act: Option<(&'static str, &'static str)>,
    pub(crate) late: String,
}

/// Going on against stopping.
pub(crate) struct Aid {
    pub(crate) left: String,
    pub(crate) ml_left: String,
    pub(crate) lost: u64,
    pub(crate) still_good: String,
    pub(crate) stop: String,
    pub(crate) well: String,
    pub(crate) badly: String,
    pub(crate) pays_under: String,
    pub(crate) chance: String,
    pub(crate) from: String,
    pub(crate) advice: &'static str,
    pub(crate) damage: String,
}

/// What was typed before the start.
#[derive(Default)]
pub(crate) struct Typed {
    pub(crate) vat_ml: Option<f64>,
    pub(crate) room_c: Option<f64>,
    pub(crate) answers: Answers,
    pub(crate) fault: String,
}

/// What is asked of the page while something goes wrong.
#[derive(Default)]
pub(crate) struct Asked {
    pub(crate) lost: Option<u64>,
    pub(crate) damage: Option<Money>,
}

/// A plate at its printer.
#[derive(Template)]
#[template(path = "runs/show.html")]
pub(crate) struct RunView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) copies: u64,
    pub(crate) state: PlateState,
    pub(crate) printer: (PrinterId, String),
    pub(crate) printer_state: PrinterState,
    pub(crate) resin: String,
    pub(crate) sheet: String,
    pub(crate) hours: String,
    /// How far off that may be.
    pub(crate) around: String,
    /// By what it is known.
    pub(crate) known_by: String,
    /// For how long it printed, as it was typed.
    pub(crate) printed: String,
    pub(crate) ml: String,
    pub(crate) layers: i64,
    pub(crate) other_running: Option<i64>,
    pub(crate) vat_ml: String,
    pub(crate) vat_proposed: bool,
    pub(crate) room_c: String,
    pub(crate) checks: Vec<CheckRow>,
    pub(crate) to_check: String,
    /// What is to be poured, and from where.
    pub(crate) pour: String,
    pub(crate) pour_from: String,
    pub(crate) fault: String,
    pub(crate) ends_ms: i64,
    pub(crate) now_ms: i64,
    pub(crate) ends: String,
    pub(crate) left: String,
    pub(crate) late: String,
    pub(crate) paused: bool,
    pub(crate) looks: Vec<LookRow>,
    pub(crate) trouble: String,
    pub(crate) aid: Option<Aid>,
    pub(crate) kept: Vec<(String, String, String)>,
    pub(crate) causes: Vec<&'static str>,
    pub(crate) batch: Option<BatchId>,
    /// What its printer's memory holds, where that is connected and the plate waits.
    pub(crate) memory: Option<Memory>,
    /// The run as its printer tells it.
    pub(crate) live: Option<RunLive>,
}

/// Looking into a vat.
#[derive(Template)]
#[template(path = "runs/vat.html")]
pub(crate) struct VatView {
    pub(crate) page: Page,
    pub(crate) id: PrinterId,
    pub(crate) printer: String,
    pub(crate) to_check: String,
    /// What the books say is in it, ml.
    pub(crate) holds: Option<String>,
    pub(crate) fault: String,
}

/// How late something is, where it is.
pub(super) fn late(at_ms: i64, now_ms: i64) -> String {
    let minutes = (now_ms - at_ms) / 60_000;
    match minutes {
        ..1 => String::new(),
        1..120 => format!("overdue by {minutes} min"),
        120..2880 => format!("overdue by {} h {:02} min", minutes / 60, minutes % 60),
        _ => format!("overdue by {} days", minutes / 1440),
    }
}

fn look_row(look: Look, page: &Page, now_ms: i64) -> LookRow {
    let (what, help, act) = match look {
        Look::FirstLayers(_) => (
            "First layers done: look",
            "Nothing on the plate? It is stuck to the film: stop, lift, drain, clear the film with a soft scraper, strain the resin back. A knock at each lift? Something hangs on: stop and look.",
            Some(("looked", "They are on it")),
        ),
        Look::Refill(_) => (
            "Fill the vat up by then",
            "Hold the run first; pour gently, at the side.",
            Some(("refilled", "Filled up")),
        ),
        Look::End(_) => ("It should end", "", None),
    };
    LookRow {
        refills: matches!(look, Look::Refill(_)),
        at: show::near(look.at_ms(), now_ms, &page.zone),
        what,
        help,
        act,
        late: late(look.at_ms(), now_ms),
    }
}

fn check_rows(data: &RunSheet, typed: &Typed) -> Vec<CheckRow> {
    let facts = data
        .known
        .with(typed.vat_ml.or(data.known.vat_left_ml()), typed.room_c);
    let row = |check: wembrit_core::running::Check| {
        let (kind, words) = match check.verdict {
            Verdict::Good(words) => ("good", words),
            Verdict::Doubt(words) => ("doubt", words),
            Verdict::Stop(words) => ("stop", words),
            Verdict::Ask => ("ask", question(check.item).to_owned()),
        };
        let passed = |(item, _): &&(CheckItem, String)| *item == check.item;
        let passed = typed.answers.passed.iter().find(passed);
        CheckRow {
            name: check.item.as_str(),
            kind,
            words,
            why: check.why,
            ticked: typed.answers.ticked.contains(&check.item),
            reason: passed.map_or_else(String::new, |(_, why)| why.clone()),
            about: data
                .known
                .setting
                .filter(|_| check.item == CheckItem::Exposure)
                .map(|id| (format!("/settings/{id}/exposure"), "its tests")),
        }
    };
    preflight(&facts).checks.into_iter().map(row).collect()
}

/// From which bottles that is poured; what more is said to be in the vat is taken from them in the books.
fn pour_from(pour: &Pour, known: &KnownBefore, vat_ml: Option<f64>, now_ms: i64) -> String {
    let from = pour.from.iter();
    let from: Vec<String> = from
        .map(|(bottle, ml)| {
            let over = match bottle.keeps(now_ms) {
                Keeps::Over => ", over its date: test it",
                Keeps::Soon | Keeps::Well => "",
            };
            format!("{} of bottle {}{over}", tenth(*ml), bottle.id)
        })
        .collect();
    let short = match (pour.short_ml > 0.05, known.bottles.is_empty()) {
        (false, _) => String::new(),
        (true, true) => "no bottle of it is in the books".to_owned(),
        (true, false) => format!("{} ml short", tenth(pour.short_ml)),
    };
    let stay = format!("{:.0} ml stay in the vat", known.least_ml);
    let empty = if vat_ml.is_none() {
        "if the vat is empty"
    } else {
        ""
    };
    [from.join(", "), short, stay, empty.to_owned()]
        .into_iter()
        .filter(|w| !w.is_empty())
        .collect::<Vec<_>>()
        .join("; ")
}

const fn question(item: CheckItem) -> &'static str {
    match item {
        CheckItem::Levelled => "the plate is levelled and tight",
        CheckItem::Film => "the film is whole, the vat free of chips",
        CheckItem::Shaken => "the resin is shaken",
        CheckItem::Gloves => "gloves and glasses on, air drawn outside",
        CheckItem::Lid => "the lid goes on",
        CheckItem::Somebody => "somebody stays for the first layers",
        _ => "",
    }
}

fn aid(data: &RunSheet, asked: &Asked, now_ms: i64) -> Option<Aid> {
    let run = data.run.as_ref().filter(|r| r.ended_at_ms.is_none())?;
    let lost = asked.lost?.min(data.copies);
    let worth = |held| resin_use::worth(held, &data.resin.facts);
    let damage = asked.damage.or(run.vat_ml.map(worth)).unwrap_or(Money(0));
    let copies = (lost, data.copies);
    let plate = &data.known.plate;
    let left_s = run.left_s(plate.seconds, now_ms);
    let of = trouble(plate, left_s, copies, damage);
    let weighing = of.weighing;
    let (went_on, bad) = data.gone_on;
    let chance = chance_bad(bad, went_on);
    let minor = |share: f64| Money::from_minor_f64(weighing.going_on_minor(share)).written();
    Some(Aid {
        left: hours(of.left_s),
        ml_left: tenth(of.left_ml),
        lost,
        still_good: of.still_good.written(),
        stop: weighing.remake_all.written(),
        well: minor(0.0),
        badly: minor(1.0),
        pays_under: format!("{:.1}", 100.0 * weighing.pays_under()),
        chance: format!("{:.0}", 100.0 * chance),
        from: format!(
            "{} so far that somebody went on with, {} badly",
            count(went_on, "run", "runs"),
            if bad == 0 {
                "none ended".to_owned()
            } else {
                format!("{bad} ended")
            }
        ),
        advice: if chance < weighing.pays_under() {
            "Going on costs less on average."
        } else {
            "Stopping costs less on average."
        },
        damage: damage.written(),
    })
}

impl RunView {
    /// Somebody has to look into the vat before anything is started.
    pub(crate) fn vat_first(&self) -> bool {
        let vat = CheckItem::VatLooked.as_str();
        self.checks
            .iter()
            .any(|c| c.name == vat && c.kind == "stop")
    }

    /// Nothing stands in the way but ticks.
    pub(crate) fn may_start(&self) -> bool {
        !self.checks.iter().any(|c| c.kind == "stop")
    }

    pub(crate) fn new(
        page: Page,
        data: &RunSheet,
        typed: &Typed,
        asked: &Asked,
        now_ms: i64,
    ) -> Self {
        let plate = &data.known.plate;
        let running = data.run.as_ref().filter(|r| r.ended_at_ms.is_none());
        let ends_ms = running.map_or(0, |r| r.ends_at_ms(plate.seconds, now_ms));
        let looks = running.map_or_else(Vec::new, |run| looks(plate, run, now_ms));
        let to_check = !data.known.to_check.is_empty();
        let on_it = running.map(|r| (r, plate.seconds));
        let said = data.known.linked.as_ref();
        let vat = said.and_then(|l| l.vat_ml).or(typed.vat_ml);
        let vat = vat.or(data.known.vat_left_ml());
        // While nobody has said what is in the vat, as if it were empty.
        let asks = vat.is_some() || !data.known.bottles.is_empty();
        let pour = asks.then(|| data.known.pour(vat.unwrap_or(0.0))).flatten();
        let room = typed.room_c.or(said.and_then(|l| l.room_c));
        let room = room.or(data.known.room_c);
        Self {
            id: plate.id,
            number: plate.number,
            copies: data.copies,
            state: plate.state,
            printer: (plate.printer, data.printer.name.clone()),
            printer_state: PrinterState::of(true, to_check, on_it, now_ms),
            resin: data.resin.name.clone(),
            sheet: data.resin.data_sheet.clone(),
            hours: hours(plate.seconds),
            around: give_or_take(plate.time.around_s()),
            known_by: known_by(&plate.time, &data.printer.name),
            printed: String::new(),
            ml: tenth(plate.resin_ml),
            layers: plate.layers,
            other_running: data.other_running,
            vat_ml: vat.map_or_else(String::new, |ml| format!("{ml:.0}")),
            pour: pour
                .as_ref()
                .map_or_else(String::new, |p| format!("{} ml", tenth(p.ml))),
            pour_from: pour
                .as_ref()
                .map_or_else(String::new, |p| pour_from(p, &data.known, vat, now_ms)),
            vat_proposed: typed.vat_ml.is_none() && vat.is_some(),
            room_c: room.map_or_else(String::new, |c| format!("{c:.0}")),
            checks: check_rows(data, typed),
            to_check: data.known.to_check.clone(),
            fault: typed.fault.clone(),
            ends_ms,
            now_ms,
            ends: show::near(ends_ms, now_ms, &page.zone),
            left: hours((ends_ms - now_ms).max(0) as f64 / 1000.0),
            late: late(ends_ms, now_ms),
            paused: running.is_some_and(|r| r.paused_at_ms.is_some()),
            looks: looks
                .into_iter()
                .map(|look| look_row(look, &page, now_ms))
                .collect(),
            trouble: running.map_or_else(String::new, |r| r.trouble.clone()),
            aid: aid(data, asked, now_ms),
            kept: data.checks.clone(),
            causes: FailureCause::named().map(|c| c.as_str()).collect(),
            batch: data.batch.as_ref().map(|b| b.id),
            memory: None,
            live: None,
            page,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(0, "")]
    #[case(7, "overdue by 7 min")]
    #[case(150, "overdue by 2 h 30 min")]
    #[case(135_351, "overdue by 93 days")]
    fn what_is_late_says_by_how_much(#[case] minutes: i64, #[case] words: &str) {
        assert_eq!(late(1_000, 1_000 + minutes * 60_000), words);
    }
}
