//! Printers.

use diesel::prelude::*;
use wembrit_core::geometry::Quarter;
use wembrit_core::ids::PrinterId;
use wembrit_core::units::Money;
use wembrit_core::workshop::Printer;
use wembrit_core::workshop::print_time::MachineKind;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{last_id, new_uid, one_row};
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
    pub part_pull: Option<f64>,
    pub plate_pull: Option<f64>,
    pub change_minutes: f64,
    pub change_ml: f64,
    pub watts: f64,
    pub price: Money,
    pub life_h: f64,
    pub assumed: String,
}

impl PrinterChange {
    /// Everything about a printer.
    #[must_use]
    pub fn of(printer: Printer) -> Self {
        Self {
            name: printer.name,
            kind: printer.kind,
            width_mm: printer.width_mm,
            depth_mm: printer.depth_mm,
            height_mm: printer.height_mm,
            margin_mm: printer.margin_mm,
            startup_s: printer.startup_s,
            pixel_um: printer.pixel_um,
            removal_mm: printer.removal_mm,
            part_pull: printer.part_pull,
            plate_pull: printer.plate_pull,
            change_minutes: printer.change_minutes,
            change_ml: printer.change_ml,
            watts: printer.watts,
            price: printer.price,
            life_h: printer.life_h,
            assumed: printer.assumed,
        }
    }
}

/// The columns of a change.
#[derive(Insertable, AsChangeset)]
#[diesel(table_name = crate::schema::printers)]
struct PrinterValues<'a> {
    name: &'a str,
    kind: &'static str,
    width_mm: f64,
    depth_mm: f64,
    height_mm: f64,
    margin_mm: f64,
    startup_s: f64,
    pixel_um: i64,
    removal_mm: f64,
    part_pull: f64,
    plate_pull: f64,
    change_minutes: f64,
    change_ml: f64,
    watts: f64,
    price_minor: i64,
    life_h: f64,
    assumed: &'a str,
}

impl<'a> From<&'a PrinterChange> for PrinterValues<'a> {
    fn from(to: &'a PrinterChange) -> Self {
        Self {
            name: &to.name,
            kind: to.kind.as_str(),
            width_mm: to.width_mm,
            depth_mm: to.depth_mm,
            height_mm: to.height_mm,
            margin_mm: to.margin_mm,
            startup_s: to.startup_s,
            pixel_um: i64::from(to.pixel_um),
            removal_mm: to.removal_mm,
            part_pull: to.part_pull.unwrap_or(0.0),
            plate_pull: to.plate_pull.unwrap_or(0.0),
            change_minutes: to.change_minutes,
            change_ml: to.change_ml,
            watts: to.watts,
            price_minor: to.price.0,
            life_h: to.life_h,
            assumed: &to.assumed,
        }
    }
}

/// Adds a printer.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add(conn: &mut Conn, new: &PrinterChange) -> Result<PrinterId, StoreError> {
    diesel::insert_into(dsl::printers)
        .values((dsl::uid.eq(new_uid()), PrinterValues::from(new)))
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
        PrinterValues::from(to),
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

/// Slender parts are kept out of a quarter of its plate from the next plan on, or no longer.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn keep_clear(
    conn: &mut Conn,
    id: PrinterId,
    quarter: Option<Quarter>,
) -> Result<(), StoreError> {
    let word = quarter.map_or("", Quarter::as_str);
    let changed = diesel::update(dsl::printers.find(id.0))
        .set(dsl::kept_clear.eq(word))
        .execute(conn)?;
    one_row(changed, "printer")
}
