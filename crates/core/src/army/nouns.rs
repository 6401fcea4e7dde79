//! What an army is made of.

use super::kit::Source;
use crate::ids::{
    ChoiceId, ModelId, OptionId, PartId, PieceId, ProjectId, RecipeId, SculptId, UnitId,
};
use crate::units::Money;

/// One army or collection.
#[derive(Debug, Clone, PartialEq)]
pub struct Project {
    /// Which one.
    pub id: ProjectId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its name.
    pub name: String,
}

/// A group of models with a priority: the lower number is printed first.
#[derive(Debug, Clone, PartialEq)]
pub struct Unit {
    /// Which one.
    pub id: UnitId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its project.
    pub project: ProjectId,
    /// Its name.
    pub name: String,
    /// The lower number is printed first.
    pub priority: i64,
    /// The model that carries its models, if one does.
    pub carrier: Option<ModelId>,
}

/// One kind of miniature.
#[derive(Debug, Clone, PartialEq)]
pub struct Model {
    /// Which one.
    pub id: ModelId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its unit.
    pub unit: UnitId,
    /// Its name.
    pub name: String,
    /// Copies wanted.
    pub quantity: u32,
    /// Base, mm; 0 for none.
    pub base_width_mm: f64,
    /// Base, mm; 0 for none.
    pub base_depth_mm: f64,
    /// Models of another unit that each of these carries; 0 for none.
    pub carries: u32,
}

/// One printed piece of a model.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// Which one.
    pub id: PartId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its model.
    pub model: ModelId,
    /// Its name.
    pub name: String,
    /// Copies of it in each model.
    pub count: u32,
    /// Further copies against losses.
    pub spares: u32,
    /// Why so many, where that was advised.
    pub spares_why: String,
    /// Its sculpt, once it has one.
    pub sculpt: Option<SculptId>,
    /// How it is printed.
    pub recipe: RecipeId,
    /// The option it belongs to; without one every model takes it.
    pub option: Option<OptionId>,
}

/// A choice between options of a model.
#[derive(Debug, Clone, PartialEq)]
pub struct Choice {
    /// Which one.
    pub id: ChoiceId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its model.
    pub model: ModelId,
    /// Its name.
    pub name: String,
    /// Models that take no option are complete all the same.
    pub may_go_without: bool,
}

/// One option of a choice.
#[derive(Debug, Clone, PartialEq)]
pub struct ChoiceOption {
    /// Which one.
    pub id: OptionId,
    /// Its choice.
    pub choice: ChoiceId,
    /// Its name.
    pub name: String,
    /// Models that take it.
    pub models: u32,
}

/// A piece of a model that is not printed.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// Which one.
    pub id: PieceId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its model.
    pub model: ModelId,
    /// The option it belongs to; without one every model takes it.
    pub option: Option<OptionId>,
    /// Its name.
    pub name: String,
    /// Where it comes from.
    pub source: Source,
    /// Pieces in each model.
    pub count: u32,
    /// Pieces that are there.
    pub at_hand: u32,
    /// What one costs to buy or to make, hands apart.
    pub cost_each: Money,
    /// Minutes of hands for each.
    pub minutes_each: f64,
}
