//! Parts and models for tests, with what they do not care about filled in.

use super::{LoosePart, Model, Part, StageCounts};
use crate::cost_parts::CostParts;
use crate::flow::Stage;
use crate::ids::{ModelId, OptionId, PartId, RecipeId, RecipeVersionId, ResinId, UnitId};
use crate::pose::Pose;
use crate::recipe::supports::Supports;
use crate::recipe::{RecipeVersion, Setup};
use crate::units::LayerHeight;

/// A part of model 1, its recipe at version 1.
pub(crate) fn loose(
    id: i64,
    name: &str,
    count: u32,
    option: Option<OptionId>,
    counts: StageCounts,
) -> LoosePart {
    LoosePart {
        part: Part {
            id: PartId(id),
            row_version: 1,
            model: ModelId(1),
            name: name.into(),
            count,
            spares: 0,
            spares_why: String::new(),
            sculpt: None,
            recipe: RecipeId(id),
            option,
        },
        recipe: RecipeVersion {
            id: RecipeVersionId(id),
            recipe: RecipeId(id),
            version: 1,
            scale: 1.0,
            setup: Setup {
                pose: Pose::AS_IMPORTED,
                supports: Supports::None,
            },
            resin: ResinId(1),
            layer: LayerHeight::USUAL,
            changed: String::new(),
        },
        sculpt: None,
        counts,
    }
}

/// So many good copies that cost nothing.
pub(crate) fn good(copies: u32) -> StageCounts {
    let mut counts = StageCounts::default();
    counts.add(Stage::Good, copies, CostParts::default());
    counts
}

/// A kind of model in a unit of the same number.
pub(crate) fn model(id: i64, name: &str, quantity: u32, carries: u32) -> Model {
    Model {
        id: ModelId(id),
        row_version: 1,
        unit: UnitId(id),
        name: name.into(),
        quantity,
        base_width_mm: 25.0,
        base_depth_mm: 25.0,
        carries,
    }
}
