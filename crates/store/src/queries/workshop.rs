//! Figures of the whole workshop.

use diesel::prelude::*;
use wembrit_core::workshop::Workshop;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, WorkshopRow};
use crate::schema::workshop::dsl;

/// The figures.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Workshop, StoreError> {
    dsl::workshop
        .select(WorkshopRow::as_select())
        .noun::<WorkshopRow>(conn, "entry")
}

/// The hash of the passphrase that lets other devices in; empty where there is none.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn passphrase(conn: &mut Conn) -> Result<String, StoreError> {
    Ok(dsl::workshop.select(dsl::passphrase).first(conn)?)
}
