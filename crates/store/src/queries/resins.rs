//! Resins.

use diesel::prelude::*;
use wembrit_core::ids::ResinId;
use wembrit_core::units::Money;
use wembrit_core::workshop::resin::{Nature, Viscosity};

use super::{last_id, new_uid, one_row};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::Resin;
use crate::schema::resins::dsl;

/// Everything about a resin.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct ResinChange {
    pub name: String,
    pub price_per_kg: Money,
    pub density_g_per_ml: f64,
    pub viscosity: Viscosity,
    pub nature: Nature,
    pub wash_agents: String,
    pub safe_mm: f64,
    pub fuses_mm: f64,
    pub assumed: String,
}

fn um(mm: f64) -> i64 {
    (mm * 1000.0).round() as i64
}

/// The resins in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    Ok(dsl::resins
        .filter(dsl::removed_at_ms.is_null())
        .order(dsl::id)
        .select(Resin::as_select())
        .load(conn)?)
}

/// Every resin, used up ones too, for plates that were printed with them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list_all(conn: &mut Conn) -> Result<Vec<Resin>, StoreError> {
    Ok(dsl::resins
        .order(dsl::id)
        .select(Resin::as_select())
        .load(conn)?)
}

/// One resin, in use or not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: ResinId) -> Result<Resin, StoreError> {
    dsl::resins
        .find(id.0)
        .select(Resin::as_select())
        .first(conn)
        .or_not_found("resin")
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
            dsl::viscosity.eq(new.viscosity.as_str()),
            dsl::nature.eq(new.nature.as_str()),
            dsl::wash_agents.eq(&new.wash_agents),
            dsl::safe_um.eq(um(new.safe_mm)),
            dsl::fuses_um.eq(um(new.fuses_mm)),
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
        dsl::viscosity.eq(to.viscosity.as_str()),
        dsl::nature.eq(to.nature.as_str()),
        dsl::wash_agents.eq(&to.wash_agents),
        dsl::safe_um.eq(um(to.safe_mm)),
        dsl::fuses_um.eq(um(to.fuses_mm)),
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
