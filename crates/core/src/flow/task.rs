//! Rules of background work: what it is called, and when it is given up.

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
