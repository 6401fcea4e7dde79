//! Printers.

use diesel::prelude::*;
use wembrit_core::ids::PrinterId;
use wembrit_core::workshop::Printer;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, PrinterRow};
use crate::schema::printers::dsl;

/// The printers in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Printer>, StoreError> {
    dsl::printers
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(PrinterRow::as_select())
        .nouns::<PrinterRow>(conn)
}

/// All printers, those out of use among them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list_all(conn: &mut Conn) -> Result<Vec<Printer>, StoreError> {
    dsl::printers
        .order(dsl::id)
        .select(PrinterRow::as_select())
        .nouns::<PrinterRow>(conn)
}

/// One printer, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrinterId) -> Result<Printer, StoreError> {
    dsl::printers
        .find(id.0)
        .select(PrinterRow::as_select())
        .noun::<PrinterRow>(conn, "printer")
}
