//! Figures of the whole workshop.

use diesel::prelude::*;
use wembrit_core::units::LayerHeight;
use wembrit_core::workshop::{Rates, Workshop, without};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::one_row;
use crate::schema::workshop::dsl;

/// New figures; all of them.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct WorkshopChange {
    pub name: String,
    pub currency: String,
    pub time_zone: String,
    pub layer: LayerHeight,
    pub rates: Rates,
    pub assumed: String,
}

impl WorkshopChange {
    /// What holds already, to change something of it.
    #[must_use]
    pub fn of(known: &Workshop) -> Self {
        Self {
            name: known.name.clone(),
            currency: known.currency.clone(),
            time_zone: known.time_zone.clone(),
            layer: known.layer,
            rates: known.rates,
            assumed: known.assumed.clone(),
        }
    }
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
            dsl::clearance_mm.eq(to.rates.clearance_mm),
            dsl::waste_share.eq(to.rates.waste_share),
            dsl::hands_on_minutes.eq(to.rates.hands_on_minutes),
            dsl::hands_on_per_hour_minor.eq(to.rates.hands_on_per_hour.0),
            dsl::copy_minutes.eq(to.rates.copy_minutes),
            dsl::contact_minutes.eq(to.rates.contact_minutes),
            dsl::kwh_minor.eq(to.rates.kwh.0),
            dsl::assumed.eq(&to.assumed),
        ))
        .execute(conn)?;
    one_row(changed, "workshop")
}

/// Counts so many minutes of hands for a plate, for each copy and for each contact from now on, as was learned.
///
/// # Errors
/// As [`change`].
pub fn count_hands(
    conn: &mut Conn,
    known: &Workshop,
    row_version: i64,
    [plate, copy, contact]: [f64; 3],
) -> Result<(), StoreError> {
    let mut to = WorkshopChange::of(known);
    to.rates.hands_on_minutes = plate;
    to.rates.copy_minutes = copy;
    to.rates.contact_minutes = contact;
    to.assumed = without("hands_on_minutes", &known.assumed);
    change(conn, row_version, &to)
}

/// Keeps the hash of a passphrase in place of the one before.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_passphrase(conn: &mut Conn, hash: &str) -> Result<(), StoreError> {
    let changed = diesel::update(dsl::workshop)
        .set(dsl::passphrase.eq(hash))
        .execute(conn)?;
    crate::queries::one_row(changed, "workshop")
}
