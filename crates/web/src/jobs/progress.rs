//! How far a task is, and whether it is to stop.

use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};

use wembrit_core::flow::Task;
use wembrit_core::ids::TaskId;
use wembrit_core::watch::Watch;
use wembrit_store::commands;

use crate::state::{App, Topic};

/// Writes down how far a task is, in a dozen steps.
pub(super) struct TaskWatch<'a> {
    app: &'a App,
    topic: Topic,
    task: TaskId,
    stop: &'a AtomicBool,
    reported: AtomicI64,
}

impl<'a> TaskWatch<'a> {
    pub(super) fn new(app: &'a App, task: &Task, topic: Topic, stop: &'a AtomicBool) -> Self {
        Self {
            app,
            topic,
            task: task.id,
            stop,
            reported: AtomicI64::new(0),
        }
    }

    /// The maker has stopped it.
    pub(super) fn is_cancelled(&self) -> bool {
        self.app.is_cancelled(self.task)
    }
}

impl Watch for TaskWatch<'_> {
    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed) || self.app.is_cancelled(self.task)
    }

    fn report(&self, share: f64) {
        // A step is a write to the disk: a dozen of them tell enough.
        let twelfths = (share * 12.0) as i64;
        if self.reported.swap(twelfths, Ordering::Relaxed) == twelfths {
            return;
        }
        match self
            .app
            .store
            .write(|c| commands::tasks::report(c, self.task, share))
        {
            Ok(()) => self.app.tell(self.topic),
            Err(error) => tracing::warn!(%error, "progress was not written down"),
        }
    }
}
