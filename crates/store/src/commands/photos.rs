//! Photographs of copies.

use diesel::prelude::*;
use wembrit_core::ids::{CopyId, PlateId};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::new_uid;
use crate::schema::{copies, photos};

/// Keeps a photograph of a copy, as JPEG; the plate the copy is on.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn add(conn: &mut Conn, copy: CopyId, jpeg: &[u8], now_ms: i64) -> Result<PlateId, StoreError> {
    let plate: i64 = copies::table
        .find(copy.0)
        .select(copies::plate_id)
        .first(conn)
        .or_not_found("copy")?;
    diesel::insert_into(photos::table)
        .values((
            photos::uid.eq(new_uid()),
            photos::copy_id.eq(copy.0),
            photos::taken_at_ms.eq(now_ms),
            photos::jpeg.eq(jpeg),
        ))
        .execute(conn)?;
    Ok(PlateId(plate))
}
