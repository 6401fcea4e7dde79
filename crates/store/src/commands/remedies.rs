//! A change after a failure: made, and later whether it held.

use diesel::prelude::*;
use wembrit_core::flow::FailureCause;
use wembrit_core::ids::PlateId;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{new_uid, plates};
use crate::schema::remedies as r;

/// A change is made after failures of a plate.
///
/// # Errors
/// [`StoreError::Refused`] for no words.
pub fn make(
    conn: &mut Conn,
    plate: PlateId,
    cause: FailureCause,
    change: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    plates::load(conn, plate)?;
    if change.trim().is_empty() {
        return Err(StoreError::Refused("say what is changed".into()));
    }
    diesel::insert_into(r::table)
        .values((
            r::uid.eq(new_uid()),
            r::plate_id.eq(plate.0),
            r::cause.eq(cause.as_str()),
            r::change.eq(change.trim()),
            r::state.eq("made"),
            r::made_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Whether a change held.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn say(conn: &mut Conn, id: i64, held: bool) -> Result<PlateId, StoreError> {
    let state = if held { "held" } else { "did not hold" };
    let plate: i64 = diesel::update(r::table.find(id))
        .set(r::state.eq(state))
        .returning(r::plate_id)
        .get_result(conn)
        .or_not_found("change")?;
    Ok(PlateId(plate))
}
