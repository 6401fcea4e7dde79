//! Bundles of files and subscriptions.

use std::collections::HashMap;

use diesel::dsl::count_star;
use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{bundles, sculpts};

/// A bundle, or a subscription.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Bundle {
    /// Which one.
    pub id: i64,
    /// What it is called.
    pub name: String,
    /// What was paid for it.
    pub price: Money,
    /// When, ms since 1970.
    pub bought_at_ms: i64,
    /// Sculpts that came with it.
    pub sculpts: u64,
}

/// All of them, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<Bundle>, StoreError> {
    let with: HashMap<i64, i64> = sculpts::table
        .filter(sculpts::bundle_id.is_not_null())
        .group_by(sculpts::bundle_id)
        .select((sculpts::bundle_id.assume_not_null(), count_star()))
        .load::<(i64, i64)>(conn)?
        .into_iter()
        .collect();
    let rows: Vec<(i64, String, i64, i64)> = bundles::table
        .order(bundles::id)
        .select((
            bundles::id,
            bundles::name,
            bundles::price_minor,
            bundles::bought_at_ms,
        ))
        .load(conn)?;
    let bundle = |(id, name, price, bought_at_ms)| Bundle {
        sculpts: with.get(&id).copied().unwrap_or(0).max(0) as u64,
        id,
        name,
        price: Money(price),
        bought_at_ms,
    };
    Ok(rows.into_iter().map(bundle).collect())
}

/// The bundle a sculpt came with.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, sculpt: SculptId) -> Result<Option<i64>, StoreError> {
    let of: Option<Option<i64>> = sculpts::table
        .find(sculpt.0)
        .select(sculpts::bundle_id)
        .first(conn)
        .optional()?;
    Ok(of.flatten())
}
