//! Where on the plate copies fail.

use crate::geometry::Quarter;

/// A copy that stood on a plate which held: where, from 0 to 1 over the plate, and what is known of how it stood.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stood {
    /// From its left edge, and from its front.
    pub at: [f64; 2],
    /// How tall it is, mm.
    pub height_mm: f64,
    /// To its nearest neighbour, mm; nothing where it stood alone.
    pub neighbour_mm: Option<f64>,
    /// It failed.
    pub failed: bool,
}

/// A part of the plate, or of the copies, in which more may fail than elsewhere.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Window {
    /// A quarter of the plate.
    Quarter(Quarter),
    /// Taller than most.
    Tall,
    /// Lower than most.
    Low,
    /// Closer to its neighbour than most.
    Close,
}

impl Window {
    /// The quarters.
    pub const QUARTERS: [Self; 4] = [
        Self::Quarter(Quarter::FrontLeft),
        Self::Quarter(Quarter::FrontRight),
        Self::Quarter(Quarter::BackLeft),
        Self::Quarter(Quarter::BackRight),
    ];

    /// All that are tried.
    pub const ALL: [Self; 7] = [
        Self::QUARTERS[0],
        Self::QUARTERS[1],
        Self::QUARTERS[2],
        Self::QUARTERS[3],
        Self::Tall,
        Self::Low,
        Self::Close,
    ];

    /// What it is called.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Quarter(Quarter::FrontLeft) => "front left quarter",
            Self::Quarter(Quarter::FrontRight) => "front right quarter",
            Self::Quarter(Quarter::BackLeft) => "back left quarter",
            Self::Quarter(Quarter::BackRight) => "back right quarter",
            Self::Tall => "the tallest quarter of the copies",
            Self::Low => "the lowest quarter of the copies",
            Self::Close => "the quarter with the closest neighbours",
        }
    }

    /// Where it is a place on the plate, what to look at.
    #[must_use]
    pub const fn look_at(self) -> &'static str {
        match self {
            Self::Quarter(..) => "look at the level of the plate, the screen and the film there",
            Self::Tall => "look at the holding of tall parts: tips, bracing, lift speed",
            Self::Low => "look at the first layers: exposure, level, how parts come off",
            Self::Close => "look at the clearance: light bleeds, resin does not drain between them",
        }
    }
}

/// A window in which more failed than chance would have it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Found {
    /// Which one.
    pub window: Window,
    /// Copies that stood in it.
    pub stood: u64,
    /// Those of them that failed.
    pub failed: u64,
    /// The chance that so many or more fall into it by luck, times the windows tried; 1 at most.
    pub p: f64,
}

/// At this and under it is called more than chance.
pub const PROVEN: f64 = 0.05;

/// The hypergeometric tail: of so many copies so many failed; of those that stood in a window at least so many did,
/// where failures fall on any copy alike (Fisher's exact test, one-sided).
#[must_use]
pub fn tail(copies: u64, failures: u64, stood: u64, failed: u64) -> f64 {
    let ln_choose = |n: u64, k: u64| statrs::function::factorial::ln_binomial(n, k);
    let all = ln_choose(copies, failures);
    let most = stood.min(failures);
    let ways = |k: u64| {
        // Those that failed elsewhere have to fit there.
        if failures - k > copies - stood {
            return 0.0;
        }
        (ln_choose(stood, k) + ln_choose(copies - stood, failures - k) - all).exp()
    };
    (failed..=most).map(ways).sum::<f64>().clamp(0.0, 1.0)
}

/// The value a quarter of them is over.
fn upper(mut all: Vec<f64>) -> Option<f64> {
    all.sort_by(f64::total_cmp);
    all.get(all.len() * 3 / 4).copied()
}

/// The quarter that is proven worse than the rest, the worst where several are.
#[must_use]
pub fn worst_quarter(found: &[Found]) -> Option<Quarter> {
    let quarter = |f: &Found| match f.window {
        Window::Quarter(quarter) if f.p <= PROVEN => Some(quarter),
        _ => None,
    };
    found.iter().find_map(quarter)
}

/// How many stood and failed in a window, and its chance after so many that were tried.
fn look(copies: &[Stood], window: Window, tried: usize) -> Option<Found> {
    let tall = upper(copies.iter().map(|c| c.height_mm).collect())?;
    let low = upper(copies.iter().map(|c| -c.height_mm).collect())?;
    let gaps = copies.iter().filter_map(|c| c.neighbour_mm);
    let close = upper(gaps.map(|mm| -mm).collect());
    let inside = |c: &&Stood| match window {
        Window::Quarter(quarter) => quarter.holds(c.at),
        Window::Tall => c.height_mm >= tall,
        Window::Low => -c.height_mm >= low,
        Window::Close => c
            .neighbour_mm
            .zip(close)
            .is_some_and(|(mm, close)| -mm >= close),
    };
    let count = |n: usize| n as u64;
    let failures = count(copies.iter().filter(|c| c.failed).count());
    let stood = count(copies.iter().filter(inside).count());
    let failed = count(copies.iter().filter(inside).filter(|c| c.failed).count());
    // A window that holds everything tells nothing.
    if failed == 0 || stood == count(copies.len()) {
        return None;
    }
    let p = tail(count(copies.len()), failures, stood, failed) * tried as f64;
    Some(Found {
        window,
        stood,
        failed,
        p: p.min(1.0),
    })
}

/// The windows in which something failed, the least likely by luck first; each corrected for all that were tried
/// (Bonferroni).
#[must_use]
pub fn windows(copies: &[Stood], tried: &[Window]) -> Vec<Found> {
    let mut all: Vec<Found> = tried
        .iter()
        .filter_map(|w| look(copies, *w, tried.len()))
        .collect();
    all.sort_by(|a, b| a.p.total_cmp(&b.p));
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn copies(inside: (usize, usize), outside: (usize, usize)) -> Vec<Stood> {
        let stood = |at: [f64; 2], (all, failed): (usize, usize)| {
            (0..all).map(move |i| Stood {
                at,
                height_mm: 20.0 + i as f64,
                neighbour_mm: None,
                failed: i < failed,
            })
        };
        stood([0.9, 0.1], inside)
            .chain(stood([0.2, 0.7], outside))
            .collect()
    }

    /// The design's figures: 26 of 100 copies in one quarter, 9 of 11 failures: 2.5e-4 after four windows;
    /// 6.2399e-5 alone (scipy 1.17, `hypergeom(100, 26, 11).sf(8)`).
    #[test]
    fn the_worst_quarter_is_told() {
        let found = windows(&copies((26, 9), (74, 2)), &Window::QUARTERS);
        let worst = found[0];
        assert_eq!(
            (worst.window, worst.stood, worst.failed),
            (Window::Quarter(Quarter::FrontRight), 26, 9)
        );
        assert!((worst.p - 2.496e-4).abs() < 1e-6, "{}", worst.p);
        assert!(found[1].p > 0.5);
        assert!(windows(&copies((0, 0), (50, 5)), &Window::QUARTERS).is_empty());
    }

    proptest! {
        /// A chance is one, and no window gets likelier for one failure more in it.
        #[test]
        fn a_tail_is_a_chance(stood in 0..40_u64, others in 0..40_u64, failures in 0..30_u64) {
            let copies = stood + others;
            prop_assume!(failures <= copies);
            prop_assert!((tail(copies, failures, stood, 0) - 1.0).abs() < 1e-9);
            let mut last = 1.0;
            for failed in 0..=stood.min(failures) {
                let p = tail(copies, failures, stood, failed);
                prop_assert!((0.0..=last + 1e-12).contains(&p));
                last = p;
            }
        }
    }
}
