//! A computed plan is written down, in place of the one before, until no better one is looked for.

use std::collections::HashSet;

use diesel::prelude::*;
use wembrit_core::flow::{PlacedCopy, PlanRevision, PlanState, PlateState};
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId};
use wembrit_core::plan::{Plan, PlannedPlate};

use super::ask_plan::set_state;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plans::load;
use crate::queries::{last_id, new_uid};
use crate::rows::{PlacementRow, PlateFiguresRow};
use crate::schema::{placements, plan_demand, plans, plates};

/// Writes down a computed plan as draft plates: the plan can be accepted. One that was dropped
/// meanwhile stays so.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_computed(conn: &mut Conn, id: PlanId, computed: &Plan) -> Result<(), StoreError> {
    save_better(conn, id, computed)?;
    end_search(conn, id)
}

/// No better plan is looked for: what is there stands as a draft.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn end_search(conn: &mut Conn, id: PlanId) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state == PlanState::Computing {
        set_state(conn, &plan, PlanState::Draft, None)?;
    }
    Ok(())
}

/// Writes down the best plan so far, in place of the one before, while a better one is looked
/// for. A plan that is no longer computed stays as it is.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn save_better(conn: &mut Conn, id: PlanId, computed: &Plan) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state != PlanState::Computing {
        return Ok(());
    }
    let pins = pins(conn, &plan)?;
    let drafts = plates::table
        .filter(plates::plan_id.eq(id.0))
        .select(plates::id);
    diesel::delete(placements::table.filter(placements::plate_id.eq_any(drafts))).execute(conn)?;
    diesel::delete(plates::table.filter(plates::plan_id.eq(id.0))).execute(conn)?;
    diesel::update(plan_demand::table.filter(plan_demand::plan_id.eq(id.0)))
        .set((
            plan_demand::left_over.eq(0),
            plan_demand::left_over_why.eq(None::<String>),
        ))
        .execute(conn)?;
    let found = i64::from(plan.first_seconds.is_some());
    diesel::update(plans::table.find(id.0))
        .set((
            plans::bound_seconds.eq(computed.bound.seconds),
            plans::bound_plates.eq(computed.bound.plates as i64),
            plans::first_seconds.eq(plan.first_seconds.unwrap_or_else(|| computed.seconds())),
            plans::better_found.eq(plan.better_found + found),
        ))
        .execute(conn)?;
    let first = next_number(conn, plan.project)?;
    for (index, plate) in computed.plates.iter().enumerate() {
        add_plate(conn, &plan, first + index as i64, plate, &pins)?;
    }
    for (part, copies, why) in &computed.left_over {
        diesel::update(plan_demand::table.find((id.0, part.0)))
            .set((
                plan_demand::left_over.eq(plan_demand::left_over + *copies as i64),
                plan_demand::left_over_why.eq(why.as_str()),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// Writes down why a plan could not be computed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_failed(conn: &mut Conn, id: PlanId, why: &str) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state == PlanState::Computing {
        set_state(conn, &plan, PlanState::Failed, Some(why))
    } else {
        Ok(())
    }
}

/// Parts and places that are pinned.
pub(super) type Pins = HashSet<(i64, [u64; 2])>;

fn pin_key(part: PartId, at_mm: [f64; 2]) -> (i64, [u64; 2]) {
    (part.0, at_mm.map(f64::to_bits))
}

/// Where copies are pinned, on the plates a plan begins from.
fn pins(conn: &mut Conn, plan: &PlanRevision) -> Result<Pins, StoreError> {
    let of = [Some(plan.id.0), plan.from.map(|p| p.0)];
    let rows: Vec<PlacementRow> = placements::table
        .inner_join(plates::table)
        .filter(
            plates::plan_id
                .eq_any(of.into_iter().flatten())
                .and(placements::pinned.eq(1)),
        )
        .select(PlacementRow::as_select())
        .load(conn)?;
    let key = |r: &PlacementRow| {
        let placed = r.placed();
        pin_key(placed.part, placed.at_mm)
    };
    Ok(rows.iter().map(key).collect())
}

/// Plates are numbered through the project, in the order in which they were accepted.
pub(super) fn next_number(conn: &mut Conn, project: ProjectId) -> Result<i64, StoreError> {
    let last: Option<i64> = plates::table
        .filter(
            plates::project_id
                .eq(project.0)
                .and(plates::state.ne(PlateState::Draft.as_str())),
        )
        .select(diesel::dsl::max(plates::number))
        .first(conn)?;
    Ok(last.unwrap_or(0) + 1)
}

/// Adds a draft plate with its copies; those of a plate that was not to be moved keep their pins.
pub(super) fn add_plate(
    conn: &mut Conn,
    plan: &PlanRevision,
    number: i64,
    plate: &PlannedPlate,
    pins: &Pins,
) -> Result<PlateId, StoreError> {
    diesel::insert_into(plates::table)
        .values((
            plates::uid.eq(new_uid()),
            plates::project_id.eq(plan.project.0),
            plates::plan_id.eq(plan.id.0),
            plates::number.eq(number),
            plates::state.eq(PlateState::Draft.as_str()),
            plates::printer_id.eq(plate.printer.0),
            plates::resin_id.eq(plate.resin.0),
            plates::layer_um.eq(i64::from(plate.layer.um())),
            plates::setting_version_id.eq(plate.setting.0),
            PlateFiguresRow::from(&plate.figures),
        ))
        .execute(conn)?;
    let id = PlateId(last_id(conn)?);
    for (seq, copy) in plate.copies.iter().enumerate() {
        let placed = PlacedCopy {
            key: seq as i64 + 1,
            part: copy.part,
            at_mm: copy.at_mm,
            rotation_deg: copy.rotation_deg,
            pinned: plate.fixed && pins.contains(&pin_key(copy.part, copy.at_mm)),
        };
        let what = (copy.sculpt, copy.recipe_version);
        diesel::insert_into(placements::table)
            .values(PlacementRow::new(id, &placed, what, copy.ml, copy.cost))
            .execute(conn)?;
    }
    Ok(id)
}
