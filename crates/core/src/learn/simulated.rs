//! Printers drawn from what is believed of printers, and runs of theirs.

use super::line::{SPREAD_S, TimedRun, WORKSHOP};
use crate::rng::Rng;

/// A draw of a normal law (Box and Muller).
pub(super) fn normal(rng: &mut Rng) -> f64 {
    let far = (-2.0 * (1.0 - rng.share()).ln()).sqrt();
    far * (std::f64::consts::TAU * rng.share()).cos()
}

/// How a printer really is.
#[derive(Debug, Clone, Copy)]
pub(super) struct Truth {
    pub(super) intercept_s: f64,
    pub(super) slope: f64,
    pub(super) spread_s: f64,
}

impl Truth {
    /// Drawn from what is believed of printers.
    pub(super) fn drawn(rng: &mut Rng) -> Self {
        // Chi-squared with four degrees is twice the sum of two exponential draws.
        let draw = |rng: &mut Rng| -2.0 * (1.0 - rng.share()).ln();
        let spread = SPREAD_S * (WORKSHOP.freedom / (draw(rng) + draw(rng))).sqrt();
        let [a, b] = WORKSHOP.sure.map(|sure| spread / sure.sqrt());
        Self {
            intercept_s: WORKSHOP.at[0] + a * normal(rng),
            slope: WORKSHOP.at[1] + b * normal(rng),
            spread_s: spread,
        }
    }

    /// A run of one to twelve hours.
    pub(super) fn run(&self, rng: &mut Rng) -> TimedRun {
        let reckoned_s = 3600.0 * (1.0 + 11.0 * rng.share());
        // A draw under nothing is no run; what is believed leaves that next to no room.
        let actual_s = self.intercept_s + self.slope * reckoned_s + self.spread_s * normal(rng);
        TimedRun {
            reckoned_s,
            actual_s,
        }
    }
}
