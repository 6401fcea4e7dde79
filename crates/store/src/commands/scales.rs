//! What limits the scale of a sculpt: its joints, and what came of scales that were tried.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ResinId, SculptId};
use wembrit_core::recipe::scale::{Joint, Outcome};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, one_row};
use crate::schema::{joints, scale_attempts as tried};

/// Writes down a joint with the gap its designer gave it, mm at the size of the file.
///
/// # Errors
/// [`StoreError::Refused`] for a gap that is none.
pub fn add_joint(conn: &mut Conn, id: SculptId, joint: &Joint) -> Result<(), StoreError> {
    if !(0.001..=50.0).contains(&joint.gap_mm) {
        return Err(StoreError::Refused(
            "a gap has between 0.001 and 50 mm".into(),
        ));
    }
    diesel::insert_into(joints::table)
        .values((
            joints::uid.eq(new_uid()),
            joints::sculpt_id.eq(id.0),
            joints::name.eq(&joint.name),
            joints::gap_mm.eq(joint.gap_mm),
        ))
        .execute(conn)?;
    Ok(())
}

/// Takes a joint away.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn remove_joint(conn: &mut Conn, id: SculptId, joint: i64) -> Result<(), StoreError> {
    let mine = joints::table.filter(joints::id.eq(joint).and(joints::sculpt_id.eq(id.0)));
    one_row(diesel::delete(mine).execute(conn)?, "joint")
}

/// Writes down what came of a scale on a printer with a resin.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn note(
    conn: &mut Conn,
    id: SculptId,
    on: (PrinterId, ResinId),
    scale: f64,
    outcome: Outcome,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::insert_into(tried::table)
        .values((
            tried::uid.eq(new_uid()),
            tried::sculpt_id.eq(id.0),
            tried::printer_id.eq(on.0.0),
            tried::resin_id.eq(on.1.0),
            tried::scale.eq(scale),
            tried::outcome.eq(outcome.as_str()),
            tried::noted_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}
