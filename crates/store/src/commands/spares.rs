//! Spares are written as they were advised, with the reason.

use diesel::prelude::*;
use wembrit_core::ids::PartId;

use super::{army_size, settle_copies};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::muster;
use crate::schema::parts;

/// So many spares of a part, for this reason.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn write(
    conn: &mut Conn,
    part: PartId,
    spares: u64,
    why: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let of = muster::part(conn, part)?;
    diesel::update(parts::table.find(part.0))
        .set((
            parts::spares.eq(spares as i64),
            parts::spares_why.eq(why),
            parts::row_version.eq(parts::row_version + 1),
        ))
        .execute(conn)?;
    army_size::check_of_model(conn, of.model)?;
    settle_copies::settle_model(conn, of.model, now_ms)
}
