//! Parts as they hang: measured once for every sculpt, scale, layer height, orientation and
//! supports.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::ids::{RecipeVersionId, SculptId};
use wembrit_core::plan::concerns::Held;
use wembrit_core::recipe::{KeptPart, PartSetup};

use super::sculpts::MEASURE_VERSION;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{Nouns, PreparedRow, Row};
use crate::schema::{prepared_parts as hf, recipe_versions as rv, sculpts as s};

/// What is known of a part as it hangs.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of(conn: &mut Conn, what: &PartSetup) -> Result<Option<KeptPart>, StoreError> {
    hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::orientation.eq(what.setup.pose.to_string()))
                .and(hf::supports.eq(what.setup.supports.to_string()))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .select(PreparedRow::as_select())
        .maybe::<PreparedRow>(conn)
}

/// The other ways in which a sculpt was measured at the same scale and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn others(conn: &mut Conn, what: &PartSetup) -> Result<Vec<KeptPart>, StoreError> {
    let rows = hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .order(hf::id)
        .select(PreparedRow::as_select())
        .nouns::<PreparedRow>(conn)?;
    Ok(rows
        .into_iter()
        .filter(|kept| kept.setup.setup != what.setup)
        .collect())
}

/// A part was prepared as a version of a recipe says.
macro_rules! as_version {
    () => {
        rv::scale
            .eq(hf::scale)
            .and(rv::layer_um.eq(hf::layer_um))
            .and(rv::orientation.eq(hf::orientation))
            .and(rv::supports.eq(hf::supports))
    };
}

/// Everything known of some versions of recipes with some sculpts, the newest measuring of each.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_versions(
    conn: &mut Conn,
    sculpts: &[SculptId],
    versions: &[RecipeVersionId],
) -> Result<HashMap<(SculptId, RecipeVersionId), KeptPart>, StoreError> {
    let sculpts: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let versions: Vec<i64> = versions.iter().map(|v| v.0).collect();
    let rows: Vec<(i64, PreparedRow)> = hf::table
        .inner_join(s::table)
        .inner_join(rv::table.on(as_version!()))
        .filter(
            hf::sculpt_id
                .eq_any(sculpts)
                .and(rv::id.eq_any(versions))
                .and(hf::unit_mm.eq(s::unit_mm)),
        )
        .order(hf::measure_version)
        .select((rv::id, PreparedRow::as_select()))
        .load(conn)?;
    rows.into_iter()
        .map(|(version, row)| {
            let kept = row.noun()?;
            Ok(((kept.setup.sculpt, RecipeVersionId(version)), kept))
        })
        .collect()
}

/// Contacts and pull of the hardest layer of some sculpts with some versions of recipes.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn held(
    conn: &mut Conn,
    sculpts: &[SculptId],
    versions: &[RecipeVersionId],
) -> Result<Held, StoreError> {
    let sculpts: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let versions: Vec<i64> = versions.iter().map(|v| v.0).collect();
    let rows: Vec<(i64, i64, i64, f64)> = hf::table
        .inner_join(s::table)
        .inner_join(rv::table.on(as_version!()))
        .filter(
            hf::sculpt_id
                .eq_any(sculpts)
                .and(rv::id.eq_any(versions))
                .and(hf::unit_mm.eq(s::unit_mm)),
        )
        .order(hf::measure_version)
        .select((hf::sculpt_id, rv::id, hf::contacts, hf::peak_pull))
        .load(conn)?;
    let held = |(sculpt, version, contacts, pull): (i64, i64, i64, f64)| {
        let key = (SculptId(sculpt), RecipeVersionId(version));
        (key, (contacts.max(0) as usize, pull))
    };
    Ok(rows.into_iter().map(held).collect())
}

/// How tall sculpts hang by versions of recipes, mm.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn heights(conn: &mut Conn) -> Result<HashMap<(SculptId, RecipeVersionId), f64>, StoreError> {
    let rows: Vec<(i64, i64, f64)> = hf::table
        .inner_join(s::table)
        .inner_join(rv::table.on(as_version!()))
        .filter(hf::unit_mm.eq(s::unit_mm))
        .order(hf::measure_version)
        .select((hf::sculpt_id, rv::id, hf::height_mm))
        .load(conn)?;
    let height = |(sculpt, version, mm)| ((SculptId(sculpt), RecipeVersionId(version)), mm);
    Ok(rows.into_iter().map(height).collect())
}

/// The picture of a part as it hangs, as PNG.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn picture(conn: &mut Conn, id: i64) -> Result<Vec<u8>, StoreError> {
    hf::table
        .find(id)
        .select(hf::picture)
        .first(conn)
        .or_not_found("picture")
}
