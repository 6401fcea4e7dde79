//! Versions of recipes, and meshes supported elsewhere.

use diesel::prelude::*;
use wembrit_core::ids::{PrintMeshId, RecipeId, RecipeVersionId, ResinId, SculptId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::{MeshFound, PrintMesh, PrintMeshState, RecipeVersion, Setup};
use wembrit_core::units::LayerHeight;

use super::{Row, count};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::recipe_versions)]
pub(crate) struct RecipeVersionRow {
    id: i64,
    recipe_id: i64,
    version: i64,
    scale: f64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pose: Pose,
    #[diesel(deserialize_as = String)]
    supports: Supports,
    resin_id: i64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    changed: String,
}

impl Row for RecipeVersionRow {
    type Noun = RecipeVersion;
    fn noun(self) -> Result<RecipeVersion, StoreError> {
        Ok(RecipeVersion {
            id: RecipeVersionId(self.id),
            recipe: RecipeId(self.recipe_id),
            version: self.version,
            scale: self.scale,
            setup: Setup {
                pose: self.pose,
                supports: self.supports,
            },
            resin: ResinId(self.resin_id),
            layer: self.layer,
            changed: self.changed,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::print_meshes)]
pub(crate) struct PrintMeshRow {
    id: i64,
    recipe_id: i64,
    design_id: i64,
    file_id: i64,
    scale: f64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pose: Pose,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    #[diesel(deserialize_as = String)]
    state: PrintMeshState,
    refusal: Option<String>,
    size_factor: Option<f64>,
    turned_deg: Option<f64>,
    leans_deg: Option<f64>,
    shift_mm: Option<f64>,
    rms_mm: Option<f64>,
    support_mm3: Option<f64>,
    contacts: Option<i64>,
    height_mm: Option<f64>,
    remeshed: i64,
}

impl PrintMeshRow {
    fn found(&self) -> Option<MeshFound> {
        Some(MeshFound {
            size_factor: self.size_factor?,
            turned_deg: self.turned_deg?,
            leans_deg: self.leans_deg?,
            shift_mm: self.shift_mm?,
            rms_mm: self.rms_mm?,
            support_mm3: self.support_mm3?,
            contacts: count(self.contacts?) as usize,
            height_mm: self.height_mm?,
            remeshed: self.remeshed != 0,
        })
    }
}

impl Row for PrintMeshRow {
    type Noun = PrintMesh;
    fn noun(self) -> Result<PrintMesh, StoreError> {
        Ok(PrintMesh {
            found: self.found(),
            id: PrintMeshId(self.id),
            recipe: RecipeId(self.recipe_id),
            design: SculptId(self.design_id),
            file: SculptId(self.file_id),
            scale: self.scale,
            pose: self.pose,
            layer: self.layer,
            state: self.state,
            refusal: self.refusal,
        })
    }
}
