//! The rest of a project as it stands: from its army, the plates of the workshop and what was judged.

use std::collections::BTreeMap;

use super::rehearse::{Missing, Rest, RestPlate};
use super::what_if::WhatIf;
use crate::army::Army;
use crate::flow::{Plate, PlateState, Stage};
use crate::ids::{PartId, PlateId, PrinterId, ProjectId};
use crate::odds::{Judged, Posterior, believed};
use crate::units::LayerHeight;

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
    /// Every accepted plate of the project, those that are done with them, and all copies that stood on it.
    pub stood: Vec<(&'a Plate, &'a BTreeMap<PartId, u32>)>,
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
    pub units: Vec<String>,
    /// What is believed of the copies of the workshop.
    pub usual: Posterior,
    /// Plates of the project that are still to come off, those among them that nobody has planned.
    pub left: u32,
    /// The layer height of most of its plates that wait; the usual one where none does, mm.
    pub layer_mm: f64,
}

/// How long a plate takes, and how many copies it holds, where no plate of the project says it (common practice, no
/// source).
const USUAL_PLATE: (f64, u32) = (6.0 * 3600.0, 8);

/// Layers that are asked about where the plates have thicker ones, mm.
pub const THIN_MM: f64 = 0.03;
/// With this chance enough copies come out where spares are asked about.
pub const SAFE: f64 = 0.95;

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
    let copies_on = |on: &BTreeMap<PartId, u32>| on.values().sum::<u32>();
    let many = facts.stood.len().max(1) as f64;
    let mean = if facts.stood.is_empty() {
        USUAL_PLATE
    } else {
        let seconds: f64 = facts.stood.iter().map(|p| p.0.seconds).sum();
        let copies: u32 = facts.stood.iter().map(|p| copies_on(p.1)).sum();
        (seconds / many, ((f64::from(copies) / many) as u32).max(1))
    };
    let (mut missing, mut parts, mut units) = (Vec::new(), Vec::new(), Vec::new());
    for (index, unit) in facts.army.units.iter().enumerate() {
        units.push(unit.unit.name.clone());
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
            // A copy that was printed alone once says nothing of how many a plate holds.
            let with = facts.stood.iter().filter(|(_, on)| on.contains_key(&id));
            let stands = with.max_by_key(|(_, on)| copies_on(on));
            let (seconds, per_plate) = stands.map_or(mean, |(p, on)| (p.seconds, copies_on(on)));
            let judged = facts.judged.get(&id).copied().unwrap_or_default();
            missing.push(Missing {
                copies: short,
                odds: believed(judged, workshop),
                machine: stands.and_then(|(p, _)| machine(p.printer)).unwrap_or(0),
                seconds,
                per_plate,
                unit: index,
            });
            parts.push(RestPart {
                part: id,
                name: crate::army::part_name(&model.model.name, &part.part.name),
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
    let mut rest = Rest {
        plates: facts.plates.iter().filter_map(plate).collect(),
        missing,
        holds: believed(facts.plates_lost, facts.plates_lost),
        machines: facts.printers.len(),
        windows: facts.windows.clone(),
        load_s: facts.hands_s[0],
        unload_s: facts.hands_s[1],
        finish_s: facts.finish_s,
    };
    let to_come = of_project
        .iter()
        .filter(|p| p.0.state != PlateState::Printed);
    let planned_later = rest.plan_later();
    WholeRest {
        rest,
        parts,
        units,
        usual: believed(workshop, workshop),
        left: u32::try_from(to_come.count() + planned_later).unwrap_or(u32::MAX),
        layer_mm: usual_layer(of_project.iter().map(|p| p.0)),
    }
}

/// The layer height of most of some plates, mm.
fn usual_layer<'a>(plates: impl Iterator<Item = &'a Plate>) -> f64 {
    let mut by: BTreeMap<LayerHeight, usize> = BTreeMap::new();
    for plate in plates {
        *by.entry(plate.layer).or_default() += 1;
    }
    let most = by.into_iter().max_by_key(|(_, many)| *many);
    most.map_or(LayerHeight::USUAL, |(layer, _)| layer).mm()
}

impl Rest {
    /// Puts what is missing and on no plate on plates of its own, each on the printer that has least to do; how many.
    fn plan_later(&mut self) -> usize {
        let mut wanted: Vec<(usize, u32)> = (0..self.missing.len())
            .map(|i| (i, self.missing[i].copies.saturating_sub(self.under_way(i))))
            .collect();
        let mut load_s: Vec<f64> = (0..self.machines)
            .map(|m| {
                let on = self.plates.iter().filter(|p| p.machine == Some(m));
                on.map(|p| p.seconds).sum()
            })
            .collect();
        let mut many = 0;
        while let Some(plate) = self.plate_of(&wanted) {
            let least = (0..self.machines).min_by(|a, b| load_s[*a].total_cmp(&load_s[*b]));
            let Some(machine) = least else {
                break;
            };
            load_s[machine] += plate.seconds;
            for (part, copies) in &plate.copies {
                wanted[*part].1 -= copies;
                self.missing[*part].machine = machine;
            }
            self.plates.push(RestPlate {
                machine: Some(machine),
                ..plate
            });
            many += 1;
        }
        many
    }
}

impl WholeRest {
    /// The part that is least likely to come out among those nobody has tried; nothing where all were.
    fn riskiest(&self) -> Option<usize> {
        let untried = (0..self.parts.len()).filter(|i| self.parts[*i].untried);
        let odds = |i: &usize| self.rest.missing[*i].odds.mean();
        untried.min_by(|a, b| odds(a).total_cmp(&odds(b)))
    }

    /// Changes that are worth asking about: the last unit that lacks something left out, a second printer like the busiest,
    /// these hours besides, thin layers, spares, the riskiest part proven first.
    #[must_use]
    pub fn changes(&self, more_hours: &[[f64; 2]]) -> Vec<WhatIf> {
        let short = |unit: usize| self.rest.missing.iter().any(|m| m.unit == unit);
        let unit = (0..self.units.len()).rev().find(|u| short(*u));
        let mut all: Vec<WhatIf> = unit.map(WhatIf::WithoutUnit).into_iter().collect();
        all.extend(self.busiest().map(WhatIf::AnotherPrinter));
        if !more_hours.is_empty() {
            all.push(WhatIf::MoreHours(more_hours.to_vec()));
        }
        if self.layer_mm > THIN_MM {
            all.push(WhatIf::Layers(self.layer_mm / THIN_MM));
        }
        all.push(WhatIf::Spares(SAFE));
        all.extend(self.riskiest().map(WhatIf::ProveFirst));
        all
    }

    /// The printer with most to do.
    fn busiest(&self) -> Option<usize> {
        let hours = |m: usize| {
            let on = self.rest.plates.iter().filter(|p| p.machine == Some(m));
            on.map(|p| p.seconds).sum::<f64>()
        };
        (0..self.rest.machines).max_by(|a, b| hours(*a).total_cmp(&hours(*b)))
    }
}

#[cfg(test)]
#[path = "rest_tests.rs"]
mod tests;
