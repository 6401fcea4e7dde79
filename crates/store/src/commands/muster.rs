//! Projects, units, models and parts: adding, changing, taking away.

use diesel::prelude::*;
use wembrit_core::ids::{
    ChoiceId, ModelId, OptionId, PartId, PieceId, ProjectId, SculptId, UnitId,
};

use super::recipes::{self, RecipeChange};
use super::{army_size, settle_copies};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::muster::part;
use crate::queries::{last_id, new_uid, one_row};
use crate::schema::{choices, models, parts, pieces, projects, units};

/// Everything about a unit.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct UnitChange {
    pub name: String,
    pub priority: i64,
    pub carrier: Option<ModelId>,
}

/// Everything about a model.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct ModelChange {
    pub name: String,
    pub quantity: u32,
    pub base_width_mm: f64,
    pub base_depth_mm: f64,
    pub carries: u32,
}

/// Everything about a part, its recipe included.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct PartChange {
    pub name: String,
    pub count: u32,
    pub spares: u32,
    pub sculpt: Option<SculptId>,
    pub option: Option<OptionId>,
    pub recipe: RecipeChange,
}

/// Adds a project.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_project(conn: &mut Conn, name: &str) -> Result<ProjectId, StoreError> {
    diesel::insert_into(projects::table)
        .values((projects::uid.eq(new_uid()), projects::name.eq(name)))
        .execute(conn)?;
    last_id(conn).map(ProjectId)
}

/// Renames a project.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_project(
    conn: &mut Conn,
    id: ProjectId,
    row_version: i64,
    name: &str,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        projects::table
            .find(id.0)
            .filter(projects::row_version.eq(row_version)),
    )
    .set((
        projects::name.eq(name),
        projects::row_version.eq(row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "project")
}

/// Adds a unit at the end of its project.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_unit(
    conn: &mut Conn,
    project: ProjectId,
    new: &UnitChange,
) -> Result<UnitId, StoreError> {
    let siblings: i64 = units::table
        .filter(units::project_id.eq(project.0))
        .count()
        .get_result(conn)?;
    diesel::insert_into(units::table)
        .values((
            units::uid.eq(new_uid()),
            units::project_id.eq(project.0),
            units::name.eq(&new.name),
            units::priority.eq(new.priority),
            units::carrier_id.eq(new.carrier.map(|m| m.0)),
            units::position.eq(siblings),
        ))
        .execute(conn)?;
    last_id(conn).map(UnitId)
}

/// Changes a unit.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_unit(
    conn: &mut Conn,
    id: UnitId,
    row_version: i64,
    to: &UnitChange,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        units::table
            .find(id.0)
            .filter(units::row_version.eq(row_version)),
    )
    .set((
        units::name.eq(&to.name),
        units::priority.eq(to.priority),
        units::carrier_id.eq(to.carrier.map(|m| m.0)),
        units::row_version.eq(row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "unit")
}

/// Adds a model at the end of its unit.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_model(conn: &mut Conn, unit: UnitId, new: &ModelChange) -> Result<ModelId, StoreError> {
    let siblings: i64 = models::table
        .filter(models::unit_id.eq(unit.0))
        .count()
        .get_result(conn)?;
    diesel::insert_into(models::table)
        .values((
            models::uid.eq(new_uid()),
            models::unit_id.eq(unit.0),
            models::name.eq(&new.name),
            models::quantity.eq(i64::from(new.quantity)),
            models::base_width_mm.eq(new.base_width_mm),
            models::base_depth_mm.eq(new.base_depth_mm),
            models::carries.eq(i64::from(new.carries)),
            models::position.eq(siblings),
        ))
        .execute(conn)?;
    last_id(conn).map(ModelId)
}

/// Changes a model. Good copies beyond a lowered quantity are set aside, none is lost.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_model(
    conn: &mut Conn,
    id: ModelId,
    row_version: i64,
    to: &ModelChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        models::table
            .find(id.0)
            .filter(models::row_version.eq(row_version)),
    )
    .set((
        models::name.eq(&to.name),
        models::quantity.eq(i64::from(to.quantity)),
        models::base_width_mm.eq(to.base_width_mm),
        models::base_depth_mm.eq(to.base_depth_mm),
        models::carries.eq(i64::from(to.carries)),
        models::row_version.eq(row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "model")?;
    army_size::check_of_model(conn, id)?;
    settle_copies::settle_model(conn, id, now_ms)
}

/// Adds a part at the end of its model, with version 1 of a recipe.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add_part(
    conn: &mut Conn,
    model: ModelId,
    new: &PartChange,
    now_ms: i64,
) -> Result<PartId, StoreError> {
    let siblings: i64 = parts::table
        .filter(parts::model_id.eq(model.0))
        .count()
        .get_result(conn)?;
    let recipe = recipes::add(conn, &new.recipe, now_ms)?;
    diesel::insert_into(parts::table)
        .values((
            parts::uid.eq(new_uid()),
            parts::model_id.eq(model.0),
            parts::name.eq(&new.name),
            parts::count.eq(i64::from(new.count)),
            parts::spares.eq(i64::from(new.spares)),
            parts::sculpt_id.eq(new.sculpt.map(|s| s.0)),
            parts::option_id.eq(new.option.map(|o| o.0)),
            parts::recipe_id.eq(recipe.0),
            parts::position.eq(siblings),
        ))
        .execute(conn)?;
    let part = last_id(conn).map(PartId)?;
    army_size::check_of_model(conn, model)?;
    Ok(part)
}

/// Changes a part; a changed recipe becomes a new version.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change_part(
    conn: &mut Conn,
    id: PartId,
    row_version: i64,
    to: &PartChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    let part = part(conn, id)?;
    let changed = diesel::update(
        parts::table
            .find(id.0)
            .filter(parts::row_version.eq(row_version)),
    )
    .set((
        parts::name.eq(&to.name),
        parts::count.eq(i64::from(to.count)),
        parts::spares.eq(i64::from(to.spares)),
        // Another number than what was advised is no longer explained by it.
        parts::spares_why.eq(if to.spares == part.spares {
            part.spares_why.as_str()
        } else {
            ""
        }),
        parts::sculpt_id.eq(to.sculpt.map(|s| s.0)),
        parts::option_id.eq(to.option.map(|o| o.0)),
        parts::row_version.eq(row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "part")?;
    army_size::check_of_model(conn, part.model)?;
    settle_copies::settle_model(conn, part.model, now_ms)?;
    let other = part.sculpt.is_some() && to.sculpt.is_some() && part.sculpt != to.sculpt;
    if other {
        recipes::begin_anew(conn, part.recipe, &to.recipe, now_ms)
    } else {
        recipes::change(conn, part.recipe, &to.recipe, now_ms)
    }
}

/// What can be taken away and put back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Entry {
    /// A whole project.
    Project(ProjectId),
    /// A unit with its models.
    Unit(UnitId),
    /// A model with its parts.
    Model(ModelId),
    /// A part.
    Part(PartId),
    /// A choice with its options.
    Choice(ChoiceId),
    /// A piece that is not printed.
    Piece(PieceId),
}

/// Takes an entry away or puts it back; nothing is deleted, copies already planned stay.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn set_removed(
    conn: &mut Conn,
    entry: Entry,
    removed_at_ms: Option<i64>,
) -> Result<(), StoreError> {
    let changed = match entry {
        Entry::Project(id) => diesel::update(projects::table.find(id.0))
            .set(projects::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
        Entry::Unit(id) => diesel::update(units::table.find(id.0))
            .set(units::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
        Entry::Model(id) => diesel::update(models::table.find(id.0))
            .set(models::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
        Entry::Part(id) => diesel::update(parts::table.find(id.0))
            .set(parts::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
        Entry::Choice(id) => diesel::update(choices::table.find(id.0))
            .set(choices::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
        Entry::Piece(id) => diesel::update(pieces::table.find(id.0))
            .set(pieces::removed_at_ms.eq(removed_at_ms))
            .execute(conn)?,
    };
    one_row(changed, "entry")
}
