//! Printers.

use diesel::prelude::*;
use wembrit_core::ids::PrinterId;
use wembrit_core::workshop::Printer;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{paces, put_in};
use crate::rows::PrinterRow;
use crate::schema::printers::dsl;

fn with_paces(conn: &mut Conn, rows: Vec<PrinterRow>) -> Result<Vec<Printer>, StoreError> {
    let (paces, put_in) = (paces::load(conn)?, put_in::load(conn)?);
    let with = |row: PrinterRow| row.with(&paces, &put_in);
    Ok(rows.into_iter().map(with).collect())
}

/// The printers in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Printer>, StoreError> {
    let rows = dsl::printers
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(PrinterRow::as_select())
        .load::<PrinterRow>(conn)?;
    with_paces(conn, rows)
}

/// All printers, those out of use among them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list_all(conn: &mut Conn) -> Result<Vec<Printer>, StoreError> {
    let rows = dsl::printers
        .order(dsl::id)
        .select(PrinterRow::as_select())
        .load::<PrinterRow>(conn)?;
    with_paces(conn, rows)
}

/// One printer, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrinterId) -> Result<Printer, StoreError> {
    let row: PrinterRow = dsl::printers
        .find(id.0)
        .select(PrinterRow::as_select())
        .first(conn)
        .or_not_found("printer")?;
    Ok(row.with(&paces::load(conn)?, &put_in::load(conn)?))
}
