//! What needs a hand next: runs, batches, vats, judgements, starts and plans, over all projects.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::army::{Army, demand_lines, without_sculpt};
use crate::cost::PlateSums;
use crate::finishing::queue::queue;
use crate::finishing::{Batch, Step};
use crate::flow::{PlanRevision, PlanState, Plate, PlateState, Run};
use crate::ids::{BatchId, PlateId, PrinterId, ProjectId, ResinId};
use crate::running::looks::{Look, looks};
use crate::stores::{WearKind, Worn};
use crate::workshop::{Printer, Resin};

use super::day::{Day, OnItsWay, of_step};

/// One project, as far as the day sheet needs it.
#[derive(Debug, Clone, PartialEq)]
pub struct TodayProject {
    /// The army.
    pub army: Arc<Army>,
    /// Its accepted plates, released ones apart, by number.
    pub plates: Vec<Plate>,
    /// The newest run of each plate that has one.
    pub runs: BTreeMap<PlateId, Run>,
    /// The plan nobody has accepted yet.
    pub plan: Option<PlanRevision>,
    /// The plates of that plan.
    pub draft: Vec<Plate>,
    /// When it is wanted, ms since 1970.
    pub deadline_ms: Option<i64>,
}

/// What the day sheet is made from.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct TodayFacts {
    /// Every project, the oldest first.
    pub projects: Vec<TodayProject>,
    /// The printers, those out of use among them.
    pub printers: Vec<Printer>,
    /// The printers in use, in order.
    pub in_use: Vec<PrinterId>,
    /// The resins, those out of use among them.
    pub resins: Vec<Resin>,
    /// Batches on their way, the one that came off first before the others.
    pub batches: Vec<TodayBatch>,
    /// Printers to be looked into, and why.
    pub to_check: BTreeMap<PrinterId, String>,
    /// Vats in which resin stands.
    pub vats: BTreeMap<PrinterId, StandingVat>,
    /// How worn everything is that is in use, by the plates that wait.
    pub worn: Vec<Worn>,
}

/// A vat in which resin stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct StandingVat {
    /// Since when nothing has happened in it, ms since 1970.
    pub since_ms: i64,
    /// What most of it is, where the books say.
    pub resin: Option<ResinId>,
}

impl StandingVat {
    /// For how many days its resin has stood, where that is long enough for it to separate and the next
    /// plate there does not take it, which has it stirred before its start.
    #[must_use]
    pub fn idle_days(&self, next: Option<ResinId>, now_ms: i64) -> Option<i64> {
        let days = (now_ms - self.since_ms).max(0) / 86_400_000;
        let takes_it = next.is_some_and(|next| self.resin.is_none_or(|of| of == next));
        (days >= IDLE_DAYS && !takes_it).then_some(days)
    }
}

/// A batch with what is said of its copies.
#[derive(Debug, Clone, PartialEq)]
pub struct TodayBatch {
    /// The batch.
    pub batch: Batch,
    /// Copies that are to be mended.
    pub to_mend: u64,
    /// How long that takes, min, as far as somebody said.
    pub mend_minutes: f64,
}

/// What is to be done.
#[derive(Debug, Clone, PartialEq)]
pub enum Act {
    /// Something is to be looked for at a running plate.
    Look(Look),
    /// Something may lie in the vat of a printer: why.
    CheckVat(String),
    /// The copies of a plate wait to be judged.
    Judge,
    /// Resin has stood in a vat for so many days, and nothing is planned in it.
    IdleVat(i64),
    /// Something is worn out, or will be before the next plate of its printer ends: what is to be done, and by
    /// what that is known.
    Replace(WearKind, String),
    /// Copies of a plate are to be mended: how many, how long it takes, min.
    Mend(u64, f64),
    /// A plate comes off its printer at this time, ms since 1970.
    TakeOff {
        /// When it should end.
        ends_at_ms: i64,
    },
    /// A step of a batch is under way until this time, ms since 1970.
    EndStep {
        /// The batch.
        batch: BatchId,
        /// The step.
        step: Step,
        /// When it is over.
        ends_at_ms: i64,
    },
    /// A step of a batch can be begun at this time, ms since 1970.
    BeginStep {
        /// The batch.
        batch: BatchId,
        /// The step.
        step: Step,
        /// When hands and station are free for it.
        from_ms: i64,
        /// How long it takes, min.
        minutes: f64,
    },
    /// A plate can be started: nobody uses its printer.
    Start,
    /// A plan waits to be accepted.
    Accept {
        /// Its revision.
        revision: i64,
        /// What its plates take.
        sums: PlateSums,
    },
    /// Copies are wanted that are on no plate.
    Plan {
        /// How many.
        copies: u64,
    },
    /// Parts are wanted that have nothing to print them from.
    FindSculpts {
        /// How many.
        parts: u64,
    },
    /// A project has no unit yet.
    AddUnit,
    /// A project is wanted by then, ms since 1970, and so many of its models are not complete.
    Wanted {
        /// When.
        by_ms: i64,
        /// Models that are not complete.
        open: u64,
    },
}

/// When something is to be done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum When {
    /// Its time is over since then, ms since 1970.
    Due(i64),
    /// Now, as soon as somebody is there.
    Now,
    /// At a time that comes, ms since 1970.
    Next(i64),
    /// When there is time for it.
    Later,
}

impl Act {
    /// When it is to be done.
    #[must_use]
    pub fn when(&self, now_ms: i64) -> When {
        let timed = |at: i64| {
            if at <= now_ms {
                When::Due(at)
            } else {
                When::Next(at)
            }
        };
        match self {
            Act::Look(look) => timed(look.at_ms()),
            Act::Wanted { by_ms, .. } => timed(*by_ms),
            Act::TakeOff { ends_at_ms } | Act::EndStep { ends_at_ms, .. } => timed(*ends_at_ms),
            Act::BeginStep { from_ms, .. } if *from_ms > now_ms => When::Next(*from_ms),
            Act::BeginStep { .. } | Act::CheckVat(_) | Act::Judge => When::Now,
            Act::Mend(..)
            | Act::Replace(..)
            | Act::IdleVat(_)
            | Act::Start
            | Act::Accept { .. }
            | Act::Plan { .. }
            | Act::FindSculpts { .. }
            | Act::AddUnit => When::Later,
        }
    }
}

/// One line of the day sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct Line<'a> {
    /// What is to be done.
    pub act: Act,
    /// The project it is for; nothing for what is about a printer alone.
    pub project: Option<(ProjectId, &'a str)>,
    /// The plate it is about.
    pub plate: Option<&'a Plate>,
    /// Name of its printer.
    pub printer: &'a str,
    /// Name of its resin.
    pub resin: &'a str,
    /// The printer it is about, where it is about no plate.
    pub on: Option<PrinterId>,
}

/// Looking at a plate, searching a vat, straining one, changing what is worn out, ending a step, looking at a plan or
/// a list takes the hands so long, min (common practice, no source).
const LOOK_MIN: f64 = 2.0;
const SEARCH_MIN: f64 = 10.0;
const STRAIN_MIN: f64 = 10.0;
const REPLACE_MIN: f64 = 20.0;
const END_MIN: f64 = 1.0;
const DESK_MIN: f64 = 5.0;

impl Line<'_> {
    /// Minutes of hands; putting a plate on and taking it off take what the workshop says.
    #[must_use]
    pub fn minutes(&self, day: &Day) -> f64 {
        let [put_on, take_off, _] = day.work.minutes;
        match &self.act {
            Act::Look(_) => LOOK_MIN,
            Act::CheckVat(_) => SEARCH_MIN,
            Act::IdleVat(_) => STRAIN_MIN,
            Act::Replace(..) => REPLACE_MIN,
            Act::Mend(copies, minutes) if *minutes <= 0.0 => *copies as f64 * LOOK_MIN,
            Act::Mend(_, minutes) => *minutes,
            Act::EndStep { .. } => END_MIN,
            Act::BeginStep { step, minutes, .. } => f64::from(of_step(*step, *minutes, u32::MAX).0),
            Act::Judge => {
                let of = |o: &&OnItsWay| self.plate.is_some_and(|p| p.id == o.plate);
                let of = day.off.iter().find(of);
                let judge = of.and_then(|o| o.steps.iter().find(|s| s.0 == Step::Judge));
                judge.map_or(DESK_MIN, |s| s.1)
            }
            Act::TakeOff { .. } => take_off,
            Act::Start => put_on + self.change_minutes(day),
            Act::Wanted { .. } => 0.0,
            Act::Accept { .. } | Act::Plan { .. } | Act::FindSculpts { .. } | Act::AddUnit => {
                DESK_MIN
            }
        }
    }

    /// Minutes of bringing in its resin, where another one is in the vat.
    fn change_minutes(&self, day: &Day) -> f64 {
        let of = self.plate.and_then(|plate| {
            let mut printers = day.work.printers.iter();
            let of = printers.find(|p| p.printer == plate.printer)?;
            of.holds.filter(|r| *r != plate.resin)?;
            Some(of.change_minutes)
        });
        of.unwrap_or(0.0)
    }
}

impl TodayFacts {
    fn line<'a>(
        &'a self,
        project: &'a TodayProject,
        plate: Option<&'a Plate>,
        act: Act,
    ) -> Line<'a> {
        let printer = plate.and_then(|p| self.printers.iter().find(|x| x.id == p.printer));
        let resin = plate.and_then(|p| self.resins.iter().find(|x| x.id == p.resin));
        Line {
            act,
            project: Some((project.army.project.id, project.army.project.name.as_str())),
            plate,
            printer: printer.map_or("", |p| p.name.as_str()),
            resin: resin.map_or("", |r| r.name.as_str()),
            on: None,
        }
    }

    /// A line about a printer: whose copies were printed there does not matter.
    fn at_printer(&self, printer: PrinterId, act: Act) -> Line<'_> {
        let found = self.printers.iter().find(|p| p.id == printer);
        Line {
            act,
            project: None,
            plate: None,
            printer: found.map_or("", |p| p.name.as_str()),
            resin: "",
            on: Some(printer),
        }
    }

    /// Nobody has ever had a good copy: the maker does all of it for the first time.
    #[must_use]
    pub fn is_first_time(&self) -> bool {
        self.projects.iter().all(|p| p.army.progress.good == 0)
    }

    /// The plate that is printed next on a printer: the first in turn, then the first by number.
    fn next_on(&self, printer: PrinterId, turn: &[PlateId]) -> Option<(&TodayProject, &Plate)> {
        let place = |plate: &Plate| turn.iter().position(|id| *id == plate.id);
        self.in_state(PlateState::Planned)
            .filter(|(_, p)| p.printer == printer)
            .min_by_key(|(_, p)| place(p).unwrap_or(usize::MAX))
    }

    fn in_state(&self, state: PlateState) -> impl Iterator<Item = (&TodayProject, &Plate)> {
        self.projects.iter().flat_map(move |project| {
            let plates = project.plates.iter().filter(move |p| p.state == state);
            plates.map(move |plate| (project, plate))
        })
    }
}

/// The day sheet's lines, over all projects: what is overdue first, the longest first; then what
/// can be done now; what comes, by its time; and what waits for a free hour. `turn` is the order in
/// which the schedule prints plates, as far as it is known: of those that wait for a free printer the
/// first is started, and without an order the one with the lowest number. `now_ms` is the present,
/// ms since 1970.
#[must_use]
pub fn lines<'a>(facts: &'a TodayFacts, turn: &[PlateId], now_ms: i64) -> Vec<Line<'a>> {
    let mut lines = Vec::new();
    for (project, plate) in facts.in_state(PlateState::Running) {
        lines.extend(running(facts, project, plate, now_ms));
    }
    for (printer, why) in &facts.to_check {
        lines.push(facts.at_printer(*printer, Act::CheckVat(why.clone())));
    }
    finishing(facts, now_ms, &mut lines);
    for printer in &facts.in_use {
        let busy = facts
            .in_state(PlateState::Running)
            .any(|(_, p)| p.printer == *printer);
        let waiting = facts.next_on(*printer, turn);
        if let (false, Some((project, plate))) = (busy, waiting) {
            lines.push(facts.line(project, Some(plate), Act::Start));
        }
    }
    idle_vats(facts, turn, now_ms, &mut lines);
    worn_out(facts, &mut lines);
    for project in &facts.projects {
        let acts = planning(project);
        lines.extend(acts.into_iter().map(|act| facts.line(project, None, act)));
        let progress = project.army.progress;
        let open = progress.models.saturating_sub(progress.complete);
        if let Some(by_ms) = project.deadline_ms.filter(|_| open > 0) {
            lines.push(facts.line(project, None, Act::Wanted { by_ms, open }));
        }
    }
    lines.sort_by_key(|line| line.act.when(now_ms));
    lines
}

/// Days after which resin in a vat has separated (common practice, no source).
pub const IDLE_DAYS: i64 = 3;

/// Vats in which resin has stood for days, and the next plate does not take it: it goes back through a
/// strainer. A plate that takes it has it stirred before its start.
fn idle_vats<'a>(facts: &'a TodayFacts, turn: &[PlateId], now_ms: i64, lines: &mut Vec<Line<'a>>) {
    for (printer, vat) in &facts.vats {
        let runs = facts
            .in_state(PlateState::Running)
            .any(|(_, p)| p.printer == *printer);
        let checked = facts.to_check.contains_key(printer);
        let next = facts.next_on(*printer, turn).map(|(_, plate)| plate.resin);
        let days = vat.idle_days(next, now_ms);
        if let (Some(days), false) = (days, runs || checked || !facts.in_use.contains(printer)) {
            lines.push(facts.at_printer(*printer, Act::IdleVat(days)));
        }
    }
}

/// What is due, or does not last through the next plate that needs it.
fn worn_out<'a>(facts: &'a TodayFacts, lines: &mut Vec<Line<'a>>) {
    let next = |printer: Option<PrinterId>| {
        let waits = facts.in_state(PlateState::Running);
        let waits = waits.chain(facts.in_state(PlateState::Planned));
        let mut of = waits.filter(|(_, p)| printer.is_none_or(|id| p.printer == id));
        of.next().map(|(_, p)| p.id)
    };
    for worn in &facts.worn {
        let soon = worn.ends_in.is_some() && worn.ends_in == next(worn.wear.printer);
        if !worn.is_due() && !soon {
            continue;
        }
        let act = Act::Replace(worn.wear.kind, worn.words());
        lines.push(match worn.wear.printer {
            Some(printer) => facts.at_printer(printer, act),
            None => Line {
                act,
                project: None,
                plate: None,
                printer: "",
                resin: "",
                on: None,
            },
        });
    }
}

/// What is to be looked for at a running plate; of what is before its end only the next.
fn running<'a>(
    facts: &'a TodayFacts,
    project: &'a TodayProject,
    plate: &'a Plate,
    now_ms: i64,
) -> Vec<Line<'a>> {
    let Some(run) = project.runs.get(&plate.id) else {
        return Vec::new();
    };
    let acts = looks(plate, run, now_ms)
        .into_iter()
        .map(|look| match look {
            Look::End(ends_at_ms) => Act::TakeOff { ends_at_ms },
            look => Act::Look(look),
        });
    let acts: Vec<Act> = acts.collect();
    // Once it should have ended, nobody looks at its first layers.
    let over = acts
        .iter()
        .any(|act| matches!(act, Act::TakeOff { .. }) && matches!(act.when(now_ms), When::Due(_)));
    acts.into_iter()
        .filter(|act| !over || matches!(act, Act::TakeOff { .. }))
        .map(|act| facts.line(project, Some(plate), act))
        .collect()
}

/// Batches on their way, and plates to be judged.
fn finishing<'a>(facts: &'a TodayFacts, now_ms: i64, lines: &mut Vec<Line<'a>>) {
    let batches: Vec<Batch> = facts.batches.iter().map(|b| b.batch.clone()).collect();
    let slots = queue(&batches, now_ms);
    let mut judge = Vec::new();
    for (project, plate) in facts.in_state(PlateState::Printed) {
        let of = facts.batches.iter().find(|b| b.batch.plate == plate.id);
        let mut add = |act| lines.push(facts.line(project, Some(plate), act));
        let Some(TodayBatch {
            batch,
            to_mend,
            mend_minutes,
        }) = of
        else {
            judge.push(facts.line(project, Some(plate), Act::Judge));
            continue;
        };
        let step = batch.current().map_or(Step::Judge, |s| s.step);
        if *to_mend > 0 {
            add(Act::Mend(*to_mend, *mend_minutes));
        }
        match (step, batch.due_at_ms()) {
            (Step::Judge, _) => judge.push(facts.line(project, Some(plate), Act::Judge)),
            (step, Some(ends_at_ms)) => add(Act::EndStep {
                batch: batch.id,
                step,
                ends_at_ms,
            }),
            (step, None) => {
                let slot = slots.iter().find(|s| s.batch == batch.id);
                add(Act::BeginStep {
                    batch: batch.id,
                    step,
                    from_ms: slot.map_or(now_ms, |s| s.from_ms),
                    minutes: batch.current().map_or(0.0, |s| s.minutes),
                });
            }
        }
    }
    // What is wet goes first.
    lines.extend(judge);
}

fn planning(project: &TodayProject) -> Vec<Act> {
    let mut acts = Vec::new();
    let copies: u64 = demand_lines(&project.army).iter().map(|l| l.wanted).sum();
    match &project.plan {
        Some(plan) if plan.state == PlanState::Draft => acts.push(Act::Accept {
            revision: plan.revision,
            sums: PlateSums::of(&project.draft),
        }),
        _ if copies > 0 => acts.push(Act::Plan { copies }),
        _ => {}
    }
    let parts = without_sculpt(&project.army).len() as u64;
    if parts > 0 {
        acts.push(Act::FindSculpts { parts });
    }
    if project.army.units.is_empty() {
        acts.push(Act::AddUnit);
    }
    acts
}

#[cfg(test)]
#[path = "lines_tests.rs"]
mod lines_tests;
