//! Recipes: chains of versions.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::Stage;
use wembrit_core::ids::{RecipeId, RecipeVersionId, ResinId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{Proof, Recipe, what_changed};
use wembrit_core::units::LayerHeight;

use super::{last_id, new_uid, one_row, resins};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::RecipeVersion;
use crate::schema::{copies, plates, printers, recipe_versions as rv, recipes, trials};

/// How a part hangs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hang {
    /// Its orientation.
    pub pose: Pose,
    /// Its supports.
    pub supports: Supports,
}

impl Hang {
    /// As its file stands, without supports.
    pub const PLAIN: Self = Self {
        pose: Pose::AS_IMPORTED,
        supports: Supports::None,
    };
}

/// What a version of a recipe says.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct RecipeChange {
    pub scale: f64,
    pub resin: ResinId,
    pub layer: LayerHeight,
    /// How it hangs; nothing leaves that as it is.
    pub hang: Option<Hang>,
}

impl RecipeChange {
    /// What a version says already, to change something of it.
    #[must_use]
    pub fn of(version: &RecipeVersion) -> Self {
        Self {
            scale: version.scale,
            resin: version.resin_id,
            layer: version.layer,
            hang: None,
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
        first.hang.unwrap_or(Hang::PLAIN),
        "",
        now_ms,
    )?;
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

/// One version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn version(conn: &mut Conn, id: RecipeVersionId) -> Result<RecipeVersion, StoreError> {
    rv::table
        .find(id.0)
        .select(RecipeVersion::as_select())
        .first(conn)
        .or_not_found("version of a recipe")
}

/// All versions, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn versions(conn: &mut Conn, id: RecipeId) -> Result<Vec<RecipeVersion>, StoreError> {
    Ok(rv::table
        .filter(rv::recipe_id.eq(id.0))
        .order(rv::version.desc())
        .select(RecipeVersion::as_select())
        .load(conn)?)
}

/// A version in the words of the rules.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn in_words(conn: &mut Conn, version: &RecipeVersion) -> Result<Recipe, StoreError> {
    Ok(Recipe {
        scale: version.scale,
        pose: version.pose,
        supports: version.supports,
        resin: resins::load(conn, version.resin_id)?.name,
        layer: version.layer,
    })
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
    let mut hang = to.hang.unwrap_or(Hang {
        pose: now.pose,
        supports: now.supports,
    });
    let moved = (now.scale, now.pose) != (to.scale, hang.pose);
    if moved && matches!(hang.supports, Supports::PrintMesh(_)) && hang.supports == now.supports {
        hang.supports = Supports::Planned(SupportStyle::USUAL);
    }
    let before = in_words(conn, &now)?;
    let after = Recipe {
        scale: to.scale,
        pose: hang.pose,
        supports: hang.supports,
        resin: resins::load(conn, to.resin)?.name,
        layer: to.layer,
    };
    if before == after && now.resin_id == to.resin {
        return Ok(());
    }
    let said = what_changed(&before, &after);
    append(conn, id, now.version + 1, to, hang, &said, now_ms).map(drop)
}

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
    let hang = to.hang.unwrap_or(Hang::PLAIN);
    append(
        conn,
        id,
        now.version + 1,
        to,
        hang,
        "another sculpt",
        now_ms,
    )
    .map(drop)
}

fn append(
    conn: &mut Conn,
    id: RecipeId,
    version: i64,
    recipe: &RecipeChange,
    hang: Hang,
    changed: &str,
    now_ms: i64,
) -> Result<RecipeVersionId, StoreError> {
    diesel::insert_into(rv::table)
        .values((
            rv::uid.eq(new_uid()),
            rv::recipe_id.eq(id.0),
            rv::version.eq(version),
            rv::scale.eq(recipe.scale),
            rv::orientation.eq(hang.pose.to_string()),
            rv::supports.eq(hang.supports.to_string()),
            rv::resin_id.eq(recipe.resin.0),
            rv::layer_um.eq(i64::from(recipe.layer.um())),
            rv::changed.eq(changed),
            rv::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(RecipeVersionId)
}

/// What holds for every version of a recipe: why its scale is locked, and whether it is sanded.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn lasting(conn: &mut Conn, id: RecipeId) -> Result<(String, bool), StoreError> {
    let (lock, sanded): (String, i64) = recipes::table
        .find(id.0)
        .select((recipes::scale_lock, recipes::sanded))
        .first(conn)
        .or_not_found("recipe")?;
    Ok((lock, sanded != 0))
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

/// How far versions of a recipe are proven, by version and process setting: the names of printers
/// on which a copy came out good.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn proven_on(
    conn: &mut Conn,
    id: RecipeId,
) -> Result<HashMap<RecipeVersionId, Vec<(String, i64)>>, StoreError> {
    let good = [Stage::Good.as_str(), Stage::Surplus.as_str()];
    let rows: Vec<(i64, String)> = copies::table
        .inner_join(rv::table)
        .inner_join(plates::table.inner_join(printers::table))
        .filter(rv::recipe_id.eq(id.0).and(copies::stage.eq_any(good)))
        .order((rv::id, printers::name))
        .select((rv::id, printers::name))
        .load(conn)?;
    let mut on: HashMap<RecipeVersionId, Vec<(String, i64)>> = HashMap::new();
    for (version, printer) in rows {
        let here = on.entry(RecipeVersionId(version)).or_default();
        match here.last_mut() {
            Some(last) if last.0 == printer => last.1 += 1,
            _ => here.push((printer, 1)),
        }
    }
    Ok(on)
}

/// Which of some versions have a copy under way: planned, printing or in finishing.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn under_way(
    conn: &mut Conn,
    of: &[RecipeVersionId],
) -> Result<Vec<RecipeVersionId>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|v| v.0).collect();
    let stages = [Stage::Planned, Stage::Printing, Stage::InFinishing].map(Stage::as_str);
    let rows: Vec<i64> = copies::table
        .filter(
            copies::recipe_version_id
                .eq_any(ids)
                .and(copies::stage.eq_any(stages)),
        )
        .select(copies::recipe_version_id)
        .distinct()
        .load(conn)?;
    Ok(rows.into_iter().map(RecipeVersionId).collect())
}

/// How far some versions are proven, on whichever setting.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn proofs(
    conn: &mut Conn,
    of: &[RecipeVersionId],
) -> Result<HashMap<RecipeVersionId, Proof>, StoreError> {
    use diesel::dsl::count_star;
    let ids: Vec<i64> = of.iter().map(|v| v.0).collect();
    let good = [Stage::Good.as_str(), Stage::Surplus.as_str()];
    let rows: Vec<(i64, i64)> = copies::table
        .filter(
            copies::recipe_version_id
                .eq_any(&ids)
                .and(copies::stage.eq_any(good)),
        )
        .group_by(copies::recipe_version_id)
        .select((copies::recipe_version_id, count_star()))
        .load(conn)?;
    let good: HashMap<i64, i64> = rows.into_iter().collect();
    let under_way = [TrialState::Open.as_str(), TrialState::Planned.as_str()];
    let tried: Vec<i64> = trials::table
        .filter(
            trials::recipe_version_id
                .eq_any(&ids)
                .and(trials::state.eq_any(under_way)),
        )
        .select(trials::recipe_version_id)
        .load(conn)?;
    let won: Vec<Option<i64>> = trials::table
        .filter(trials::won_version_id.eq_any(ids.iter().copied().map(Some)))
        .select(trials::won_version_id)
        .load(conn)?;
    Ok(of
        .iter()
        .map(|v| {
            let on_trial = tried.contains(&v.0) || won.contains(&Some(v.0));
            let copies = good.get(&v.0).copied().unwrap_or(0).max(0);
            (*v, Proof::of(copies as u64, on_trial))
        })
        .collect())
}
