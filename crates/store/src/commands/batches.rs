//! Batches: opened when a run ends, taken from step to step.

use std::collections::BTreeSet;

use diesel::prelude::*;
use wembrit_core::finishing::cure::{Felt, UnderLamp, nearest, next_minutes};
use wembrit_core::finishing::{
    Batch, BatchAct, BatchStep, RouteAsk, Step, StepState, route_for, route_washed_in, wash_agent,
};
use wembrit_core::flow::Plate;
use wembrit_core::ids::{BatchId, PlateId};
use wembrit_core::workshop::resin::WashAgent;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{batches, new_uid, one_row, plates, practices, resins};
use crate::rows::BatchStepRow;
use crate::schema::{batch_steps as bs, batches as b, cures, runs};

/// The copies of a run that has just ended begin their way through finishing, as practice, resin
/// and parts ask.
pub(super) fn open(conn: &mut Conn, plate: &Plate, off_at_ms: i64) -> Result<(), StoreError> {
    let run: i64 = runs::table
        .filter(runs::plate_id.eq(plate.id.0))
        .order(runs::id.desc())
        .select(runs::id)
        .first(conn)?;
    let ask = asked(conn, plate)?;
    let practice = practices::load(conn, Some(plate.project))?;
    let agent = wash_agent(&ask.wash_agents, &practice);
    let id: i64 = diesel::insert_into(b::table)
        .values((
            b::uid.eq(new_uid()),
            b::run_id.eq(run),
            b::off_at_ms.eq(off_at_ms),
            b::wash_agent.eq(agent.as_str()),
        ))
        .returning(b::id)
        .get_result(conn)?;
    let steps = route_for(&ask, &practice).into_iter().map(BatchStep::ahead);
    write_steps(conn, BatchId(id), &steps.collect::<Vec<_>>())
}

/// A batch is washed in something else than practice and resin said.
///
/// # Errors
/// [`StoreError::Refused`] once its wash is behind it.
pub fn wash_in(conn: &mut Conn, id: BatchId, agent: WashAgent) -> Result<(), StoreError> {
    let before = batches::load(conn, id)?;
    let washed = |s: &BatchStep| s.step == Step::Wash && s.state == StepState::Done;
    if before.steps.iter().any(washed) {
        return Err(StoreError::Refused(
            "these copies are washed already: step back to the wash first".into(),
        ));
    }
    let plate = plates::load(conn, before.plate)?;
    let ask = asked(conn, &plate)?;
    let practice = practices::load(conn, Some(plate.project))?;
    let after = before.washed_in(agent, &route_washed_in(&ask, &practice, agent));
    save(conn, &before, &after)
}

/// What the route of a plate's copies is made for.
fn asked(conn: &mut Conn, plate: &Plate) -> Result<RouteAsk, StoreError> {
    let resin = resins::load(conn, plate.resin)?;
    let of = batches::finishing_of(conn, plate.id)?;
    Ok(RouteAsk {
        copies: of.copies,
        contacts: of.contacts,
        hollow: of.hollow,
        jointed: of.jointed,
        wash_agents: resin.washed_in(),
        viscosity: resin.viscosity,
        cure_minutes: nearest(
            &batches::felt(conn, plate.resin)?,
            UnderLamp::of(of.hollow, of.jointed),
        )
        .map(|f| next_minutes(f.minutes, f.feel)),
    })
}

fn write_steps(conn: &mut Conn, id: BatchId, steps: &[BatchStep]) -> Result<(), StoreError> {
    diesel::delete(bs::table.filter(bs::batch_id.eq(id.0))).execute(conn)?;
    let rows: Vec<BatchStepRow> = steps
        .iter()
        .enumerate()
        .map(|(seq, step)| BatchStepRow::new(id, seq, step))
        .collect();
    diesel::insert_into(bs::table).values(rows).execute(conn)?;
    Ok(())
}

fn save(conn: &mut Conn, before: &Batch, after: &Batch) -> Result<(), StoreError> {
    let as_seen = b::table
        .find(before.id.0)
        .filter(b::row_version.eq(before.row_version));
    let changed = diesel::update(as_seen)
        .set((
            b::row_version.eq(before.row_version + 1),
            b::counted.eq(after.counted),
            b::wash_agent.eq(after.washed_in.map_or("", WashAgent::as_str)),
        ))
        .execute(conn)?;
    one_row(changed, "batch")?;
    write_steps(conn, before.id, &after.steps)
}

/// Does something with several batches at once, at a time; all of them or none.
///
/// # Errors
/// [`StoreError::Refused`] for what cannot be done with one of them.
pub fn act(conn: &mut Conn, of: &[BatchId], act: &BatchAct, at_ms: i64) -> Result<(), StoreError> {
    if of.is_empty() {
        return Err(StoreError::Refused(
            "no batch was picked: tick those it is for".into(),
        ));
    }
    let once: BTreeSet<BatchId> = of.iter().copied().collect();
    for id in once {
        let before = batches::load(conn, id)?;
        let after = before
            .after(act, at_ms)
            .map_err(|why| StoreError::Refused(why.to_string()))?;
        save(conn, &before, &after)?;
    }
    Ok(())
}

/// Gives a batch another order of steps; what is behind it or under way stays as it is.
///
/// # Errors
/// [`StoreError::Refused`] with the rule it breaks.
pub fn reorder(conn: &mut Conn, id: BatchId, order: &[Step]) -> Result<(), StoreError> {
    let before = batches::load(conn, id)?;
    let after = before
        .reordered(order)
        .map_err(|why| StoreError::Refused(why.to_string()))?;
    save(conn, &before, &after)
}

/// The pieces were counted after the wash.
///
/// # Errors
/// [`StoreError::Refused`] for a number that cannot be.
pub fn count(conn: &mut Conn, id: BatchId, pieces: i64) -> Result<(), StoreError> {
    if !(0..=100_000).contains(&pieces) {
        return Err(StoreError::Refused(
            "count the pieces: a number from 0".into(),
        ));
    }
    let before = batches::load(conn, id)?;
    let after = Batch {
        counted: Some(pieces),
        ..before.clone()
    };
    save(conn, &before, &after)
}

/// Parts felt so after so many minutes under the lamp.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn felt(conn: &mut Conn, id: BatchId, felt: &Felt, now_ms: i64) -> Result<(), StoreError> {
    batches::load(conn, id)?;
    diesel::insert_into(cures::table)
        .values((
            cures::uid.eq(new_uid()),
            cures::batch_id.eq(id.0),
            cures::minutes.eq(felt.minutes),
            cures::feel.eq(felt.feel.as_str()),
            cures::felt_at_ms.eq(now_ms),
            cures::lamp.eq(&felt.lamp),
            cures::kind.eq(felt.kind.as_str()),
        ))
        .execute(conn)?;
    Ok(())
}

/// The batch of a plate's newest run, where it has one.
fn of_plate(conn: &mut Conn, plate: PlateId) -> Result<Option<Batch>, StoreError> {
    match plates::runs_of(conn, &[plate])?.remove(&plate) {
        Some(run) => batches::of_run(conn, run.id),
        None => Ok(None),
    }
}

/// Every copy of a plate is judged: its batch has nothing before it any more.
pub(super) fn close(conn: &mut Conn, plate: PlateId, now_ms: i64) -> Result<(), StoreError> {
    match of_plate(conn, plate)? {
        Some(before) => save(conn, &before, &before.closed(now_ms)),
        None => Ok(()),
    }
}

/// The plate is judged again: its last look is before it once more.
pub(super) fn look_again(conn: &mut Conn, plate: PlateId) -> Result<(), StoreError> {
    match of_plate(conn, plate)? {
        Some(before) => save(conn, &before, &before.looked_at_again()),
        None => Ok(()),
    }
}
