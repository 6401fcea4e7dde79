//! Parts as they hang: measured once for every sculpt, scale, layer height, orientation and
//! supports.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::ids::{RecipeVersionId, SculptId};
use wembrit_core::recipe::prepare::Hung;

use super::prepared::{self, Preparing};
use super::sculpts::MEASURE_VERSION;
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{HungFacts, drawn_text, loads_text, outline_text, reach_text};
use crate::schema::{hung_facts as hf, recipe_versions as rv, sculpts as s};

/// Writes down how a part hangs, and what its layers alone told. Doing it twice is as good as
/// once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    of: &Preparing,
    hung: &Hung,
    picture: &[u8],
    now_ms: i64,
) -> Result<(), StoreError> {
    prepared::set(conn, of, &hung.alone, now_ms)?;
    diesel::replace_into(hf::table)
        .values((
            (
                hf::sculpt_id.eq(of.sculpt.0),
                hf::unit_mm.eq(of.unit_mm),
                hf::scale.eq(of.scale),
                hf::layer_um.eq(i64::from(of.layer.um())),
                hf::orientation.eq(of.pose.to_string()),
                hf::supports.eq(of.supports.to_string()),
                hf::measure_version.eq(MEASURE_VERSION),
                hf::height_mm.eq(hung.height_mm),
                hf::part_mm3.eq(hung.part_mm3),
                hf::support_mm3.eq(hung.support_mm3),
                hf::surface_mm2.eq(hung.surface_mm2),
            ),
            (
                hf::contacts.eq(hung.contacts as i64),
                hf::fine_contacts.eq(hung.fine_contacts as i64),
                hf::minutes.eq(hung.minutes),
                hf::starts_left.eq(hung.starts_left as i64),
                hf::peak_pull.eq(hung.peak_pull.1),
                hf::peak_pull_at_mm.eq(hung.peak_pull.0),
                hf::outline.eq(outline_text(&hung.outline)),
                hf::reach.eq(reach_text(&hung.reach)),
                hf::drawn.eq(drawn_text(&hung.drawing)),
                hf::picture.eq(picture),
                hf::loads.eq(loads_text(&hung.loads)),
                hf::measured_at_ms.eq(now_ms),
            ),
        ))
        .execute(conn)?;
    Ok(())
}

/// What is known of a part as it hangs.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of(conn: &mut Conn, what: &Preparing) -> Result<Option<HungFacts>, StoreError> {
    Ok(hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::orientation.eq(what.pose.to_string()))
                .and(hf::supports.eq(what.supports.to_string()))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .select(HungFacts::as_select())
        .first(conn)
        .optional()?)
}

/// The other ways in which a sculpt was measured at the same scale and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn others(conn: &mut Conn, what: &Preparing) -> Result<Vec<HungFacts>, StoreError> {
    let rows: Vec<HungFacts> = hf::table
        .filter(
            hf::sculpt_id
                .eq(what.sculpt.0)
                .and(hf::unit_mm.eq(what.unit_mm))
                .and(hf::scale.eq(what.scale))
                .and(hf::layer_um.eq(i64::from(what.layer.um())))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .order(hf::id)
        .select(HungFacts::as_select())
        .load(conn)?;
    Ok(rows
        .into_iter()
        .filter(|f| f.pose != what.pose || f.supports != what.supports)
        .collect())
}

/// Everything known of some versions of recipes with some sculpts, the newest measuring of each.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_versions(
    conn: &mut Conn,
    sculpts: &[SculptId],
    versions: &[RecipeVersionId],
) -> Result<HashMap<(SculptId, RecipeVersionId), HungFacts>, StoreError> {
    let sculpts: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let versions: Vec<i64> = versions.iter().map(|v| v.0).collect();
    let alike = rv::scale
        .eq(hf::scale)
        .and(rv::layer_um.eq(hf::layer_um))
        .and(rv::orientation.eq(hf::orientation))
        .and(rv::supports.eq(hf::supports));
    let rows: Vec<(i64, HungFacts)> = hf::table
        .inner_join(s::table)
        .inner_join(rv::table.on(alike))
        .filter(
            hf::sculpt_id
                .eq_any(sculpts)
                .and(rv::id.eq_any(versions))
                .and(hf::unit_mm.eq(s::unit_mm)),
        )
        .order(hf::measure_version)
        .select((rv::id, HungFacts::as_select()))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(version, f)| ((f.sculpt_id, RecipeVersionId(version)), f))
        .collect())
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
