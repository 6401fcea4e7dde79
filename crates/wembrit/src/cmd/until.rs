//! How long a search of the command line goes on, and the file it is about.

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use wembrit_core::watch::Watch;

use super::CommandError;

/// The text of a file that was named.
pub(super) fn read_text(path: &Path) -> Result<String, CommandError> {
    std::fs::read_to_string(path).map_err(|why| CommandError::File {
        path: PathBuf::from(path),
        why,
    })
}

/// A little of the time is needed to write the answer.
const TO_WRITE_S: f64 = 0.15;

/// Stops at a moment, once there is an answer; never where steps are counted instead.
pub(super) struct Until(Option<Instant>, AtomicBool);

impl Until {
    /// Never stops.
    pub(super) const fn never() -> Self {
        Self(None, AtomicBool::new(true))
    }

    /// Stops when so many seconds are over since a moment.
    pub(super) fn after(begun: Instant, steps: Option<u64>, seconds: f64) -> Self {
        let seconds = if seconds.is_finite() {
            (seconds - TO_WRITE_S).clamp(0.0, 86_400.0)
        } else {
            10.0
        };
        let end = steps
            .is_none()
            .then(|| begun + Duration::from_secs_f64(seconds));
        Self(end, AtomicBool::new(true))
    }

    /// The same from now, but not before it was told that there is an answer.
    pub(super) fn once_there_is_one(steps: Option<u64>, seconds: f64) -> Self {
        let Self(end, _) = Self::after(Instant::now(), steps, seconds);
        Self(end, AtomicBool::new(false))
    }

    /// There is an answer.
    pub(super) fn there_is_one(&self) {
        self.1.store(true, Ordering::Relaxed);
    }
}

impl Watch for Until {
    fn stopped(&self) -> bool {
        self.1.load(Ordering::Relaxed) && self.0.is_some_and(|end| Instant::now() >= end)
    }
    fn report(&self, _share: f64) {}
}
