//! Meshes that were supported elsewhere and came back.

use diesel::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{PrintMeshId, RecipeId, SculptId};
use wembrit_core::recipe::register::PrintMesh;
use wembrit_core::recipe::supports::Supports;

use super::recipes::{self, Hang, RecipeChange};
use super::{last_id, new_uid, tasks};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::PrintMeshRow;
use crate::schema::{print_meshes::dsl, sculpts};

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
    let version = recipes::newest(conn, recipe)?;
    diesel::insert_into(dsl::print_meshes)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::recipe_id.eq(recipe.0),
            dsl::design_id.eq(design.0),
            dsl::file_id.eq(file.0),
            dsl::scale.eq(version.scale),
            dsl::orientation.eq(version.pose.to_string()),
            dsl::layer_um.eq(i64::from(version.layer.um())),
            dsl::state.eq("waiting"),
            dsl::arrived_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(PrintMeshId)?;
    tasks::ask(conn, TaskKind::Register, &id.to_string(), now_ms)?;
    Ok(id)
}

/// One of them.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrintMeshId) -> Result<PrintMeshRow, StoreError> {
    dsl::print_meshes
        .find(id.0)
        .select(PrintMeshRow::as_select())
        .first(conn)
        .or_not_found("supported mesh")
}

/// Those of a recipe, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_recipe(conn: &mut Conn, id: RecipeId) -> Result<Vec<PrintMeshRow>, StoreError> {
    Ok(dsl::print_meshes
        .filter(dsl::recipe_id.eq(id.0))
        .order(dsl::id.desc())
        .select(PrintMeshRow::as_select())
        .load(conn)?)
}

/// Beyond this the size does not match the design, as a share.
pub const SIZE_MATCHES: f64 = 0.002;
/// Beyond this it hangs in another orientation, degrees.
pub const POSE_MATCHES_DEG: f64 = 1.0;

/// Writes down what was measured. Where size and orientation match the recipe as it is now, the
/// recipe uses it from here on; else the maker decides.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_measured(
    conn: &mut Conn,
    id: PrintMeshId,
    found: &PrintMesh,
    height_mm: f64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let r = &found.registration;
    let shift = r.shift_mm.iter().map(|s| s * s).sum::<f64>().sqrt();
    diesel::update(dsl::print_meshes.find(id.0))
        .set((
            dsl::state.eq("measured"),
            dsl::size_factor.eq(r.scale),
            dsl::turned_deg.eq(r.turned_deg()),
            dsl::leans_deg.eq(r.leans_deg()),
            dsl::shift_mm.eq(shift),
            dsl::rms_mm.eq(r.rms_mm),
            dsl::support_mm3.eq(found.support_mm3),
            dsl::contacts.eq(found.contacts as i64),
            dsl::height_mm.eq(height_mm),
        ))
        .execute(conn)?;
    if (r.scale - 1.0).abs() <= SIZE_MATCHES && r.leans_deg() <= POSE_MATCHES_DEG {
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
        .set((dsl::state.eq("refused"), dsl::refusal.eq(why)))
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
    if mesh.state != "measured" {
        return Err(StoreError::Refused("it is not measured yet".into()));
    }
    let now = recipes::newest(conn, mesh.recipe_id)?;
    if now.scale != mesh.scale || now.pose != mesh.pose {
        return Err(StoreError::Refused(
            "the recipe has another size or orientation by now: export it again and support that"
                .into(),
        ));
    }
    let change = RecipeChange {
        hang: Some(Hang {
            pose: now.pose,
            supports: Supports::PrintMesh(id),
        }),
        ..RecipeChange::of(&now)
    };
    recipes::change(conn, mesh.recipe_id, &change, now_ms)
}
