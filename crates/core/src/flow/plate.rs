//! The states of a plate, and the only ways from one to the next.

use super::copy::{PlacedCopy, PrintedCopy};
use super::error::FlowError;
use super::states::{PlateState, Stage};
use crate::ids::{
    PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, ResinId, SculptId, SettingVersionId,
};
use crate::units::{CostParts, LayerHeight, Money};

/// Whether a plate may go from one state to another.
///
/// # Errors
/// [`FlowError::Plate`] when it may not.
pub fn check_plate_step(from: PlateState, to: PlateState) -> Result<(), FlowError> {
    use PlateState as P;
    match (from, to) {
        (P::Draft, P::Planned | P::Released)
        // Logged afterwards it was never seen running.
        | (P::Planned, P::Running | P::Printed | P::Lost | P::Released)
        // Planned again: it was put back.
        | (P::Running, P::Printed | P::Planned | P::Lost)
        | (P::Printed, P::Done)
        | (P::Done, P::Printed)
        | (P::Lost, P::Planned) => Ok(()),
        (from, to) => Err(FlowError::Plate { from, to }),
    }
}

/// A build plate's arrangement, with the figures it was planned with.
///
/// # Units
/// mm, s, ml, g.
#[derive(Debug, Clone, PartialEq)]
pub struct Plate {
    /// Which one.
    pub id: PlateId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its project.
    pub project: ProjectId,
    /// The plan it came from.
    pub plan: PlanId,
    /// Its number in the project.
    pub number: i64,
    /// Where it stands.
    pub state: PlateState,
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// The version of the process setting it was timed with.
    pub setting: SettingVersionId,
    /// Tallest part.
    pub height_mm: f64,
    /// Layers.
    pub layers: i64,
    /// Time on the printer.
    pub seconds: f64,
    /// Resin, waste included.
    pub resin_ml: f64,
    /// The same in grams.
    pub resin_g: f64,
    /// Cost of its resin.
    pub resin_cost: Money,
    /// Cost of the maker's hands.
    pub hands_on_cost: Money,
}

impl Plate {
    /// Resin and hands together.
    #[must_use]
    pub fn cost(&self) -> Money {
        self.resin_cost + self.hands_on_cost
    }
}

/// A copy on a plate with everything its sheet shows.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateCopy {
    /// The plate.
    pub plate: PlateId,
    /// Where it stands.
    pub placed: PlacedCopy,
    /// Its sculpt.
    pub sculpt: SculptId,
    /// The version of its recipe.
    pub recipe_version: RecipeVersionId,
    /// Factor on the size of its file.
    pub scale: f64,
    /// Resin with its share of waste, ml.
    pub resin_ml: f64,
    /// What it costs.
    pub cost: CostParts,
    /// The copy itself, once the plan is accepted.
    pub copy: Option<PrintedCopy>,
    /// Name of its part.
    pub part_name: String,
    /// Name of its model.
    pub model_name: String,
    /// Name of its unit.
    pub unit_name: String,
}

impl PlateCopy {
    /// It came out of a run and failed.
    #[must_use]
    pub fn failed(&self) -> bool {
        let failed = |c: &PrintedCopy| c.stage == Stage::Failed;
        self.copy.as_ref().is_some_and(failed)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every way there is, as the design lists them: 12.
    #[test]
    fn only_these_ways_lead_on() {
        use PlateState as P;
        let ways = [
            (P::Draft, P::Planned),
            (P::Draft, P::Released),
            (P::Planned, P::Running),
            (P::Planned, P::Printed),
            (P::Planned, P::Lost),
            (P::Planned, P::Released),
            (P::Running, P::Printed),
            (P::Running, P::Planned),
            (P::Running, P::Lost),
            (P::Printed, P::Done),
            (P::Done, P::Printed),
            (P::Lost, P::Planned),
        ];
        for from in PlateState::ALL {
            for to in PlateState::ALL {
                let way = ways.contains(&(*from, *to));
                assert_eq!(check_plate_step(*from, *to).is_ok(), way, "{from} to {to}");
            }
        }
    }
}
