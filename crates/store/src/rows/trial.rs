//! Trials and their variants.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, PlanId, PrinterId, RecipeVersionId, TrialId, VariantId};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{Trial, Variant};

use super::Row;
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::trials)]
pub(crate) struct TrialRow {
    id: i64,
    row_version: i64,
    part_id: i64,
    recipe_version_id: i64,
    #[diesel(deserialize_as = String)]
    state: TrialState,
    criteria: String,
    plan_id: Option<i64>,
    winner_id: Option<i64>,
    won_version_id: Option<i64>,
    reason: String,
}

impl Row for TrialRow {
    type Noun = Trial;
    fn noun(self) -> Result<Trial, StoreError> {
        let lines = self.criteria.lines().filter(|l| !l.trim().is_empty());
        Ok(Trial {
            id: TrialId(self.id),
            row_version: self.row_version,
            part: PartId(self.part_id),
            recipe_version: RecipeVersionId(self.recipe_version_id),
            state: self.state,
            criteria: lines.map(str::to_owned).collect(),
            plan: self.plan_id.map(PlanId),
            winner: self.winner_id.map(VariantId),
            won_version: self.won_version_id.map(RecipeVersionId),
            reason: self.reason,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::variants)]
pub(crate) struct VariantRow {
    id: i64,
    trial_id: i64,
    name: String,
    recipe_version_id: i64,
    printer_id: i64,
    exposure_s: Option<f64>,
    note: String,
}

impl Row for VariantRow {
    type Noun = Variant;
    fn noun(self) -> Result<Variant, StoreError> {
        Ok(Variant {
            id: VariantId(self.id),
            trial: TrialId(self.trial_id),
            name: self.name,
            recipe_version: RecipeVersionId(self.recipe_version_id),
            printer: PrinterId(self.printer_id),
            exposure_s: self.exposure_s,
            note: self.note,
        })
    }
}
