//! Poses of a sculpt that were compared.

use diesel::prelude::*;
use wembrit_core::flow::{Task, TaskKind};
use wembrit_core::ids::{ResinId, SculptId};
use wembrit_core::recipe::orient::Candidate;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::sculpt::Sculpt;
use wembrit_core::units::LayerHeight;

use super::sculpts::{self, MEASURE_VERSION};
use super::{tasks, zones};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{PoseRow, Row};
use crate::schema::poses::dsl;

/// For what poses are compared.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PoseQuestion {
    /// Scale of the recipe.
    pub scale: f64,
    /// Layer height.
    pub layer: LayerHeight,
    /// Its resin: hours follow its process setting.
    pub resin: ResinId,
    /// Diameter of the base of its model, mm; 0 for none.
    pub base_mm: f64,
    /// How its supports are planned.
    pub style: SupportStyle,
}

/// What was asked, with the zones marked at that time: its key, also that of its task.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn key(
    conn: &mut Conn,
    sculpt: &Sculpt,
    question: &PoseQuestion,
) -> Result<String, StoreError> {
    let zones: Vec<i64> = zones::of_sculpt(conn, sculpt.id)?
        .iter()
        .map(|z| z.0)
        .collect();
    Ok(format!(
        "{}:{}:{}:{}:{}:{}:{}:{zones:?}:{MEASURE_VERSION}",
        sculpt.uid,
        sculpt.unit_mm,
        question.scale,
        question.layer.um(),
        question.resin,
        question.base_mm,
        Supports::Planned(question.style)
    ))
}

/// What a task asks for; nothing when its sculpt has other zones or another unit by now.
///
/// # Errors
/// [`StoreError::NotFound`] and [`StoreError::BadRow`].
pub fn of_task(conn: &mut Conn, text: &str) -> Result<Option<(Sculpt, PoseQuestion)>, StoreError> {
    let sculpt = sculpts::of_task(conn, text)?;
    let bad = || StoreError::BadRow(format!("the task '{text}'"));
    let words: Vec<&str> = text.split(':').collect();
    let [_, _, scale, um, resin, base, supports, _, _] = words[..] else {
        // A key as an earlier version wrote it: the maker asks anew.
        return Ok(None);
    };
    let layer = LayerHeight::try_from(um.parse::<i64>().map_err(|_| bad())?).map_err(|_| bad())?;
    let question = PoseQuestion {
        scale: scale.parse().map_err(|_| bad())?,
        layer,
        resin: resin.parse().map_err(|_| bad())?,
        base_mm: base.parse().map_err(|_| bad())?,
        style: supports.parse::<Supports>().map_err(|_| bad())?.style(),
    };
    let now = key(conn, &sculpt, &question)?;
    Ok((now == text).then_some((sculpt, question)))
}

/// The task that looks for them, if it was asked for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn task(
    conn: &mut Conn,
    sculpt: &Sculpt,
    question: &PoseQuestion,
) -> Result<Option<Task>, StoreError> {
    let key = key(conn, sculpt, question)?;
    tasks::find(conn, TaskKind::Poses, &key)
}

/// The poses found for a question, and the last that were found for any other of the sculpt.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(
    conn: &mut Conn,
    id: SculptId,
) -> Result<Vec<(String, i64, Candidate)>, StoreError> {
    let rows: Vec<(String, PoseRow)> = dsl::poses
        .filter(dsl::sculpt_id.eq(id.0))
        .order(dsl::seq)
        .select((dsl::asked, PoseRow::as_select()))
        .load(conn)?;
    rows.into_iter()
        .map(|(asked, row)| {
            let (id, candidate) = row.noun()?;
            Ok((asked, id, candidate))
        })
        .collect()
}

/// The picture of a pose, as PNG.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn picture(conn: &mut Conn, id: i64) -> Result<Vec<u8>, StoreError> {
    dsl::poses
        .find(id)
        .select(dsl::picture)
        .first(conn)
        .or_not_found("picture")
}
