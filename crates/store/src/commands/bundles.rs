//! Bundles of files and subscriptions: what was paid, and what came with them.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{last_id, new_uid, one_row};
use crate::schema::{bundles, sculpts};

/// Something was bought; every sculpt that has neither a price nor a bundle came with it where `all` is said.
///
/// # Errors
/// [`StoreError::Refused`] without a name.
pub fn buy(
    conn: &mut Conn,
    name: &str,
    price: Money,
    all: bool,
    now_ms: i64,
) -> Result<(), StoreError> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > 120 {
        return Err(StoreError::Refused(
            "write what it is called, in up to 120 letters".into(),
        ));
    }
    diesel::insert_into(bundles::table)
        .values((
            bundles::uid.eq(new_uid()),
            bundles::name.eq(name),
            bundles::price_minor.eq(price.0),
            bundles::bought_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let bundle = last_id(conn)?;
    if all {
        let without = sculpts::table
            .filter(sculpts::price_minor.eq(0).and(sculpts::bundle_id.is_null()))
            .filter(sculpts::removed_at_ms.is_null());
        diesel::update(without)
            .set(sculpts::bundle_id.eq(bundle))
            .execute(conn)?;
    }
    Ok(())
}

/// A sculpt came with a bundle, or by itself.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn came_with(conn: &mut Conn, sculpt: SculptId, bundle: Option<i64>) -> Result<(), StoreError> {
    if let Some(bundle) = bundle {
        bundles::table
            .find(bundle)
            .select(bundles::id)
            .first::<i64>(conn)
            .or_not_found("bundle")?;
    }
    let changed = diesel::update(sculpts::table.find(sculpt.0))
        .set(sculpts::bundle_id.eq(bundle))
        .execute(conn)?;
    one_row(changed, "sculpt")
}

/// A bundle is forgotten; what came with it came by itself.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn forget(conn: &mut Conn, bundle: i64) -> Result<(), StoreError> {
    diesel::update(sculpts::table.filter(sculpts::bundle_id.eq(bundle)))
        .set(sculpts::bundle_id.eq(None::<i64>))
        .execute(conn)?;
    match diesel::delete(bundles::table.find(bundle)).execute(conn)? {
        0 => Err(StoreError::NotFound { what: "bundle" }),
        _ => Ok(()),
    }
}
