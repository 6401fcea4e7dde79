//! A plan is accepted: its plates are planned, every copy gets its row and its mark.

use diesel::prelude::*;
use wembrit_core::army::demand::{DemandLine, fingerprint};
use wembrit_core::army::demand_lines_in;
use wembrit_core::flow::{PlanRevision, PlanState, PlateState, Stage};
use wembrit_core::ids::{PlanId, PlateId, ProjectId};
use wembrit_core::plan::Plan;

use super::ask_plan::{begin, drop_plan, set_state};
use super::save_plan::{Pins, add_plate, next_number};
use super::step_plate::step;
use crate::conn::Conn;
use crate::error::{Stale, StoreError};
use crate::queries::plans::{demand_of, load, open_plans};
use crate::queries::{self, army, last_id, miniatures, new_uid};
use crate::rows::PlacementRow;
use crate::schema::{copies, placements, plans, plates};

/// Accepts a draft: its plates are planned, every copy gets its row and its mark.
///
/// # Errors
/// [`StoreError::Stale`] when the demand has changed since; [`StoreError::Conflict`] when the
/// plan is no draft any more.
pub fn accept(conn: &mut Conn, id: PlanId, now_ms: i64) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state != PlanState::Draft {
        return Err(StoreError::Conflict { what: "plan" });
    }
    check_fresh(conn, &plan)?;
    for other in open_plans(conn, plan.project)? {
        if other.id != id {
            drop_plan(conn, &other, now_ms)?;
        }
    }
    confirm(conn, &plan, now_ms)
}

/// Whether a plan still is what is wanted.
///
/// # Errors
/// [`StoreError::Stale`] when the demand has changed since it was asked for.
pub fn check_fresh(conn: &mut Conn, plan: &PlanRevision) -> Result<(), StoreError> {
    let now = demand_lines_in(&*army::load(conn, plan.project)?, &plan.scope);
    if fingerprint(&now) == plan.fingerprint {
        return Ok(());
    }
    Err(StoreError::Stale(Stale {
        planned: demand_of(conn, plan.id)?,
        now,
    }))
}

/// Writes down a plan that is already computed and accepts it at once: a trial, a first plate.
/// Copies of one part may follow different versions of its recipe.
pub(super) fn take_over(
    conn: &mut Conn,
    project: ProjectId,
    demand: &[DemandLine],
    computed: &Plan,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let id = begin(conn, project, demand, now_ms)?;
    let plan = load(conn, id)?;
    let first = next_number(conn, project)?;
    for (index, plate) in computed.plates.iter().enumerate() {
        add_plate(conn, &plan, first + index as i64, plate, &Pins::new())?;
    }
    confirm(conn, &plan, now_ms)?;
    Ok(id)
}

/// The plates of a plan are planned, every copy gets its row and its mark.
fn confirm(conn: &mut Conn, plan: &PlanRevision, now_ms: i64) -> Result<(), StoreError> {
    let id = plan.id;
    let mut drafts = queries::plates::of_plan(conn, id)?;
    drafts.retain(|p| p.state == PlateState::Draft);
    let mut number = next_number(conn, plan.project)?;
    for plate in &drafts {
        // A plate that was emptied by hand is no plate.
        let empty = placements::table
            .filter(placements::plate_id.eq(plate.id.0))
            .count()
            .get_result::<i64>(conn)?
            == 0;
        if empty {
            step(conn, plate, PlateState::Released)?;
            continue;
        }
        step(conn, plate, PlateState::Planned)?;
        diesel::update(plates::table.find(plate.id.0))
            .set(plates::number.eq(number))
            .execute(conn)?;
        number += 1;
        add_copies(conn, plate.id, now_ms)?;
    }
    diesel::update(plans::table.find(id.0))
        .set(plans::accepted_at_ms.eq(now_ms))
        .execute(conn)?;
    set_state(conn, plan, PlanState::Accepted, None)
}

/// Every copy on a plate gets its row and its mark: one number in the whole workshop.
fn add_copies(conn: &mut Conn, plate: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let placed: Vec<PlacementRow> = placements::table
        .filter(placements::plate_id.eq(plate.0))
        .order(placements::seq)
        .select(PlacementRow::as_select())
        .load(conn)?;
    let last = miniatures::last_mark(conn)?;
    for (mark, row) in (last + 1..).zip(placed) {
        diesel::insert_into(copies::table)
            .values((
                copies::uid.eq(new_uid()),
                copies::part_id.eq(row.part_id),
                copies::mark.eq(mark),
                copies::plate_id.eq(plate.0),
                copies::sculpt_id.eq(row.sculpt_id),
                copies::recipe_version_id.eq(row.recipe_version_id),
                copies::stage.eq(Stage::Planned.as_str()),
                copies::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        let copy = last_id(conn)?;
        diesel::update(
            placements::table.filter(
                placements::plate_id
                    .eq(plate.0)
                    .and(placements::seq.eq(row.seq)),
            ),
        )
        .set(placements::copy_id.eq(copy))
        .execute(conn)?;
    }
    Ok(())
}
