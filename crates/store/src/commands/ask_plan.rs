//! A plan is asked for, or thrown away.

use diesel::prelude::*;
use wembrit_core::army::demand::{DemandLine, fingerprint};
use wembrit_core::army::{demand_lines, demand_lines_in, without_sculpt};
use wembrit_core::flow::{PlanEffort, PlanRevision, PlanScope, PlanState, TaskKind, TaskState};
use wembrit_core::ids::{PlanId, ProjectId};

use super::{settings, tasks};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plans::{load, open_plans};
use crate::queries::{army, last_id, new_uid, one_row, printers};
use crate::rows::scope_text;
use crate::schema::{plan_demand, plans};

/// What is asked of a new plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanAsk {
    /// What it is to take.
    pub scope: PlanScope,
    /// How much of the plan shown now it keeps.
    pub effort: PlanEffort,
}

impl Default for PlanAsk {
    fn default() -> Self {
        Self {
            scope: PlanScope::default(),
            effort: PlanEffort::Anew,
        }
    }
}

/// Asks for a plan. The draft that is shown stays beside it, to be compared; older ones make way.
///
/// # Errors
/// [`StoreError::Refused`] when nothing is wanted or there is no printer.
pub fn ask(
    conn: &mut Conn,
    project: ProjectId,
    asked: &PlanAsk,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    settings::ensure_all(conn, now_ms)?;
    let army = army::load(conn, project)?;
    let lines = demand_lines_in(&army, &asked.scope);
    if lines.is_empty() && !demand_lines(&army).is_empty() {
        return Err(StoreError::Refused(
            "nothing of this choice is wanted: choose more units or resins".into(),
        ));
    }
    if lines.is_empty() {
        let waiting = without_sculpt(&army).len();
        return Err(StoreError::Refused(if waiting > 0 {
            format!(
                "nothing can be planned yet: {waiting} wanted parts have no measured sculpt; upload their files or pick sculpts for them"
            )
        } else {
            "nothing is wanted: every copy is planned, printed or good already".into()
        }));
    }
    if printers::list(conn)?.is_empty() {
        return Err(StoreError::Refused(
            "there is no printer yet: add one in the workshop".into(),
        ));
    }
    let from = make_way(conn, project, now_ms)?;
    let id = begin(conn, project, &lines, now_ms)?;
    let from = from.filter(|_| asked.effort != PlanEffort::Anew);
    diesel::update(plans::table.find(id.0))
        .set((
            plans::scope.eq(scope_text(&asked.scope)),
            plans::effort.eq(asked.effort.as_str()),
            plans::from_plan_id.eq(from.map(|p| p.0)),
        ))
        .execute(conn)?;
    tasks::ask(conn, TaskKind::Plan, &id.to_string(), now_ms)?;
    Ok(id)
}

/// The draft that is shown stays; older plans go.
pub(super) fn make_way(
    conn: &mut Conn,
    project: ProjectId,
    now_ms: i64,
) -> Result<Option<PlanId>, StoreError> {
    let mut shown = None;
    for plan in open_plans(conn, project)? {
        if shown.is_none() && plan.state == PlanState::Draft {
            shown = Some(plan.id);
        } else {
            drop_plan(conn, &plan, now_ms)?;
        }
    }
    Ok(shown)
}

pub(super) fn begin(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let newest: Option<i64> = plans::table
        .filter(plans::project_id.eq(project.0))
        .select(diesel::dsl::max(plans::revision))
        .first(conn)?;
    diesel::insert_into(plans::table)
        .values((
            plans::uid.eq(new_uid()),
            plans::project_id.eq(project.0),
            plans::revision.eq(newest.unwrap_or(0) + 1),
            plans::state.eq(PlanState::Computing.as_str()),
            plans::fingerprint.eq(fingerprint(lines)),
            plans::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(PlanId)?;
    for line in lines {
        diesel::insert_into(plan_demand::table)
            .values((
                plan_demand::plan_id.eq(id.0),
                plan_demand::part_id.eq(line.part.0),
                plan_demand::sculpt_id.eq(line.sculpt.0),
                plan_demand::recipe_version_id.eq(line.recipe_version.0),
                plan_demand::wanted.eq(line.wanted as i64),
            ))
            .execute(conn)?;
    }
    Ok(id)
}

pub(super) fn set_state(
    conn: &mut Conn,
    plan: &PlanRevision,
    state: PlanState,
    refusal: Option<&str>,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        plans::table
            .find(plan.id.0)
            .filter(plans::row_version.eq(plan.row_version)),
    )
    .set((
        plans::state.eq(state.as_str()),
        plans::refusal.eq(refusal),
        plans::row_version.eq(plan.row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "plan")
}

/// A plan nobody wants is not worked on either.
pub(super) fn drop_plan(
    conn: &mut Conn,
    plan: &PlanRevision,
    now_ms: i64,
) -> Result<(), StoreError> {
    set_state(conn, plan, PlanState::Dropped, None)?;
    let ended = (TaskState::Done, "");
    tasks::end_asked(conn, TaskKind::Plan, &plan.id.to_string(), ended, now_ms)
}

/// Throws a draft away.
///
/// # Errors
/// [`StoreError::Conflict`] when it was accepted meanwhile.
pub fn drop_draft(conn: &mut Conn, id: PlanId, now_ms: i64) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    match plan.state {
        PlanState::Draft | PlanState::Computing | PlanState::Failed => {
            drop_plan(conn, &plan, now_ms)
        }
        PlanState::Accepted | PlanState::Dropped => Err(StoreError::Conflict { what: "plan" }),
    }
}
