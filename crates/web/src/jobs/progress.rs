//! How far a task is, whether it is to stop, and when it makes way.

use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};
use std::time::{Duration, Instant};

use wembrit_core::flow::{Lane, Task};
use wembrit_core::watch::Watch;
use wembrit_store::commands;

use crate::state::{App, Topic};

/// Writes down how far a task is, in a dozen steps.
pub(super) struct TaskWatch<'a> {
    app: &'a App,
    topic: Topic,
    task: &'a Task,
    stop: &'a AtomicBool,
    reported: AtomicI64,
    /// It makes way for what a person waits for.
    makes_way: AtomicBool,
    /// When the data file was asked last whether the task is still wanted, and what it said.
    asked: Mutex<(Instant, bool)>,
}

/// How often the data file is asked whether the task is still wanted.
const ASKED_EVERY: Duration = Duration::from_millis(200);

impl<'a> TaskWatch<'a> {
    pub(super) fn new(app: &'a App, task: &'a Task, topic: Topic, stop: &'a AtomicBool) -> Self {
        Self {
            app,
            topic,
            task,
            stop,
            reported: AtomicI64::new(0),
            makes_way: AtomicBool::new(task.kind.lane() == Lane::Poses),
            asked: Mutex::new((Instant::now(), true)),
        }
    }

    /// Nobody waits for its result any more: it was ended, or asked for anew.
    pub(super) fn is_unwanted(&self) -> bool {
        let mut asked = (self.asked.lock()).unwrap_or_else(std::sync::PoisonError::into_inner);
        if asked.1 && asked.0.elapsed() >= ASKED_EVERY {
            let held = self
                .app
                .store
                .read(|c| commands::tasks::is_held(c, self.task));
            // A data file that is busy says nothing: it is asked again.
            *asked = (Instant::now(), held.unwrap_or(true));
        }
        !asked.1
    }

    /// From here on only better results are looked for: what a person waits for goes first.
    pub(super) fn make_way(&self) {
        self.makes_way.store(true, Ordering::Relaxed);
    }

    fn to_stop(&self) -> bool {
        self.stop.load(Ordering::Relaxed) || self.is_unwanted()
    }
}

impl Watch for TaskWatch<'_> {
    fn stopped(&self) -> bool {
        while self.makes_way.load(Ordering::Relaxed) && self.app.is_urgent() {
            if self.to_stop() {
                return true;
            }
            std::thread::sleep(Duration::from_millis(30));
        }
        self.to_stop()
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
            .write_aside(|c| commands::tasks::report(c, self.task, share))
        {
            Ok(()) => self.app.tell(self.topic),
            Err(error) => tracing::warn!(%error, "progress was not written down"),
        }
    }
}
