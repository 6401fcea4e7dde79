//! Figures of the whole workshop.

use diesel::prelude::*;
use wembrit_core::units::{LayerHeight, Money};

use super::one_row;
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::Workshop;
use crate::schema::workshop::dsl;

/// New figures; all of them.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct WorkshopChange {
    pub name: String,
    pub currency: String,
    pub time_zone: String,
    pub layer: LayerHeight,
    pub clearance_mm: f64,
    pub waste_share: f64,
    pub hands_on_minutes: f64,
    pub hands_on_per_hour: Money,
    pub assumed: String,
}

/// The figures.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Workshop, StoreError> {
    Ok(dsl::workshop.select(Workshop::as_select()).first(conn)?)
}

/// Changes the figures.
///
/// # Errors
/// [`StoreError::Conflict`] when they were changed since `row_version`.
pub fn change(conn: &mut Conn, row_version: i64, to: &WorkshopChange) -> Result<(), StoreError> {
    let changed = diesel::update(dsl::workshop.filter(dsl::row_version.eq(row_version)))
        .set((
            dsl::row_version.eq(row_version + 1),
            dsl::name.eq(&to.name),
            dsl::currency.eq(&to.currency),
            dsl::time_zone.eq(&to.time_zone),
            dsl::layer_um.eq(i64::from(to.layer.um())),
            dsl::clearance_mm.eq(to.clearance_mm),
            dsl::waste_share.eq(to.waste_share),
            dsl::hands_on_minutes.eq(to.hands_on_minutes),
            dsl::hands_on_per_hour_minor.eq(to.hands_on_per_hour.0),
            dsl::assumed.eq(&to.assumed),
        ))
        .execute(conn)?;
    one_row(changed, "workshop")
}
