//! How long a run printed: said at once, or later.

use diesel::prelude::*;
use wembrit_core::flow::RunOutcome;
use wembrit_core::ids::PlateId;
use wembrit_core::running::{on_printer_s, printed_s};

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

/// Writes down how long the newest run of a plate printed, beside what was reckoned of it; what was
/// said before is replaced.
///
/// # Errors
/// [`StoreError::Refused`] where the plate was not printed to its end, or cannot have been printed for so long.
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
    let there = on_printer_s(from, to, held);
    let refused = |why: String| StoreError::Refused(why);
    let seconds = match printed {
        Printed::For(said) => printed_s(said, there).map_err(|doubt| refused(doubt.to_string()))?,
        Printed::ToItsEnd => there.ok_or_else(|| {
            refused(
                "the plate was started and taken off at the same moment: enter how long it printed"
                    .into(),
            )
        })?,
    };
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
