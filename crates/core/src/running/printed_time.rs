//! Whether a run can have printed for as long as somebody, or a machine, says.

use crate::flow::Run;

/// Clocks and people are so far off, s.
const ROUGHLY_S: f64 = 900.0;
/// Nothing is printed in less, s.
const LEAST_S: f64 = 60.0;
/// Nothing prints for longer, s: a fortnight.
const MOST_S: f64 = 14.0 * 86_400.0;

/// Why it cannot.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum TimeDoubt {
    /// No plate prints for so long, or in so little.
    #[error("a plate prints for something between a minute and two weeks, so {} cannot be right", words(*.0))]
    NoTime(f64),
    /// It was on its printer for less.
    #[error(
        "the plate was on the printer for only {}, not counting pauses, so it cannot have printed for {}",
        words(*on_printer_s),
        words(*said_s)
    )]
    LongerThanThere {
        /// What was said, s.
        said_s: f64,
        /// From its start to when it was taken off, without what it was held, s.
        on_printer_s: f64,
    },
}

fn words(seconds: f64) -> String {
    if seconds.abs() < 3600.0 {
        format!("{:.0} min", seconds / 60.0 + 0.0)
    } else if seconds.abs() < 1e7 {
        format!("{:.1} h", seconds / 3600.0)
    } else {
        "more than a season".to_owned()
    }
}

/// For how long a run printed, s, as it was said; it was on its printer for so long, where that was written down as it
/// happened.
///
/// # Errors
/// [`TimeDoubt`].
pub fn printed_s(said_s: f64, on_printer_s: Option<f64>) -> Result<f64, TimeDoubt> {
    if !(LEAST_S..=MOST_S).contains(&said_s) {
        return Err(TimeDoubt::NoTime(said_s));
    }
    match on_printer_s {
        Some(on_printer_s) if said_s > on_printer_s + ROUGHLY_S => {
            Err(TimeDoubt::LongerThanThere {
                said_s,
                on_printer_s,
            })
        }
        _ => Ok(said_s),
    }
}

/// From start to end without what it was held, where that tells how long it can have printed: a run that was written
/// down within a minute was not timed by it, nor was one whose clock was put back.
#[must_use]
pub fn on_printer_s(from_ms: i64, to_ms: i64, held_ms: i64) -> Option<f64> {
    let seconds = to_ms.saturating_sub(from_ms).saturating_sub(held_ms) as f64 / 1000.0;
    (seconds > LEAST_S).then_some(seconds)
}

impl Run {
    /// What is doubtful about a time that is said of a run that has ended.
    #[must_use]
    pub fn doubt_of(&self, said_s: f64) -> Option<TimeDoubt> {
        let ended = self.ended_at_ms?;
        let since = self.paused_at_ms.map_or(0, |since| (ended - since).max(0));
        let there = on_printer_s(self.started_at_ms, ended, self.paused_ms + since);
        printed_s(said_s, there).err()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::as_reckoned(7200.0, Some(7300.0), None)]
    #[case::clocks_differ(7200.0, Some(6400.0), None)]
    #[case::nobody_was_there(7200.0, None, None)]
    #[case::nothing(0.0, Some(7300.0), Some("so 0 min cannot be right"))]
    #[case::less_than_nothing(-300.0, Some(7300.0), Some("so -5 min cannot be right"))]
    #[case::longer_than_there(7200.0, Some(600.0), Some("on the printer for only 10 min"))]
    #[case::by_a_fast_simulator(18.0 * 600.0, Some(600.0), Some("cannot have printed for 3.0 h"))]
    #[case::for_ever(1e308, None, Some("so more than a season cannot"))]
    #[case::no_number(f64::NAN, None, Some("cannot be right"))]
    #[case::endless(f64::INFINITY, Some(7300.0), Some("cannot be right"))]
    fn a_time_that_cannot_be_is_doubted(
        #[case] said_s: f64,
        #[case] on_printer_s: Option<f64>,
        #[case] doubt: Option<&str>,
    ) {
        match (printed_s(said_s, on_printer_s), doubt) {
            (Ok(s), None) => assert_eq!(s, said_s),
            (Err(why), Some(words)) => assert!(why.to_string().contains(words), "{why}"),
            (found, _) => panic!("{found:?}"),
        }
    }

    #[rstest]
    #[case::two_hours((0, 7_200_000, 0), Some(7200.0))]
    #[case::half_of_it_held((0, 7_200_000, 3_600_000), Some(3600.0))]
    #[case::at_once((0, 30_000, 0), None)]
    #[case::the_clock_was_put_back((7_200_000, 0, 0), None)]
    #[case::as_far_as_numbers_go((i64::MIN, i64::MAX, 0), Some(i64::MAX as f64 / 1000.0))]
    fn what_was_not_timed_says_nothing(
        #[case] (from, to, held): (i64, i64, i64),
        #[case] seconds: Option<f64>,
    ) {
        assert_eq!(on_printer_s(from, to, held), seconds);
    }
}
