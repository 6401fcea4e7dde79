//! Rules of background work: what it is called, and when it is given up.

use crate::ids::TaskId;
use crate::words::words;

words! {
    /// What a task does.
    TaskKind, "kind of task" {
        /// Measures a sculpt.
        Measure = "measure",
        /// Computes a plan.
        Plan = "plan",
        /// Measures a sculpt as a recipe prints it.
        Prepare = "prepare",
        /// Looks for hollows, and what hollowing would do.
        Hollow = "hollow",
        /// Looks for poses of a sculpt.
        Poses = "poses",
        /// Lays a mesh supported elsewhere over its design.
        Register = "register",
    }
}

words! {
    /// Which worker takes a task: none waits behind one that takes longer.
    Lane, "lane" {
        /// Minutes; plans get better while somebody watches.
        Plan = "plan",
        /// Minutes; orientations are looked for.
        Poses = "poses",
        /// Seconds; a page waits for it.
        Quick = "quick",
    }
}

impl TaskKind {
    /// The lane it is worked on in.
    #[must_use]
    pub const fn lane(self) -> Lane {
        match self {
            TaskKind::Plan => Lane::Plan,
            TaskKind::Poses => Lane::Poses,
            TaskKind::Measure | TaskKind::Prepare | TaskKind::Hollow | TaskKind::Register => {
                Lane::Quick
            }
        }
    }
}

words! {
    /// Where a task stands.
    TaskState, "state of a task" {
        /// Not begun, or to be begun again.
        Waiting = "waiting",
        /// At work.
        Running = "running",
        /// Finished; its result is where it belongs.
        Done = "done",
        /// Finished without a result; the message says why.
        Failed = "failed",
        /// Died too often; nobody tries it again by itself.
        Parked = "parked",
    }
}

impl TaskState {
    /// Somebody is still waiting for it.
    #[must_use]
    pub const fn is_open(self) -> bool {
        matches!(self, TaskState::Waiting | TaskState::Running)
    }
}

/// A task that died this often is parked: what kills a program three times will kill it again.
pub const MAX_ATTEMPTS: i64 = 3;

/// Where a task stands whose attempt died with the program.
#[must_use]
pub const fn after_death(attempts: i64) -> TaskState {
    if attempts >= MAX_ATTEMPTS {
        TaskState::Parked
    } else {
        TaskState::Waiting
    }
}

/// A piece of background work.
#[derive(Debug, Clone, PartialEq)]
pub struct Task {
    /// Which one.
    pub id: TaskId,
    /// What it does.
    pub kind: TaskKind,
    /// What it is about.
    pub input_key: String,
    /// Where it stands.
    pub state: TaskState,
    /// How often it was begun.
    pub attempts: i64,
    /// From 0 to 1.
    pub progress: f64,
    /// Why it has no result.
    pub message: String,
    /// How often it was taken up, attempts of earlier askings among them: who took it up before has
    /// no say in it any more.
    pub claim: i64,
}

impl Task {
    /// How far it is, from 0 to 100, while somebody waits for it.
    #[must_use]
    pub fn open_percent(&self) -> Option<i64> {
        self.state
            .is_open()
            .then_some((self.progress * 100.0) as i64)
    }

    /// Why it has no result, once nobody works on it.
    #[must_use]
    pub fn ended_message(&self) -> Option<&str> {
        (!self.state.is_open()).then_some(self.message.as_str())
    }
}
