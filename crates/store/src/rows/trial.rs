//! Trials and their variants.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, PlanId, PrinterId, RecipeVersionId, TrialId, VariantId};
use wembrit_core::recipe::trial::TrialState;

/// A trial of a recipe.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::trials)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Trial {
    #[diesel(deserialize_as = i64)]
    pub id: TrialId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub part_id: PartId,
    /// The version it began from.
    #[diesel(deserialize_as = i64)]
    pub recipe_version_id: RecipeVersionId,
    #[diesel(deserialize_as = String)]
    pub state: TrialState,
    criteria: String,
    plan_id: Option<i64>,
    winner_id: Option<i64>,
    won_version_id: Option<i64>,
    pub reason: String,
}

impl Trial {
    /// What its variants are judged by.
    #[must_use]
    pub fn criteria(&self) -> Vec<&str> {
        self.criteria
            .lines()
            .filter(|l| !l.trim().is_empty())
            .collect()
    }

    /// The plan with its plates, once there is one.
    #[must_use]
    pub fn plan_id(&self) -> Option<PlanId> {
        self.plan_id.map(PlanId)
    }

    /// The variant that won.
    #[must_use]
    pub fn winner_id(&self) -> Option<VariantId> {
        self.winner_id.map(VariantId)
    }

    /// The version of the recipe that took it over.
    #[must_use]
    pub fn won_version_id(&self) -> Option<RecipeVersionId> {
        self.won_version_id.map(RecipeVersionId)
    }
}

/// One variant of a trial.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::variants)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Variant {
    #[diesel(deserialize_as = i64)]
    pub id: VariantId,
    #[diesel(deserialize_as = i64)]
    pub trial_id: TrialId,
    pub name: String,
    #[diesel(deserialize_as = i64)]
    pub recipe_version_id: RecipeVersionId,
    #[diesel(deserialize_as = i64)]
    pub printer_id: PrinterId,
    /// Its own exposure; that of the process setting without one.
    pub exposure_s: Option<f64>,
    pub note: String,
}
