//! One printing of a plate.

use crate::ids::{PlateId, RunId};
use crate::words::words;

words! {
    /// How a run ended.
    RunOutcome, "outcome of a run" {
        /// The plate came off with what was on it; its copies are judged one by one.
        Held = "held",
        /// Nothing of it is of use.
        Lost = "lost",
        /// It was stopped at a layer.
        Stopped = "stopped",
        /// It was taken back: the plate waits again, with the same copies.
        PutBack = "put back",
    }
}

/// One printing of a plate; a plate may need several.
#[derive(Debug, Clone, PartialEq)]
pub struct Run {
    /// Which one.
    pub id: RunId,
    /// Its plate.
    pub plate: PlateId,
    /// When it began, ms since 1970.
    pub started_at_ms: i64,
    /// When it ended.
    pub ended_at_ms: Option<i64>,
    /// How it ended.
    pub outcome: Option<RunOutcome>,
    /// The layer it was stopped at.
    pub stopped_at_layer: Option<i64>,
    /// How warm the room was, °C.
    pub room_c: Option<f64>,
    /// What the vat held at the start, ml.
    pub vat_ml: Option<f64>,
    /// When resin has to be added at the latest, s after the start; nothing where it is enough.
    pub refill_after_s: Option<f64>,
    /// Since when it is held, where it is.
    pub paused_at_ms: Option<i64>,
    /// How long it was held before, ms.
    pub paused_ms: i64,
    /// How much sooner it ends than it should, by the word of its machine, ms.
    pub ahead_ms: i64,
    /// When somebody looked at its first layers.
    pub looked_at_ms: Option<i64>,
    /// When the vat was filled up.
    pub refilled_at_ms: Option<i64>,
    /// What went wrong and was gone on with; empty where nothing did.
    pub trouble: String,
    /// Anything worth remembering.
    pub note: String,
}

impl Run {
    /// A run that began then.
    #[must_use]
    pub fn begun(id: RunId, plate: PlateId, started_at_ms: i64) -> Self {
        Self {
            id,
            plate,
            started_at_ms,
            ended_at_ms: None,
            outcome: None,
            stopped_at_layer: None,
            room_c: None,
            vat_ml: None,
            refill_after_s: None,
            paused_at_ms: None,
            paused_ms: 0,
            ahead_ms: 0,
            looked_at_ms: None,
            refilled_at_ms: None,
            trouble: String::new(),
            note: String::new(),
        }
    }

    /// When what takes so many seconds from the start is over, ms since 1970: what the run was held
    /// comes on top.
    #[must_use]
    pub fn at_ms(&self, seconds: f64, now_ms: i64) -> i64 {
        let held = self.paused_at_ms.map_or(0, |since| (now_ms - since).max(0));
        self.started_at_ms + (seconds * 1000.0) as i64 + self.paused_ms + held
    }

    /// When a run that takes so many seconds ends, ms since 1970, by the word of its machine where that is connected.
    #[must_use]
    pub fn ends_at_ms(&self, seconds: f64, now_ms: i64) -> i64 {
        self.at_ms(seconds, now_ms) - self.ahead_ms
    }

    /// How much of what takes so many seconds is left, s.
    #[must_use]
    pub fn left_s(&self, seconds: f64, now_ms: i64) -> f64 {
        (self.ends_at_ms(seconds, now_ms) - now_ms).max(0) as f64 / 1000.0
    }
}

/// Two runs of one printer that are said to have gone on at the same time.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "{printer} was printing plate {other} in that time, and cannot have printed plate {plate} too: correct the times of one of them"
)]
pub struct RunsMeet {
    /// The printer.
    pub printer: String,
    /// Number of the plate that was to be written down.
    pub plate: i64,
    /// Number of the plate whose run is written down already.
    pub other: i64,
    /// When that run began, ms since 1970.
    pub from_ms: i64,
    /// When it ended, ms since 1970; nothing while it goes on.
    pub to_ms: Option<i64>,
}

/// The latest stretch of a length that ends by a time and meets none of those that are taken: when a run
/// that nobody wrote down may have been. All in ms.
#[must_use]
pub fn free_before(taken: &[(i64, i64)], length_ms: i64, by_ms: i64) -> (i64, i64) {
    let mut to = by_ms;
    loop {
        let from = to - length_ms;
        let met = taken.iter().filter(|t| t.0 < to && t.1 > from);
        match met.map(|t| t.0).min() {
            Some(begins) => to = begins,
            None => return (from, to),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Runs of 10 that nobody wrote down, by 100: one after the other they go further back, past what is
    /// taken and through gaps that are long enough.
    #[rstest]
    #[case::nothing_taken(&[], (90, 100))]
    #[case::one_at_the_end(&[(90, 100)], (80, 90))]
    #[case::one_goes_on(&[(95, i64::MAX)], (85, 95))]
    #[case::a_gap_too_short(&[(90, 100), (75, 85)], (65, 75))]
    #[case::a_gap_long_enough(&[(90, 100), (70, 80)], (80, 90))]
    #[case::two_at_once(&[(85, 100), (88, 95)], (75, 85))]
    fn a_run_is_put_where_its_printer_was_free(
        #[case] taken: &[(i64, i64)],
        #[case] free: (i64, i64),
    ) {
        assert_eq!(free_before(taken, 10, 100), free);
    }
}
