//! Projects, units, models and parts: adding, changing, taking away.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::{Model, Part, Project, Unit, part_name};
use wembrit_core::ids::{ModelId, PartId, ProjectId, UnitId};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{ModelRow, Nouns, PartRow, ProjectRow, UnitRow};
use crate::schema::{models, parts, projects, units};

/// The projects that are worked on, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn projects(conn: &mut Conn) -> Result<Vec<Project>, StoreError> {
    let there = projects::table.filter(projects::removed_at_ms.is_null());
    there
        .filter(projects::put_away_at_ms.is_null())
        .order(projects::id)
        .select(ProjectRow::as_select())
        .nouns::<ProjectRow>(conn)
}

/// The projects that were put away, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn put_away(conn: &mut Conn) -> Result<Vec<Project>, StoreError> {
    let there = projects::table.filter(projects::removed_at_ms.is_null());
    there
        .filter(projects::put_away_at_ms.is_not_null())
        .order(projects::id)
        .select(ProjectRow::as_select())
        .nouns::<ProjectRow>(conn)
}

/// When projects are wanted, where somebody has said so, ms since 1970.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn deadlines(conn: &mut Conn) -> Result<HashMap<ProjectId, i64>, StoreError> {
    let rows: Vec<(i64, Option<i64>)> = projects::table
        .filter(projects::removed_at_ms.is_null())
        .select((projects::id, projects::deadline_ms))
        .load(conn)?;
    let said = |(id, by): (i64, Option<i64>)| Some((ProjectId(id), by?));
    Ok(rows.into_iter().filter_map(said).collect())
}

/// One project.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn project(conn: &mut Conn, id: ProjectId) -> Result<Project, StoreError> {
    projects::table
        .find(id.0)
        .select(ProjectRow::as_select())
        .noun::<ProjectRow>(conn, "project")
}

/// One unit.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn unit(conn: &mut Conn, id: UnitId) -> Result<Unit, StoreError> {
    units::table
        .find(id.0)
        .select(UnitRow::as_select())
        .noun::<UnitRow>(conn, "unit")
}

/// The units of a project, in their order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn units(conn: &mut Conn, project: ProjectId) -> Result<Vec<Unit>, StoreError> {
    let of = units::project_id.eq(project.0);
    units::table
        .filter(of.and(units::removed_at_ms.is_null()))
        .order((units::priority, units::position, units::id))
        .select(UnitRow::as_select())
        .nouns::<UnitRow>(conn)
}

/// The models of some units, in their order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn models(conn: &mut Conn, of: &[i64]) -> Result<Vec<Model>, StoreError> {
    let of = models::unit_id.eq_any(of);
    models::table
        .filter(of.and(models::removed_at_ms.is_null()))
        .order((models::position, models::id))
        .select(ModelRow::as_select())
        .nouns::<ModelRow>(conn)
}

/// All models of a project, in their order within their units.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn models_of(conn: &mut Conn, project: ProjectId) -> Result<Vec<Model>, StoreError> {
    let ids: Vec<i64> = units(conn, project)?.iter().map(|u| u.id.0).collect();
    models(conn, &ids)
}

/// Models of a project that have parts, with their names, in their order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn with_kits(
    conn: &mut Conn,
    project: ProjectId,
) -> Result<Vec<(ModelId, String)>, StoreError> {
    let rows: Vec<(i64, String)> = models::table
        .inner_join(units::table)
        .filter(
            units::project_id
                .eq(project.0)
                .and(units::removed_at_ms.is_null())
                .and(models::removed_at_ms.is_null())
                .and(diesel::dsl::exists(
                    parts::table.filter(
                        parts::model_id
                            .eq(models::id)
                            .and(parts::removed_at_ms.is_null()),
                    ),
                )),
        )
        .order((
            units::priority,
            units::position,
            units::id,
            models::position,
            models::id,
        ))
        .select((models::id, models::name))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, name)| (ModelId(id), name))
        .collect())
}

/// One model.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn model(conn: &mut Conn, id: ModelId) -> Result<Model, StoreError> {
    models::table
        .find(id.0)
        .select(ModelRow::as_select())
        .noun::<ModelRow>(conn, "model")
}

/// One part.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn part(conn: &mut Conn, id: PartId) -> Result<Part, StoreError> {
    parts::table
        .find(id.0)
        .select(PartRow::as_select())
        .noun::<PartRow>(conn, "part")
}

/// The project a part belongs to.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn project_of_part(conn: &mut Conn, id: PartId) -> Result<ProjectId, StoreError> {
    parts::table
        .inner_join(models::table.inner_join(units::table))
        .filter(parts::id.eq(id.0))
        .select(units::project_id)
        .first::<i64>(conn)
        .or_not_found("part")
        .map(ProjectId)
}

/// What a person calls some parts: model and name.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn part_names(conn: &mut Conn, of: &[PartId]) -> Result<BTreeMap<PartId, String>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<(i64, String, String)> = parts::table
        .inner_join(models::table)
        .filter(parts::id.eq_any(ids))
        .select((parts::id, models::name, parts::name))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, model, part)| (PartId(id), part_name(&model, &part)))
        .collect())
}

/// All parts of the model a part belongs to.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn siblings_of(conn: &mut Conn, id: PartId) -> Result<Vec<PartId>, StoreError> {
    let model = part(conn, id)?.model;
    let all = super::kits::parts_of(conn, model)?;
    Ok(all.into_iter().map(|p| p.id).collect())
}
