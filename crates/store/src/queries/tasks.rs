//! Background work: attempts are written down before the work begins.

use diesel::prelude::*;
use wembrit_core::flow::{Lane, Task, TaskKind, TaskState};
use wembrit_core::ids::PlanId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, TaskRow};
use crate::schema::tasks::dsl;
use crate::until_written::never_kept;

/// All tasks in one state, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn, state: TaskState) -> Result<Vec<Task>, StoreError> {
    never_kept();
    let in_state = dsl::tasks.filter(dsl::state.eq(state.as_str()));
    in_state
        .order(dsl::id)
        .select(TaskRow::as_select())
        .nouns::<TaskRow>(conn)
}

/// Everything that waits in a lane or is worked on there.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open_in(conn: &mut Conn, lane: Lane) -> Result<Vec<Task>, StoreError> {
    let mut open = list(conn, TaskState::Running)?;
    open.extend(list(conn, TaskState::Waiting)?);
    open.retain(|task| task.kind.lane() == lane);
    Ok(open)
}

/// The task about something, if it was asked for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn find(conn: &mut Conn, kind: TaskKind, input_key: &str) -> Result<Option<Task>, StoreError> {
    never_kept();
    dsl::tasks
        .filter(
            dsl::kind
                .eq(kind.as_str())
                .and(dsl::input_key.eq(input_key)),
        )
        .select(TaskRow::as_select())
        .maybe::<TaskRow>(conn)
}

/// The task that computes a plan.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plan(conn: &mut Conn, id: PlanId) -> Result<Option<Task>, StoreError> {
    find(conn, TaskKind::Plan, &id.to_string())
}

/// What was asked for about a sculpt and ended without a result.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ended_about(conn: &mut Conn, uid: &str) -> Result<Vec<Task>, StoreError> {
    never_kept();
    let without = [TaskState::Failed.as_str(), TaskState::Parked.as_str()];
    let about = dsl::input_key.like(format!("{uid}:%"));
    dsl::tasks
        .filter(about.and(dsl::state.eq_any(without)))
        .order(dsl::id)
        .select(TaskRow::as_select())
        .nouns::<TaskRow>(conn)
}
