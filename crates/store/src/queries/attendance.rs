//! When somebody is there.

use diesel::prelude::*;
use wembrit_core::workshop::attendance::Attendance;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{AttendanceRow, Nouns};
use crate::schema::attendance::dsl;

/// When somebody is there, and what the hands need.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Attendance, StoreError> {
    dsl::attendance
        .select(AttendanceRow::as_select())
        .noun::<AttendanceRow>(conn, "attendance")
}

/// The same for the form that mends it: what cannot be read is as in a new workshop.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn as_far_as_read(conn: &mut Conn) -> Result<Attendance, StoreError> {
    let row = dsl::attendance
        .select(AttendanceRow::as_select())
        .first::<AttendanceRow>(conn)
        .or_not_found("attendance")?;
    Ok(row.into_what_can_be_read())
}
