//! Printers.

use diesel::prelude::*;
use wembrit_core::ids::PrinterId;
use wembrit_core::workshop::print_time::MachineKind;

use super::{last_id, new_uid, one_row};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::Printer;
use crate::schema::printers::dsl;

/// Everything about a printer.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct PrinterChange {
    pub name: String,
    pub kind: MachineKind,
    pub width_mm: f64,
    pub depth_mm: f64,
    pub height_mm: f64,
    pub margin_mm: f64,
    pub startup_s: f64,
    pub pixel_um: u32,
    pub removal_mm: f64,
    pub part_pull: f64,
    pub plate_pull: f64,
    pub assumed: String,
}

/// The printers in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Printer>, StoreError> {
    Ok(dsl::printers
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(Printer::as_select())
        .load(conn)?)
}

/// One printer, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrinterId) -> Result<Printer, StoreError> {
    dsl::printers
        .find(id.0)
        .select(Printer::as_select())
        .first(conn)
        .or_not_found("printer")
}

/// Adds a printer.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add(conn: &mut Conn, new: &PrinterChange) -> Result<PrinterId, StoreError> {
    diesel::insert_into(dsl::printers)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::name.eq(&new.name),
            dsl::kind.eq(new.kind.as_str()),
            dsl::width_mm.eq(new.width_mm),
            dsl::depth_mm.eq(new.depth_mm),
            dsl::height_mm.eq(new.height_mm),
            dsl::margin_mm.eq(new.margin_mm),
            dsl::startup_s.eq(new.startup_s),
            dsl::pixel_um.eq(i64::from(new.pixel_um)),
            dsl::removal_mm.eq(new.removal_mm),
            dsl::part_pull.eq(new.part_pull),
            dsl::plate_pull.eq(new.plate_pull),
            dsl::assumed.eq(&new.assumed),
        ))
        .execute(conn)?;
    last_id(conn).map(PrinterId)
}

/// Changes a printer.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change(
    conn: &mut Conn,
    id: PrinterId,
    row_version: i64,
    to: &PrinterChange,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        dsl::printers
            .find(id.0)
            .filter(dsl::row_version.eq(row_version)),
    )
    .set((
        dsl::row_version.eq(row_version + 1),
        dsl::name.eq(&to.name),
        dsl::kind.eq(to.kind.as_str()),
        dsl::width_mm.eq(to.width_mm),
        dsl::depth_mm.eq(to.depth_mm),
        dsl::height_mm.eq(to.height_mm),
        dsl::margin_mm.eq(to.margin_mm),
        dsl::startup_s.eq(to.startup_s),
        dsl::pixel_um.eq(i64::from(to.pixel_um)),
        dsl::removal_mm.eq(to.removal_mm),
        dsl::part_pull.eq(to.part_pull),
        dsl::plate_pull.eq(to.plate_pull),
        dsl::assumed.eq(&to.assumed),
    ))
    .execute(conn)?;
    one_row(changed, "printer")
}

/// Takes a printer out of use or back in; what it has printed stays.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn set_removed(
    conn: &mut Conn,
    id: PrinterId,
    removed_at_ms: Option<i64>,
) -> Result<(), StoreError> {
    let changed = diesel::update(dsl::printers.find(id.0))
        .set(dsl::removed_at_ms.eq(removed_at_ms))
        .execute(conn)?;
    one_row(changed, "printer")
}
