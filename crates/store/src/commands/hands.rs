//! Hands begin on a plate, stop, or are said to have taken so long.

use diesel::prelude::*;
use wembrit_core::ids::PlateId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, plates};
use crate::schema::hand_spells as hs;

/// Longest spell that is taken, min: a tap that was forgotten is no work.
const LONGEST_MINUTES: f64 = 600.0;

/// Hands begin on a plate.
///
/// # Errors
/// [`StoreError::Refused`] where they are on it already.
pub fn begin(conn: &mut Conn, plate: PlateId, now_ms: i64) -> Result<(), StoreError> {
    plates::load(conn, plate)?;
    if open(conn, plate)?.is_some() {
        return Err(StoreError::Refused(
            "your hands are on it already: stop first".into(),
        ));
    }
    insert(conn, plate, now_ms, None)
}

/// Hands stop.
///
/// # Errors
/// [`StoreError::Refused`] where they have not begun, or longer ago than anybody works.
pub fn stop(conn: &mut Conn, plate: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let Some((id, began)) = open(conn, plate)? else {
        return Err(StoreError::Refused(
            "they have not begun: start first".into(),
        ));
    };
    let minutes = (now_ms - began).max(0) as f64 / 60_000.0;
    if minutes > LONGEST_MINUTES {
        return Err(StoreError::Refused(format!(
            "they began {:.0} h ago, nobody works so long: write the minutes instead",
            minutes / 60.0
        )));
    }
    let row = hs::table.find(id);
    if minutes < 0.05 {
        // Tapped by mistake.
        diesel::delete(row).execute(conn)?;
    } else {
        diesel::update(row)
            .set(hs::minutes.eq(minutes))
            .execute(conn)?;
    }
    Ok(())
}

/// Somebody says how long it took; what is under way is meant.
///
/// # Errors
/// [`StoreError::Refused`] for no sensible figure.
pub fn say(conn: &mut Conn, plate: PlateId, minutes: f64, now_ms: i64) -> Result<(), StoreError> {
    plates::load(conn, plate)?;
    if !(minutes > 0.0 && minutes <= LONGEST_MINUTES) {
        return Err(StoreError::Refused(format!(
            "write minutes between 1 and {LONGEST_MINUTES:.0}"
        )));
    }
    if let Some((id, _)) = open(conn, plate)? {
        diesel::update(hs::table.find(id))
            .set(hs::minutes.eq(minutes))
            .execute(conn)?;
        return Ok(());
    }
    insert(conn, plate, now_ms, Some(minutes))
}

/// What was timed on a plate was wrong.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn forget(conn: &mut Conn, plate: PlateId) -> Result<(), StoreError> {
    diesel::delete(hs::table.filter(hs::plate_id.eq(plate.0))).execute(conn)?;
    Ok(())
}

fn open(conn: &mut Conn, plate: PlateId) -> Result<Option<(i64, i64)>, StoreError> {
    Ok(hs::table
        .filter(hs::plate_id.eq(plate.0).and(hs::minutes.is_null()))
        .select((hs::id, hs::began_at_ms))
        .first(conn)
        .optional()?)
}

fn insert(
    conn: &mut Conn,
    plate: PlateId,
    began_at_ms: i64,
    minutes: Option<f64>,
) -> Result<(), StoreError> {
    diesel::insert_into(hs::table)
        .values((
            hs::uid.eq(new_uid()),
            hs::plate_id.eq(plate.0),
            hs::began_at_ms.eq(began_at_ms),
            hs::minutes.eq(minutes),
        ))
        .execute(conn)?;
    Ok(())
}
