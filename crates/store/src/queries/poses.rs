//! Poses of a sculpt that were compared.

use diesel::prelude::*;
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::orient::Candidate;
use wembrit_core::units::LayerHeight;

use super::sculpts::{self, MEASURE_VERSION};
use super::{tasks, zones};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{PoseRow, Sculpt, Task, best_text, scores_text};
use crate::schema::poses::dsl;

/// For what poses are compared.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Asking {
    /// Scale of the recipe.
    pub scale: f64,
    /// Layer height.
    pub layer: LayerHeight,
    /// Diameter of the base of its model, mm; 0 for none.
    pub base_mm: f64,
}

/// What was asked, with the zones marked at that time: its key, also that of its task.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn key(conn: &mut Conn, sculpt: &Sculpt, asking: &Asking) -> Result<String, StoreError> {
    let zones: Vec<i64> = zones::of_sculpt(conn, sculpt.id)?
        .iter()
        .map(|z| z.0)
        .collect();
    Ok(format!(
        "{}:{}:{}:{}:{}:{zones:?}:{MEASURE_VERSION}",
        sculpt.uid,
        sculpt.unit_mm,
        asking.scale,
        asking.layer.um(),
        asking.base_mm
    ))
}

/// What a task asks for; nothing when its sculpt has other zones or another unit by now.
///
/// # Errors
/// [`StoreError::NotFound`] and [`StoreError::BadRow`].
pub fn of_task(conn: &mut Conn, text: &str) -> Result<Option<(Sculpt, Asking)>, StoreError> {
    let sculpt = sculpts::of_task(conn, text)?;
    let bad = || StoreError::BadRow(format!("the task '{text}'"));
    let words: Vec<&str> = text.split(':').collect();
    let [_, _, scale, um, base, _, _] = words[..] else {
        return Err(bad());
    };
    let layer = LayerHeight::try_from(um.parse::<i64>().map_err(|_| bad())?).map_err(|_| bad())?;
    let asking = Asking {
        scale: scale.parse().map_err(|_| bad())?,
        layer,
        base_mm: base.parse().map_err(|_| bad())?,
    };
    let now = key(conn, &sculpt, &asking)?;
    Ok((now == text).then_some((sculpt, asking)))
}

/// Asks for poses to be looked for, again where it was stopped or failed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask(
    conn: &mut Conn,
    sculpt: &Sculpt,
    asking: &Asking,
    now_ms: i64,
) -> Result<(), StoreError> {
    let key = key(conn, sculpt, asking)?;
    tasks::ask(conn, TaskKind::Poses, &key, now_ms)
}

/// The task that looks for them, if it was asked for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn task(conn: &mut Conn, sculpt: &Sculpt, asking: &Asking) -> Result<Option<Task>, StoreError> {
    let key = key(conn, sculpt, asking)?;
    Ok(tasks::find(conn, TaskKind::Poses, &key).ok())
}

/// Stops looking: what waits is taken back, what runs sees it at its next look.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn stop(
    conn: &mut Conn,
    sculpt: &Sculpt,
    asking: &Asking,
    now_ms: i64,
) -> Result<(), StoreError> {
    if let Some(task) = task(conn, sculpt, asking)?.filter(|t| t.state.is_open()) {
        tasks::end(
            conn,
            task.id,
            TaskState::Failed,
            "Stopped by the maker.",
            now_ms,
        )?;
    }
    Ok(())
}

/// Writes down what was found, with a picture of each. Doing it twice is as good as once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    id: SculptId,
    key: &str,
    found: &[(Candidate, Vec<u8>)],
) -> Result<(), StoreError> {
    // Only the newest asking is shown.
    diesel::delete(dsl::poses.filter(dsl::sculpt_id.eq(id.0))).execute(conn)?;
    for (seq, (c, picture)) in found.iter().enumerate() {
        diesel::insert_into(dsl::poses)
            .values((
                dsl::sculpt_id.eq(id.0),
                dsl::asked.eq(key),
                dsl::seq.eq(seq as i64),
                dsl::orientation.eq(c.pose.to_string()),
                dsl::origin.eq(c.origin.as_str()),
                dsl::scores.eq(scores_text(c)),
                dsl::height_mm.eq(c.height_mm),
                dsl::contacts.eq(c.contacts as i64),
                dsl::best_in.eq(best_text(c)),
                dsl::undominated.eq(i64::from(c.undominated)),
                dsl::picture.eq(picture),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// The poses found for an asking, and the last that were found for any other of the sculpt.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, id: SculptId) -> Result<Vec<(String, PoseRow)>, StoreError> {
    Ok(dsl::poses
        .filter(dsl::sculpt_id.eq(id.0))
        .order(dsl::seq)
        .select((dsl::asked, PoseRow::as_select()))
        .load(conn)?)
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
