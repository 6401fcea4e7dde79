//! Resins.

use diesel::prelude::*;
use wembrit_core::ids::ResinId;
use wembrit_core::workshop::Resin;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, ResinRow};
use crate::schema::resins::dsl;

/// The resins in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    dsl::resins
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(ResinRow::as_select())
        .nouns::<ResinRow>(conn)
}

/// Every resin, used up ones too, for plates that were printed with them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list_all(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    dsl::resins
        .order(dsl::id)
        .select(ResinRow::as_select())
        .nouns::<ResinRow>(conn)
}

/// One resin, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: ResinId) -> Result<Resin, StoreError> {
    dsl::resins
        .find(id.0)
        .select(ResinRow::as_select())
        .noun::<ResinRow>(conn, "resin")
}
