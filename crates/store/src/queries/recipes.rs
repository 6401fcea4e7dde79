//! Recipes: chains of versions.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ProcessSettingId, RecipeId, RecipeVersionId};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{Proofs, Recipe, RecipeVersion};

use super::resins;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{Nouns, RecipeVersionRow};
use crate::schema::{
    copies, plates, recipe_versions as rv, recipes, setting_versions as sv, trials,
};

/// The newest version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn newest(conn: &mut Conn, id: RecipeId) -> Result<RecipeVersion, StoreError> {
    rv::table
        .filter(rv::recipe_id.eq(id.0))
        .order(rv::version.desc())
        .select(RecipeVersionRow::as_select())
        .noun::<RecipeVersionRow>(conn, "recipe")
}

/// One version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn version(conn: &mut Conn, id: RecipeVersionId) -> Result<RecipeVersion, StoreError> {
    rv::table
        .find(id.0)
        .select(RecipeVersionRow::as_select())
        .noun::<RecipeVersionRow>(conn, "version of a recipe")
}

/// All versions, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn versions(conn: &mut Conn, id: RecipeId) -> Result<Vec<RecipeVersion>, StoreError> {
    rv::table
        .filter(rv::recipe_id.eq(id.0))
        .order(rv::version.desc())
        .select(RecipeVersionRow::as_select())
        .nouns::<RecipeVersionRow>(conn)
}

/// A version in the words of the rules.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn in_words(conn: &mut Conn, version: &RecipeVersion) -> Result<Recipe, StoreError> {
    Ok(Recipe {
        scale: version.scale,
        pose: version.setup.pose,
        supports: version.setup.supports,
        resin: resins::load(conn, version.resin)?.name,
        layer: version.layer,
    })
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

/// These versions, by identity.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn versions_of(
    conn: &mut Conn,
    of: &[RecipeVersionId],
) -> Result<HashMap<RecipeVersionId, RecipeVersion>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|v| v.0).collect();
    let all = rv::table
        .filter(rv::id.eq_any(ids))
        .select(RecipeVersionRow::as_select())
        .nouns::<RecipeVersionRow>(conn)?;
    Ok(all.into_iter().map(|v| (v.id, v)).collect())
}

/// What is known of some versions: good copies by process setting, those of trials apart since they
/// may have had an exposure of their own; trials; copies under way.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn proofs(conn: &mut Conn, of: &[RecipeVersionId]) -> Result<Proofs, StoreError> {
    let mut proofs = Proofs::default();
    let ids: Vec<i64> = of.iter().map(|v| v.0).collect();
    let good = [Stage::Good.as_str(), Stage::Surplus.as_str()];
    // What comes out of a trial proves nothing yet: its confirmation print does.
    let of_trials: Vec<Option<i64>> = trials::table.select(trials::plan_id).load(conn)?;
    let of_trials: Vec<i64> = of_trials.into_iter().flatten().collect();
    let rows: Vec<(i64, i64)> = copies::table
        .inner_join(plates::table.inner_join(sv::table))
        .filter(
            copies::recipe_version_id
                .eq_any(&ids)
                .and(copies::stage.eq_any(good))
                .and(sv::for_trial.eq(0))
                .and(plates::plan_id.ne_all(of_trials)),
        )
        .select((copies::recipe_version_id, sv::setting_id))
        .load(conn)?;
    for (version, setting) in rows {
        proofs.add_good(RecipeVersionId(version), ProcessSettingId(setting), 1);
    }
    let tried: Vec<i64> = trials::table
        .filter(trials::recipe_version_id.eq_any(&ids).and(
            trials::state.eq_any([TrialState::Open, TrialState::Planned].map(TrialState::as_str)),
        ))
        .select(trials::recipe_version_id)
        .load(conn)?;
    let won: Vec<Option<i64>> = trials::table
        .filter(trials::won_version_id.eq_any(ids.iter().copied().map(Some)))
        .select(trials::won_version_id)
        .load(conn)?;
    for version in tried.into_iter().chain(won.into_iter().flatten()) {
        proofs.add_trial(RecipeVersionId(version));
    }
    let stages = [Stage::Planned, Stage::Printing, Stage::InFinishing].map(Stage::as_str);
    let under_way: Vec<i64> = copies::table
        .filter(
            copies::recipe_version_id
                .eq_any(&ids)
                .and(copies::stage.eq_any(stages)),
        )
        .select(copies::recipe_version_id)
        .distinct()
        .load(conn)?;
    for version in under_way {
        proofs.add_under_way(RecipeVersionId(version));
    }
    Ok(proofs)
}
