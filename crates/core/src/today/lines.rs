//! What needs a hand next: to judge first, then what comes off by time, then the next start on each
//! printer nobody uses, then what is to be planned.

use std::collections::BTreeMap;

use crate::army::{Army, demand_lines, without_sculpt};
use crate::cost::PlateSums;
use crate::flow::{PlanRevision, PlanState, Plate, PlateState, Run};
use crate::ids::{PlateId, PrinterId, ProjectId};
use crate::workshop::{Printer, Resin};

/// One project, as far as the day sheet needs it.
#[derive(Debug, Clone, PartialEq)]
pub struct TodayProject {
    /// The army.
    pub army: Army,
    /// Its accepted plates, released ones apart, by number.
    pub plates: Vec<Plate>,
    /// The newest run of each plate that has one.
    pub runs: BTreeMap<PlateId, Run>,
    /// The plan nobody has accepted yet.
    pub plan: Option<PlanRevision>,
    /// The plates of that plan.
    pub draft: Vec<Plate>,
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
}

/// What is to be done.
#[derive(Debug, Clone, PartialEq)]
pub enum Act {
    /// The copies of a plate wait to be judged.
    Judge,
    /// A plate comes off its printer at this time, ms since 1970.
    TakeOff {
        /// When it should end.
        ends_at_ms: i64,
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
}

/// One line of the day sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct Line<'a> {
    /// What is to be done.
    pub act: Act,
    /// The project it is for.
    pub project: (ProjectId, &'a str),
    /// The plate it is about.
    pub plate: Option<&'a Plate>,
    /// Name of its printer.
    pub printer: &'a str,
    /// Name of its resin.
    pub resin: &'a str,
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
            project: (project.army.project.id, project.army.project.name.as_str()),
            plate,
            printer: printer.map_or("", |p| p.name.as_str()),
            resin: resin.map_or("", |r| r.name.as_str()),
        }
    }

    fn in_state(&self, state: PlateState) -> impl Iterator<Item = (&TodayProject, &Plate)> {
        self.projects.iter().flat_map(move |project| {
            let plates = project.plates.iter().filter(move |p| p.state == state);
            plates.map(move |plate| (project, plate))
        })
    }
}

/// The day sheet's lines, over all projects; `now_ms` is the present, ms since 1970.
#[must_use]
pub fn lines(facts: &TodayFacts, now_ms: i64) -> Vec<Line<'_>> {
    let mut lines: Vec<Line<'_>> = facts
        .in_state(PlateState::Printed)
        .map(|(project, plate)| facts.line(project, Some(plate), Act::Judge))
        .collect();
    let mut running: Vec<(i64, &TodayProject, &Plate)> = facts
        .in_state(PlateState::Running)
        .map(|(project, plate)| {
            let started = project.runs.get(&plate.id).map(|r| r.started_at_ms);
            let ends = plate.ends_at_ms(started.unwrap_or(now_ms));
            (ends, project, plate)
        })
        .collect();
    running.sort_by_key(|(ends, _, _)| *ends);
    for (ends_at_ms, project, plate) in &running {
        let act = Act::TakeOff {
            ends_at_ms: *ends_at_ms,
        };
        lines.push(facts.line(project, Some(plate), act));
    }
    for printer in &facts.in_use {
        let busy = running.iter().any(|(_, _, p)| p.printer == *printer);
        let waiting = facts
            .in_state(PlateState::Planned)
            .find(|(_, p)| p.printer == *printer);
        if let (false, Some((project, plate))) = (busy, waiting) {
            lines.push(facts.line(project, Some(plate), Act::Start));
        }
    }
    for project in &facts.projects {
        let acts = planning(project);
        lines.extend(acts.into_iter().map(|act| facts.line(project, None, act)));
    }
    lines
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
