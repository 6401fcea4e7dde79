//! Projects, units, models and parts.

use diesel::prelude::*;
use wembrit_core::army::kit::Source;
use wembrit_core::ids::{
    ChoiceId, ModelId, OptionId, PartId, PieceId, ProjectId, RecipeId, SculptId, UnitId,
};
use wembrit_core::units::Money;

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
    carrier_id: Option<i64>,
}

impl Unit {
    /// The model that carries its models, if one does.
    #[must_use]
    pub fn carrier_id(&self) -> Option<ModelId> {
        self.carrier_id.map(ModelId)
    }
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
    /// Models of another unit that each of these carries; 0 for none.
    pub carries: i64,
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
    option_id: Option<i64>,
}

impl Part {
    /// Its sculpt, once it has one.
    #[must_use]
    pub fn sculpt_id(&self) -> Option<SculptId> {
        self.sculpt_id.map(SculptId)
    }

    /// The option it belongs to; without one every model takes it.
    #[must_use]
    pub fn option_id(&self) -> Option<OptionId> {
        self.option_id.map(OptionId)
    }
}

/// A choice between options of a model.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::choices)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Choice {
    #[diesel(deserialize_as = i64)]
    pub id: ChoiceId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub model_id: ModelId,
    pub name: String,
    may_go_without: i64,
}

impl Choice {
    /// Models that take no option are complete all the same.
    #[must_use]
    pub fn may_go_without(&self) -> bool {
        self.may_go_without != 0
    }
}

/// One option of a choice.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::options)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct ChoiceOption {
    #[diesel(deserialize_as = i64)]
    pub id: OptionId,
    #[diesel(deserialize_as = i64)]
    pub choice_id: ChoiceId,
    pub name: String,
    /// Models that take it.
    pub models: i64,
}

/// A piece of a model that is not printed.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::pieces)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Piece {
    #[diesel(deserialize_as = i64)]
    pub id: PieceId,
    pub row_version: i64,
    #[diesel(deserialize_as = i64)]
    pub model_id: ModelId,
    option_id: Option<i64>,
    pub name: String,
    #[diesel(deserialize_as = String)]
    pub source: Source,
    pub count: i64,
    pub at_hand: i64,
    cost_each_minor: i64,
    pub minutes_each: f64,
}

impl Piece {
    /// The option it belongs to; without one every model takes it.
    #[must_use]
    pub fn option_id(&self) -> Option<OptionId> {
        self.option_id.map(OptionId)
    }

    /// What one costs to buy or to make, hands apart.
    #[must_use]
    pub fn cost_each(&self) -> Money {
        Money(self.cost_each_minor)
    }
}
