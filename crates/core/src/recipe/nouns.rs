//! What recipes, print meshes and trials are, as they are kept.

use super::setup::Setup;
use super::trial::TrialState;
use crate::ids::{
    PartId, PlanId, PrintMeshId, PrinterId, RecipeId, RecipeVersionId, ResinId, SculptId, TrialId,
    VariantId,
};
use crate::pose::Pose;
use crate::units::LayerHeight;
use crate::words::words;

/// One version of a recipe; versions are only ever added.
#[derive(Debug, Clone, PartialEq)]
pub struct RecipeVersion {
    /// Which one.
    pub id: RecipeVersionId,
    /// The chain it belongs to.
    pub recipe: RecipeId,
    /// Its number in the chain.
    pub version: i64,
    /// Factor on the size of the file.
    pub scale: f64,
    /// How the part is held.
    pub setup: Setup,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// What it says differently from the version before.
    pub changed: String,
}

words! {
    /// Where a print mesh stands.
    PrintMeshState, "state of a print mesh" {
        /// Not laid over its design yet.
        Waiting = "waiting",
        /// Laid over it and measured.
        Measured = "measured",
        /// It does not fit; the refusal says why.
        Refused = "refused",
    }
}

/// A mesh supported elsewhere, laid over the design of a recipe.
#[derive(Debug, Clone, PartialEq)]
pub struct PrintMesh {
    /// Which one.
    pub id: PrintMeshId,
    /// Its recipe.
    pub recipe: RecipeId,
    /// The design it was made from.
    pub design: SculptId,
    /// The file that came back.
    pub file: SculptId,
    /// Scale of the design when it went out.
    pub scale: f64,
    /// Its orientation then.
    pub pose: Pose,
    /// Layer height.
    pub layer: LayerHeight,
    /// Where it stands.
    pub state: PrintMeshState,
    /// Why it was refused.
    pub refusal: Option<String>,
    /// What was found when it was laid over its design.
    pub found: Option<MeshFound>,
}

/// What was found when a print mesh was laid over its design.
///
/// # Units
/// mm, mm³, degrees.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MeshFound {
    /// Its size against what went out.
    pub size_factor: f64,
    /// Turn about the vertical.
    pub turned_deg: f64,
    /// Tilt against what went out.
    pub leans_deg: f64,
    /// How far it was moved.
    pub shift_mm: f64,
    /// How well the surfaces agree.
    pub rms_mm: f64,
    /// Resin of its supports.
    pub support_mm3: f64,
    /// Places where they touch.
    pub contacts: usize,
    /// Its height.
    pub height_mm: f64,
    /// Its triangles are others than those that went out: it was found by its surface.
    pub remeshed: bool,
}

/// Beyond this the size of a print mesh does not match its design, as a share.
const SIZE_MATCHES: f64 = 0.002;
/// The same where it was found by its surface, which tells the size less closely.
const SURFACE_MATCHES: f64 = 0.006;

/// Beyond this it hangs in another orientation, degrees.
const TILT_MATCHES_DEG: f64 = 1.0;

impl MeshFound {
    /// It has the size that went out.
    #[must_use]
    pub fn size_matches(&self) -> bool {
        let most = if self.remeshed {
            SURFACE_MATCHES
        } else {
            SIZE_MATCHES
        };
        (self.size_factor - 1.0).abs() < most
    }

    /// It hangs as it went out.
    #[must_use]
    pub fn tilt_matches(&self) -> bool {
        self.leans_deg <= TILT_MATCHES_DEG
    }
}

/// A trial of a recipe.
#[derive(Debug, Clone, PartialEq)]
pub struct Trial {
    /// Which one.
    pub id: TrialId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// The part it is about.
    pub part: PartId,
    /// The version it began from.
    pub recipe_version: RecipeVersionId,
    /// Where it stands.
    pub state: TrialState,
    /// What its variants are judged by.
    pub criteria: Vec<String>,
    /// The plan with its plates, once there is one.
    pub plan: Option<PlanId>,
    /// The variant that won.
    pub winner: Option<VariantId>,
    /// The version of the recipe that took it over.
    pub won_version: Option<RecipeVersionId>,
    /// Why it won.
    pub reason: String,
}

/// One variant of a trial.
#[derive(Debug, Clone, PartialEq)]
pub struct Variant {
    /// Which one.
    pub id: VariantId,
    /// Its trial.
    pub trial: TrialId,
    /// Its name.
    pub name: String,
    /// What it says.
    pub recipe_version: RecipeVersionId,
    /// Where it is printed.
    pub printer: PrinterId,
    /// Its own exposure; that of the process setting without one, s.
    pub exposure_s: Option<f64>,
    /// Anything worth remembering.
    pub note: String,
}
