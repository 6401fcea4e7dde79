//! A plate goes onto another printer, or is wanted not before a moment.

use diesel::prelude::*;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::schedule::time_on;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{plates, printers, settings};
use crate::schema::plates as p;

/// Moves a plate that waits: its printer, with the time and setting of that, and the moment before
/// which it is not wanted, ms since 1970; nothing for as soon as can be.
///
/// # Errors
/// [`StoreError::Refused`] where it does not wait, or that printer cannot print it as it is.
pub fn move_plate(
    conn: &mut Conn,
    plate: PlateId,
    printer: PrinterId,
    not_before_ms: Option<i64>,
) -> Result<(), StoreError> {
    let known = plates::load(conn, plate)?;
    if known.state != PlateState::Planned {
        return Err(StoreError::Refused(format!(
            "plate {} does not wait for its printer any more: look at its sheet",
            known.number
        )));
    }
    let all = printers::list(conn)?;
    let own = printers::load(conn, known.printer)?;
    let other = all.iter().find(|p| p.id == printer);
    let other = other.ok_or_else(|| {
        StoreError::Refused("that printer is out of use: choose another one".into())
    })?;
    let (seconds, setting) = time_on(&known, &own, other, &settings::list(conn)?)
        .map_err(|why| StoreError::Refused(why.to_string()))?;
    if printer != known.printer {
        // What was told was told of the printer before.
        diesel::update(p::table.find(plate.0))
            .set(p::told_seconds.eq(None::<f64>))
            .execute(conn)?;
    }
    diesel::update(p::table.find(plate.0))
        .set((
            p::row_version.eq(known.row_version + 1),
            p::printer_id.eq(printer.0),
            p::setting_version_id.eq(setting.0),
            p::seconds.eq(seconds),
            p::not_before_ms.eq(not_before_ms),
        ))
        .execute(conn)?;
    Ok(())
}
