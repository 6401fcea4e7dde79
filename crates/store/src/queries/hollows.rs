//! Hollow facts: measured once for every sculpt and wall.

use std::collections::{HashMap, HashSet};

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::sculpt::picture::Side;
use wembrit_core::sculpt::{HollowFacts, Sculpt};

use super::sculpts::{self, MEASURE_VERSION};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{HollowRow, Nouns, Row};
use crate::schema::{hollow_facts as hf, sculpt_pictures as pictures, sculpts as s};

pub(crate) fn task_key(sculpt: &Sculpt) -> String {
    format!(
        "{}:{}:{}:{MEASURE_VERSION}",
        sculpt.uid,
        sculpt.unit_mm,
        wall_um(sculpt)
    )
}

/// The sculpt a task is about; nothing when its unit or wall is another by now.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn of_task(conn: &mut Conn, key: &str) -> Result<Option<Sculpt>, StoreError> {
    let sculpt = sculpts::of_task(conn, key)?;
    Ok((task_key(&sculpt) == key).then_some(sculpt))
}

/// What is known about the hollows of a sculpt, at its present unit and wall.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, id: SculptId) -> Result<Option<HollowFacts>, StoreError> {
    hf::table
        .inner_join(s::table)
        .filter(
            hf::sculpt_id
                .eq(id.0)
                .and(hf::unit_mm.eq(s::unit_mm))
                .and(hf::wall_um.eq(s::wall_um))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .select(HollowRow::as_select())
        .maybe::<HollowRow>(conn)
}

/// The same of several.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpts(
    conn: &mut Conn,
    of: &[SculptId],
) -> Result<HashMap<SculptId, HollowFacts>, StoreError> {
    let rows: Vec<(i64, HollowRow)> = hf::table
        .inner_join(s::table)
        .filter(
            hf::sculpt_id
                .eq_any(of.iter().map(|s| s.0))
                .and(hf::unit_mm.eq(s::unit_mm))
                .and(hf::wall_um.eq(s::wall_um))
                .and(hf::measure_version.eq(MEASURE_VERSION)),
        )
        .select((hf::sculpt_id, HollowRow::as_select()))
        .load(conn)?;
    let read = |(id, row): (i64, HollowRow)| Ok((SculptId(id), row.noun()?));
    rows.into_iter().map(read).collect()
}

/// The picture of a sculpt from one side.
///
/// # Errors
/// [`StoreError::NotFound`] until it was drawn.
pub fn picture(conn: &mut Conn, id: SculptId, side: Side) -> Result<Vec<u8>, StoreError> {
    pictures::table
        .find((id.0, side.as_str()))
        .select(pictures::png)
        .first(conn)
        .or_not_found("picture")
}

/// Whether a sculpt has its pictures.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn has_pictures(conn: &mut Conn, id: SculptId) -> Result<bool, StoreError> {
    let there: i64 = pictures::table
        .filter(pictures::sculpt_id.eq(id.0))
        .count()
        .get_result(conn)?;
    Ok(there == Side::ALL.len() as i64)
}

/// Of these sculpts, those that have their pictures.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn pictured(conn: &mut Conn, of: &[SculptId]) -> Result<HashSet<SculptId>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    let there: Vec<i64> = pictures::table
        .filter(
            pictures::sculpt_id
                .eq_any(ids)
                .and(pictures::side.eq(Side::Front.as_str())),
        )
        .select(pictures::sculpt_id)
        .load(conn)?;
    Ok(there.into_iter().map(SculptId).collect())
}

/// The wall of a sculpt as it is kept, µm.
pub(crate) fn wall_um(sculpt: &Sculpt) -> i64 {
    (sculpt.wall_mm * 1000.0).round() as i64
}
