//! Resins.

use diesel::prelude::*;
use wembrit_core::ids::ResinId;
use wembrit_core::workshop::Resin;

use super::weighings;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::ResinRow;
use crate::schema::resins::dsl;

fn weighing(conn: &mut Conn, rows: Vec<ResinRow>) -> Result<Vec<Resin>, StoreError> {
    let weights = weighings::weights(conn)?;
    Ok(rows.into_iter().map(|row| row.with(&weights)).collect())
}

/// The resins in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    let rows = dsl::resins
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(ResinRow::as_select())
        .load(conn)?;
    weighing(conn, rows)
}

/// Every resin, used up ones too, for plates that were printed with them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list_all(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    let rows = dsl::resins
        .order(dsl::id)
        .select(ResinRow::as_select())
        .load(conn)?;
    weighing(conn, rows)
}

/// One resin, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: ResinId) -> Result<Resin, StoreError> {
    let row: ResinRow = dsl::resins
        .find(id.0)
        .select(ResinRow::as_select())
        .first(conn)
        .or_not_found("resin")?;
    Ok(row.with(&weighings::weights(conn)?))
}
