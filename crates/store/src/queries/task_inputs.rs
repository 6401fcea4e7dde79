//! What tasks are about, read from their keys.

use wembrit_core::flow::{PlanState, SculptState, Task, TaskKind};
use wembrit_core::ids::{PlanId, PrintMeshId};
use wembrit_core::recipe::PartSetup;
use wembrit_core::sculpt::Sculpt;

use super::poses::PoseQuestion;
use super::{hollows, layer_facts, plans, poses, sculpts, tasks};
use crate::conn::Conn;
use crate::error::StoreError;

/// What a task is about; nothing when its sculpt has changed since it was asked for.
#[derive(Debug, Clone, PartialEq)]
pub enum TaskInput {
    /// A sculpt to be measured.
    Measure(Sculpt),
    /// A plan to be computed.
    Plan(PlanId),
    /// A sculpt to be prepared.
    Prepare(Sculpt, PartSetup),
    /// A sculpt to be looked at for hollows.
    Hollow(Sculpt),
    /// A sculpt whose poses are to be compared.
    Poses(Sculpt, PoseQuestion),
    /// A mesh to be laid over its design.
    Register(PrintMeshId),
}

/// Reads what a task is about.
///
/// # Errors
/// [`StoreError::NotFound`] when it is gone, [`StoreError::BadRow`] for a key nobody can read.
pub fn input_of(conn: &mut Conn, task: &Task) -> Result<Option<TaskInput>, StoreError> {
    let key = task.input_key.as_str();
    let bad = |_| StoreError::BadRow(format!("the task '{key}'"));
    Ok(match task.kind {
        TaskKind::Measure => Some(TaskInput::Measure(sculpts::of_task(conn, key)?)),
        TaskKind::Plan => {
            let id = key.parse().map_err(bad)?;
            let wanted = plans::load(conn, id)?.state == PlanState::Computing;
            wanted.then_some(TaskInput::Plan(id))
        }
        TaskKind::Prepare => {
            layer_facts::of_task(conn, key)?.map(|(s, setup)| TaskInput::Prepare(s, setup))
        }
        TaskKind::Hollow => hollows::of_task(conn, key)?.map(TaskInput::Hollow),
        TaskKind::Poses => poses::of_task(conn, key)?.map(|(s, q)| TaskInput::Poses(s, q)),
        TaskKind::Register => Some(TaskInput::Register(key.parse().map_err(bad)?)),
    })
}

/// Work about a sculpt as it is now that ended without a result, and that nobody takes up again by itself. That a file
/// is refused is a result.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn given_up(conn: &mut Conn, sculpt: &Sculpt) -> Result<Vec<Task>, StoreError> {
    let mut found = Vec::new();
    for task in tasks::ended_about(conn, &sculpt.uid)? {
        let is_now = match task.kind {
            TaskKind::Measure => {
                sculpt.state == SculptState::Waiting && task.input_key == sculpts::task_key(sculpt)
            }
            _ => match input_of(conn, &task) {
                Ok(input) => input.is_some(),
                // What it was about is gone.
                Err(StoreError::NotFound { .. }) => false,
                Err(error) => return Err(error),
            },
        };
        if is_now {
            found.push(task);
        }
    }
    Ok(found)
}
