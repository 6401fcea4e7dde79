//! Workshops drawn by chance: does what is said of them hold?

use super::{Judged, Posterior, by_money};
use crate::rng::Rng;

const SEEDS: u64 = 1000;
/// Of two hundred copies of the workshop's other parts a hundred and eighty were good.
const WORKSHOP: Judged = Judged {
    good: 180,
    failed: 20,
};
const STRENGTH: f64 = 10.0;
/// One plate in twelve is lost whole: what was on it says nothing of copies.
const PLATE_LOSS: f64 = 0.08;

/// A part with its true share, drawn from what is believed of the workshop's parts, Beta(9, 1), by the inverse of
/// its distribution; and what was judged of it on so many plates of six.
fn drawn(rng: &mut Rng, plates: usize) -> (f64, Judged) {
    let share = rng.share().powf(1.0 / 9.0);
    let mut judged = Judged::default();
    for _ in 0..plates {
        if rng.share() < PLATE_LOSS {
            continue;
        }
        for _ in 0..6 {
            if rng.share() < share {
                judged.good += 1;
            } else {
                judged.failed += 1;
            }
        }
    }
    (share, judged)
}

fn posterior(judged: Judged) -> Posterior {
    let prior = Posterior::shrunk(WORKSHOP, STRENGTH).expect("a prior");
    Posterior::new(judged, prior).expect("a posterior")
}

/// The 90 % interval holds the true share of 870 to 930 of a thousand parts, whether nothing of them was judged,
/// or much.
#[test]
fn intervals_hold_what_they_say() {
    for plates in [0, 1, 3, 10] {
        let holds = (0..SEEDS).filter(|seed| {
            let mut rng = Rng(seed * 31 + plates as u64);
            let (share, judged) = drawn(&mut rng, plates);
            let of = posterior(judged);
            (of.quantile(0.05)..=of.quantile(0.95)).contains(&share)
        });
        let holds = holds.count();
        assert!((870..=930).contains(&holds), "{plates} plates: {holds}");
    }
}

/// What the advice buys costs no more in all than any fixed share of spares from none to a half, within twice the
/// standard error of the difference over a thousand parts.
#[test]
fn spares_by_the_advice_cost_least() {
    const WANTED: u64 = 12;
    const SPARE: f64 = 60.0;
    const REPRINT: f64 = 900.0;
    // What it comes to: the spares, and a reprint where copies are missing.
    let pays = |rng: &mut Rng, share: f64, copies: u64| {
        let good = (0..copies).filter(|_| rng.share() < share).count() as u64;
        let spares = (copies - WANTED) as f64 * SPARE;
        spares + if good < WANTED { REPRINT } else { 0.0 }
    };
    for percent in [0, 10, 20, 30, 40, 50_u64] {
        let fixed = WANTED + (WANTED * percent).div_ceil(100);
        let more: Vec<f64> = (0..SEEDS)
            .map(|seed| {
                let mut rng = Rng(seed * 77 + 5);
                let (share, judged) = drawn(&mut rng, 3);
                let (advised, _) = by_money(&posterior(judged), WANTED, SPARE, REPRINT).unwrap();
                // The same luck for both.
                let luck = rng.next();
                pays(&mut Rng(luck), share, advised) - pays(&mut Rng(luck), share, fixed)
            })
            .collect();
        let n = more.len() as f64;
        let mean = more.iter().sum::<f64>() / n;
        let spread = more.iter().map(|d| (d - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let noise = 2.0 * (spread / n).sqrt();
        assert!(
            mean <= noise,
            "{percent} %: {mean:.1} more, give or take {noise:.1}"
        );
    }
}
