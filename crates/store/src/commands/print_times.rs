//! How long a run printed: said at once, or later.

use diesel::prelude::*;
use wembrit_core::flow::RunOutcome;
use wembrit_core::ids::PlateId;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::PrintTimeRow;
use crate::schema::{plates, print_times, runs};

/// How long a plate printed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Printed {
    /// So many seconds, as the printer says: without what it was held.
    For(f64),
    /// From its start to when it was taken off, without what it was held: somebody was there.
    ToItsEnd,
}

/// Clocks and people are so far off, s.
const ROUGHLY_S: f64 = 900.0;
/// A run that was written down in so little was not timed by it, s.
const AT_ONCE_S: f64 = 60.0;

/// Writes down how long the newest run of a plate printed, beside what was reckoned of it; what was
/// said before is replaced.
///
/// # Errors
/// [`StoreError::Refused`] where the plate was not printed to its end, or for longer than it was on
/// the printer.
pub fn say(
    conn: &mut Conn,
    plate: PlateId,
    printed: Printed,
    now_ms: i64,
) -> Result<(), StoreError> {
    type Known = (
        i64,
        i64,
        Option<i64>,
        Option<String>,
        Option<i64>,
        i64,
        Option<i64>,
    );
    let (run, from, to, outcome, layer, held, since): Known = runs::table
        .filter(runs::plate_id.eq(plate.0))
        .order(runs::id.desc())
        .select((
            runs::id,
            runs::started_at_ms,
            runs::ended_at_ms,
            runs::outcome,
            runs::stopped_at_layer,
            runs::paused_ms,
            runs::paused_at_ms,
        ))
        .first(conn)
        .or_not_found("run")?;
    let put_back = outcome.as_deref() == Some(RunOutcome::PutBack.as_str());
    let Some(to) = to.filter(|_| layer.is_none() && !put_back) else {
        return Err(StoreError::Refused(
            "its last run was not printed to the end: there is no time to learn from".into(),
        ));
    };
    let held = held + since.map_or(0, |since| (to - since).max(0));
    let on_printer_s = (to - from - held) as f64 / 1000.0;
    let timed = on_printer_s > AT_ONCE_S;
    let seconds = match printed {
        Printed::For(seconds) => seconds,
        Printed::ToItsEnd if timed => on_printer_s,
        Printed::ToItsEnd => {
            return Err(StoreError::Refused(
                "it was started and taken off at the same moment: say for how long it printed"
                    .into(),
            ));
        }
    };
    if timed && seconds > on_printer_s + ROUGHLY_S {
        return Err(StoreError::Refused(format!(
            "it was on the printer for {:.1} h only, without what it was held: {:.1} h cannot be",
            on_printer_s / 3600.0,
            seconds / 3600.0
        )));
    }
    let (printer_id, reckoned_s, told): (i64, f64, Option<f64>) = plates::table
        .find(plate.0)
        .select((plates::printer_id, plates::seconds, plates::told_seconds))
        .first(conn)?;
    let row = PrintTimeRow {
        run_id: run,
        printer_id,
        reckoned_s: told.unwrap_or(reckoned_s),
        told: i64::from(told.is_some()),
        printed_s: seconds,
        said_at_ms: now_ms,
    };
    diesel::insert_into(print_times::table)
        .values(&row)
        .on_conflict(print_times::run_id)
        .do_update()
        .set(&row)
        .execute(conn)?;
    Ok(())
}
