//! A plate that was not started is released.

use wembrit_core::flow::{CopyEvent, PlateState};
use wembrit_core::ids::PlateId;

use super::step_plate::{move_copies, step};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plates::load;

/// Releases a plate that was not started; its copies are wanted again.
///
/// # Errors
/// [`StoreError::Flow`] when it was started.
pub fn release(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Released)?;
    move_copies(conn, id, CopyEvent::Release, now_ms)
}
