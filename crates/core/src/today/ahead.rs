//! The day as it is played out, from what the day sheet and the schedule are made from.

use std::collections::{BTreeMap, BTreeSet};

use crate::finishing::{Batch, RouteAsk, Step, StepState, route_for};
use crate::flow::{Plate, PlateState};
use crate::ids::{PartId, PlateId, ProjectId, UnitId};
use crate::schedule::{Due, Work, weight_of};
use crate::workshop::practice::Practice;

use super::day::{Day, OnItsWay, Steps};
use super::lines::{TodayBatch, TodayFacts};

/// What is on a plate and not judged.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Ahead {
    /// Copies.
    pub copies: u64,
    /// Contacts of their supports.
    pub contacts: u64,
    /// Their parts.
    pub parts: BTreeSet<PartId>,
}

/// All that a day is played out from.
#[derive(Debug)]
pub struct DayFacts<'a> {
    /// What the day sheet is made from.
    pub today: &'a TodayFacts,
    /// What the schedule is made from, each plate on its own printer.
    pub work: Work,
    /// The order of the schedule.
    pub order: Vec<PlateId>,
    /// What is on plates that are not judged, those of open plans among them.
    pub ahead: &'a BTreeMap<PlateId, Ahead>,
    /// How each project finishes.
    pub practices: &'a BTreeMap<ProjectId, Practice>,
    /// Plates of plans nobody has accepted yet.
    pub drafts: Vec<Due>,
}

impl Day {
    /// The day as it stands.
    #[must_use]
    pub fn of(facts: DayFacts<'_>) -> Self {
        let today = facts.today;
        let mut units: BTreeMap<PartId, (UnitId, i64)> = BTreeMap::new();
        for project in &today.projects {
            for unit in &project.army.units {
                let parts = unit.models.iter().flat_map(|m| &m.parts);
                let of = (unit.unit.id, unit.unit.priority);
                units.extend(parts.map(|p| (p.part.id, of)));
            }
        }
        let mut day = Self {
            work: facts.work,
            order: facts.order,
            off: Vec::new(),
            routes: BTreeMap::new(),
            units: BTreeMap::new(),
            weights: BTreeMap::new(),
            to_check: today.to_check.keys().copied().collect(),
            left_on: BTreeMap::new(),
            drafts: BTreeMap::new(),
        };
        for due in facts.drafts {
            day.drafts.entry(due.project).or_default().push(due);
        }
        for (plate, ahead) in facts.ahead {
            let of = || ahead.parts.iter().filter_map(|p| units.get(p));
            day.units.insert(*plate, of().map(|u| u.0).collect());
            if let Some(first) = of().map(|u| u.1).min() {
                day.weights.insert(*plate, weight_of(first));
            }
        }
        for project in &today.projects {
            let Some(practice) = facts.practices.get(&project.army.project.id) else {
                continue;
            };
            for plate in project.plates.iter().chain(&project.draft) {
                let Some(ahead) = facts.ahead.get(&plate.id) else {
                    continue;
                };
                let of = today.batches.iter().find(|b| b.batch.plate == plate.id);
                match (plate.state, of) {
                    (PlateState::Printed, Some(of)) => {
                        day.off.push(on_its_way(of, day.work.now_ms));
                    }
                    (PlateState::Printed, None) => day.off.push(OnItsWay {
                        plate: plate.id,
                        ready_ms: day.work.now_ms,
                        at: None,
                        steps: route(today, plate, ahead, practice)
                            .into_iter()
                            .filter(|s| s.0 == Step::Judge)
                            .collect(),
                        mend_minutes: 0.0,
                        mend_from_ms: 0,
                    }),
                    _ => {
                        let steps = route(today, plate, ahead, practice);
                        day.routes.insert(plate.id, steps);
                    }
                }
            }
        }
        day
    }
}

/// The steps a plate's copies will go through.
fn route(today: &TodayFacts, plate: &Plate, ahead: &Ahead, practice: &Practice) -> Steps {
    let Some(resin) = today.resins.iter().find(|r| r.id == plate.resin) else {
        return Steps::new();
    };
    let ask = RouteAsk {
        copies: ahead.copies,
        contacts: ahead.contacts,
        hollow: 0,
        jointed: 0,
        wash_agents: resin.washed_in(),
        viscosity: resin.viscosity,
        cure_minutes: None,
    };
    let route = route_for(&ask, practice).into_iter();
    route.map(|s| (s.step, s.minutes)).collect()
}

fn on_its_way(of: &TodayBatch, now_ms: i64) -> OnItsWay {
    let batch: &Batch = &of.batch;
    let ahead = batch.steps.iter().filter(|s| s.state == StepState::Ahead);
    OnItsWay {
        plate: batch.plate,
        ready_ms: batch.due_at_ms().unwrap_or(now_ms),
        at: batch.now().map(|at| batch.steps[at].step.station()),
        steps: ahead.map(|s| (s.step, s.minutes)).collect(),
        mend_minutes: of.mend_minutes,
        mend_from_ms: now_ms,
    }
}
