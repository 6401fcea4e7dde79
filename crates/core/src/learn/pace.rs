//! The pace of a printer: its line, from what was logged since it last changed.

use super::line::{LONGEST_S, Predicted, TimeLine, TimedRun};

/// Of all runs so many come out within the ranges that are told.
pub const TOLD_LEVEL: f64 = 0.9;

/// A run of the log.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoggedRun {
    /// When it began, ms since 1970.
    pub at_ms: i64,
    /// What was reckoned, and what it took.
    pub time: TimedRun,
    /// How warm the room was, °C.
    pub room_c: Option<f64>,
}

impl LoggedRun {
    /// It is learned from: it took no three times what was reckoned, and no third of it. Else
    /// something else happened, or a figure was mistyped.
    #[must_use]
    pub fn is_near(&self) -> bool {
        let sensible = |s: f64| s.is_finite() && s > 0.0 && s <= LONGEST_S;
        let TimedRun {
            reckoned_s,
            actual_s,
        } = self.time;
        sensible(reckoned_s)
            && sensible(actual_s)
            && (1.0 / FAR..=FAR).contains(&(actual_s / reckoned_s))
    }
}

/// What is known of how long a printer takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pace {
    line: TimeLine,
    runs: usize,
    change: Option<PaceChange>,
}

/// A printer that takes longer, or less long, than it did.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PaceChange {
    /// The first run that went so, ms since 1970.
    pub since_ms: i64,
    /// Runs since then, that one among them.
    pub runs: usize,
    /// How many times as long they took as was expected by the log before.
    pub times: f64,
    /// How warm the room was since then and before, where it was at least [`COLDER_C`] colder.
    pub cold: Option<[f64; 2]>,
}

/// How much colder a room is in a cold season, °C (common practice, no source).
pub const COLDER_C: f64 = 4.0;

/// Times what was reckoned, or as small a part of it, from which on a run is not learned from.
const FAR: f64 = 3.0;

/// How far a run may lie off before it counts, and how much of that in a row is a change, in
/// deviations: the sums of E. S. Page, Continuous inspection schemes, Biometrika 41 (1954), from
/// memory. Over 1,000 printers drawn from what is believed of them (`pace_tests`) 30 of those that do
/// not change are flagged in 40 runs; of those that take a twentieth longer in the cold, or half a
/// hundredth longer with each run, 98 and 96 of a hundred within [`FLAGGED_WITHIN`] runs.
const ALLOWED: f64 = 0.5;
const MUCH: f64 = 5.5;
/// Runs within which a change is told.
pub const FLAGGED_WITHIN: usize = 10;

/// Runs of a printer that are looked at: more make its line no better, and printers age.
const NEWEST: usize = 200;

/// A sum of runs that lie off to one side.
#[derive(Debug, Clone, Copy, Default)]
struct Off {
    sum: f64,
    since: usize,
}

impl Off {
    /// With the run of this number; whether that is much by now.
    fn add(&mut self, run: usize, off: f64) -> bool {
        if self.sum <= 0.0 {
            *self = Self {
                sum: 0.0,
                since: run,
            };
        }
        self.sum = (self.sum + off - ALLOWED).max(0.0);
        self.sum > MUCH
    }
}

impl Pace {
    /// Of a printer without a log.
    #[must_use]
    pub fn unlogged() -> Self {
        Self {
            line: TimeLine::believed(),
            runs: 0,
            change: None,
        }
    }

    /// From a log, oldest run first. Where the printer changed, only what was logged since then
    /// counts, with the line before as what is believed of it.
    #[must_use]
    pub fn learned(log: &[LoggedRun]) -> Self {
        let mut log: Vec<LoggedRun> = log.iter().filter(|r| r.is_near()).copied().collect();
        log.drain(..log.len().saturating_sub(NEWEST));
        let times: Vec<TimedRun> = log.iter().map(|r| r.time).collect();
        let (mut before, mut from, mut change) = (TimeLine::believed(), 0, None);
        let mut off = [Off::default(); 2];
        for at in 0..log.len() {
            let line = before.with(&times[from..at]);
            let far = line.off(&times[at]);
            let [longer, shorter] = &mut off;
            // Both sums are kept up.
            let much = [longer.add(at, far), shorter.add(at, -far)];
            let Some(side) = much.iter().position(|m| *m) else {
                continue;
            };
            let since = off[side].since;
            before = before.with(&times[from..since]);
            change = Some((before, since, log[from..since].to_vec()));
            (from, off) = (since, [Off::default(); 2]);
        }
        Self {
            line: before.with(&times[from..]),
            runs: log.len() - from,
            change: change.and_then(|(was, since, was_log)| told(&was, &log[since..], &was_log)),
        }
    }

    /// The line.
    #[must_use]
    pub fn line(&self) -> &TimeLine {
        &self.line
    }

    /// Runs it was learned from.
    #[must_use]
    pub fn runs(&self) -> usize {
        self.runs
    }

    /// The change since which it was learned.
    #[must_use]
    pub fn change(&self) -> Option<&PaceChange> {
        self.change.as_ref()
    }

    /// What a plate takes for which so many seconds were reckoned, s; an empty one nothing.
    #[must_use]
    pub fn seconds(&self, reckoned_s: f64) -> f64 {
        self.expect(reckoned_s).seconds()
    }

    /// The same with its range.
    #[must_use]
    pub fn expect(&self, reckoned_s: f64) -> Expected {
        Expected {
            base_s: reckoned_s,
            line: self.line,
            runs: self.runs,
        }
    }
}

/// A change in words and figures; nothing where no run was logged before it.
fn told(was: &TimeLine, since: &[LoggedRun], before: &[LoggedRun]) -> Option<PaceChange> {
    let first = since.first().filter(|_| !before.is_empty())?;
    let took: f64 = since.iter().map(|r| r.time.actual_s).sum();
    let expected: f64 = since.iter().map(|r| was.at(r.time.reckoned_s)).sum();
    let warm = |runs: &[LoggedRun]| {
        let all: Vec<f64> = runs.iter().filter_map(|r| r.room_c).collect();
        (!all.is_empty()).then(|| all.iter().sum::<f64>() / all.len() as f64)
    };
    let rooms = warm(since).zip(warm(before));
    Some(PaceChange {
        since_ms: first.at_ms,
        runs: since.len(),
        times: took / expected.max(1.0),
        cold: rooms
            .filter(|(now, then)| then - now >= COLDER_C)
            .map(|(now, then)| [now, then]),
    })
}

/// How long a plate takes, with the line by which that is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    base_s: f64,
    line: TimeLine,
    /// Runs it was learned from.
    pub runs: usize,
}

impl Expected {
    /// What a plate took.
    #[must_use]
    pub fn took(seconds: f64) -> Self {
        Self {
            base_s: seconds,
            line: TimeLine::exact(),
            runs: 0,
        }
    }

    /// The time, s; nothing for an empty plate.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        if self.base_s <= 0.0 {
            return 0.0;
        }
        self.line.at(self.base_s).max(1.0)
    }

    /// How much longer, or less long, nine of ten such plates take at most, s.
    #[must_use]
    pub fn around_s(&self) -> f64 {
        let told = self.line.predict(self.base_s, TOLD_LEVEL);
        told.high_s - told.seconds
    }

    /// It is known: the plate was printed and timed.
    #[must_use]
    pub fn is_known(&self) -> bool {
        self.line == TimeLine::exact()
    }

    /// How far off all of these together may be, s: what is not known of a printer's line goes the same
    /// way for all its plates, what comes and goes with each run does not.
    #[must_use]
    pub fn around_together_s<'a>(all: impl IntoIterator<Item = &'a Expected>) -> f64 {
        let mut lines: Vec<(TimeLine, Vec<f64>)> = Vec::new();
        for one in all {
            match lines.iter_mut().find(|(line, _)| *line == one.line) {
                Some((_, bases)) => bases.push(one.base_s),
                None => lines.push((one.line, vec![one.base_s])),
            }
        }
        let squares = lines.iter().map(|(line, bases)| {
            let Predicted {
                seconds, high_s, ..
            } = line.predict_sum(bases, TOLD_LEVEL);
            (high_s - seconds).powi(2)
        });
        squares.sum::<f64>().sqrt()
    }
}

#[cfg(test)]
#[path = "pace_tests.rs"]
mod pace_tests;
