//! What was put on the scale.

use diesel::prelude::*;
use wembrit_core::ids::{PlateId, ResinId};
use wembrit_core::learn::{Weighed, Weights};
use wembrit_core::stores::OnScale;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{parts, weighings as w};

/// Weighings that are looked at: the newest.
const NEWEST: i64 = 2000;

/// What prints of each resin weigh against what was reckoned. Prints that hold liquid tell nothing of it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn weights(conn: &mut Conn) -> Result<Weights, StoreError> {
    let rows: Vec<(i64, f64, f64)> = w::table
        .filter(w::liquid_ml.is_null())
        .order(w::id.desc())
        .limit(NEWEST)
        .select((w::resin_id, w::reckoned_g, w::weighed_g))
        .load(conn)?;
    let weighed = |(resin, reckoned_g, weighed_g)| Weighed {
        resin: ResinId(resin),
        reckoned_g,
        weighed_g,
    };
    let log: Vec<Weighed> = rows.into_iter().rev().map(weighed).collect();
    Ok(Weights::learned(&log))
}

/// Something that was weighed.
#[derive(Debug, Clone, PartialEq)]
pub struct Weighing {
    /// Which one.
    pub id: i64,
    /// Name of its part; nothing for all of the plate.
    pub part: Option<String>,
    /// How many copies.
    pub copies: i64,
    /// How far they were finished.
    pub state: OnScale,
    /// What it was reckoned at, and what it weighed, g.
    pub grams: [f64; 2],
    /// Liquid it seems to hold, ml.
    pub liquid_ml: Option<f64>,
    /// When, ms since 1970.
    pub at_ms: i64,
}

/// What was weighed of a plate, newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plate(conn: &mut Conn, plate: PlateId) -> Result<Vec<Weighing>, StoreError> {
    type Row = (i64, Option<String>, i64, String, f64, f64, Option<f64>, i64);
    let rows: Vec<Row> = w::table
        .left_join(parts::table)
        .filter(w::plate_id.eq(plate.0))
        .order(w::id.desc())
        .select((
            w::id,
            parts::name.nullable(),
            w::copies,
            w::state,
            w::reckoned_g,
            w::weighed_g,
            w::liquid_ml,
            w::weighed_at_ms,
        ))
        .load(conn)?;
    let weighing = |(id, part, copies, state, reckoned, weighed, liquid_ml, at_ms): Row| {
        Ok(Weighing {
            id,
            part,
            copies,
            state: state
                .parse()
                .map_err(|_| StoreError::BadRow(format!("no state on the scale is {state}")))?,
            grams: [reckoned, weighed],
            liquid_ml,
            at_ms,
        })
    };
    rows.into_iter().map(weighing).collect()
}
