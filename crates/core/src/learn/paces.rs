//! The paces of a workshop's printers, from its log.

use std::collections::HashMap;

use super::pace::{Expected, LoggedRun, Pace};
use crate::ids::{PlateId, PrinterId};

/// A run that was timed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimedPlate {
    /// Its plate.
    pub plate: PlateId,
    /// The printer it ran on.
    pub printer: PrinterId,
    /// What it is held against was told by the maker's own program, not reckoned here.
    pub told: bool,
    /// The run.
    pub run: LoggedRun,
    /// The plate was not run again since.
    pub newest: bool,
}

/// The paces of all printers. What the maker's own program says errs otherwise than what is reckoned
/// here, so each has a pace of its own.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Paces {
    paces: HashMap<(PrinterId, bool), Pace>,
    took: HashMap<PlateId, f64>,
}

impl Paces {
    /// From a log, oldest run first.
    #[must_use]
    pub fn learned(log: &[TimedPlate]) -> Self {
        let mut runs: HashMap<(PrinterId, bool), Vec<LoggedRun>> = HashMap::new();
        for timed in log {
            let of = runs.entry((timed.printer, timed.told)).or_default();
            of.push(timed.run);
        }
        Self {
            paces: runs
                .into_iter()
                .map(|(of, log)| (of, Pace::learned(&log)))
                .collect(),
            took: log
                .iter()
                .filter(|t| t.newest)
                .map(|t| (t.plate, t.run.time.actual_s))
                .collect(),
        }
    }

    /// The pace of a printer against what is reckoned here.
    #[must_use]
    pub fn of(&self, printer: PrinterId) -> Pace {
        let known = self.paces.get(&(printer, false));
        known.copied().unwrap_or_else(Pace::unlogged)
    }

    /// How long a plate takes that is yet to be printed: by what was told of it, or else by what was
    /// reckoned.
    #[must_use]
    pub fn expect(&self, printer: PrinterId, reckoned_s: f64, told_s: Option<f64>) -> Expected {
        let known = self.paces.get(&(printer, told_s.is_some()));
        let pace = known.copied().unwrap_or_else(Pace::unlogged);
        pace.expect(told_s.unwrap_or(reckoned_s))
    }

    /// How long a plate took in its last run, where that was timed.
    #[must_use]
    pub fn took(&self, plate: PlateId) -> Option<Expected> {
        self.took.get(&plate).map(|s| Expected::took(*s))
    }
}
