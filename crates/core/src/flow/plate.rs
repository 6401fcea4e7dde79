//! The states of a plate, and the only ways from one to the next.

use super::copy::{PlacedCopy, PrintedCopy};
use super::error::FlowError;
use super::states::{PlateState, Stage};
use crate::cost_parts::CostParts;
use crate::ids::{
    PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, ResinId, SculptId, SettingVersionId,
};
use crate::learn::Expected;
use crate::units::{LayerHeight, Money, ResinUse};

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
    /// Time on the printer: what it took, once it was printed and timed; before that by the printer's log,
    /// from what the maker's own program says where it was told, or from what was reckoned.
    pub seconds: f64,
    /// The same with its range, and how it is known.
    pub time: Expected,
    /// Resin: as the maker's own program says, where it was told.
    pub resin_ml: f64,
    /// The same by where it goes.
    pub goes: ResinUse,
    /// Both as they were reckoned here.
    pub reckoned: (f64, f64),
    /// The same in grams.
    pub resin_g: f64,
    /// What it costs by component, as it was planned.
    pub costs: CostParts,
}

impl Plate {
    /// With the millilitres that the maker's own program says in place of what was reckoned: they win.
    /// Grams follow them. It counts what cures, so what stays liquid in hollows comes on top.
    #[must_use]
    pub fn as_told(mut self, ml: Option<f64>) -> Self {
        if let Some(ml) = ml {
            let inside_ml = self.goes.inside_ml;
            let reckoned_ml = self.resin_ml;
            let times = ml / (reckoned_ml - inside_ml).max(f64::EPSILON);
            self.goes = ResinUse {
                inside_ml,
                ..self.goes.share(times)
            };
            self.resin_ml = ml + inside_ml;
            self.resin_g *= self.resin_ml / reckoned_ml.max(f64::EPSILON);
        }
        self
    }

    /// What it takes now, times what was planned for its copies: each of them takes its share of it.
    #[must_use]
    pub fn times_planned(&self, copies: &[PlateCopy]) -> f64 {
        let planned: f64 = copies.iter().map(|c| c.resin_ml).sum();
        if planned > 0.0 {
            self.resin_ml / planned
        } else {
            1.0
        }
    }

    /// With this time.
    #[must_use]
    pub fn taking(self, time: Expected) -> Self {
        Self {
            seconds: time.seconds(),
            time,
            ..self
        }
    }

    /// It was printed to its end, so that its time is no longer to be expected.
    #[must_use]
    pub fn is_printed(&self) -> bool {
        matches!(
            self.state,
            PlateState::Printed | PlateState::Done | PlateState::Lost
        )
    }

    /// What it costs, as it was planned.
    #[must_use]
    pub fn cost(&self) -> Money {
        self.costs.total()
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
    /// Its number in the workshop; where no plan was accepted yet, its key on the plate.
    #[must_use]
    pub fn mark(&self) -> i64 {
        self.copy.as_ref().map_or(self.placed.key, |c| c.mark)
    }

    /// It came out of a run and failed.
    #[must_use]
    pub fn failed(&self) -> bool {
        let failed = |c: &PrintedCopy| c.stage == Stage::Failed;
        self.copy.as_ref().is_some_and(failed)
    }
}

/// What a plate's file is called by: six letters that change with what stands on it, where, and how
/// it is printed (the beginning of a BLAKE3 hash). What the printer shows can be held against it.
#[must_use]
pub fn plate_code(copies: &[PlateCopy]) -> String {
    let mut all: Vec<String> = copies
        .iter()
        .map(|c| {
            let mark = c.copy.as_ref().map_or(c.placed.key, |p| p.mark);
            format!(
                "{mark} {} {} {:.3} {:.3} {:.3} {:.5}",
                c.sculpt,
                c.recipe_version,
                c.placed.at_mm[0],
                c.placed.at_mm[1],
                c.placed.rotation_deg,
                c.scale
            )
        })
        .collect();
    all.sort_unstable();
    let hash = blake3::hash(all.join("\n").as_bytes());
    hash.to_hex()[..6].to_owned()
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

    /// The code follows what stands where, not the order in which it is listed.
    #[test]
    fn a_code_follows_what_stands_on_a_plate() {
        let copy = |key: i64, x: f64| PlateCopy {
            plate: PlateId(1),
            placed: PlacedCopy {
                key,
                part: crate::ids::PartId(1),
                at_mm: [x, 10.0],
                rotation_deg: 0.0,
                pinned: false,
            },
            sculpt: SculptId(1),
            recipe_version: RecipeVersionId(1),
            scale: 1.0,
            resin_ml: 1.0,
            cost: CostParts::default(),
            copy: None,
            part_name: String::new(),
            model_name: String::new(),
            unit_name: String::new(),
        };
        let code = plate_code(&[copy(1, 10.0), copy(2, 30.0)]);
        assert_eq!(code.len(), 6);
        assert_eq!(code, plate_code(&[copy(2, 30.0), copy(1, 10.0)]));
        assert_ne!(code, plate_code(&[copy(1, 10.0), copy(2, 30.1)]));
        assert_ne!(code, plate_code(&[copy(1, 10.0)]));
    }
}
