//! Plans, plates, what stands on them, and their runs.

use diesel::prelude::*;
use wembrit_core::flow::{PlanState, PlateState, Stage};
use wembrit_core::ids::{
    CopyId, PartId, PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, ResinId, RunId,
    SculptId, SettingVersionId,
};
use wembrit_core::units::{LayerHeight, Money};

/// One revision of a plan.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::plans)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Plan {
    #[diesel(deserialize_as = i64)]
    pub id: PlanId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub project_id: ProjectId,
    pub revision: i64,
    #[diesel(deserialize_as = String)]
    pub state: PlanState,
    pub fingerprint: String,
    pub refusal: Option<String>,
    pub created_at_ms: i64,
}

/// A build plate's arrangement, with the figures it was planned with.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::plates)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Plate {
    #[diesel(deserialize_as = i64)]
    pub id: PlateId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub project_id: ProjectId,
    #[diesel(deserialize_as = i64)]
    pub plan_id: PlanId,
    pub number: i64,
    #[diesel(deserialize_as = String)]
    pub state: PlateState,
    #[diesel(deserialize_as = i64)]
    pub printer_id: PrinterId,
    #[diesel(deserialize_as = i64)]
    pub resin_id: ResinId,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    #[diesel(deserialize_as = i64)]
    pub setting_version_id: SettingVersionId,
    pub height_mm: f64,
    pub layers: i64,
    pub seconds: f64,
    pub resin_ml: f64,
    pub resin_g: f64,
    resin_cost_minor: i64,
    hands_on_cost_minor: i64,
}

impl Plate {
    /// Cost of its resin.
    #[must_use]
    pub fn resin_cost(&self) -> Money {
        Money(self.resin_cost_minor)
    }

    /// Cost of the maker's hands.
    #[must_use]
    pub fn hands_on_cost(&self) -> Money {
        Money(self.hands_on_cost_minor)
    }
}

/// One place on a plate.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::placements)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Placement {
    #[diesel(deserialize_as = i64)]
    pub plate_id: PlateId,
    pub seq: i64,
    #[diesel(deserialize_as = i64)]
    pub part_id: PartId,
    #[diesel(deserialize_as = i64)]
    pub sculpt_id: SculptId,
    #[diesel(deserialize_as = i64)]
    pub recipe_version_id: RecipeVersionId,
    pub x_mm: f64,
    pub y_mm: f64,
    pub rotation_deg: f64,
    pub resin_ml: f64,
    cost_minor: i64,
    copy_id: Option<i64>,
}

impl Placement {
    /// What the copy here costs.
    #[must_use]
    pub fn cost(&self) -> Money {
        Money(self.cost_minor)
    }

    /// The copy, once the plan is accepted.
    #[must_use]
    pub fn copy_id(&self) -> Option<CopyId> {
        self.copy_id.map(CopyId)
    }
}

/// One physical printed piece.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::copies)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Copy {
    #[diesel(deserialize_as = i64)]
    pub id: CopyId,
    #[diesel(deserialize_as = i64)]
    pub part_id: PartId,
    pub number: i64,
    #[diesel(deserialize_as = i64)]
    pub plate_id: PlateId,
    #[diesel(deserialize_as = String)]
    pub stage: Stage,
    pub cause: Option<String>,
    pub note: String,
}

/// One printing of a plate.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::runs)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Run {
    #[diesel(deserialize_as = i64)]
    pub id: RunId,
    #[diesel(deserialize_as = i64)]
    pub plate_id: PlateId,
    pub started_at_ms: i64,
    pub ended_at_ms: Option<i64>,
    pub room_c: Option<f64>,
    pub note: String,
}
