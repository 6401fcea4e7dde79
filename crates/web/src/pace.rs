//! How long work of each kind took of late, so that a page can say how long it will wait.

use std::collections::BTreeMap;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use wembrit_core::flow::{Task, TaskKind};

/// How much the last time counts against those before it.
const LAST: f64 = 0.3;

/// What tasks of each kind take, s; kinds by name.
#[derive(Default)]
pub(crate) struct Pace(Mutex<BTreeMap<&'static str, f64>>);

impl Pace {
    /// A task of this kind was finished in this time.
    pub(crate) fn took(&self, kind: TaskKind, time: Duration) {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let seconds = time.as_secs_f64();
        kept.entry(kind.as_str())
            .and_modify(|usual| *usual += LAST * (seconds - *usual))
            .or_insert(seconds);
    }

    /// What these tasks take, one after the other, s; nothing while one of their kinds was never
    /// seen.
    pub(crate) fn take(&self, tasks: &[Task]) -> Option<f64> {
        let kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let left = |task: &Task| Some(kept.get(task.kind.as_str())? * (1.0 - task.progress));
        tasks.iter().map(left).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::flow::TaskState;
    use wembrit_core::ids::TaskId;

    fn task(kind: TaskKind, progress: f64) -> Task {
        Task {
            id: TaskId(1),
            kind,
            input_key: String::new(),
            state: TaskState::Waiting,
            attempts: 0,
            progress,
            message: String::new(),
            claim: 0,
        }
    }

    #[test]
    fn what_waits_takes_what_its_kind_took_of_late() {
        let pace = Pace::default();
        let two = [task(TaskKind::Measure, 0.0), task(TaskKind::Measure, 0.5)];
        assert_eq!(pace.take(&two), None);
        pace.took(TaskKind::Measure, Duration::from_secs(4));
        assert_eq!(pace.take(&two), Some(6.0));
        // 4 + 0.3 × (14 − 4) = 7.
        pace.took(TaskKind::Measure, Duration::from_secs(14));
        assert_eq!(pace.take(&two), Some(10.5));
        assert_eq!(pace.take(&[task(TaskKind::Prepare, 0.0)]), None);
    }
}
