//! The run of a plate: started, taken off, written down afterwards, put back, lost.

use diesel::prelude::*;
use wembrit_core::flow::{
    CopyEvent, FailureCause, Plate, PlateState, RunOutcome, RunsMeet, check_plate_step,
};
use wembrit_core::ids::{PlateId, RunId};
use wembrit_core::running::preflight::preflight;
use wembrit_core::running::{Answers, KnownBefore, Verdict};
use wembrit_core::stores::{Place, Volume};

use super::batches;
use super::step_plate::{check_layer, fail_all, move_copies, settle_resin, step};
use super::stores::{has_room, refused};
use super::vats;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::plates::{load, running_on};
use crate::queries::stores as books;
use crate::queries::{benches, new_uid, preflights, printers};
use crate::schema::{plates, run_checks, runs};

/// Starts a plate on its printer.
///
/// # Errors
/// [`StoreError::Refused`] while the printer is running another plate; [`StoreError::Flow`] when
/// the plate is not waiting.
pub fn start(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    free_for(conn, &plate)?;
    step(conn, &plate, PlateState::Running)?;
    settle_resin(conn, &plate)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    begin_run(conn, id, now_ms)
}

/// No other plate runs on its printer.
fn free_for(conn: &mut Conn, plate: &Plate) -> Result<(), StoreError> {
    let Some(number) = running_on(conn, plate.printer, plate.id)? else {
        return Ok(());
    };
    let printer = printers::load(conn, plate.printer)?.name;
    Err(StoreError::Refused(format!(
        "{printer} is still running plate {number}: take it off first"
    )))
}

/// The printer of a plate was at no other plate between two times. A plate that was put back in the
/// queue was not printed, so its run does not count.
fn stood_free(conn: &mut Conn, plate: &Plate, from_ms: i64, to_ms: i64) -> Result<(), StoreError> {
    let met: Option<(i64, i64, Option<i64>)> = runs::table
        .inner_join(plates::table)
        .filter(plates::printer_id.eq(plate.printer.0))
        .filter(
            runs::outcome
                .is_null()
                .or(runs::outcome.ne(RunOutcome::PutBack.as_str())),
        )
        .filter(runs::started_at_ms.lt(to_ms))
        .filter(
            runs::ended_at_ms
                .is_null()
                .or(runs::ended_at_ms.gt(from_ms)),
        )
        .order(runs::started_at_ms)
        .select((plates::number, runs::started_at_ms, runs::ended_at_ms))
        .first(conn)
        .optional()?;
    let Some((other, from_ms, to_ms)) = met else {
        return Ok(());
    };
    Err(StoreError::RunsMeet(RunsMeet {
        printer: printers::load(conn, plate.printer)?.name,
        plate: plate.number,
        other,
        from_ms,
        to_ms,
    }))
}

/// What somebody says before a start.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct StartSaid {
    /// What the vat holds, ml.
    pub vat_ml: Option<f64>,
    /// How warm the room is, °C.
    pub room_c: Option<f64>,
    /// What was ticked, and what was passed over.
    pub answers: Answers,
}

/// Starts a plate at the printer, after its checks; what was answered is kept with the run. The day
/// began at `day_ms`.
///
/// # Errors
/// As [`start`]; [`StoreError::Refused`] where a check speaks against it or is open.
pub fn start_checked(
    conn: &mut Conn,
    id: PlateId,
    said: &StartSaid,
    day_ms: i64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let known = preflights::known(conn, id, day_ms)?;
    allows(conn, &known, said)?;
    begin_checked(conn, &known, said, now_ms)
}

/// Whether a plate may be started by what is known and said.
pub(super) fn allows(
    conn: &mut Conn,
    known: &KnownBefore,
    said: &StartSaid,
) -> Result<(), StoreError> {
    check_plate_step(known.plate.state, PlateState::Running)?;
    free_for(conn, &known.plate)?;
    let checks = preflight(&known.with(said.vat_ml, said.room_c));
    checks
        .allows(&said.answers)
        .map_err(|why| StoreError::Refused(why.to_string()))
}

/// Starts a plate, and keeps with its run what was known and said before it.
pub(super) fn begin_checked(
    conn: &mut Conn,
    known: &KnownBefore,
    said: &StartSaid,
    now_ms: i64,
) -> Result<(), StoreError> {
    let id = known.plate.id;
    let facts = known.with(said.vat_ml, said.room_c);
    let checks = preflight(&facts);
    // What a connected printer says of its own vat is not disputed.
    let own_word = known.linked.as_ref().and_then(|l| l.vat_ml);
    if let (Some(ml), None) = (said.vat_ml, own_word) {
        let holds = Volume::ml(ml).map_err(refused)?;
        has_room(conn, Place::Vat(known.plate.printer), holds)?;
    }
    start(conn, id, now_ms)?;
    let run = of_plate(conn, id)?;
    diesel::update(runs::table.find(run))
        .set((
            runs::room_c.eq(facts.room_c),
            runs::vat_ml.eq(facts.vat_ml),
            runs::refill_after_s.eq(facts.refill_after_s),
        ))
        .execute(conn)?;
    if let Some(ml) = facts.vat_ml {
        // What somebody says is in the vat stands in the books.
        let holds = Volume::ml(ml).map_err(|e| StoreError::Refused(e.to_string()))?;
        let plate = &known.plate;
        vats::filled(conn, plate.printer, plate.resin, holds, RunId(run), now_ms)?;
    }
    for check in &checks.checks {
        let passed = said
            .answers
            .passed
            .iter()
            .find(|(i, why)| *i == check.item && !why.trim().is_empty());
        let (answer, words) = match (&check.verdict, passed) {
            (_, Some((_, why))) => ("passed over", why.trim().to_owned()),
            (Verdict::Good(words), None) => ("computed", words.clone()),
            (Verdict::Doubt(words), None) => ("ticked", words.clone()),
            _ => ("ticked", String::new()),
        };
        diesel::insert_into(run_checks::table)
            .values((
                run_checks::uid.eq(new_uid()),
                run_checks::run_id.eq(run),
                run_checks::item.eq(check.item.as_str()),
                run_checks::answer.eq(answer),
                run_checks::words.eq(words),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// The newest run of a plate.
pub(super) fn of_plate(conn: &mut Conn, id: PlateId) -> Result<i64, StoreError> {
    runs::table
        .filter(runs::plate_id.eq(id.0))
        .order(runs::id.desc())
        .select(runs::id)
        .first(conn)
        .or_not_found("run")
}

/// What happens to a plate while it runs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum While {
    /// Somebody looked at the first layers: all is well.
    Looked,
    /// The vat was filled up, by so much where somebody said.
    Refilled(Option<Volume>),
    /// The printer is held.
    Pause,
    /// It goes on.
    Resume,
    /// Something went wrong, and it is gone on with: what it was.
    GoOn(String),
}

/// Writes down what happens while a plate runs.
///
/// # Errors
/// [`StoreError::Refused`] when it does not run, or is held or not as that asks.
pub fn during(conn: &mut Conn, id: PlateId, what: &While, now_ms: i64) -> Result<(), StoreError> {
    let refused = |words: &str| Err(StoreError::Refused(words.to_owned()));
    let Some(run) = benches::running(conn, id)? else {
        return refused("the plate does not run: start it first");
    };
    let row = runs::table.find(run.id.0);
    match (what, run.paused_at_ms) {
        (While::Pause, Some(_)) => return refused("the run is held already"),
        (While::Resume, None) => return refused("the run is not held"),
        (While::Looked, _) => diesel::update(row)
            .set(runs::looked_at_ms.eq(now_ms))
            .execute(conn)?,
        (While::Refilled(by), _) => {
            if let Some(by) = by.filter(|by| *by > Volume(0)) {
                let plate = load(conn, id)?;
                vats::filled_up(conn, plate.printer, plate.resin, by, run.id, now_ms)?;
            }
            diesel::update(row)
                .set(runs::refilled_at_ms.eq(now_ms))
                .execute(conn)?
        }
        (While::Pause, None) => diesel::update(row)
            .set(runs::paused_at_ms.eq(now_ms))
            .execute(conn)?,
        (While::Resume, Some(since)) => diesel::update(row)
            .set((
                runs::paused_at_ms.eq(None::<i64>),
                runs::paused_ms.eq(run.paused_ms + (now_ms - since).max(0)),
            ))
            .execute(conn)?,
        (While::GoOn(what), _) if what.trim().is_empty() => {
            return refused("say in a word what went wrong");
        }
        (While::GoOn(what), _) => diesel::update(row)
            .set(runs::trouble.eq(what.trim()))
            .execute(conn)?,
    };
    Ok(())
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
    end_run(conn, id, ended_at_ms, RunOutcome::Held, None)?;
    out_of_the_vat(conn, &plate, None, ended_at_ms)?;
    batches::open(conn, &plate, ended_at_ms)
}

/// Takes off a plate that broke off after so many layers, by its machine's word: what of it is whole is judged.
///
/// # Errors
/// As [`finish`].
pub fn finish_broken_off(
    conn: &mut Conn,
    id: PlateId,
    layer: i64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    let layer = layer.clamp(0, plate.layers);
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Finish, now_ms)?;
    end_run(conn, id, now_ms, RunOutcome::Stopped, Some(layer))?;
    out_of_the_vat(conn, &plate, Some(layer), now_ms)?;
    batches::open(conn, &plate, now_ms)
}

/// What it was printed of leaves its vat in the books.
fn out_of_the_vat(
    conn: &mut Conn,
    plate: &Plate,
    stopped_at_layer: Option<i64>,
    at_ms: i64,
) -> Result<(), StoreError> {
    let run = of_plate(conn, plate.id)?;
    let share = stopped_at_layer.map_or(1.0, |n| n as f64 / plate.layers.max(1) as f64);
    vats::printed(conn, plate, share.clamp(0.0, 1.0), Some(RunId(run)), at_ms)
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
/// As [`start`] and [`finish`]; [`StoreError::RunsMeet`] where its printer was at another plate then.
pub fn log_run(
    conn: &mut Conn,
    id: PlateId,
    started_at_ms: i64,
    ended_at_ms: i64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    stood_free(conn, &plate, started_at_ms, ended_at_ms)?;
    settle_resin(conn, &plate)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    move_copies(conn, id, CopyEvent::Finish, now_ms)?;
    begin_run(conn, id, started_at_ms)?;
    end_run(conn, id, ended_at_ms, RunOutcome::Held, None)?;
    out_of_the_vat(conn, &plate, None, ended_at_ms)?;
    batches::open(conn, &plate, ended_at_ms)
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
    if let Some(layer) = stopped_at_layer {
        check_layer(&plate, layer)?;
    }
    step(conn, &plate, PlateState::Lost)?;
    let outcome = if stopped_at_layer.is_some() {
        RunOutcome::Stopped
    } else {
        RunOutcome::Lost
    };
    if plate.state != PlateState::Running {
        settle_resin(conn, &plate)?;
        move_copies(conn, id, CopyEvent::Start, now_ms)?;
        begin_run(conn, id, now_ms)?;
    }
    end_run(conn, id, now_ms, outcome, stopped_at_layer)?;
    out_of_the_vat(conn, &plate, stopped_at_layer, now_ms)?;
    fail_all(conn, id, cause, now_ms)
}

/// What was in the vat is spoilt with a plate that is lost: it is written off, for the same cause, and charged to
/// its run; nothing is where the books know of nothing in it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn spoil_vat(
    conn: &mut Conn,
    id: PlateId,
    cause: FailureCause,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    let held = books::books(conn)?.held(Place::Vat(plate.printer));
    if held == Volume(0) {
        return Ok(());
    }
    let run = RunId(of_plate(conn, id)?);
    vats::write_off(conn, plate.printer, cause.as_str(), Some(run), now_ms)
}
