//! How long plates really take, by how long was reckoned.

use super::LearnError;
use super::through::{Before, Through, deviations};

/// A run that is over.
///
/// # Units
/// s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimedRun {
    /// What was reckoned from layers and settings.
    pub reckoned_s: f64,
    /// What it took.
    pub actual_s: f64,
}

/// What a plate will take.
///
/// # Units
/// s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Predicted {
    /// What was reckoned.
    pub reckoned_s: f64,
    /// What is expected.
    pub seconds: f64,
    /// It takes less only so often,
    pub low_s: f64,
    /// and more as often.
    pub high_s: f64,
}

/// The line of a printer: what plates take against what was reckoned of them.
///
/// A line and not a factor: what comes once with every plate is told from what comes with every
/// layer. The range of a further run widens outside what was logged.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimeLine(Through);

/// Longest run that is believed, s: a year.
pub(super) const LONGEST_S: f64 = 3.2e7;

/// What is believed of a printer without a log: that it takes what was reckoned, give or take ten
/// minutes once and a tenth of everything, with runs some two and a half minutes apart (common
/// practice, no source). Worth four runs in the spread and next to nothing in the line.
pub(super) const WORKSHOP: Before = Before {
    at: [0.0, 1.0],
    sure: [
        (SPREAD_S / 600.0) * (SPREAD_S / 600.0),
        (SPREAD_S / 0.1) * (SPREAD_S / 0.1),
    ],
    freedom: 4.0,
    spread: SPREAD_S,
};
pub(super) const SPREAD_S: f64 = 150.0;

fn points(runs: &[TimedRun]) -> Result<Vec<[f64; 2]>, LearnError> {
    let sensible = |s: f64| s.is_finite() && (0.0..=LONGEST_S).contains(&s);
    if runs.iter().any(|r| !sensible(r.reckoned_s)) {
        return Err(LearnError::NoNumber("a time that was reckoned"));
    }
    if runs.iter().any(|r| !sensible(r.actual_s)) {
        return Err(LearnError::NoNumber("a time that a run took"));
    }
    Ok(runs.iter().map(|r| [r.reckoned_s, r.actual_s]).collect())
}

impl TimeLine {
    /// Plain least squares, with nothing believed before.
    ///
    /// # Errors
    /// [`LearnError`] for fewer than three runs, or all of them reckoned alike.
    pub fn least_squares(runs: &[TimedRun]) -> Result<Self, LearnError> {
        let points = points(runs)?;
        if points.len() < 3 {
            return Err(LearnError::TooFew {
                found: points.len(),
                least: 3,
            });
        }
        let line = Through::points(&points).ok_or(LearnError::OnePlace)?;
        Ok(Self(line))
    }

    /// The line of a printer with any number of runs: what is believed of printers moves to what
    /// this one does.
    ///
    /// # Errors
    /// [`LearnError::NoNumber`].
    pub fn learned(runs: &[TimedRun]) -> Result<Self, LearnError> {
        Ok(Self(Through::with(&WORKSHOP, &points(runs)?)))
    }

    /// What is believed of a printer without a log.
    pub(super) fn believed() -> Self {
        Self(Through::with(&WORKSHOP, &[]))
    }

    /// The line of what is known already: no spread at all.
    pub(super) fn exact() -> Self {
        Self(Through::EXACT)
    }

    /// Learned from these runs, with this line as what was believed before: it may have moved as far
    /// as printers differ from each other.
    pub(super) fn with(&self, runs: &[TimedRun]) -> Self {
        let before = Before {
            at: [self.0.intercept, self.0.slope],
            ..WORKSHOP
        };
        let runs: Vec<[f64; 2]> = runs.iter().map(|r| [r.reckoned_s, r.actual_s]).collect();
        Self(Through::with(&before, &runs))
    }

    /// How far off a run lies, in deviations of a normal law.
    pub(super) fn off(&self, run: &TimedRun) -> f64 {
        deviations(self.0.share_below(run.reckoned_s, run.actual_s))
    }

    /// What a plate takes, s.
    #[must_use]
    pub fn at(&self, reckoned_s: f64) -> f64 {
        self.0.at(reckoned_s)
    }

    /// What a plate takes beside what was reckoned, whatever is on it, s.
    #[must_use]
    pub fn intercept_s(&self) -> f64 {
        self.0.intercept
    }

    /// What it takes for each second that was reckoned.
    #[must_use]
    pub fn slope(&self) -> f64 {
        self.0.slope
    }

    /// How far runs lie from the line, s.
    #[must_use]
    pub fn residual_s(&self) -> f64 {
        self.0.residual
    }

    /// What the next plate will take; `level` of all runs come out within the range.
    #[must_use]
    pub fn predict(&self, reckoned_s: f64, level: f64) -> Predicted {
        let seconds = self.0.at(reckoned_s);
        let around = self.0.around(reckoned_s, level);
        Predicted {
            reckoned_s,
            seconds,
            low_s: seconds - around,
            high_s: seconds + around,
        }
    }

    /// What several plates take together.
    #[must_use]
    pub fn predict_sum(&self, reckoned_s: &[f64], level: f64) -> Predicted {
        let sum: f64 = reckoned_s.iter().sum();
        let many = reckoned_s.len() as f64;
        let seconds = many * self.0.intercept + self.0.slope * sum;
        let around = self.0.around_sum(many, sum, level);
        Predicted {
            reckoned_s: sum,
            seconds,
            low_s: seconds - around,
            high_s: seconds + around,
        }
    }
}

#[cfg(test)]
#[path = "line_tests.rs"]
mod line_tests;
