//! What a plan is made from, put together: demand, parts as they are held, practice, workshop.

use std::collections::{BTreeMap, HashMap};

use super::request::{PlanPart, PlanRequest};
use crate::army::demand::DemandLine;
use crate::flow::PlanScope;
use crate::ids::{PartId, PrinterId, RecipeVersionId, SculptId, UnitId};
use crate::pack::Slots;
use crate::recipe::{KeptPart, PreparedPart, Proofs, RecipeVersion};
use crate::sculpt::SculptFacts;
use crate::workshop::practice::Practice;
use crate::workshop::{Printer, ProcessSetting, Rates, Resin};

/// Everything that is known when a plan is asked for.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanFacts {
    /// The printers in use.
    pub printers: Vec<Printer>,
    /// How long each plate prints that is accepted for them already, s.
    pub accepted_s: BTreeMap<PrinterId, Vec<f64>>,
    /// How long a plate keeps a printer, with the hours in which nobody takes it off; empty where
    /// that is not to matter.
    pub slots: Slots,
    /// The newest process settings.
    pub settings: Vec<ProcessSetting>,
    /// The resins in use.
    pub resins: Vec<Resin>,
    /// The workshop's figures.
    pub rates: Rates,
    /// The maker's practice for this project.
    pub practice: Practice,
    /// What was measured on the sculpts.
    pub sculpts: HashMap<SculptId, SculptFacts>,
    /// Versions of recipes that are asked for.
    pub versions: HashMap<RecipeVersionId, RecipeVersion>,
    /// Parts as they were prepared.
    pub prepared: HashMap<(SculptId, RecipeVersionId), KeptPart>,
    /// How far versions are proven.
    pub proofs: Proofs,
    /// The parts that are asked for in the army's order, with their units and the priorities of
    /// these.
    pub parts: Vec<(PartId, UnitId, i64)>,
}

/// A printer limits pull: then it has to be known of everything.
#[must_use]
pub fn limits_pull(printers: &[Printer]) -> bool {
    printers
        .iter()
        .any(|p| p.part_pull.is_some() || p.plate_pull.is_some())
}

/// The request for a plan of these lines, on the printers it is asked for and up to its cut-off.
#[must_use]
pub fn plan_request(facts: &PlanFacts, lines: &[DemandLine], scope: &PlanScope) -> PlanRequest {
    let by_part: HashMap<PartId, &DemandLine> = lines.iter().map(|l| (l.part, l)).collect();
    let mut parts = Vec::new();
    let printers: Vec<Printer> = facts
        .printers
        .iter()
        .filter(|p| PlanScope::takes(&scope.printers, p.id))
        .cloned()
        .collect();
    let settings: Vec<ProcessSetting> = facts
        .settings
        .iter()
        .filter(|s| printers.iter().any(|p| p.id == s.printer))
        .cloned()
        .collect();
    for (part, unit, priority) in &facts.parts {
        let Some(line) = by_part.get(part) else {
            continue;
        };
        let (Some(sculpt), Some(version)) = (
            facts.sculpts.get(&line.sculpt),
            facts.versions.get(&line.recipe_version),
        ) else {
            continue;
        };
        let kept = facts.prepared.get(&(line.sculpt, line.recipe_version));
        let prepared = PreparedPart::or_file(kept.map(|k| &k.part), sculpt, version.scale);
        let unproven = facts.proofs.best(version, &settings).is_unproven();
        parts.push(PlanPart {
            unit: *unit,
            priority: if facts.practice.unit_first() {
                *priority
            } else {
                0
            },
            most: facts.practice.unproven_copies().filter(|_| unproven),
            ..PlanPart::new(line, version, &prepared)
        });
    }
    PlanRequest {
        printers,
        settings,
        accepted_s: facts.accepted_s.clone(),
        slots: if scope.by_hours {
            Slots::default()
        } else {
            facts.slots.clone()
        },
        resins: facts.resins.iter().map(|r| (r.id, r.facts)).collect(),
        parts,
        rates: facts.rates,
        together_s: facts.practice.together_s(),
        apart: facts.practice.keeps_apart(),
        until_s: scope.until_h.map(|hours| hours * 3600.0),
    }
}

/// Parts in a plan that are wanted several times while their recipe is not proven and no first
/// copy is under way: one of each first would tell.
#[must_use]
pub fn first_copies_missing(
    lines: &[DemandLine],
    versions: &HashMap<RecipeVersionId, RecipeVersion>,
    proofs: &Proofs,
    settings: &[ProcessSetting],
) -> Vec<PartId> {
    let missing = |line: &&DemandLine| {
        let Some(version) = versions.get(&line.recipe_version) else {
            return false;
        };
        line.wanted > 1
            && proofs.best(version, settings).is_unproven()
            && !proofs.is_under_way(line.recipe_version)
    };
    lines.iter().filter(missing).map(|l| l.part).collect()
}
