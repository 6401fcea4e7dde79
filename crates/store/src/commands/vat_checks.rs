//! Looking into a vat between two runs.

use diesel::prelude::*;
use wembrit_core::flow::Stage;
use wembrit_core::ids::{CopyId, PlateId, PrinterId};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, one_row, plates, printers as all};
use crate::schema::{copies, plates as p, printers, vat_checks};

/// Somebody has looked into the vat of a printer; what was found, in words, or nothing. The printer
/// may run again.
///
/// # Errors
/// [`StoreError::NotFound`]; [`StoreError::Refused`] while pieces are missing and nobody says
/// whether they were found.
pub fn look(
    conn: &mut Conn,
    printer: PrinterId,
    found: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    all::load(conn, printer)?;
    let missing: i64 = copies::table
        .inner_join(p::table)
        .filter(p::printer_id.eq(printer.0))
        .filter(
            copies::missing
                .ne(0)
                .and(copies::stage.eq(Stage::InFinishing.as_str())),
        )
        .count()
        .get_result(conn)?;
    if missing > 0 && found.trim().is_empty() {
        return Err(StoreError::Refused(format!(
            "{missing} missing: say what was found, 'nothing' where the vat is clear"
        )));
    }
    diesel::insert_into(vat_checks::table)
        .values((
            vat_checks::uid.eq(new_uid()),
            vat_checks::printer_id.eq(printer.0),
            vat_checks::checked_at_ms.eq(now_ms),
            vat_checks::found.eq(found.trim()),
        ))
        .execute(conn)?;
    set_to_check(conn, printer, "")
}

/// A printer is to be looked into before its next run, and why; or not any more.
pub(super) fn set_to_check(
    conn: &mut Conn,
    printer: PrinterId,
    why: &str,
) -> Result<(), StoreError> {
    diesel::update(printers::table.find(printer.0))
        .set(printers::to_check.eq(why))
        .execute(conn)?;
    Ok(())
}

/// A copy of a plate is not there: its vat is searched before anything is printed in it.
pub(super) fn miss(
    conn: &mut Conn,
    plate: PlateId,
    copy: CopyId,
    name: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = plates::load(conn, plate)?;
    let one = copies::table.find(copy.0).filter(
        copies::plate_id
            .eq(plate.id.0)
            .and(copies::stage.eq(Stage::InFinishing.as_str())),
    );
    let changed = diesel::update(one)
        .set((
            copies::missing.eq(1),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    one_row(changed, "copy")?;
    let why = format!("{name} of plate {} is missing", plate.number);
    set_to_check(conn, plate.printer, &why)
}
