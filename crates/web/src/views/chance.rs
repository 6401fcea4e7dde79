//! The chance that all is there by a date, and what would make it likelier.

use std::collections::BTreeMap;

use askama::Template;
use jiff::tz::TimeZone;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_core::progress::{
    RestFacts, SAFE, THIN_MM, WhatIf, WhatIfAnswer, WholeRest, answers, rehearse, rest_of,
};
use wembrit_core::schedule::{Timetable, Work};
use wembrit_store::queries::pages::progress::ProgressPage;

use super::Page;
use super::show;
use crate::attended;

/// Rehearsals of the rest as it stands, and of each change.
const MANY: usize = 2_000;
const MANY_EACH: usize = 500;
/// The same answer for the same question.
const SEED: u64 = 20_261;
/// From the printer to the last copy judged, where nobody has timed it: washed, dried, off their supports, cured
/// (common practice, no source).
const FINISH_S: f64 = 6.0 * 3600.0;
const DAY_MS: i64 = 86_400_000;

/// What is asked.
pub(crate) struct Asking {
    /// Nothing where nobody has said a date: then it is asked when half of the rehearsals ended.
    by_ms: Option<i64>,
    now_ms: i64,
    /// An evening more each week, s from now.
    evenings: Vec<[f64; 2]>,
    fault: String,
}

impl Asking {
    pub(crate) fn new(
        zone: &TimeZone,
        asked: &BTreeMap<String, String>,
        deadline_ms: Option<i64>,
        now_ms: i64,
    ) -> Self {
        let typed = asked.get("by").map_or("", |t| t.trim());
        let read = show::read_field(typed, zone).filter(|ms| *ms > now_ms);
        let fault = if read.is_none() && !typed.is_empty() {
            "Write a day and an hour that are still to come."
        } else {
            ""
        };
        let by_ms = read.or(deadline_ms.filter(|ms| *ms > now_ms));
        let from = |ms: i64| (ms - now_ms) as f64 / 1000.0;
        Self {
            by_ms,
            now_ms,
            evenings: attended::evenings(zone, now_ms)
                .into_iter()
                .map(|(a, b)| [from(a), from(b)])
                .collect(),
            fault: fault.into(),
        }
    }
}

/// The chance by one moment.
pub(crate) struct ChanceRow {
    pub(crate) day: String,
    pub(crate) percent: String,
    /// For the bar.
    pub(crate) share: String,
}

/// What one change would do.
pub(crate) struct IfRow {
    pub(crate) what: String,
    pub(crate) percent: String,
    pub(crate) gain: String,
    pub(crate) half: String,
}

/// The page.
#[derive(Template)]
#[template(path = "muster/chance.html")]
pub(crate) struct ChanceView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) by: String,
    pub(crate) typed: String,
    pub(crate) fault: String,
    pub(crate) percent: String,
    pub(crate) half: String,
    pub(crate) nine: String,
    pub(crate) rows: Vec<ChanceRow>,
    pub(crate) ifs: Vec<IfRow>,
    /// The change that adds most.
    pub(crate) best: String,
    /// Copies that are missing.
    pub(crate) missing: u32,
    /// Plates to come, those among them that nobody has planned.
    pub(crate) plates: u32,
    pub(crate) printers: usize,
    pub(crate) many: usize,
}

/// Whole percent; never none or all of them, unless it was so in every rehearsal.
fn whole_percent(share: f64) -> f64 {
    let p = share * 100.0;
    if p > 0.0 && p < 1.0 {
        1.0
    } else if p < 100.0 && p > 99.0 {
        99.0
    } else {
        p.round()
    }
}

/// `34 %`.
fn percent(share: f64) -> String {
    format!("{:.0} %", whole_percent(share))
}

/// The rest of a project, from the page's data and the schedule.
pub(super) fn whole(data: &ProgressPage, work: &Work, times: Option<&Timetable>) -> WholeRest {
    let order = |id: PlateId| {
        let bars = times.map(|t| &t.bars);
        bars.and_then(|b| b.iter().position(|b| b.plate == id))
            .unwrap_or(usize::MAX)
    };
    let now_ms = work.now_ms;
    let mut plates: Vec<(&Plate, Option<f64>)> = data
        .scheduled
        .plates
        .iter()
        .map(|w| {
            let run = w.run.as_ref();
            let left = run.map(|r| r.left_s(w.plate.seconds, now_ms));
            (&w.plate, left)
        })
        .collect();
    plates.sort_by_key(|(p, left)| (left.is_none(), order(p.id), p.number));
    // Off, and not judged.
    let off = data
        .plates
        .iter()
        .filter(|p| p.state == PlateState::Printed);
    plates.extend(off.map(|p| (p, None)));
    let from = |ms: i64| (ms - now_ms) as f64 / 1000.0;
    rest_of(&RestFacts {
        army: &data.army,
        plates,
        on: &data.on,
        stood: data
            .plates
            .iter()
            .filter_map(|p| Some((p, data.stood.get(&p.id)?)))
            .collect(),
        judged: &data.judged,
        plates_lost: data.plates_lost,
        printers: data.scheduled.printers.iter().map(|p| p.id).collect(),
        windows: work
            .attended
            .iter()
            .map(|(a, b)| [from(*a), from(*b)])
            .collect(),
        hands_s: [work.minutes[0] * 60.0, work.minutes[1] * 60.0],
        finish_s: FINISH_S,
    })
}

fn what_words(what: &WhatIf, of: &WholeRest, data: &ProgressPage) -> String {
    match what {
        WhatIf::WithoutUnit(unit) => format!("Leave out {}", of.units[*unit]),
        WhatIf::AnotherPrinter(machine) => {
            let printer = data.scheduled.printers.get(*machine);
            let name = printer.map_or("the busiest", |p| p.name.as_str());
            format!("A second printer like {name}")
        }
        WhatIf::MoreHours(_) => "Be there every evening, 18:00 to 22:00".into(),
        WhatIf::Layers(_) => {
            let now = crate::forms::plain(of.layer_mm);
            format!("Layers of {THIN_MM} mm in place of {now}")
        }
        WhatIf::Spares(_) => format!(
            "So many spares that enough come out with {:.0} %",
            SAFE * 100.0
        ),
        WhatIf::ProveFirst(part) => format!("Prove {} first, one copy alone", of.parts[*part].name),
    }
}

impl ChanceView {
    pub(crate) fn new(
        page: Page,
        data: &ProgressPage,
        (work, times): (&Work, Option<&Timetable>),
        asking: Asking,
    ) -> Self {
        let of = whole(data, work, times);
        let played = rehearse(&of.rest, MANY, SEED);
        let from = |ms: i64| (ms - asking.now_ms) as f64 / 1000.0;
        let day = |s: Option<f64>| {
            s.map_or_else(
                || format!("not within {} days", attended::DAYS_AHEAD),
                |s| show::day(asking.now_ms + (s * 1000.0) as i64, &page.zone),
            )
        };
        let half_ms = || {
            let half = played.by(0.5).map_or(14 * DAY_MS, |s| (s * 1000.0) as i64);
            show::day_begins(asking.now_ms + half, &page.zone) + DAY_MS
        };
        let by_ms = asking.by_ms.unwrap_or_else(half_ms);
        let by_s = from(by_ms);
        let now_chance = played.chance_by(by_s);
        let told = answers(
            &of.rest,
            &of.changes(&asking.evenings),
            (of.usual, by_s),
            (MANY_EACH, SEED),
        );
        // Against as many rehearsals with the same luck: what is left is the change alone.
        let base = rehearse(&of.rest, MANY_EACH, SEED).chance_by(by_s);
        let then = |a: &WhatIfAnswer| (now_chance + a.chance - base).clamp(0.0, 1.0);
        // As both are shown, so that they add up.
        let gain = |a: &WhatIfAnswer| whole_percent(then(a)) - whole_percent(now_chance);
        let best = told.iter().find(|a| gain(a) >= 3.0);
        let best = best.map_or_else(String::new, |a| {
            format!(
                "{}: {} in place of {}",
                what_words(&a.what, &of, data),
                percent(then(a)),
                percent(now_chance)
            )
        });
        let ends = (1..=10_i64).map(|n| {
            // Days over the range in which it is decided.
            let first = played.by(0.05).unwrap_or(by_s);
            let last = played
                .by(0.95)
                .unwrap_or(by_s.max(first) * 1.5)
                .max(first + 86_400.0);
            first + (last - first) * n as f64 / 10.0
        });
        let mut days: Vec<i64> = ends
            .map(|s| show::day_begins(asking.now_ms + (s * 1000.0) as i64, &page.zone) + DAY_MS)
            .collect();
        days.dedup();
        let rows = days.iter().map(|ms| {
            let chance = played.chance_by(from(*ms));
            ChanceRow {
                day: show::day(*ms - DAY_MS / 2, &page.zone),
                percent: percent(chance),
                share: format!("{:.0}", chance * 100.0),
            }
        });
        let rest = &of.rest;
        Self {
            id: data.army.project.id,
            by: show::when(by_ms, &page.zone),
            typed: show::field(by_ms, &page.zone),
            fault: asking.fault,
            percent: percent(now_chance),
            half: day(played.by(0.5)),
            nine: day(played.by(0.9)),
            rows: rows.collect(),
            ifs: told
                .iter()
                .map(|a| IfRow {
                    what: what_words(&a.what, &of, data),
                    percent: percent(then(a)),
                    gain: format!("{:+.0}", gain(a)),
                    half: day(a.median_s),
                })
                .collect(),
            best,
            missing: rest.missing.iter().map(|m| m.copies).sum(),
            plates: of.left,
            printers: rest.machines,
            many: MANY,
            page,
        }
    }
}
