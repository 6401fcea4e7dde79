//! The demand of an army, part by part.

use super::demand::DemandLine;
use super::whole::{Army, ArmyPart};
use crate::flow::{PlanScope, SculptState};

/// One line for every part that is wanted and whose sculpt is measured.
#[must_use]
pub fn demand_lines(army: &Army) -> Vec<DemandLine> {
    army.parts().filter_map(|(_, _, part)| line(part)).collect()
}

/// The part of an army's demand that a plan is asked for.
#[must_use]
pub fn demand_lines_in(army: &Army, scope: &PlanScope) -> Vec<DemandLine> {
    army.parts()
        .filter(|(unit, _, part)| {
            PlanScope::takes(&scope.units, unit.unit.id)
                && PlanScope::takes(&scope.resins, part.recipe.resin)
        })
        .filter_map(|(_, _, part)| {
            let line = line(part)?;
            let spares = if scope.no_spares {
                part.need.wanted() - part.need.wanted_by_models()
            } else {
                0
            };
            Some(DemandLine {
                wanted: line.wanted - spares,
                ..line
            })
        })
        .filter(|line| line.wanted > 0)
        .collect()
}

fn line(part: &ArmyPart) -> Option<DemandLine> {
    let measured = matches!(part.sculpt, Some((_, SculptState::Measured)));
    let sculpt = part.part.sculpt.filter(|_| measured)?;
    let wanted = part.need.wanted();
    (wanted > 0).then_some(DemandLine {
        part: part.part.id,
        sculpt,
        recipe_version: part.recipe.id,
        wanted,
    })
}

/// Wanted parts that cannot be planned yet, because they have no measured sculpt.
#[must_use]
pub fn without_sculpt(army: &Army) -> Vec<&ArmyPart> {
    army.parts()
        .map(|(_, _, part)| part)
        .filter(|p| p.need.wanted() > 0 && line(p).is_none())
        .collect()
}
