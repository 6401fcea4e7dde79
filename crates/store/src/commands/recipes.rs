//! Recipes: chains of versions.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, RecipeId, RecipeVersionId, ResinId};
use wembrit_core::recipe::{Recipe, RecipeVersion, Setup, what_changed};
use wembrit_core::units::LayerHeight;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::recipes::{in_words, lasting, newest};
use crate::queries::{last_id, muster, new_uid, one_row};
use crate::schema::{recipe_versions as rv, recipes};

/// What a version of a recipe says.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct RecipeChange {
    pub scale: f64,
    pub resin: ResinId,
    pub layer: LayerHeight,
    /// How it is held; nothing leaves that as it is.
    pub setup: Option<Setup>,
}

impl RecipeChange {
    /// What a version says already, to change something of it.
    #[must_use]
    pub fn of(version: &RecipeVersion) -> Self {
        Self {
            scale: version.scale,
            resin: version.resin,
            layer: version.layer,
            setup: None,
        }
    }
}

/// Starts a recipe with its version 1.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add(conn: &mut Conn, first: &RecipeChange, now_ms: i64) -> Result<RecipeId, StoreError> {
    diesel::insert_into(recipes::table)
        .values(recipes::uid.eq(new_uid()))
        .execute(conn)?;
    let id = last_id(conn).map(RecipeId)?;
    append(
        conn,
        id,
        1,
        first,
        first.setup.unwrap_or(Setup::PLAIN),
        "",
        now_ms,
    )?;
    Ok(id)
}

/// Adds a version when it says something new, with what changed in words; copies already
/// planned keep the one they have. A mesh supported elsewhere fits one size and orientation: when
/// these change, supports are planned again until it comes back.
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
    let asked = to.setup.unwrap_or(now.setup);
    let moved = (now.scale, now.setup.pose) != (to.scale, asked.pose);
    let setup = now.setup.changed(asked, moved);
    let before = in_words(conn, &now)?;
    let after = Recipe {
        scale: to.scale,
        pose: setup.pose,
        supports: setup.supports,
        resin: queries::resins::load(conn, to.resin)?.name,
        layer: to.layer,
    };
    if before == after && now.resin == to.resin {
        return Ok(());
    }
    let said = what_changed(&before, &after);
    append(conn, id, now.version + 1, to, setup, &said, now_ms).map(drop)
}

/// What a version says that begins anew.
pub(super) const ANOTHER_SCULPT: &str = "another sculpt";

/// The part is printed from another sculpt: what was found out about the old one does not hold.
///
/// # Errors
/// [`StoreError`] of the data file.
pub(super) fn begin_anew(
    conn: &mut Conn,
    id: RecipeId,
    to: &RecipeChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    let now = newest(conn, id)?;
    let setup = to.setup.unwrap_or(Setup::PLAIN);
    append(conn, id, now.version + 1, to, setup, ANOTHER_SCULPT, now_ms).map(drop)
}

fn append(
    conn: &mut Conn,
    id: RecipeId,
    version: i64,
    recipe: &RecipeChange,
    setup: Setup,
    changed: &str,
    now_ms: i64,
) -> Result<RecipeVersionId, StoreError> {
    diesel::insert_into(rv::table)
        .values((
            rv::uid.eq(new_uid()),
            rv::recipe_id.eq(id.0),
            rv::version.eq(version),
            rv::scale.eq(recipe.scale),
            rv::orientation.eq(setup.pose.to_string()),
            rv::supports.eq(setup.supports.to_string()),
            rv::resin_id.eq(recipe.resin.0),
            rv::layer_um.eq(i64::from(recipe.layer.um())),
            rv::changed.eq(changed),
            rv::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(RecipeVersionId)
}

/// Locks the scale with a reason, or sets it free with an empty one.
///
/// # Errors
/// [`StoreError::Conflict`] when the recipe is not there.
pub fn lock_scale(conn: &mut Conn, id: RecipeId, reason: &str) -> Result<(), StoreError> {
    let changed = diesel::update(recipes::table.find(id.0))
        .set(recipes::scale_lock.eq(reason.trim()))
        .execute(conn)?;
    one_row(changed, "recipe")
}

/// Says whether the part will be sanded, filed or drilled.
///
/// # Errors
/// [`StoreError::Conflict`] when the recipe is not there.
pub fn set_sanded(conn: &mut Conn, id: RecipeId, sanded: bool) -> Result<(), StoreError> {
    let changed = diesel::update(recipes::table.find(id.0))
        .set(recipes::sanded.eq(i64::from(sanded)))
        .execute(conn)?;
    one_row(changed, "recipe")
}

/// Scales some parts; locked ones stay, unless they are changed on purpose and alone.
///
/// # Errors
/// [`StoreError::Refused`] for a locked part that is scaled to fit.
pub fn rescale(
    conn: &mut Conn,
    parts: &[PartId],
    factor: f64,
    to_fit: bool,
    now_ms: i64,
) -> Result<(), StoreError> {
    for id in parts {
        let part = muster::part(conn, *id)?;
        let (lock, _) = lasting(conn, part.recipe)?;
        if !lock.is_empty() && (to_fit || parts.len() > 1) {
            if to_fit {
                return Err(StoreError::Refused(format!(
                    "'{}' is locked ({lock}): it is never scaled to fit",
                    part.name
                )));
            }
            continue;
        }
        let version = newest(conn, part.recipe)?;
        let to = RecipeChange {
            scale: factor,
            ..RecipeChange::of(&version)
        };
        change(conn, part.recipe, &to, now_ms)?;
    }
    Ok(())
}
