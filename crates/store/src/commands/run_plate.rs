//! The run of a plate: started, taken off, written down afterwards, put back, lost.

use diesel::prelude::*;
use wembrit_core::flow::{CopyEvent, FailureCause, PlateState, RunOutcome};
use wembrit_core::ids::PlateId;

use super::step_plate::{fail_all, move_copies, step};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plates::load;
use crate::queries::{new_uid, printers};
use crate::schema::{plates, runs};

/// Starts a plate on its printer.
///
/// # Errors
/// [`StoreError::Refused`] while the printer is running another plate; [`StoreError::Flow`] when
/// the plate is not waiting.
pub fn start(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    let same_printer = plates::printer_id.eq(plate.printer.0);
    let running: Option<i64> = plates::table
        .filter(
            same_printer
                .and(plates::state.eq(PlateState::Running.as_str()))
                .and(plates::id.ne(id.0)),
        )
        .select(plates::number)
        .first(conn)
        .optional()?;
    if let Some(number) = running {
        let printer = printers::load(conn, plate.printer)?.name;
        return Err(StoreError::Refused(format!(
            "{printer} is still running plate {number}: take it off first"
        )));
    }
    step(conn, &plate, PlateState::Running)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    begin_run(conn, id, now_ms)
}

fn begin_run(conn: &mut Conn, id: PlateId, started_at_ms: i64) -> Result<(), StoreError> {
    diesel::insert_into(runs::table)
        .values((
            runs::uid.eq(new_uid()),
            runs::plate_id.eq(id.0),
            runs::started_at_ms.eq(started_at_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Takes a running plate off its printer.
///
/// # Errors
/// [`StoreError::Flow`] when it is not running; [`StoreError::Refused`] when it would end before
/// it began.
pub fn finish(
    conn: &mut Conn,
    id: PlateId,
    ended_at_ms: i64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Finish, now_ms)?;
    end_run(conn, id, ended_at_ms, RunOutcome::Held, None)
}

/// Ends the run of a plate that is under way.
fn end_run(
    conn: &mut Conn,
    id: PlateId,
    ended_at_ms: i64,
    outcome: RunOutcome,
    stopped_at_layer: Option<i64>,
) -> Result<(), StoreError> {
    let run = runs::table.filter(
        runs::plate_id
            .eq(id.0)
            .and(runs::ended_at_ms.is_null())
            .and(runs::started_at_ms.le(ended_at_ms)),
    );
    let changed = diesel::update(run)
        .set((
            runs::ended_at_ms.eq(ended_at_ms),
            runs::outcome.eq(outcome.as_str()),
            runs::stopped_at_layer.eq(stopped_at_layer),
        ))
        .execute(conn)?;
    if changed == 0 {
        return Err(StoreError::Refused(
            "the run cannot end before it began: correct the time".into(),
        ));
    }
    Ok(())
}

/// Writes down afterwards a run nobody logged, in one step.
///
/// # Errors
/// As [`start`] and [`finish`].
pub fn log_run(
    conn: &mut Conn,
    id: PlateId,
    started_at_ms: i64,
    ended_at_ms: i64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    move_copies(conn, id, CopyEvent::Finish, now_ms)?;
    begin_run(conn, id, started_at_ms)?;
    end_run(conn, id, ended_at_ms, RunOutcome::Held, None)
}

/// Takes a plate back: from a running printer, or after it was lost. It waits for another run with
/// the same copies, so what is wanted does not change.
///
/// # Errors
/// [`StoreError::Flow`] when it is neither running nor lost.
pub fn put_back(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Planned)?;
    if plate.state == PlateState::Running {
        end_run(conn, id, now_ms, RunOutcome::PutBack, None)?;
        move_copies(conn, id, CopyEvent::PutBack, now_ms)
    } else {
        move_copies(conn, id, CopyEvent::Recount, now_ms)
    }
}

/// A plate is lost: none of its copies is of use. It was running, or waited and was run without
/// being logged.
///
/// # Errors
/// [`StoreError::Flow`] when it neither runs nor waits; [`StoreError::Refused`] for a layer it does
/// not have.
pub fn lose(
    conn: &mut Conn,
    id: PlateId,
    cause: FailureCause,
    stopped_at_layer: Option<i64>,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    if stopped_at_layer.is_some_and(|l| !(1..=plate.layers).contains(&l)) {
        return Err(StoreError::Refused(format!(
            "the plate has {} layers: write the one it was stopped at",
            plate.layers
        )));
    }
    step(conn, &plate, PlateState::Lost)?;
    let outcome = if stopped_at_layer.is_some() {
        RunOutcome::Stopped
    } else {
        RunOutcome::Lost
    };
    if plate.state != PlateState::Running {
        move_copies(conn, id, CopyEvent::Start, now_ms)?;
        begin_run(conn, id, now_ms)?;
    }
    end_run(conn, id, now_ms, outcome, stopped_at_layer)?;
    fail_all(conn, id, cause, now_ms)
}
