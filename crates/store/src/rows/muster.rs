//! Projects, units, models and parts.

use diesel::prelude::*;
use wembrit_core::army::kit::Source;
use wembrit_core::army::{Choice, ChoiceOption, Model, Part, Piece, Project, Unit};
use wembrit_core::ids::{
    ChoiceId, ModelId, OptionId, PartId, PieceId, ProjectId, RecipeId, SculptId, UnitId,
};
use wembrit_core::units::Money;

use super::{Row, count};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::projects)]
pub(crate) struct ProjectRow {
    id: i64,
    row_version: i64,
    name: String,
}

impl Row for ProjectRow {
    type Noun = Project;
    fn noun(self) -> Result<Project, StoreError> {
        Ok(Project {
            id: ProjectId(self.id),
            row_version: self.row_version,
            name: self.name,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::units)]
pub(crate) struct UnitRow {
    id: i64,
    row_version: i64,
    project_id: i64,
    name: String,
    priority: i64,
    carrier_id: Option<i64>,
}

impl Row for UnitRow {
    type Noun = Unit;
    fn noun(self) -> Result<Unit, StoreError> {
        Ok(Unit {
            id: UnitId(self.id),
            row_version: self.row_version,
            project: ProjectId(self.project_id),
            name: self.name,
            priority: self.priority,
            carrier: self.carrier_id.map(ModelId),
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::models)]
pub(crate) struct ModelRow {
    id: i64,
    row_version: i64,
    unit_id: i64,
    name: String,
    quantity: i64,
    base_width_mm: f64,
    base_depth_mm: f64,
    carries: i64,
}

impl Row for ModelRow {
    type Noun = Model;
    fn noun(self) -> Result<Model, StoreError> {
        Ok(Model {
            id: ModelId(self.id),
            row_version: self.row_version,
            unit: UnitId(self.unit_id),
            name: self.name,
            quantity: count(self.quantity),
            base_width_mm: self.base_width_mm,
            base_depth_mm: self.base_depth_mm,
            carries: count(self.carries),
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::parts)]
pub(crate) struct PartRow {
    id: i64,
    row_version: i64,
    model_id: i64,
    name: String,
    count: i64,
    spares: i64,
    spares_why: String,
    sculpt_id: Option<i64>,
    recipe_id: i64,
    option_id: Option<i64>,
}

impl Row for PartRow {
    type Noun = Part;
    fn noun(self) -> Result<Part, StoreError> {
        Ok(Part {
            id: PartId(self.id),
            row_version: self.row_version,
            model: ModelId(self.model_id),
            name: self.name,
            count: count(self.count),
            spares: count(self.spares),
            spares_why: self.spares_why,
            sculpt: self.sculpt_id.map(SculptId),
            recipe: RecipeId(self.recipe_id),
            option: self.option_id.map(OptionId),
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::choices)]
pub(crate) struct ChoiceRow {
    id: i64,
    row_version: i64,
    model_id: i64,
    name: String,
    may_go_without: i64,
}

impl Row for ChoiceRow {
    type Noun = Choice;
    fn noun(self) -> Result<Choice, StoreError> {
        Ok(Choice {
            id: ChoiceId(self.id),
            row_version: self.row_version,
            model: ModelId(self.model_id),
            name: self.name,
            may_go_without: self.may_go_without != 0,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::options)]
pub(crate) struct OptionRow {
    id: i64,
    choice_id: i64,
    name: String,
    models: i64,
}

impl Row for OptionRow {
    type Noun = ChoiceOption;
    fn noun(self) -> Result<ChoiceOption, StoreError> {
        Ok(ChoiceOption {
            id: OptionId(self.id),
            choice: ChoiceId(self.choice_id),
            name: self.name,
            models: count(self.models),
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::pieces)]
pub(crate) struct PieceRow {
    id: i64,
    row_version: i64,
    model_id: i64,
    option_id: Option<i64>,
    name: String,
    #[diesel(deserialize_as = String)]
    source: Source,
    count: i64,
    at_hand: i64,
    cost_each_minor: i64,
    minutes_each: f64,
}

impl Row for PieceRow {
    type Noun = Piece;
    fn noun(self) -> Result<Piece, StoreError> {
        Ok(Piece {
            id: PieceId(self.id),
            row_version: self.row_version,
            model: ModelId(self.model_id),
            option: self.option_id.map(OptionId),
            name: self.name,
            source: self.source,
            count: count(self.count),
            at_hand: count(self.at_hand),
            cost_each: Money(self.cost_each_minor),
            minutes_each: self.minutes_each,
        })
    }
}
