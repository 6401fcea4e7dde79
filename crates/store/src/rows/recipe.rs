//! Versions of recipes.

use diesel::prelude::*;
use wembrit_core::ids::{PrintMeshId, RecipeId, RecipeVersionId, ResinId, SculptId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::units::LayerHeight;

/// One version of a recipe; versions are only ever added.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::recipe_versions)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct RecipeVersion {
    #[diesel(deserialize_as = i64)]
    pub id: RecipeVersionId,
    #[diesel(deserialize_as = i64)]
    pub recipe_id: RecipeId,
    pub version: i64,
    pub scale: f64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pub pose: Pose,
    #[diesel(deserialize_as = String)]
    pub supports: Supports,
    #[diesel(deserialize_as = i64)]
    pub resin_id: ResinId,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    /// What it says differently from the version before.
    pub changed: String,
}

/// A mesh supported elsewhere, laid over the design of a recipe.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::print_meshes)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct PrintMeshRow {
    #[diesel(deserialize_as = i64)]
    pub id: PrintMeshId,
    pub uid: String,
    #[diesel(deserialize_as = i64)]
    pub recipe_id: RecipeId,
    #[diesel(deserialize_as = i64)]
    pub design_id: SculptId,
    #[diesel(deserialize_as = i64)]
    pub file_id: SculptId,
    pub scale: f64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pub pose: Pose,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    pub state: String,
    pub refusal: Option<String>,
    pub size_factor: Option<f64>,
    pub turned_deg: Option<f64>,
    pub leans_deg: Option<f64>,
    pub shift_mm: Option<f64>,
    pub rms_mm: Option<f64>,
    pub support_mm3: Option<f64>,
    pub contacts: Option<i64>,
    pub height_mm: Option<f64>,
}
