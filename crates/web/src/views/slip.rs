//! The slip of the day sheet: what to do next, what waiting costs, and what is best done in the minutes there are.

use askama::Template;
use wembrit_core::ids::{PlateId, PrinterId, ProjectId, UnitId};
use wembrit_core::running::looks::Look;
use wembrit_core::today::{
    Act, Day, Did, Do, InHand, Line, TodayFacts, Turn, Waiting, When, dearest_first, lines,
};

use super::Page;
use super::day_lines::{why, words};
use super::show::{self, count, hours};
use crate::currency::Amount;
use crate::worked::ToldDay;

/// What is shorter than this is no news, min.
const NEWS_MIN: i64 = 5;
/// Nothing anybody waits for while it waits.
const FREE: &str = "no date moves";

/// One line of the slip.
pub(crate) struct Job {
    /// What stands over it where a part of the slip begins.
    pub(crate) heading: &'static str,
    /// Why it is next, while the maker does it for the first time.
    pub(crate) why: &'static str,
    pub(crate) at: String,
    pub(crate) what: String,
    pub(crate) place: String,
    pub(crate) to: String,
    pub(crate) action: &'static str,
    pub(crate) cost: Option<Cost>,
    /// It is among what is best done in the minutes there are.
    pub(crate) in_hand: bool,
}

/// What waiting costs, on a line.
pub(crate) struct Cost {
    /// Minutes of hands.
    pub(crate) minutes: String,
    /// Share of the dearest, for the bar; px.
    pub(crate) bar: u32,
    /// A date moves.
    pub(crate) is_dear: bool,
    pub(crate) words: String,
    /// What the half hour and the two hours before cost.
    pub(crate) sooner: String,
}

/// What somebody said of the minutes there are.
#[derive(Debug, Clone, Default)]
pub(crate) struct Minutes {
    /// As it stands in the form.
    pub(crate) minutes: String,
    pub(crate) till: String,
    /// Asked for: minutes, and till when somebody is away then, ms since 1970.
    pub(crate) asked: Option<(u32, i64)>,
    /// Waiting is told till then, ms since 1970.
    pub(crate) till_ms: i64,
    pub(crate) fault: &'static str,
}

impl Minutes {
    /// What a piece of the page is asked for.
    pub(crate) fn query(&self) -> String {
        match self.asked {
            Some(_) => format!("?minutes={}&till={}", self.minutes, self.till),
            None => String::new(),
        }
    }
}

/// The answer to it.
pub(crate) struct InHandAnswer {
    pub(crate) head: String,
    /// When, what, minutes of hands, where it is done.
    pub(crate) did: Vec<(String, String, String, String)>,
    pub(crate) words: String,
}

/// The slip.
#[derive(Template)]
#[template(path = "today/slip.html")]
pub(crate) struct Slip {
    pub(crate) jobs: Vec<Job>,
    /// Till when waiting is told; nothing while it is not worked out.
    pub(crate) till: String,
    pub(crate) answer: Option<InHandAnswer>,
    pub(crate) fault: String,
}

impl Slip {
    /// The lines as they are due or, once it is worked out, by what waiting costs.
    pub(crate) fn new(
        page: &Page,
        (facts, shown, turn): (&TodayFacts, Option<ProjectId>, &[PlateId]),
        told: Option<(&Day, &ToldDay)>,
        asked: &Minutes,
        now_ms: i64,
    ) -> Self {
        let all = lines(facts, turn, now_ms);
        let mut jobs: Vec<Job> = all.iter().map(|l| job(l, shown, page, now_ms)).collect();
        // While no copy was ever good, each line says why; then the maker knows.
        let guided = facts.is_first_time();
        for (job, line) in jobs.iter_mut().zip(&all).filter(|_| guided) {
            job.why = why(&line.act);
        }
        let mut turns: Vec<&'static str> = all.iter().map(|l| heading(l, now_ms)).collect();
        let mut answer = None;
        if let Some((day, told)) = told {
            let tolds: Vec<Option<&Waiting>> = told.waits.iter().map(|w| w.last()).collect();
            let dearest = tolds.iter().flatten().map(|w| w.cost).fold(0.0, f64::max);
            let minutes: Vec<f64> = all.iter().map(|l| l.minutes(day)).collect();
            for (index, job) in jobs.iter_mut().enumerate() {
                let of = told.waits.get(index).map_or(&[][..], Vec::as_slice);
                let lost = lost_words(day, &all[index], asked.till_ms);
                job.cost = Some(cost(facts, of, (minutes[index], dearest), lost));
            }
            if let Some(in_hand) = &told.in_hand {
                for (job, line) in jobs.iter_mut().zip(&all) {
                    job.in_hand = in_hand.did.iter().any(|d| is_of(d, line));
                }
                answer = Some(answered(page, facts, day, in_hand, asked));
            }
            let costs: Vec<(f64, f64)> = tolds
                .iter()
                .zip(&minutes)
                .map(|(w, minutes)| (w.map_or(0.0, |w| w.cost), *minutes))
                .collect();
            let order = dearest_first(&all, &costs, now_ms);
            turns = order.iter().map(|(_, turn)| of_turn(*turn)).collect();
            let mut taken: Vec<Option<Job>> = jobs.into_iter().map(Some).collect();
            jobs = order.iter().filter_map(|(i, _)| taken[*i].take()).collect();
        }
        let mut last = "";
        for (job, turn) in jobs.iter_mut().zip(turns) {
            job.heading = if turn == last { "" } else { turn };
            last = turn;
        }
        if facts.projects.is_empty() {
            jobs.push(Job {
                heading: "",
                why: "Plans, plates and progress belong to a project.",
                at: "first".into(),
                what: "Make a project".into(),
                place: "one army or collection; its units and models follow".into(),
                to: "/projects/new".into(),
                action: "Make it",
                cost: None,
                in_hand: false,
            });
        }
        Self {
            till: told.map_or_else(String::new, |_| {
                show::near(asked.till_ms, now_ms, &page.zone)
            }),
            jobs,
            answer,
            fault: asked.fault.to_owned(),
        }
    }
}

const fn of_turn(turn: Turn) -> &'static str {
    match turn {
        Turn::Now => "Now",
        Turn::Next => "Next",
        Turn::Later => "Later",
    }
}

fn heading(line: &Line<'_>, now_ms: i64) -> &'static str {
    match line.act.when(now_ms) {
        When::Due(_) | When::Now => "Due now",
        When::Next(_) => "Next",
        When::Later => "Later",
    }
}

/// What the moments cost, the last of them in full.
fn cost(facts: &TodayFacts, of: &[Waiting], (minutes, dearest): (f64, f64), lost: String) -> Cost {
    let last = of.last();
    let whole = last.map_or(0.0, |w| w.cost);
    let bar = if dearest > 0.0 {
        (whole / dearest * 96.0).ceil() as u32
    } else {
        0
    };
    let sooner = match of {
        [half, two, _] if short(facts, half).is_some() || short(facts, two).is_some() => {
            let words = |w: &Waiting| short(facts, w).unwrap_or_else(|| "nothing".into());
            format!("30 min: {}; 2 h: {}", words(half), words(two))
        }
        _ => String::new(),
    };
    Cost {
        minutes: if minutes > 0.0 {
            format!("{minutes:.0}")
        } else {
            String::new()
        },
        bar,
        is_dear: last.is_some_and(|w| later(w).is_some()),
        words: last.map_or(lost, |w| in_full(facts, w)),
        sooner,
    }
}

/// What a look saves, were the plate lost; what else nobody waits for moves no date.
fn lost_words(day: &Day, line: &Line<'_>, till_ms: i64) -> String {
    match (&line.act, line.plate) {
        (Act::Look(Look::FirstLayers(_)), Some(plate)) => {
            let on = day.work.on.iter().find(|on| on.plate == plate.id);
            let ends_ms = on.map_or(till_ms, |on| on.ends_ms.min(till_ms));
            let hours = hours((ends_ms - day.work.now_ms).max(0) as f64 / 1000.0);
            format!("were it lost, {hours} h for nothing")
        }
        (Act::Look(_), _) => "were it empty, the rest of the plate".into(),
        (Act::IdleVat(_) | Act::Replace(..), _) => FREE.into(),
        _ => String::new(),
    }
}

/// The unit that comes later, where that is news.
fn later(of: &Waiting) -> Option<(UnitId, i64)> {
    of.unit.filter(|(_, ms)| *ms >= NEWS_MIN * 60_000)
}

fn unit_name(facts: &TodayFacts, id: UnitId) -> &str {
    let units = facts.projects.iter().flat_map(|p| &p.army.units);
    let mut of = units.filter(|u| u.unit.id == id);
    of.next().map_or("a unit", |u| u.unit.name.as_str())
}

fn span(ms: i64) -> String {
    match ms / 3_600_000 {
        0..48 => format!("{} h", hours(ms as f64 / 1000.0)),
        hours => count((hours / 24) as u64, "day", "days"),
    }
}

fn in_full(facts: &TodayFacts, of: &Waiting) -> String {
    let mut parts = Vec::new();
    if let Some((unit, ms)) = later(of) {
        parts.push(format!("{} {} later", unit_name(facts, unit), span(ms)));
    }
    let idle = of.idle_minutes();
    if idle >= NEWS_MIN {
        parts.push(format!("{} idle", span(idle * 60_000)));
        let worth = of.worth(&facts.printers);
        if worth.0 > 0 {
            parts.push(format!("worth {}", worth.written()));
        }
    }
    if parts.is_empty() && of.cost >= NEWS_MIN as f64 {
        return "some copies later, no unit".into();
    }
    if parts.is_empty() {
        return FREE.into();
    }
    parts.join(", ")
}

/// The first thing that moves, in few words.
fn short(facts: &TodayFacts, of: &Waiting) -> Option<String> {
    let unit = later(of).map(|(id, ms)| format!("{} {}", unit_name(facts, id), span(ms)));
    let idle = of.idle_minutes();
    unit.or_else(|| (idle >= NEWS_MIN).then(|| format!("{} idle", span(idle * 60_000))))
}

/// What is done in hand is what a line is about.
fn is_of(did: &Did, line: &Line<'_>) -> bool {
    let plate = line.plate.map(|p| p.id);
    match (&line.act, did.what) {
        (Act::TakeOff { .. }, Do::TakeOff(of, _)) | (Act::Start, Do::PutOn(of, _)) => {
            plate == Some(of)
        }
        (Act::Judge | Act::BeginStep { .. } | Act::EndStep { .. }, Do::Step(of, _)) => {
            plate == Some(of)
        }
        _ => false,
    }
}

fn answered(
    page: &Page,
    facts: &TodayFacts,
    day: &Day,
    of: &InHand,
    asked: &Minutes,
) -> InHandAnswer {
    let plates = || {
        let projects = facts.projects.iter();
        projects.flat_map(|p| p.plates.iter().chain(&p.draft))
    };
    let number = |id: PlateId| plates().find(|p| p.id == id).map_or(0, |p| p.number);
    let name = |id: PrinterId| {
        let of = facts.printers.iter().find(|p| p.id == id);
        of.map_or("", |p| p.name.as_str())
    };
    let one = |did: &Did| {
        let at = show::clock(day.work.now_ms + i64::from(did.from) * 60_000, &page.zone);
        let (what, to) = match did.what {
            Do::TakeOff(plate, printer) => (
                format!("Take plate {} off {}", number(plate), name(printer)),
                format!("/plates/{plate}/run"),
            ),
            Do::PutOn(plate, printer) => (
                format!("Put plate {} on {}", number(plate), name(printer)),
                format!("/plates/{plate}/run"),
            ),
            Do::Step(plate, step) => {
                let batch = facts.batches.iter().find(|b| b.batch.plate == plate);
                let to = batch.map_or_else(
                    || format!("/plates/{plate}"),
                    |b| format!("/finishing#batch-{}", b.batch.id),
                );
                (format!("Plate {}: {step}", number(plate)), to)
            }
        };
        (at, what, did.hands.to_string(), to)
    };
    let (minutes, till_ms) = asked.asked.unwrap_or_default();
    let back = show::near(till_ms, day.work.now_ms, &page.zone);
    let head = if of.did.is_empty() {
        format!("Nothing that can be done in {minutes} min moves anything before {back}.")
    } else {
        let these = match of.did.len() {
            1 => "this one".to_owned(),
            many => format!("these {many}"),
        };
        format!("Best done in {minutes} min: {these}, {} min", of.minutes())
    };
    let mut words = Vec::new();
    if !of.did.is_empty() {
        words.push(format!(
            "The rest waits till {back}. Against doing nothing till then plates are judged {} h sooner, all of them \
             together.",
            hours(of.minutes_sooner.max(0.0) * 60.0)
        ));
    }
    let stays = of.stays.iter().map(|(plate, hands, stay)| {
        format!(
            "Plate {} wants {} min: {hands} to put it on, then somebody in reach for {stay}.",
            number(*plate),
            hands + stay
        )
    });
    words.extend(stays);
    InHandAnswer {
        head,
        did: of.did.iter().map(one).collect(),
        words: words.join(" "),
    }
}

/// A line in words; lines of another project than the one shown say whose they are.
fn job(line: &Line<'_>, shown: Option<ProjectId>, page: &Page, now_ms: i64) -> Job {
    let (at, what, place, to, action) = words(line, page, now_ms);
    let named = line.project.filter(|_| line.act != Act::AddUnit);
    let elsewhere = named.filter(|(project, _)| Some(*project) != shown);
    Job {
        heading: "",
        why: "",
        at,
        what,
        place: elsewhere.map_or(place.clone(), |(_, name)| format!("{place}; {name}")),
        to,
        action,
        cost: None,
        in_hand: false,
    }
}
