//! The rest of a project as it stands: from its army, the plates of the workshop and what was judged.

use std::collections::BTreeMap;

use super::rehearse::{Chance, Missing, Rest, RestPlate};
use crate::army::Army;
use crate::flow::{Plate, PlateState, Stage};
use crate::ids::{PartId, PlateId, PrinterId, ProjectId, UnitId};
use crate::odds::{Judged, believed};

/// What the rest is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct RestFacts<'a> {
    /// The army.
    pub army: &'a Army,
    /// Plates of all projects that wait, run, or are off and not judged, in the order in which they are printed; with
    /// what is left of those that run, s.
    pub plates: Vec<(&'a Plate, Option<f64>)>,
    /// Copies on each of them that are not judged.
    pub on: &'a BTreeMap<PlateId, BTreeMap<PartId, u32>>,
    /// How copies came out, part by part, in the whole workshop.
    pub judged: &'a BTreeMap<PartId, Judged>,
    /// Plates that held, and those lost whole.
    pub plates_lost: Judged,
    /// Printers in use.
    pub printers: Vec<PrinterId>,
    /// When somebody is there, s from now.
    pub windows: Vec<[f64; 2]>,
    /// Putting on and taking off, s.
    pub hands_s: [f64; 2],
    /// From the printer to the last copy judged, s.
    pub finish_s: f64,
}

/// A part of the rest by its number.
#[derive(Debug, Clone, PartialEq)]
pub struct RestPart {
    /// Which one.
    pub part: PartId,
    /// What it is called, with its model.
    pub name: String,
    /// Its unit.
    pub unit: UnitId,
    /// None of it was judged yet.
    pub untried: bool,
}

/// The rest, with what its numbers stand for.
#[derive(Debug, Clone, PartialEq)]
pub struct WholeRest {
    /// To be rehearsed.
    pub rest: Rest,
    /// Its parts.
    pub parts: Vec<RestPart>,
    /// Names of its units.
    pub units: Vec<(UnitId, String)>,
    /// How copies of the workshop come out.
    pub usual: Chance,
}

/// How long a plate takes, and how many copies it holds, where no plate of the project says it (common practice, no
/// source).
const USUAL_PLATE: (f64, u32) = (6.0 * 3600.0, 8);

/// The rest of a project.
#[must_use]
pub fn rest_of(facts: &RestFacts) -> WholeRest {
    let project: ProjectId = facts.army.project.id;
    let workshop = Judged::sum(facts.judged.values().copied());
    let machine = |id: PrinterId| facts.printers.iter().position(|p| *p == id);
    let of_project: Vec<(&Plate, &BTreeMap<PartId, u32>)> = facts
        .plates
        .iter()
        .filter(|(p, _)| p.project == project)
        .filter_map(|(p, _)| Some((*p, facts.on.get(&p.id)?)))
        .collect();
    let many = of_project.len().max(1) as f64;
    let copies_on = |on: &BTreeMap<PartId, u32>| on.values().sum::<u32>();
    let mean = if of_project.is_empty() {
        USUAL_PLATE
    } else {
        let seconds: f64 = of_project.iter().map(|p| p.0.seconds).sum();
        let copies: u32 = of_project.iter().map(|p| copies_on(p.1)).sum();
        (seconds / many, ((f64::from(copies) / many) as u32).max(1))
    };
    let (mut missing, mut parts, mut units) = (Vec::new(), Vec::new(), Vec::new());
    for (index, unit) in facts.army.units.iter().enumerate() {
        units.push((unit.unit.id, unit.unit.name.clone()));
        for (model, part) in unit
            .models
            .iter()
            .flat_map(|m| m.parts.iter().map(move |p| (m, p)))
        {
            let id = part.part.id;
            let required = u32::try_from(part.need.required()).unwrap_or(u32::MAX);
            let short = required.saturating_sub(part.counts.of(Stage::Good));
            if short == 0 {
                continue;
            }
            let stands = of_project.iter().rev().find(|(_, on)| on.contains_key(&id));
            let (seconds, per_plate) = stands.map_or(mean, |(p, on)| (p.seconds, copies_on(on)));
            let judged = facts.judged.get(&id).copied().unwrap_or_default();
            missing.push(Missing {
                copies: short,
                odds: Chance::Believed(believed(judged, workshop)),
                machine: stands.and_then(|(p, _)| machine(p.printer)).unwrap_or(0),
                seconds,
                per_plate,
                unit: index,
            });
            parts.push(RestPart {
                part: id,
                name: crate::army::part_name(&model.model.name, &part.part.name),
                unit: unit.unit.id,
                untried: judged.all() == 0,
            });
        }
    }
    let plate = |(plate, left_s): &(&Plate, Option<f64>)| {
        let copies = facts.on.get(&plate.id).into_iter().flatten();
        let numbered = copies.filter_map(|(part, n)| {
            let index = parts.iter().position(|p: &RestPart| p.part == *part)?;
            (plate.project == project).then_some((index, *n))
        });
        let off = plate.state == PlateState::Printed;
        Some(RestPlate {
            // A printer out of use prints nothing: what waits for it is printed on another one.
            machine: if off {
                None
            } else {
                Some(machine(plate.printer).unwrap_or(0))
            },
            seconds: left_s.unwrap_or(plate.seconds),
            // Told for nine of ten: 1.645 standard deviations.
            spread: plate.time.around_s() / 1.645 / plate.seconds.max(1.0),
            runs: left_s.is_some(),
            copies: numbered.collect(),
        })
        .filter(|p| !(off && p.copies.is_empty()))
    };
    WholeRest {
        rest: Rest {
            plates: facts.plates.iter().filter_map(plate).collect(),
            missing,
            holds: Chance::Believed(believed(facts.plates_lost, facts.plates_lost)),
            machines: facts.printers.len(),
            windows: facts.windows.clone(),
            load_s: facts.hands_s[0],
            unload_s: facts.hands_s[1],
            finish_s: facts.finish_s,
        },
        parts,
        units,
        usual: Chance::Believed(believed(workshop, workshop)),
    }
}

impl WholeRest {
    /// The part that is least likely to come out among those nobody has tried; nothing where all were.
    #[must_use]
    pub fn riskiest(&self) -> Option<usize> {
        let untried = (0..self.parts.len()).filter(|i| self.parts[*i].untried);
        let odds = |i: &usize| self.rest.missing[*i].odds.mean();
        untried.min_by(|a, b| odds(a).total_cmp(&odds(b)))
    }

    /// The printer with most to do.
    #[must_use]
    pub fn busiest(&self) -> Option<usize> {
        let hours = |m: usize| {
            let on = self.rest.plates.iter().filter(|p| p.machine == Some(m));
            on.map(|p| p.seconds).sum::<f64>()
        };
        (0..self.rest.machines).max_by(|a, b| hours(*a).total_cmp(&hours(*b)))
    }
}
