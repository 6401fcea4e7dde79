//! What tasks are about, read from their keys.

use wembrit_core::flow::{PlanState, Task, TaskKind};
use wembrit_core::ids::{PlanId, PrintMeshId};
use wembrit_core::recipe::PartSetup;
use wembrit_core::sculpt::Sculpt;

use super::poses::PoseQuestion;
use super::{hollows, layer_facts, plans, poses, sculpts};
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
