//! Plates: their sheets, and the steps of running and judging them.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::{
    CopyEvent, FailureCause, FlowError, PlateState, Stage, check_plate_step, next_stage,
};
use wembrit_core::ids::{CopyId, PlanId, PlateId, ProjectId};

use super::{new_uid, one_row, printers, surplus};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{Copy, Placement, Plate, Run};
use crate::schema::{copies, models, parts, placements, plates, recipe_versions, runs, units};

/// One place on a plate with everything its sheet shows.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateCopy {
    /// The place.
    pub placement: Placement,
    /// The part that stands there.
    pub part: String,
    /// Its model.
    pub model: String,
    /// Its unit.
    pub unit: String,
    /// Its scale.
    pub scale: f64,
    /// The copy, once the plan is accepted.
    pub copy: Option<Copy>,
}

/// One plate.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlateId) -> Result<Plate, StoreError> {
    plates::table
        .find(id.0)
        .select(Plate::as_select())
        .first(conn)
        .or_not_found("plate")
}

/// What stands on these plates, plate by plate.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn spots(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<HashMap<PlateId, Vec<PlateCopy>>, StoreError> {
    type Row = (Placement, String, String, String, f64, Option<Copy>);
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<Row> = placements::table
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .inner_join(recipe_versions::table)
        .left_join(copies::table)
        .filter(placements::plate_id.eq_any(ids))
        .order((placements::plate_id, placements::seq))
        .select((
            Placement::as_select(),
            parts::name,
            models::name,
            units::name,
            recipe_versions::scale,
            Option::<Copy>::as_select(),
        ))
        .load(conn)?;
    let mut spots: HashMap<PlateId, Vec<PlateCopy>> = HashMap::new();
    for (placement, part, model, unit, scale, copy) in rows {
        let plate = placement.plate_id;
        spots.entry(plate).or_default().push(PlateCopy {
            placement,
            part,
            model,
            unit,
            scale,
            copy,
        });
    }
    Ok(spots)
}

/// The plates of a draft.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plan(conn: &mut Conn, plan: PlanId) -> Result<Vec<Plate>, StoreError> {
    let in_plan = plates::table.filter(plates::plan_id.eq(plan.0));
    Ok(in_plan
        .order(plates::number)
        .select(Plate::as_select())
        .load(conn)?)
}

/// The accepted plates of a project, given up ones apart.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn accepted(conn: &mut Conn, project: ProjectId) -> Result<Vec<Plate>, StoreError> {
    let hidden = [PlateState::Draft.as_str(), PlateState::Released.as_str()];
    Ok(plates::table
        .filter(
            plates::project_id
                .eq(project.0)
                .and(plates::state.ne_all(hidden)),
        )
        .order(plates::number)
        .select(Plate::as_select())
        .load(conn)?)
}

/// Share of the judged copies that came out good; nine of ten while fewer than ten are judged
/// (common practice, no source).
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn share_good(conn: &mut Conn) -> Result<f64, StoreError> {
    let mut many = |stages: &[&str]| -> Result<f64, StoreError> {
        let in_stage = copies::table.filter(copies::stage.eq_any(stages.to_vec()));
        Ok(in_stage.count().get_result::<i64>(conn)? as f64)
    };
    let good = many(&[Stage::Good.as_str(), Stage::Surplus.as_str()])?;
    let lost = many(&[Stage::Failed.as_str()])?;
    Ok(if good + lost < 10.0 {
        0.9
    } else {
        good / (good + lost)
    })
}

/// The run of a plate, once it was started.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn run_of(conn: &mut Conn, plate: PlateId) -> Result<Option<Run>, StoreError> {
    Ok(runs::table
        .filter(runs::plate_id.eq(plate.0))
        .select(Run::as_select())
        .first(conn)
        .optional()?)
}

/// Starts a plate on its printer.
///
/// # Errors
/// [`StoreError::Refused`] while the printer is running another plate; [`StoreError::Flow`] when
/// the plate is not waiting.
pub fn start(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    let same_printer = plates::printer_id.eq(plate.printer_id.0);
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
        let printer = printers::load(conn, plate.printer_id)?.name;
        return Err(StoreError::Refused(format!(
            "{printer} is still running plate {number}: say that it is done first"
        )));
    }
    step(conn, &plate, PlateState::Running)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    diesel::insert_into(runs::table)
        .values((
            runs::uid.eq(new_uid()),
            runs::plate_id.eq(id.0),
            runs::started_at_ms.eq(now_ms),
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
    let run = runs::table.filter(
        runs::plate_id
            .eq(id.0)
            .and(runs::started_at_ms.le(ended_at_ms)),
    );
    let changed = diesel::update(run)
        .set(runs::ended_at_ms.eq(ended_at_ms))
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
    if ended_at_ms < started_at_ms {
        return Err(StoreError::Refused(
            "the run cannot end before it began: correct the time".into(),
        ));
    }
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Start, now_ms)?;
    move_copies(conn, id, CopyEvent::Finish, now_ms)?;
    diesel::insert_into(runs::table)
        .values((
            runs::uid.eq(new_uid()),
            runs::plate_id.eq(id.0),
            runs::started_at_ms.eq(started_at_ms),
            runs::ended_at_ms.eq(ended_at_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// A copy that was lost, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Loss {
    /// The copy.
    pub copy: CopyId,
    /// The cause.
    pub cause: FailureCause,
    /// Anything worth remembering.
    pub note: String,
}

/// All good but these: judges every copy of a printed plate.
///
/// # Errors
/// [`StoreError::Refused`] when a lost copy is not on this plate.
pub fn judge(conn: &mut Conn, id: PlateId, lost: &[Loss], now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Done)?;
    for loss in lost {
        let from = Stage::InFinishing;
        let to = next_stage(from, CopyEvent::Fail)?;
        let copy = copies::table.find(loss.copy.0).filter(
            copies::plate_id
                .eq(id.0)
                .and(copies::stage.eq(from.as_str())),
        );
        let changed = diesel::update(copy)
            .set((
                copies::stage.eq(to.as_str()),
                copies::cause.eq(loss.cause.as_str()),
                copies::note.eq(&loss.note),
                copies::row_version.eq(copies::row_version + 1),
                copies::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        if changed != 1 {
            return Err(StoreError::Refused(
                "one of the marked copies is not on this plate any more: look at the sheet again"
                    .into(),
            ));
        }
    }
    move_copies(conn, id, CopyEvent::Pass, now_ms)?;
    surplus::settle_plate(conn, id, now_ms)
}

/// Takes a judgement back: every copy of the plate is to be looked at again.
///
/// # Errors
/// [`StoreError::Flow`] when the plate was not judged.
pub fn rejudge(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Rejudge, now_ms)
}

/// Gives up a plate that was not started; its copies are wanted again.
///
/// # Errors
/// [`StoreError::Flow`] when it was started.
pub fn release(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Released)?;
    move_copies(conn, id, CopyEvent::Release, now_ms)
}

fn step(conn: &mut Conn, plate: &Plate, to: PlateState) -> Result<(), StoreError> {
    check_plate_step(plate.state, to)?;
    let as_seen = plates::table
        .find(plate.id.0)
        .filter(plates::state.eq(plate.state.as_str()));
    let changed = diesel::update(as_seen)
        .set((
            plates::state.eq(to.as_str()),
            plates::row_version.eq(plates::row_version + 1),
        ))
        .execute(conn)?;
    one_row(changed, "plate")
}

/// Moves every copy of a plate to which the event applies. An event that applies to none of
/// them is refused, so that nothing is skipped in silence.
fn move_copies(
    conn: &mut Conn,
    plate: PlateId,
    event: CopyEvent,
    now_ms: i64,
) -> Result<(), StoreError> {
    let mut moved = 0;
    for from in Stage::ALL {
        let Ok(to) = next_stage(*from, event) else {
            continue;
        };
        if to == Stage::Failed {
            continue;
        }
        moved += diesel::update(
            copies::table.filter(
                copies::plate_id
                    .eq(plate.0)
                    .and(copies::stage.eq(from.as_str())),
            ),
        )
        .set((
            copies::stage.eq(to.as_str()),
            copies::cause.eq(None::<String>),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    }
    let everything_lost = event == CopyEvent::Pass;
    if moved == 0 && !everything_lost {
        return Err(FlowError::Copy {
            from: Stage::Released,
            event,
        }
        .into());
    }
    Ok(())
}
