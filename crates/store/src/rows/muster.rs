//! Projects, units, models and parts.

use diesel::prelude::*;
use wembrit_core::ids::{ModelId, PartId, ProjectId, RecipeId, SculptId, UnitId};

/// One army or collection.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::projects)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Project {
    #[diesel(deserialize_as = i64)]
    pub id: ProjectId,
    pub row_version: i64,
    pub name: String,
}

/// A group of models with a priority: the lower number is printed first.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::units)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Unit {
    #[diesel(deserialize_as = i64)]
    pub id: UnitId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub project_id: ProjectId,
    pub name: String,
    pub priority: i64,
}

/// One kind of miniature.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::models)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Model {
    #[diesel(deserialize_as = i64)]
    pub id: ModelId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub unit_id: UnitId,
    pub name: String,
    pub quantity: i64,
    pub base_width_mm: f64,
    pub base_depth_mm: f64,
}

/// One printed piece of a model.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::parts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Part {
    #[diesel(deserialize_as = i64)]
    pub id: PartId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub model_id: ModelId,
    pub name: String,
    pub count: i64,
    pub spares: i64,
    sculpt_id: Option<i64>,
    #[diesel(deserialize_as = i64)]
    pub recipe_id: RecipeId,
}

impl Part {
    /// Its sculpt, once it has one.
    #[must_use]
    pub fn sculpt_id(&self) -> Option<SculptId> {
        self.sculpt_id.map(SculptId)
    }
}
