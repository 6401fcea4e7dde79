//! A plate of a draft with everything a change by hand on it is looked at with.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{PlanRevision, PlanState, PlateState};
use wembrit_core::ids::{PartId, PlanId, PlateId};
use wembrit_core::plan::{OtherWays, PlateEdit};
use wembrit_core::recipe::PartSetup;

use super::{demand, plans, plates, prepared_parts, recipes, sculpts};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::schema::{parts, plan_edits as pe, plates as pt};

/// Which parts a change may need beside those on the plate.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Beside {
    /// None: something on the plate is moved, pinned, taken off or arranged anew.
    Nothing,
    /// All of the plan that may share the plate: copies are put on, and limits count all of a unit.
    All,
}

/// Loads a plate of a draft with what a change needs: the plate alone, not the army.
///
/// # Errors
/// [`StoreError::Refused`] when it is no draft any more, or its printer is gone.
pub fn load(conn: &mut Conn, id: PlateId, beside: Beside) -> Result<PlateEdit, StoreError> {
    let plan = plates::load(conn, id)?.plan;
    let mut one = load_many(conn, plan, &[id], beside)?;
    one.pop().ok_or(StoreError::NotFound { what: "plate" })
}

/// Loads some plates of one draft; what they may share is loaded once.
///
/// # Errors
/// [`StoreError::Refused`] when it is no draft any more, or a printer is gone.
pub fn load_many(
    conn: &mut Conn,
    plan: PlanId,
    of: &[PlateId],
    beside: Beside,
) -> Result<Vec<PlateEdit>, StoreError> {
    let plan = plans::load(conn, plan)?;
    let mut on = plates::copies_on(conn, of)?;
    let needed = |line: &DemandLine| match beside {
        Beside::All => true,
        Beside::Nothing => on.values().flatten().any(|c| c.placed.part == line.part),
    };
    let mut lines = plans::demand_of(conn, plan.id)?;
    lines.retain(needed);
    let facts = demand::plan_facts(conn, plan.project, &lines)?;
    let placed = plates::placed_on_plan(conn, plan.id)?;
    let mut all = Vec::new();
    for id in of {
        let plate = plates::load(conn, *id)?;
        if plate.state != PlateState::Draft || plan.state != PlanState::Draft {
            return Err(StoreError::Refused(
                "only plates of a plan that is not accepted yet are changed by hand".into(),
            ));
        }
        let copies = on.remove(id).unwrap_or_default();
        let copies = copies.into_iter().map(|c| c.placed).collect();
        let edit = PlateEdit::new(plate, copies, &lines, &placed, &facts);
        all.push(
            edit.ok_or_else(|| {
                StoreError::Refused("its printer is out of use: plan again".into())
            })?,
        );
    }
    Ok(all)
}

/// Other ways to hold the part that sets the hours of a plate, among those that were measured
/// already. Only where all its copies stand on this plate, and no other part shares its recipe.
/// `placed` are the copies of each part on all plates of the plan.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn other_setups(
    conn: &mut Conn,
    edit: &PlateEdit,
    placed: &BTreeMap<PartId, u64>,
) -> Result<Option<OtherWays>, StoreError> {
    let Some(line) = edit.tallest_alone(placed) else {
        return Ok(None);
    };
    let version = recipes::version(conn, line.recipe_version)?;
    let sharing: i64 = parts::table
        .filter(
            parts::recipe_id
                .eq(version.recipe.0)
                .and(parts::removed_at_ms.is_null()),
        )
        .count()
        .get_result(conn)?;
    if sharing != 1 {
        return Ok(None);
    }
    let sculpt = sculpts::load(conn, line.sculpt)?;
    let ways = prepared_parts::others(conn, &PartSetup::of(&sculpt, &version))?;
    Ok(Some((line.part, ways)))
}

/// What can be undone and what can be done again, in words.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn around(conn: &mut Conn, plan: &PlanRevision) -> Result<[Option<String>; 2], StoreError> {
    let mut words = |seq: i64| {
        pe::table
            .filter(pe::plan_id.eq(plan.id.0).and(pe::seq.eq(seq)))
            .select(pe::words)
            .first(conn)
            .optional()
    };
    Ok([words(plan.edits_held)?, words(plan.edits_held + 1)?])
}

/// The plan a plate belongs to.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn plan_of(conn: &mut Conn, plate: PlateId) -> Result<PlanId, StoreError> {
    pt::table
        .find(plate.0)
        .select(pt::plan_id)
        .first::<i64>(conn)
        .or_not_found("plate")
        .map(PlanId)
}
