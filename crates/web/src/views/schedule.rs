//! The schedule: which plate is on which printer, what a person does when, and whether what is
//! wanted by a date can be.

use askama::Template;
use jiff::tz::TimeZone;
use wembrit_core::ids::{PlateId, PrinterId, ProjectId};
use wembrit_core::schedule::{
    Act, Asked, Bar, Because, Possible, ResinChange, Timetable, WhatIf, Work,
};
use wembrit_paper::{Ruler, RulerBar, RulerRow, draw_ruler};
use wembrit_store::queries::pages::schedule::Scheduled;

use super::Page;
use super::show;

/// Days that are drawn at most.
const DRAWN_DAYS: i64 = 8;
const DAY_MS: i64 = 86_400_000;

/// Something a person does.
pub(crate) struct ActLine {
    pub(crate) day: String,
    pub(crate) at: String,
    pub(crate) what: String,
    pub(crate) place: String,
    pub(crate) plate: PlateId,
}

/// What is said of a project.
pub(crate) struct Wanted {
    pub(crate) project: ProjectId,
    pub(crate) name: String,
    pub(crate) field: String,
    pub(crate) ends: String,
    pub(crate) bound: String,
    /// Whether it can be: the words, and how it is marked.
    pub(crate) answer: String,
    pub(crate) class: &'static str,
    pub(crate) otherwise: Vec<String>,
}

/// A plate that can be moved.
pub(crate) struct Movable {
    pub(crate) id: PlateId,
    pub(crate) name: String,
    pub(crate) printer: PrinterId,
    pub(crate) not_before: String,
}

impl ScheduleView {
    /// What was typed of a project's plates and not taken.
    pub(crate) fn typed(&self, project: &ProjectId) -> &str {
        let of = self.told.as_ref().filter(|(id, _)| id == project);
        of.map_or("", |(_, typed)| typed)
    }
}

#[derive(Template)]
#[template(path = "schedule/show.html")]
pub(crate) struct ScheduleView {
    pub(crate) page: Page,
    pub(crate) now: String,
    pub(crate) ruler: String,
    pub(crate) fault: String,
    pub(crate) acts: Vec<ActLine>,
    /// What changes of resin take.
    pub(crate) changes: String,
    pub(crate) wanted: Vec<Wanted>,
    pub(crate) movable: Vec<Movable>,
    pub(crate) printers: Vec<(PrinterId, String)>,
    pub(crate) assumed: bool,
    pub(crate) unfinished: bool,
    /// Plates whose printers are out of use.
    pub(crate) left_out: Vec<i64>,
    /// What was typed of which project's plates, where it was not taken.
    pub(crate) told: Option<(ProjectId, String)>,
}

/// The ruler on another page.
#[derive(Template)]
#[template(path = "schedule/ruler.html")]
pub(crate) struct RulerPiece {
    ruler: String,
}

impl RulerPiece {
    pub(crate) fn new(
        data: &Scheduled,
        work: &Work,
        table: Option<&Timetable>,
        zone: &TimeZone,
    ) -> Self {
        let drawn = |table: &Timetable| draw_ruler(&ruler(data, work, table, zone));
        Self {
            ruler: table.map_or_else(String::new, drawn),
        }
    }
}

/// When a plan would end, on its page.
#[derive(Template)]
#[template(path = "schedule/ends.html")]
pub(crate) struct EndsPiece {
    ends: String,
    /// By how much that is too late, where it is.
    late: String,
    fault: String,
    /// For which of its plates the resin lasts; nothing where no bottle is in the books.
    resin: String,
    /// It does not last for all of them.
    short: bool,
    /// What wears out before it is done.
    worn: String,
}

impl EndsPiece {
    pub(crate) fn new(
        data: &Scheduled,
        ends: Result<(ProjectId, i64), String>,
        zone: &TimeZone,
        resin: Option<(String, bool)>,
        worn: String,
    ) -> Self {
        let (resin, short) = resin.unwrap_or_default();
        let (ends, fault) = match ends {
            Ok(ends) => (Some(ends), String::new()),
            Err(why) => (None, why),
        };
        let by = |project: ProjectId| data.projects.iter().find(|p| p.0 == project)?.2;
        let late = ends.and_then(|(project, at)| {
            let by = by(project).filter(|by| *by < at)?;
            Some(format!(
                "It is wanted by {}: {} too late.",
                show::when(by, zone),
                span(at - by)
            ))
        });
        Self {
            ends: ends.map_or_else(String::new, |(_, at)| show::when(at, zone)),
            late: late.unwrap_or_default(),
            fault,
            resin,
            short,
            worn,
        }
    }
}

/// Which of two plans would end sooner, as a piece of their page.
#[derive(Template)]
#[template(path = "schedule/sooner.html")]
pub(crate) struct SoonerPiece {
    /// The plan's number, how it ends, and what that costs on the printers; nothing where one of
    /// them has no end.
    words: Option<(i64, String, String)>,
}

impl SoonerPiece {
    /// By numbers, ends in ms since 1970 and what they print, s.
    pub(crate) fn new(numbers: [i64; 2], ends: [Option<i64>; 2], seconds: [f64; 2]) -> Self {
        let [Some(one), Some(other)] = ends else {
            return Self { words: None };
        };
        let first = usize::from(other < one || (other == one && seconds[1] < seconds[0]));
        let second = 1 - first;
        let more = seconds[first] - seconds[second];
        let beside = if more.abs() < 60.0 {
            "with as many hours on the printers".to_owned()
        } else {
            let word = if more > 0.0 { "more" } else { "less" };
            format!("with {} h {word} on the printers", show::hours(more.abs()))
        };
        let sooner = (one - other).abs();
        let how = if sooner < 60_000 {
            format!("ends at the same time as plan {}", numbers[second])
        } else {
            let sooner = span(sooner);
            format!("ends {sooner} h sooner than plan {}", numbers[second])
        };
        Self {
            words: Some((numbers[first], how, beside)),
        }
    }
}

impl ScheduleView {
    pub(crate) fn new(
        page: Page,
        data: &Scheduled,
        work: &Work,
        found: Option<&(Timetable, Vec<Asked>)>,
        fault: String,
    ) -> Self {
        let zone = page.zone.clone();
        let empty = Timetable::default();
        let (table, asked) = found.map_or((&empty, [].as_slice()), |(t, a)| (t, a.as_slice()));
        let lines = in_words(data, work, table).into_iter().map(|of| ActLine {
            day: show::day(of.act.at_ms, &zone),
            at: show::clock(of.act.at_ms, &zone),
            what: of.what,
            place: of.printer,
            plate: table.bars[of.act.bar].plate,
        });
        let mut lines: Vec<ActLine> = lines.collect();
        let mut last = String::new();
        for line in &mut lines {
            if line.day == last {
                line.day.clear();
            } else {
                last.clone_from(&line.day);
            }
        }
        let when = |ms: i64| show::when(ms, &zone);
        let wanted = data.projects.iter().map(|(id, name, deadline)| {
            let of = asked.iter().find(|a| a.project == *id);
            let (answer, class) = match (of, deadline) {
                (Some(of), Some(by)) => answered(of, *by, data, &when),
                _ => (String::new(), ""),
            };
            Wanted {
                project: *id,
                name: name.clone(),
                field: deadline.map_or_else(String::new, |ms| show::field(ms, &zone)),
                ends: of.map_or_else(|| "nothing waits".into(), |a| when(a.end_ms)),
                bound: of.map_or_else(String::new, |a| when(a.bound_ms)),
                answer,
                class,
                otherwise: of.map_or_else(Vec::new, |a| {
                    otherwise(a, (table, &work.spare), *deadline, &when)
                }),
            }
        });
        let movable = data.plates.iter().filter(|w| w.run.is_none()).map(|w| {
            let begins = table.bars.iter().find(|b| b.plate == w.plate.id);
            let begins =
                begins.map_or_else(String::new, |b| format!(", on at {}", when(b.load_ms)));
            Movable {
                id: w.plate.id,
                name: format!("Plate {}{begins}", w.plate.number),
                printer: w.plate.printer,
                not_before: w
                    .not_before_ms
                    .map_or_else(String::new, |ms| show::field(ms, &zone)),
            }
        });
        Self {
            now: show::when(work.now_ms, &zone),
            ruler: draw_ruler(&ruler(data, work, table, &zone)),
            acts: lines,
            changes: change_words(&work.changes(table)),
            wanted: wanted.collect(),
            movable: movable.collect(),
            printers: data
                .printers
                .iter()
                .map(|p| (p.id, p.name.clone()))
                .collect(),
            assumed: data.attendance.assumed.split(',').any(|a| a == "weekly"),
            unfinished: found.is_none() && fault.is_empty(),
            left_out: work.left_out(&data.plates),
            fault,
            told: None,
            page,
        }
    }
}

/// Something a person does, in words.
pub(crate) struct InWords {
    pub(crate) act: Act,
    /// With which plate, and which resin comes in before.
    pub(crate) what: String,
    pub(crate) printer: String,
}

/// What a person does, in order.
pub(crate) fn in_words(data: &Scheduled, work: &Work, table: &Timetable) -> Vec<InWords> {
    let changes = work.changes(table);
    let worded = |act: Act| {
        let bar = &table.bars[act.bar];
        let what = if act.puts_on { "Put on" } else { "Take off" };
        let mut what = format!("{what} plate {}", bar.number);
        if let Some(change) = changes.iter().find(|c| act.puts_on && c.bar == act.bar) {
            let resin = data.resins.get(&change.resin);
            let resin = resin.map_or("another resin", String::as_str);
            what.push_str(&format!(" after a change to {resin}"));
        }
        let printer = data.printers.iter().find(|p| p.id == bar.printer);
        InWords {
            act,
            what,
            printer: printer.map_or_else(String::new, |p| p.name.clone()),
        }
    };
    table.acts().into_iter().map(worded).collect()
}

/// What all changes of resin take together; nothing where there is none.
fn change_words(changes: &[ResinChange]) -> String {
    if changes.is_empty() {
        return String::new();
    }
    let minutes: f64 = changes.iter().map(|c| c.minutes).sum();
    let ml: f64 = changes.iter().map(|c| c.ml).sum();
    let many = show::count(changes.len() as u64, "change of resin", "changes of resin");
    format!("{many}: {minutes:.0} min of your hands, {ml:.0} ml lost.")
}

/// The days ahead as they are drawn.
pub(crate) fn ruler(data: &Scheduled, work: &Work, table: &Timetable, zone: &TimeZone) -> Ruler {
    let from = work.now_ms - 2 * 3_600_000;
    let last = table.end_ms().unwrap_or(work.now_ms) + 3_600_000;
    let to = last.clamp(work.now_ms + DAY_MS, work.now_ms + DRAWN_DAYS * DAY_MS);
    let rows = data.printers.iter().map(|printer| {
        let on = table
            .bars
            .iter()
            .filter(|b| b.printer == printer.id && b.load_ms < to);
        RulerRow {
            name: printer.name.clone(),
            printer: printer.id.0,
            bars: on.map(|b| bar(b, work.now_ms, zone)).collect(),
        }
    });
    let days = crate::attended::days(zone, from).filter_map(|(date, _)| {
        let ms = zone
            .to_timestamp(date.at(0, 0, 0, 0))
            .ok()?
            .as_millisecond();
        Some((ms.max(from), show::day(ms, zone)))
    });
    let hours = crate::attended::days(zone, from).flat_map(|(date, _)| {
        (3..24).step_by(3).filter_map(move |h: i8| {
            let at = zone.to_timestamp(date.at(h, 0, 0, 0)).ok()?;
            Some((at.as_millisecond(), format!("{h:02}")))
        })
    });
    let hands = table.acts().into_iter().map(|act| {
        let b = &table.bars[act.bar];
        if act.puts_on {
            (b.load_ms, b.prints_ms)
        } else {
            (b.unload_ms, b.end_ms)
        }
    });
    let wanted = data
        .projects
        .iter()
        .filter_map(|(_, name, by)| Some(((*by)?, name.clone())));
    Ruler {
        span_ms: (from, to),
        now_ms: work.now_ms,
        rows: rows.collect(),
        attended: work.attended.clone(),
        hours: hours.take_while(|(at, _)| *at < to).collect(),
        days: days.take(DRAWN_DAYS as usize + 2).collect(),
        hands: hands.filter(|(at, _)| *at < to).collect(),
        wanted: wanted.filter(|(by, _)| (from..to).contains(by)).collect(),
    }
}

fn bar(b: &Bar, now_ms: i64, zone: &TimeZone) -> RulerBar {
    let at = |ms| show::when(ms, zone);
    RulerBar {
        label: b.number.to_string(),
        plate: b.plate.0,
        title: format!(
            "Plate {}: on at {}, printed {}, off by {}",
            b.number,
            at(b.load_ms),
            at(b.printed_ms),
            at(b.end_ms)
        ),
        load_ms: b.load_ms,
        prints_ms: b.prints_ms,
        printed_ms: b.printed_ms,
        end_ms: b.end_ms,
        runs: b.load_ms < now_ms,
    }
}

fn span(ms: i64) -> String {
    show::hours(ms.max(0) as f64 / 1000.0)
}

/// Possible or not, by how much, and because of what.
fn answered(
    of: &Asked,
    by_ms: i64,
    data: &Scheduled,
    when: &dyn Fn(i64) -> String,
) -> (String, &'static str) {
    let over = span(of.end_ms - by_ms);
    let because = match of.bound.because {
        Because::Nothing => String::new(),
        Because::Longest { .. } => "one plate alone takes as long".into(),
        Because::Hands => "putting on and taking off alone take the hands as long".into(),
        Because::Machine { machine } => {
            let name = data.printers.get(machine).map_or("", |p| p.name.as_str());
            format!("{name} alone has so much to print")
        }
        Because::Machines => "the printers have so much to print".into(),
    };
    match of.by(by_ms) {
        Possible::Yes => (
            format!("Possible: {} to spare.", span(by_ms - of.end_ms)),
            "is-good",
        ),
        Possible::No => (
            format!(
                "Not possible: {over} short. No order ends before {}, since {because}.",
                when(of.bound_ms)
            ),
            "warn",
        ),
        Possible::Open => (
            format!(
                "{over} short so far; that it cannot be is not proven (nothing ends before {}).",
                when(of.bound_ms)
            ),
            "warn",
        ),
    }
}

/// What would end sooner, and whether that is soon enough.
fn otherwise(
    of: &Asked,
    (table, spare): (&Timetable, &[PlateId]),
    by_ms: Option<i64>,
    when: &dyn Fn(i64) -> String,
) -> Vec<String> {
    let line = |(what, ends): &(WhatIf, i64)| {
        let what = match what {
            WhatIf::AnyPrinter => {
                let number = |id: &PlateId| {
                    let bar = table.bars.iter().find(|b| b.plate == *id);
                    bar.map(|b| b.number.to_string())
                };
                let all: Vec<String> = of.moved.iter().filter_map(number).collect();
                format!("Other printers for plate {}", all.join(", "))
            }
            WhatIf::Longer(minutes) => format!("{} h longer there each time", minutes / 60),
            WhatIf::Always => "Somebody there at any hour".into(),
            WhatIf::NoSpares => {
                let of_it = table.bars.iter();
                let of_it = of_it.filter(|b| b.project == of.project && spare.contains(&b.plate));
                let all: Vec<String> = of_it.map(|b| b.number.to_string()).collect();
                format!("Without plate {}, nothing but spares", all.join(", "))
            }
        };
        let enough = match by_ms {
            Some(by) if *ends <= by && of.end_ms > by => ", in time",
            Some(by) if *ends > by => ", still too late",
            _ => "",
        };
        format!("{what}: {}{enough}", when(*ends))
    };
    of.otherwise.iter().map(line).collect()
}
