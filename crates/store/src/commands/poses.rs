//! Poses of a sculpt that were compared.

use diesel::prelude::*;
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::orient::Candidate;
use wembrit_core::sculpt::Sculpt;

use super::tasks;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::poses::{PoseQuestion, key};
use crate::rows::{best_text, scores_text};
use crate::schema::poses::dsl;

/// Asks for poses to be looked for, again where it was stopped or failed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask(
    conn: &mut Conn,
    sculpt: &Sculpt,
    question: &PoseQuestion,
    now_ms: i64,
) -> Result<(), StoreError> {
    let key = key(conn, sculpt, question)?;
    tasks::ask(conn, TaskKind::Poses, &key, now_ms)
}

/// Stops looking: what waits is taken back, what runs sees it at its next look.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn stop(
    conn: &mut Conn,
    sculpt: &Sculpt,
    question: &PoseQuestion,
    now_ms: i64,
) -> Result<(), StoreError> {
    let key = key(conn, sculpt, question)?;
    let stopped = (TaskState::Failed, "Stopped by the maker.");
    tasks::end_asked(conn, TaskKind::Poses, &key, stopped, now_ms)
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
    // Only the newest question is shown.
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
