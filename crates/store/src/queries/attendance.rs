//! When somebody is there.

use diesel::prelude::*;
use wembrit_core::workshop::attendance::Attendance;

use crate::conn::Conn;
use crate::error::StoreError;
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
