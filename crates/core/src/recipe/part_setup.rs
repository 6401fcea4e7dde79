//! What is prepared once of a sculpt, and found again by it.

use super::nouns::RecipeVersion;
use super::setup::Setup;
use crate::ids::SculptId;
use crate::sculpt::Sculpt;
use crate::units::LayerHeight;

/// A sculpt as a version of a recipe prints it: what is prepared once, and found again by this.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PartSetup {
    /// The sculpt.
    pub sculpt: SculptId,
    /// Millimetres in one unit of its file.
    pub unit_mm: f64,
    /// Scale of the recipe.
    pub scale: f64,
    /// Layer height.
    pub layer: LayerHeight,
    /// How it is held.
    pub setup: Setup,
}

impl PartSetup {
    /// A sculpt as a version of a recipe prints it.
    #[must_use]
    pub fn of(sculpt: &Sculpt, version: &RecipeVersion) -> Self {
        Self {
            sculpt: sculpt.id,
            unit_mm: sculpt.unit_mm,
            scale: version.scale,
            layer: version.layer,
            setup: version.setup,
        }
    }
}
