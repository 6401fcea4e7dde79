//! Versions of recipes.

use diesel::prelude::*;
use wembrit_core::ids::{RecipeId, RecipeVersionId, ResinId};
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
    pub orientation: String,
    #[diesel(deserialize_as = i64)]
    pub resin_id: ResinId,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
}
