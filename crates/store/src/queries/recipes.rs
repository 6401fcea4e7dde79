//! Recipes: chains of versions.

use diesel::prelude::*;
use wembrit_core::ids::{RecipeId, RecipeVersionId, ResinId};
use wembrit_core::units::LayerHeight;

use super::{last_id, new_uid};
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::RecipeVersion;
use crate::schema::{recipe_versions as rv, recipes};

/// What a version of a recipe says.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct RecipeChange {
    pub scale: f64,
    pub resin: ResinId,
    pub layer: LayerHeight,
}

/// Starts a recipe with its version 1, oriented as imported.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add(conn: &mut Conn, first: &RecipeChange, now_ms: i64) -> Result<RecipeId, StoreError> {
    diesel::insert_into(recipes::table)
        .values(recipes::uid.eq(new_uid()))
        .execute(conn)?;
    let id = last_id(conn).map(RecipeId)?;
    append(conn, id, 1, first, now_ms)?;
    Ok(id)
}

/// The newest version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn newest(conn: &mut Conn, id: RecipeId) -> Result<RecipeVersion, StoreError> {
    Ok(rv::table
        .filter(rv::recipe_id.eq(id.0))
        .order(rv::version.desc())
        .select(RecipeVersion::as_select())
        .first(conn)?)
}

/// Adds a version when it says something new; copies already planned keep the one they have.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn change(
    conn: &mut Conn,
    id: RecipeId,
    to: &RecipeChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    let now = newest(conn, id)?;
    if (now.scale, now.resin_id, now.layer) == (to.scale, to.resin, to.layer) {
        return Ok(());
    }
    append(conn, id, now.version + 1, to, now_ms).map(drop)
}

fn append(
    conn: &mut Conn,
    id: RecipeId,
    version: i64,
    recipe: &RecipeChange,
    now_ms: i64,
) -> Result<RecipeVersionId, StoreError> {
    diesel::insert_into(rv::table)
        .values((
            rv::uid.eq(new_uid()),
            rv::recipe_id.eq(id.0),
            rv::version.eq(version),
            rv::scale.eq(recipe.scale),
            rv::orientation.eq("as imported"),
            rv::resin_id.eq(recipe.resin.0),
            rv::layer_um.eq(i64::from(recipe.layer.um())),
            rv::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(RecipeVersionId)
}
