//! From which section of tips parts hold in this workshop.

use std::collections::BTreeMap;
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::flow::{FailureCause, Stage};
use wembrit_core::ids::{RecipeVersionId, SculptId};
use wembrit_core::recipe::supports::{CameOff, Holding, HoldingLimit};

use super::prepared_parts;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::copies;
use crate::until_written::kept;

/// Learned from every copy that came off good, or tore off its supports, plate by plate and recipe by
/// recipe.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn limit(conn: &mut Conn) -> Result<Arc<HoldingLimit>, StoreError> {
    kept(conn, ("holding", &[]), |conn| {
        Ok(HoldingLimit::learned(&came_off(conn)?))
    })
}

fn came_off(conn: &mut Conn) -> Result<Vec<CameOff>, StoreError> {
    let torn_off = FailureCause::TornOff.as_str();
    let held = [Stage::Good, Stage::Surplus].map(Stage::as_str);
    let rows: Vec<(i64, i64, i64, Option<String>)> = copies::table
        .filter(copies::stage.eq_any(held).or(copies::cause.eq(torn_off)))
        .select((
            copies::plate_id,
            copies::sculpt_id,
            copies::recipe_version_id,
            copies::cause,
        ))
        .distinct()
        .load(conn)?;
    let mut on: BTreeMap<(i64, i64, i64), bool> = BTreeMap::new();
    for (plate, sculpt, version, cause) in rows {
        *on.entry((plate, sculpt, version)).or_default() |= cause.as_deref() == Some(torn_off);
    }
    let key = |of: &(i64, i64, i64)| (SculptId(of.1), RecipeVersionId(of.2));
    let figures = prepared_parts::held_figures(conn, on.keys().map(key))?;
    let told = on.iter().filter_map(|(of, torn)| {
        let f = figures.get(&key(of))?;
        let holding = Holding::of(&f.setup.setup.supports, f.contacts, f.peak_pull, 0.0)?;
        Some(CameOff {
            mm2_per_disc: holding.mm2_per_disc(),
            torn: *torn,
        })
    });
    Ok(told.collect())
}
