//! How long runs printed, and the paces of printers that follow from it.

use std::collections::HashSet;

use diesel::prelude::*;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::learn::{LoggedRun, Paces, TimedPlate, TimedRun};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::PrintTimeRow;
use crate::schema::{print_times, runs};

/// Runs that are looked at: more do not make a line better, and printers change.
const NEWEST: i64 = 2000;

/// Every run that was timed, oldest first; the newest of them where there are very many.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn log(conn: &mut Conn) -> Result<Vec<TimedPlate>, StoreError> {
    type Joined = (PrintTimeRow, i64, i64, Option<f64>);
    let newest: Vec<Option<i64>> = runs::table
        .group_by(runs::plate_id)
        .select(diesel::dsl::max(runs::id))
        .load(conn)?;
    let newest: HashSet<i64> = newest.into_iter().flatten().collect();
    let rows: Vec<Joined> = print_times::table
        .inner_join(runs::table)
        .order((runs::started_at_ms.desc(), runs::id.desc()))
        .limit(NEWEST)
        .select((
            PrintTimeRow::as_select(),
            runs::plate_id,
            runs::started_at_ms,
            runs::room_c,
        ))
        .load(conn)?;
    let timed = |(time, plate, at_ms, room_c): Joined| TimedPlate {
        plate: PlateId(plate),
        printer: PrinterId(time.printer_id),
        told: time.told != 0,
        newest: newest.contains(&time.run_id),
        run: LoggedRun {
            at_ms,
            time: TimedRun {
                reckoned_s: time.reckoned_s,
                actual_s: time.printed_s,
            },
            room_c,
        },
    };
    Ok(rows.into_iter().rev().map(timed).collect())
}

/// The paces of all printers.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Paces, StoreError> {
    Ok(Paces::learned(&log(conn)?))
}
