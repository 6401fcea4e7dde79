//! Resins.

use diesel::prelude::*;
use wembrit_core::ids::ResinId;
use wembrit_core::units::Money;
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::resin::{Nature, Viscosity};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{last_id, new_uid, one_row};
use crate::schema::resins::dsl;

/// Everything about a resin.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct ResinChange {
    pub name: String,
    pub price_per_kg: Money,
    pub density_g_per_ml: f64,
    pub cured_g_per_ml: f64,
    pub film_mm: f64,
    pub viscosity: Viscosity,
    pub nature: Nature,
    pub wash_agents: String,
    pub safe_mm: f64,
    pub fuses_mm: f64,
    /// Where its safety data sheet is.
    pub data_sheet: String,
    pub assumed: String,
}

impl ResinChange {
    /// Everything about a resin.
    #[must_use]
    pub fn of(resin: Resin) -> Self {
        Self {
            name: resin.name,
            price_per_kg: resin.facts.price_per_kg,
            density_g_per_ml: resin.facts.density_g_per_ml,
            cured_g_per_ml: resin.facts.cured_g_per_ml,
            film_mm: resin.facts.film_mm,
            viscosity: resin.viscosity,
            nature: resin.nature,
            wash_agents: resin.wash_agents,
            safe_mm: resin.safe_mm,
            fuses_mm: resin.fuses_mm,
            data_sheet: resin.data_sheet,
            assumed: resin.assumed,
        }
    }
}

fn um(mm: f64) -> i64 {
    (mm * 1000.0).round() as i64
}

/// Adds a resin.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn add(conn: &mut Conn, new: &ResinChange) -> Result<ResinId, StoreError> {
    diesel::insert_into(dsl::resins)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::name.eq(&new.name),
            dsl::price_per_kg_minor.eq(new.price_per_kg.0),
            dsl::density_g_per_ml.eq(new.density_g_per_ml),
            dsl::cured_g_per_ml.eq(new.cured_g_per_ml),
            dsl::film_um.eq(um(new.film_mm)),
            dsl::viscosity.eq(new.viscosity.as_str()),
            dsl::nature.eq(new.nature.as_str()),
            dsl::wash_agents.eq(&new.wash_agents),
            dsl::safe_um.eq(um(new.safe_mm)),
            dsl::fuses_um.eq(um(new.fuses_mm)),
            dsl::data_sheet.eq(&new.data_sheet),
            dsl::assumed.eq(&new.assumed),
        ))
        .execute(conn)?;
    last_id(conn).map(ResinId)
}

/// Changes a resin.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since `row_version`.
pub fn change(
    conn: &mut Conn,
    id: ResinId,
    row_version: i64,
    to: &ResinChange,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        dsl::resins
            .find(id.0)
            .filter(dsl::row_version.eq(row_version)),
    )
    .set((
        dsl::row_version.eq(row_version + 1),
        dsl::name.eq(&to.name),
        dsl::price_per_kg_minor.eq(to.price_per_kg.0),
        dsl::density_g_per_ml.eq(to.density_g_per_ml),
        dsl::cured_g_per_ml.eq(to.cured_g_per_ml),
        dsl::film_um.eq(um(to.film_mm)),
        dsl::viscosity.eq(to.viscosity.as_str()),
        dsl::nature.eq(to.nature.as_str()),
        dsl::wash_agents.eq(&to.wash_agents),
        dsl::safe_um.eq(um(to.safe_mm)),
        dsl::fuses_um.eq(um(to.fuses_mm)),
        dsl::data_sheet.eq(&to.data_sheet),
        dsl::assumed.eq(&to.assumed),
    ))
    .execute(conn)?;
    one_row(changed, "resin")
}

/// Takes a resin out of use or back in.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn set_removed(
    conn: &mut Conn,
    id: ResinId,
    removed_at_ms: Option<i64>,
) -> Result<(), StoreError> {
    let changed = diesel::update(dsl::resins.find(id.0))
        .set(dsl::removed_at_ms.eq(removed_at_ms))
        .execute(conn)?;
    one_row(changed, "resin")
}
