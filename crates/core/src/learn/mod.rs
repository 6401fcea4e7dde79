//! What the workshop's own log teaches: how long plates really take, and which exposure to try next.
//!
//! [`TimeLine`] is a line through what was reckoned and what it took; [`Ladder`] a working curve
//! through measured depths; [`next_exposure`] halves what judged tests leave open.

mod bracket;
mod case;
mod hands;
mod ladder;
mod line;
mod pace;
mod paces;
#[cfg(test)]
mod simulated;
mod through;
mod weighed;

pub use bracket::{JudgedTest, Verdict, next_exposure};
pub use case::{FitError, answer_fit};
pub use hands::{Hands, HandsExpected, HandsSpent};
pub use ladder::{LONGEST_S, Ladder, LadderPoint, SHORTEST_S, other_layer, read_ladder};
pub use line::{Predicted, TimeLine, TimedRun};
pub use pace::{COLDER_C, Expected, FLAGGED_WITHIN, LoggedRun, Pace, PaceChange, TOLD_LEVEL};
pub use paces::{Paces, TimedPlate};
pub use weighed::{Weighed, WeightFactor, Weights, liquid_inside_ml};

/// Why nothing can be learned from a log.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum LearnError {
    /// Too few points.
    #[error("{found} are too few: it takes {least} at least")]
    TooFew {
        /// How many there are.
        found: usize,
        /// How many it takes.
        least: usize,
    },
    /// All of them at one place.
    #[error("all of them are at one place: no line goes through one point")]
    OnePlace,
    /// A number that none can be.
    #[error("{0} is no sensible number")]
    NoNumber(&'static str),
    /// Longer exposures cured less.
    #[error("longer exposures do not cure deeper: measure again")]
    NotRising,
}
