//! A plan: plates with their copies and figures, and what is left over.

use crate::cost::Basis;
use crate::cost_parts::CostParts;
use crate::ids::{PartId, PrinterId, RecipeVersionId, ResinId, SculptId, SettingVersionId};
use crate::pack::{PackError, PackFault};
use crate::units::{LayerHeight, ResinUse};
use crate::words::words;

/// One copy on a planned plate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlannedCopy {
    /// Its part.
    pub part: PartId,
    /// Its sculpt.
    pub sculpt: SculptId,
    /// The version of its recipe.
    pub recipe_version: RecipeVersionId,
    /// Where its middle stands on the plate, mm.
    pub at_mm: [f64; 2],
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Resin with its share of waste, ml.
    pub ml: f64,
    /// What it costs, shared by [`super::COST_RULE`].
    pub cost: CostParts,
}

/// What a plate takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlateFigures {
    /// Tallest part, mm.
    pub height_mm: f64,
    /// Layers.
    pub layers: u32,
    /// Time on the printer as layers and movement say, s.
    pub reckoned_s: f64,
    /// Time on the printer by its log, s.
    pub seconds: f64,
    /// Resin, by where it goes.
    pub resin: ResinUse,
    /// The same in grams.
    pub resin_g: f64,
    /// What prints of the resin weighed then, times what was reckoned; it is in the figures.
    pub weighed_times: f64,
    /// What it costs by component.
    pub cost: CostParts,
    /// What that is reckoned from.
    pub basis: Basis,
}

/// One plate of a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlannedPlate {
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// The version of the process setting it was timed with.
    pub setting: SettingVersionId,
    /// Its copies.
    pub copies: Vec<PlannedCopy>,
    /// Its figures.
    pub figures: PlateFigures,
    /// Nothing on it was to be moved.
    pub fixed: bool,
}

words! {
    /// Why copies are not in the plan.
    NotPlanned, "reason" {
        /// Taller than every printer that has this resin and layer height.
        TooTall = "too tall",
        /// Its outline fits none of their plates.
        TooWide = "too wide",
        /// No printer has a process setting for its resin and layer height.
        NoPrinter = "no printer",
        /// It pulls harder on the film than any of them may.
        PullsTooHard = "pulls too hard",
        /// More copies than are planned of a recipe that nobody has tried.
        Untried = "untried",
        /// Its plate would have ended after the cut-off.
        TooLate = "too late",
    }
}

/// What no plan can be under.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct PlanBound {
    /// Hours on all printers together, s.
    pub seconds: f64,
    /// Plates.
    pub plates: u64,
}

/// A plan: every wanted copy is on exactly one plate or named in `left_over`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Plan {
    /// The plates.
    pub plates: Vec<PlannedPlate>,
    /// Part, copies and reason of what could not be planned.
    pub left_over: Vec<(PartId, u64, NotPlanned)>,
    /// No plan for what is planned here can be under this.
    pub bound: PlanBound,
}

impl Plan {
    /// Hours on all printers together, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        self.plates.iter().map(|p| p.figures.seconds).sum()
    }
}

/// Why there is no plan.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PlanError {
    /// The packer gave up.
    #[error(transparent)]
    Pack(#[from] PackError),
    /// The packer's result did not pass the checker: a fault of ours, never shown as a plan.
    #[error(
        "the arrangement failed its check and was thrown away ({0}); plan again and report this"
    )]
    Unsound(PackFault),
}
