//! Plans, plates, what stands on them, and their runs.

use diesel::prelude::*;
use wembrit_core::flow::{PlanEffort, PlanState, PlateState, Stage};
use wembrit_core::ids::{
    CopyId, PartId, PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, ResinId, RunId,
    SculptId, SettingVersionId,
};
use wembrit_core::units::{LayerHeight, Money};

use crate::error::StoreError;

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
    scope: String,
    #[diesel(deserialize_as = String)]
    pub effort: PlanEffort,
    from_plan_id: Option<i64>,
    pub bound_seconds: f64,
    pub bound_plates: i64,
    /// Hours of the first complete plan, s.
    pub first_seconds: Option<f64>,
    /// How many better ones were found since.
    pub better_found: i64,
    /// How many of its edits hold.
    pub edits_held: i64,
}

impl Plan {
    /// The plan it began from.
    #[must_use]
    pub fn from_plan(&self) -> Option<PlanId> {
        self.from_plan_id.map(PlanId)
    }

    /// What it was asked for.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept choice is unreadable.
    pub fn scope(&self) -> Result<PlanScope, StoreError> {
        serde_json::from_str(&self.scope).map_err(|e| StoreError::BadRow(e.to_string()))
    }
}

/// What a plan is asked for: empty lists are everything there is.
#[derive(Debug, Clone, PartialEq, Default, serde::Serialize, serde::Deserialize)]
#[serde(default)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct PlanScope {
    pub printers: Vec<i64>,
    pub units: Vec<i64>,
    pub resins: Vec<i64>,
    /// Hours from now after which no plate may end on its printer.
    pub until_h: Option<f64>,
    /// Spares are left out.
    pub no_spares: bool,
}

impl PlanScope {
    /// As it is kept.
    pub(crate) fn text(&self) -> String {
        serde_json::to_string(self).expect("numbers always serialise")
    }

    /// A choice takes this one: an empty choice takes everything.
    #[must_use]
    pub fn takes(chosen: &[i64], id: i64) -> bool {
        chosen.is_empty() || chosen.contains(&id)
    }
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
    pinned: i64,
}

impl Placement {
    /// It stays where it stands, whatever is arranged around it.
    #[must_use]
    pub fn pinned(&self) -> bool {
        self.pinned != 0
    }

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
