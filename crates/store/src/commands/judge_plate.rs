//! Judging a plate: all good but these; taking a judgement back.

use diesel::prelude::*;
use wembrit_core::flow::{CopyEvent, FailureCause, PlateState, Stage, next_stage};
use wembrit_core::ids::{CopyId, PlateId};

use super::settle_copies;
use super::step_plate::{move_copies, step};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plates::load;
use crate::schema::copies;

/// A copy that failed, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Failure {
    /// The copy.
    pub copy: CopyId,
    /// The cause.
    pub cause: FailureCause,
    /// Anything worth remembering.
    pub note: String,
}

/// All good but these: judges every copy of a printed plate.
///
/// # Errors
/// [`StoreError::Refused`] when a failed copy is not on this plate.
pub fn judge(
    conn: &mut Conn,
    id: PlateId,
    failed: &[Failure],
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Done)?;
    for failure in failed {
        let from = Stage::InFinishing;
        let to = next_stage(from, CopyEvent::Fail)?;
        let copy = copies::table.find(failure.copy.0).filter(
            copies::plate_id
                .eq(id.0)
                .and(copies::stage.eq(from.as_str())),
        );
        let changed = diesel::update(copy)
            .set((
                copies::stage.eq(to.as_str()),
                copies::cause.eq(failure.cause.as_str()),
                copies::note.eq(&failure.note),
                copies::row_version.eq(copies::row_version + 1),
                copies::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        if changed != 1 {
            return Err(StoreError::Refused(
                "one of the marked copies is not on this plate any more: look at the sheet again"
                    .into(),
            ));
        }
    }
    move_copies(conn, id, CopyEvent::Pass, now_ms)?;
    settle_copies::settle_plate(conn, id, now_ms)
}

/// Takes a judgement back: every copy of the plate is to be looked at again.
///
/// # Errors
/// [`StoreError::Flow`] when the plate was not judged.
pub fn rejudge(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Rejudge, now_ms)
}
