//! What a scale says of prints: it corrects the estimate, and finds liquid that stayed inside.

use std::collections::BTreeMap;

use statrs::distribution::{ContinuousCDF, Normal};

use crate::ids::ResinId;

/// Something that was put on a scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weighed {
    /// Of which resin.
    pub resin: ResinId,
    /// What it was reckoned to weigh, g.
    pub reckoned_g: f64,
    /// What it weighed, g.
    pub weighed_g: f64,
}

/// What prints of each resin weigh against what was reckoned.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Weights(BTreeMap<ResinId, WeightFactor>);

impl Weights {
    /// From everything that was weighed.
    #[must_use]
    pub fn learned(log: &[Weighed]) -> Self {
        let mut by_resin: BTreeMap<ResinId, Vec<f64>> = BTreeMap::new();
        for w in log {
            let of = by_resin.entry(w.resin).or_default();
            of.push(w.weighed_g / w.reckoned_g);
        }
        let factor = |(resin, ratios): (ResinId, Vec<f64>)| (resin, WeightFactor::learned(&ratios));
        Self(by_resin.into_iter().map(factor).collect())
    }

    /// Of one resin.
    #[must_use]
    pub fn of(&self, resin: ResinId) -> WeightFactor {
        let known = self.0.get(&resin);
        known.copied().unwrap_or(WeightFactor::AS_RECKONED)
    }
}

/// How much more, or less, prints weigh than was reckoned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeightFactor {
    /// Times what was reckoned.
    pub times: f64,
    /// How far prints lie apart, as a share.
    pub spread: f64,
    /// Prints it comes from.
    pub prints: usize,
}

/// What is believed of a resin of which nothing was weighed: as reckoned, give or take a twentieth, prints 3 %
/// apart (common practice, no source); as much as two and four prints.
const SURE: f64 = 5.0;
const SPREAD: f64 = 0.03;
const FREEDOM: f64 = 4.0;

impl WeightFactor {
    /// While nothing was weighed.
    pub const AS_RECKONED: Self = Self {
        times: 1.0,
        spread: SPREAD,
        prints: 0,
    };

    /// From what was weighed by what was reckoned: the mean of the logarithms of their ratios, with what is
    /// believed before.
    #[must_use]
    pub fn learned(ratios: &[f64]) -> Self {
        let sensible = ratios.iter().filter(|r| (1.0 / 3.0..=3.0).contains(*r));
        let logs: Vec<f64> = sensible.map(|r| r.ln()).collect();
        let many = logs.len() as f64;
        let believed = (SPREAD * 100.0 / SURE).powi(2);
        let mean = logs.iter().sum::<f64>() / (many + believed);
        let off: f64 = logs.iter().map(|l| (l - mean).powi(2)).sum();
        let off = off + believed * mean * mean;
        let spread = (FREEDOM * SPREAD * SPREAD + off) / (FREEDOM + many);
        Self {
            times: mean.exp(),
            spread: spread.sqrt(),
            prints: logs.len(),
        }
    }
}

/// How sure one has to be that a print is too heavy.
const LEVEL: f64 = 0.95;

/// Liquid inside a hollow print, ml, that weighs more than it should by more than prints differ; nothing
/// where it does not.
#[must_use]
pub fn liquid_inside_ml(
    predicted_g: f64,
    spread: f64,
    weighed_g: f64,
    density_g_per_ml: f64,
) -> Option<f64> {
    let most = predicted_g * (1.0 + Normal::standard().inverse_cdf(LEVEL) * spread);
    (weighed_g > most).then(|| (weighed_g - predicted_g) / density_g_per_ml)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand: 21.7 g with a spread of 3 % are at most 22.77 at 95 of a hundred; (24.9 − 21.7) / 1.1 = 2.9.
    #[test]
    fn a_print_that_is_too_heavy_holds_liquid() {
        assert_eq!(liquid_inside_ml(21.7, 0.03, 22.6, 1.1), None);
        let inside = liquid_inside_ml(21.7, 0.03, 24.9, 1.1).expect("liquid");
        assert!((inside - 2.909).abs() < 1e-3, "{inside}");
    }

    /// Ten prints that weigh 6 % more move the estimate nearly there; none leave it, and what cannot be is
    /// not learned from.
    #[test]
    fn weighed_prints_correct_the_estimate() {
        let none = WeightFactor::learned(&[]);
        assert_eq!(none, WeightFactor::AS_RECKONED);
        let mut heavy = vec![1.06; 10];
        let factor = WeightFactor::learned(&heavy);
        assert!(
            (factor.times - 1.06).abs() < 0.003 && factor.spread < 0.03,
            "{factor:?}"
        );
        heavy.extend([100.0, f64::INFINITY, f64::NAN]);
        assert_eq!(WeightFactor::learned(&heavy), factor);
    }
}
