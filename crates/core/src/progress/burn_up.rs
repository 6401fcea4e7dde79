//! How long the plates that are left take, by how long those took that are done.

use statrs::distribution::{Beta, ContinuousCDF};

/// A time as it is expected, with the range nine of ten lie in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    /// As likely before it as after it, days.
    pub median: f64,
    /// Nine of ten lie between, days.
    pub range: [f64; 2],
}

/// What is known of a rate before anything came, in plates: Jeffreys' prior of a Poisson rate.
const JEFFREYS: f64 = 0.5;

/// Days until so many more plates are done, where some were done in some days; nothing before the first.
///
/// Plates come at a rate nobody knows (Poisson, Jeffreys' prior): the time until `left` more are done, against the days
/// that passed, is distributed as x / (1 − x) with x from Beta(left, done + ½), the ratio of two gamma times (in any
/// handbook of Bayesian statistics).
#[must_use]
pub fn plates_left(done: u32, days: f64, left: u32) -> Option<Expected> {
    if done == 0 || days.is_nan() || days <= 0.0 {
        return None;
    }
    if left == 0 {
        return Some(Expected {
            median: 0.0,
            range: [0.0, 0.0],
        });
    }
    let share = Beta::new(f64::from(left), f64::from(done) + JEFFREYS).ok()?;
    let at = |chance: f64| {
        let x = share.inverse_cdf(chance);
        days * x / (1.0 - x).max(1e-9)
    };
    Some(Expected {
        median: at(0.5),
        range: [at(0.05), at(0.95)],
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// The design's figures; scipy 1.17 says the same: `30 * x / (1 - x)` with `x = beta.ppf([.05, .5, .95], 9, 12.5)`.
    #[rstest]
    #[case(12, 30.0, 9, Some([21.4, 10.1, 44.0]))]
    #[case(12, 30.0, 0, Some([0.0, 0.0, 0.0]))]
    #[case(0, 30.0, 9, None)]
    #[case(3, 0.0, 9, None)]
    #[case(3, f64::NAN, 9, None)]
    fn the_rest_takes_as_long_as_the_log_says(
        #[case] done: u32,
        #[case] days: f64,
        #[case] left: u32,
        #[case] expected: Option<[f64; 3]>,
    ) {
        let tenths =
            |e: Expected| [e.median, e.range[0], e.range[1]].map(|d| (d * 10.0).round() / 10.0);
        assert_eq!(plates_left(done, days, left).map(tenths), expected);
    }
}
