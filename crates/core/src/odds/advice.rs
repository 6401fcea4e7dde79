//! How many spares to print of a part, and on which plates, by money.

use super::spares::{by_money, over_plates};
use super::{Judged, OddsError, Posterior, believed};

/// What is known of a part of which more copies are wanted.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SparesAsked {
    /// Good copies that are still wanted.
    pub wanted: u64,
    /// How its copies came out so far, on plates that held.
    pub judged: Judged,
    /// How all copies of the workshop did.
    pub workshop: Judged,
    /// What one copy more costs, minor units.
    pub spare_minor: f64,
    /// What a plate of its own for those that are missing costs, minor units.
    pub reprint_minor: f64,
}

/// How many spares pay.
#[derive(Debug, Clone, PartialEq)]
pub struct SparesAdvice {
    /// Spares.
    pub spares: u64,
    /// What is believed of the share that comes out good.
    pub odds: Posterior,
    /// The chance that enough are good without any spare.
    pub without: f64,
    /// The chance with them.
    pub with: f64,
    /// What the spares and a reprint with its chance cost together, minor units; without spares, with them.
    pub cost_minor: [f64; 2],
    /// Copies printed, and the chance that enough of them are good: the curve, to where it is as good as sure.
    pub curve: Vec<(u64, f64)>,
}

/// Most points of a curve.
const POINTS: u64 = 40;

impl SparesAsked {
    /// The number of spares that costs least, see [`by_money`].
    ///
    /// # Errors
    /// [`OddsError`] for money that is none.
    pub fn advice(&self) -> Result<SparesAdvice, OddsError> {
        let odds = believed(self.judged, self.workshop);
        let wanted = self.wanted;
        let (print, with_minor) = by_money(&odds, wanted, self.spare_minor, self.reprint_minor)?;
        let without = odds.at_least(wanted, wanted);
        let mut curve = Vec::new();
        for copies in wanted..=wanted + POINTS {
            let chance = odds.at_least(copies, wanted);
            curve.push((copies, chance));
            if copies > print + 2 && chance > 0.995 {
                break;
            }
        }
        Ok(SparesAdvice {
            spares: print - wanted,
            without,
            with: odds.at_least(print, wanted),
            cost_minor: [(1.0 - without) * self.reprint_minor, with_minor],
            curve,
            odds,
        })
    }
}

impl SparesAdvice {
    /// Why, in one sentence; prices are written by `money`.
    #[must_use]
    pub fn reason(&self, asked: &SparesAsked, money: &dyn Fn(f64) -> String) -> String {
        let judged = asked.judged;
        let known = if judged.all() == 0 {
            "none of it judged yet, the workshop's odds taken".to_owned()
        } else {
            format!("{} of {} came out", judged.good, judged.all())
        };
        let short = |chance: f64| match 1.0 - chance {
            p if p < 0.005 => "under 1 %".to_owned(),
            p => format!("{:.0} %", p * 100.0),
        };
        if self.spares == 0 {
            return format!(
                "{known}: a spare costs {}, a plate for what is missing {} with {}: none pays",
                money(asked.spare_minor),
                money(asked.reprint_minor),
                short(self.without)
            );
        }
        format!(
            "{known}: {} for {} bring the chance of another plate for {} from {} to {}",
            if self.spares == 1 {
                "1 spare".to_owned()
            } else {
                format!("{} spares", self.spares)
            },
            money(self.spares as f64 * asked.spare_minor),
            money(asked.reprint_minor),
            short(self.without),
            short(self.with)
        )
    }
}

/// More ways to spread spares than that are not tried one by one.
const MOST_WAYS: usize = 3000;

/// On which of the plates that wait the spares help most, where plates may be lost whole: the way to spread them with
/// the best chance of enough good copies, of every way there is; where there are too many, of those that put all on
/// one plate. The earlier plates among equals. `on` are the copies of the part on each plate.
///
/// # Errors
/// [`OddsError`] for chances that are none.
pub fn where_to_put(
    spares: u64,
    wanted: u64,
    on: &[u64],
    plate_loss: f64,
    copy_good: f64,
) -> Result<Vec<u64>, OddsError> {
    let mut best = vec![0; on.len()];
    let mut known = f64::NEG_INFINITY;
    for more in ways(spares, on.len()) {
        let all: Vec<u64> = on.iter().zip(&more).map(|(n, m)| n + m).collect();
        let chance = over_plates(plate_loss, copy_good, wanted, &all)?;
        if chance > known + 1e-12 {
            (best, known) = (more, chance);
        }
    }
    Ok(best)
}

/// Ways to spread spares over plates, the earlier plates first.
fn ways(spares: u64, plates: usize) -> Vec<Vec<u64>> {
    if plates == 0 {
        return Vec::new();
    }
    let mut all = vec![Vec::new()];
    for at in 0..plates {
        let last = at + 1 == plates;
        let mut next = Vec::new();
        for way in &all {
            let left = spares - way.iter().sum::<u64>();
            let least = if last { left } else { 0 };
            next.extend(
                (least..=left)
                    .rev()
                    .map(|n| [way.as_slice(), &[n]].concat()),
            );
            if next.len() > MOST_WAYS {
                let alone = |at: usize| {
                    (0..plates)
                        .map(|i| if i == at { spares } else { 0 })
                        .collect()
                };
                return (0..plates).map(alone).collect();
            }
        }
        all = next;
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn asked(wanted: u64, good: u64, failed: u64) -> SparesAsked {
        let judged = Judged { good, failed };
        SparesAsked {
            wanted,
            judged,
            workshop: judged,
            spare_minor: 60.0,
            reprint_minor: 900.0,
        }
    }

    #[test]
    fn spares_are_advised_with_their_reason() {
        let of = asked(12, 28, 2);
        let advice = of.advice().expect("an answer");
        assert!(advice.spares > 0 && advice.with > advice.without);
        assert!(advice.cost_minor[1] < advice.cost_minor[0]);
        let money = |minor: f64| format!("{:.2}", minor / 100.0);
        let reason = advice.reason(&of, &money);
        assert!(reason.starts_with("28 of 30 came out"), "{reason}");
        assert!(reason.contains("another plate for 9.00"), "{reason}");
        let dear = SparesAsked {
            spare_minor: 900.0,
            ..of
        };
        let none = dear.advice().expect("an answer");
        assert_eq!(none.spares, 0);
        assert!(none.reason(&dear, &money).ends_with("none pays"));
    }

    /// One that has five of the five wanted on it, another that has none. By hand: 0.8 · P(6 of 7) with both on the
    /// first is the best two can do; of five that surely come out a second full plate is worth more than any.
    #[test]
    fn spares_go_where_they_help() {
        assert_eq!(where_to_put(2, 5, &[5, 0], 0.2, 0.95), Ok(vec![2, 0]));
        assert_eq!(where_to_put(5, 5, &[5, 0], 0.2, 1.0), Ok(vec![0, 5]));
        assert_eq!(where_to_put(2, 10, &[10], 0.1, 0.9), Ok(vec![2]));
        assert_eq!(where_to_put(2, 10, &[], 0.1, 0.9), Ok(vec![]));
        let many = where_to_put(30, 10, &[10, 0, 0, 0, 0, 0], 0.1, 1.0).expect("a way");
        assert_eq!(many.iter().sum::<u64>(), 30);
    }

    proptest! {
        /// What is advised costs no more than none, or than any fixed number; the curve never falls.
        #[test]
        fn no_fixed_number_is_cheaper(wanted in 1..20_u64, good in 0..40_u64, failed in 0..20_u64, fixed in 0..12_u64) {
            let of = asked(wanted, good, failed);
            let advice = of.advice().expect("an answer");
            let odds = &advice.odds;
            let short = 1.0 - odds.at_least(wanted + fixed, wanted);
            let cost = fixed as f64 * of.spare_minor + short * of.reprint_minor;
            prop_assert!(advice.cost_minor[1] <= cost + 1e-6);
            prop_assert!(advice.curve.windows(2).all(|w| w[0].1 <= w[1].1 + 1e-12));
        }
    }
}
