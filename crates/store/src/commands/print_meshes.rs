//! Meshes that were supported elsewhere and came back.

use diesel::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{PrintMeshId, RecipeId, SculptId};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::{MeshFound, PrintMeshState, Setup};

use super::recipes::{self, RecipeChange};
use super::tasks;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::print_meshes::load;
use crate::queries::{last_id, new_uid};
use crate::schema::print_meshes::dsl;
use crate::schema::sculpts;

/// A supported mesh has arrived for a recipe: it is laid over the design next.
///
/// # Errors
/// [`StoreError::Refused`] when the file is a sculpt that parts are printed from.
pub fn arrive(
    conn: &mut Conn,
    recipe: RecipeId,
    design: SculptId,
    file: SculptId,
    now_ms: i64,
) -> Result<PrintMeshId, StoreError> {
    let used: i64 = crate::schema::parts::table
        .filter(crate::schema::parts::sculpt_id.eq(file.0))
        .count()
        .get_result(conn)?;
    if used > 0 || file == design {
        return Err(StoreError::Refused(
            "this file is a sculpt that parts are printed from: drop the mesh with its supports"
                .into(),
        ));
    }
    diesel::update(sculpts::table.find(file.0))
        .set(sculpts::role.eq("print mesh"))
        .execute(conn)?;
    let version = queries::recipes::newest(conn, recipe)?;
    diesel::insert_into(dsl::print_meshes)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::recipe_id.eq(recipe.0),
            dsl::design_id.eq(design.0),
            dsl::file_id.eq(file.0),
            dsl::scale.eq(version.scale),
            dsl::orientation.eq(version.setup.pose.to_string()),
            dsl::layer_um.eq(i64::from(version.layer.um())),
            dsl::state.eq(PrintMeshState::Waiting.as_str()),
            dsl::arrived_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(PrintMeshId)?;
    tasks::ask(conn, TaskKind::Register, &id.to_string(), now_ms)?;
    Ok(id)
}

/// Writes down what was measured. Where size and orientation match the recipe as it is now, the
/// recipe uses it from here on; else the maker decides.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_measured(
    conn: &mut Conn,
    id: PrintMeshId,
    found: &MeshFound,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::update(dsl::print_meshes.find(id.0))
        .set((
            dsl::state.eq(PrintMeshState::Measured.as_str()),
            dsl::size_factor.eq(found.size_factor),
            dsl::turned_deg.eq(found.turned_deg),
            dsl::leans_deg.eq(found.leans_deg),
            dsl::shift_mm.eq(found.shift_mm),
            dsl::rms_mm.eq(found.rms_mm),
            dsl::support_mm3.eq(found.support_mm3),
            dsl::contacts.eq(found.contacts as i64),
            dsl::height_mm.eq(found.height_mm),
            dsl::remeshed.eq(i64::from(found.remeshed)),
        ))
        .execute(conn)?;
    if found.size_matches() && found.tilt_matches() {
        take_up(conn, id, now_ms)?;
    }
    Ok(())
}

/// Why it could not be laid over its design.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_refused(conn: &mut Conn, id: PrintMeshId, why: &str) -> Result<(), StoreError> {
    diesel::update(dsl::print_meshes.find(id.0))
        .set((
            dsl::state.eq(PrintMeshState::Refused.as_str()),
            dsl::refusal.eq(why),
        ))
        .execute(conn)?;
    Ok(())
}

/// The recipe uses it from here on, as a new version.
///
/// # Errors
/// [`StoreError::Refused`] while it is not measured, or when the recipe has changed since it was
/// exported.
pub fn take_up(conn: &mut Conn, id: PrintMeshId, now_ms: i64) -> Result<(), StoreError> {
    let mesh = load(conn, id)?;
    if mesh.state != PrintMeshState::Measured {
        return Err(StoreError::Refused("it is not measured yet".into()));
    }
    let now = queries::recipes::newest(conn, mesh.recipe)?;
    if now.scale != mesh.scale || now.setup.pose != mesh.pose {
        return Err(StoreError::Refused(
            "the recipe has another size or orientation by now: export it again and support that"
                .into(),
        ));
    }
    let change = RecipeChange {
        setup: Some(Setup {
            pose: now.setup.pose,
            supports: Supports::PrintMesh(id),
        }),
        ..RecipeChange::of(&now)
    };
    recipes::change(conn, mesh.recipe, &change, now_ms)
}
