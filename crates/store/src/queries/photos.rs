//! Photographs of copies.

use diesel::prelude::*;
use wembrit_core::ids::{CopyId, PlateId};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::schema::{copies, photos};

/// The photographs of a plate's copies, the oldest first: number and copy.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plate(conn: &mut Conn, plate: PlateId) -> Result<Vec<(i64, CopyId)>, StoreError> {
    let rows: Vec<(i64, i64)> = photos::table
        .inner_join(copies::table)
        .filter(copies::plate_id.eq(plate.0))
        .order(photos::id)
        .select((photos::id, photos::copy_id))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, copy)| (id, CopyId(copy)))
        .collect())
}

/// A photograph, as JPEG.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: i64) -> Result<Vec<u8>, StoreError> {
    photos::table
        .find(id)
        .select(photos::jpeg)
        .first(conn)
        .or_not_found("photograph")
}
