//! What judged copies say of the share that comes out good: a beta posterior.

use statrs::function::beta::{beta_reg, ln_beta};

use super::{Judged, OddsError};

/// The share of good copies as it is believed: Beta(a, b).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Posterior {
    /// Good ones, with what was believed before.
    pub a: f64,
    /// Failed ones, with what was believed before.
    pub b: f64,
}

impl Posterior {
    /// From judged copies and a prior Beta(a, b): the conjugate posterior of a share (Bayes, Laplace; in any
    /// handbook). Uniform is `[1, 1]`.
    ///
    /// # Errors
    /// [`OddsError::NoNumber`] for a prior that is none.
    pub fn new(judged: Judged, [a, b]: [f64; 2]) -> Result<Self, OddsError> {
        let sensible = |n: f64| (0.0..=1e9).contains(&n);
        if !sensible(a) || !sensible(b) {
            return Err(OddsError::NoNumber("a prior"));
        }
        let of = Self {
            a: a + judged.good as f64,
            b: b + judged.failed as f64,
        };
        // Nothing is known, or nothing ever came out.
        if of.a <= 0.0 {
            return Err(OddsError::NoNumber("a prior without a good copy"));
        }
        Ok(of)
    }

    /// A prior that is shrunk to the workshop: so many copies of its plain share.
    ///
    /// # Errors
    /// [`OddsError::NoNumber`] where the workshop has judged nothing, or for no strength.
    pub fn shrunk(workshop: Judged, strength: f64) -> Result<[f64; 2], OddsError> {
        let all = workshop.good as f64 + workshop.failed as f64;
        if all <= 0.0 {
            return Err(OddsError::NoNumber("a workshop that has judged nothing"));
        }
        if !(strength > 0.0 && strength <= 1e9) {
            return Err(OddsError::NoNumber("a strength"));
        }
        let share = workshop.good as f64 / all;
        Ok([strength * share, strength * (1.0 - share)])
    }

    /// Every copy comes out.
    fn is_sure(&self) -> bool {
        self.b <= 0.0
    }

    /// The share that is expected.
    #[must_use]
    pub fn mean(&self) -> f64 {
        self.a / (self.a + self.b)
    }

    /// The share that it is under with this chance: the quantile, by halving.
    #[must_use]
    pub fn quantile(&self, chance: f64) -> f64 {
        if self.is_sure() {
            return 1.0;
        }
        let (mut low, mut high) = (0.0, 1.0);
        for _ in 0..200 {
            let middle = f64::midpoint(low, high);
            // No number lies between them any more.
            if middle <= low || middle >= high {
                break;
            }
            if beta_reg(self.a, self.b, middle) < chance {
                low = middle;
            } else {
                high = middle;
            }
        }
        f64::midpoint(low, high)
    }

    /// The chance that of so many copies at least so many are good: one less the lower tail of the
    /// beta-binomial, P(k) = C(n, k) · B(k + a, n − k + b) / B(a, b) (Johnson, Kemp and Kotz, Univariate Discrete
    /// Distributions; from memory).
    #[must_use]
    pub fn at_least(&self, copies: u64, wanted: u64) -> f64 {
        match (wanted, copies) {
            (0, _) => return 1.0,
            (wanted, copies) if wanted > copies => return 0.0,
            _ if self.is_sure() => return 1.0,
            _ => {}
        }
        let n = copies as f64;
        let all = ln_beta(self.a, self.b);
        // C(n, k) = 1 / ((n + 1) · B(k + 1, n − k + 1)).
        let chance = |k: u64| {
            let k = k as f64;
            let ways = -(n + 1.0).ln() - ln_beta(k + 1.0, n - k + 1.0);
            (ways + ln_beta(k + self.a, n - k + self.b) - all).exp()
        };
        // The shorter tail is summed.
        if wanted <= copies - wanted + 1 {
            (1.0 - (0..wanted).map(chance).sum::<f64>()).clamp(0.0, 1.0)
        } else {
            (wanted..=copies).map(chance).sum::<f64>().clamp(0.0, 1.0)
        }
    }

    /// The chance that a later share is higher than this one, both from uniform priors. The sum over the later
    /// one's good copies is exact for whole numbers: Σ B(a₁ + i, b₁ + b₂) / ((b₂ + i) · B(1 + i, b₂) · B(a₁, b₁)).
    /// Seen from the other side, or by the shares that failed, it runs over other counts: the least of them is summed.
    #[must_use]
    pub fn better(before: Judged, after: Judged) -> f64 {
        let turned = |j: Judged| Judged {
            good: j.failed,
            failed: j.good,
        };
        let least = (before.good.min(before.failed)).min(after.good.min(after.failed));
        if least == after.good {
            Self::summed(before, after)
        } else if least == before.failed {
            Self::summed(turned(after), turned(before))
        } else if least == before.good {
            1.0 - Self::summed(after, before)
        } else {
            1.0 - Self::summed(turned(before), turned(after))
        }
    }

    fn summed(before: Judged, after: Judged) -> f64 {
        let (a1, b1) = (before.good as f64 + 1.0, before.failed as f64 + 1.0);
        let b2 = after.failed as f64 + 1.0;
        let all = ln_beta(a1, b1);
        let term = |i: u64| {
            let i = i as f64;
            let up = ln_beta(a1 + i, b1 + b2);
            (up - (b2 + i).ln() - ln_beta(1.0 + i, b2) - all).exp()
        };
        (0..=after.good).map(term).sum::<f64>().clamp(0.0, 1.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn judged(good: u64, failed: u64) -> Judged {
        Judged { good, failed }
    }

    /// Quantiles and tails by scipy 1.17 (`beta.ppf`, `betabinom.sf`); the uniform ones by hand: of n copies at
    /// least k with chance (n − k + 1) / (n + 1).
    #[rstest]
    #[case(6, 4, [0.349_811_534_57, 0.800_423_850_12], 27, 10, 0.911_639_146_84)]
    #[case(28, 2, [0.810_535_532_57, 0.973_099_880_31], 15, 12, 0.921_763_941_42)]
    #[case(0, 0, [0.05, 0.95], 24, 5, 0.8)]
    #[case(0, 0, [0.05, 0.95], 9, 9, 0.1)]
    fn as_scipy_says(
        #[case] good: u64,
        #[case] failed: u64,
        #[case] range: [f64; 2],
        #[case] copies: u64,
        #[case] wanted: u64,
        #[case] chance: f64,
    ) {
        let of = Posterior::new(judged(good, failed), [1.0, 1.0]).expect("a posterior");
        let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-9, "{a} for {b}");
        near(of.quantile(0.05), range[0]);
        near(of.quantile(0.95), range[1]);
        near(of.at_least(copies, wanted), chance);
        near(
            of.mean(),
            (good as f64 + 1.0) / ((good + failed) as f64 + 2.0),
        );
    }

    #[test]
    fn a_later_share_is_better_with_that_chance() {
        let chance = Posterior::better(judged(6, 4), judged(11, 1));
        assert!((chance - 0.951_945_079_77).abs() < 1e-9, "{chance}");
        let same = Posterior::better(judged(7, 3), judged(7, 3));
        assert!((same - 0.5).abs() < 1e-9);
    }

    #[rstest]
    #[case(judged(0, 0), 10.0)]
    #[case(judged(5, 5), f64::NAN)]
    #[case(judged(5, 5), 0.0)]
    fn what_is_no_prior_is_refused(#[case] workshop: Judged, #[case] strength: f64) {
        assert!(Posterior::shrunk(workshop, strength).is_err());
        assert!(Posterior::new(workshop, [f64::INFINITY, 1.0]).is_err());
    }

    proptest! {
        /// One copy more never lowers the chance, one wanted more never raises it, and both tails agree.
        #[test]
        fn tails_hold_together(good in 0..40_u64, failed in 0..40_u64, copies in 1..60_u64, wanted in 0..60_u64) {
            let of = Posterior::new(judged(good, failed), [1.0, 1.0]).expect("a posterior");
            let chance = of.at_least(copies, wanted);
            prop_assert!((0.0..=1.0).contains(&chance));
            prop_assert!(of.at_least(copies + 1, wanted) >= chance - 1e-12);
            prop_assert!(of.at_least(copies, wanted + 1) <= chance + 1e-12);
            let later = Posterior::better(judged(good, failed), judged(failed, good));
            let earlier = Posterior::better(judged(failed, good), judged(good, failed));
            // From whichever side it is summed, it is the same.
            let (a, b) = (judged(good, wanted), judged(copies, failed));
            prop_assert!((Posterior::better(a, b) - Posterior::summed(a, b)).abs() < 1e-9);
            prop_assert!((later + earlier - 1.0).abs() < 1e-9);
        }
    }
}
