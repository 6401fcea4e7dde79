//! Which exposure to try next.

use crate::words::words;

words! {
    /// How a test came out.
    Verdict, "verdict" {
        /// Too little: features are missing, or parts are soft.
        Under = "under",
        /// As it should be.
        Right = "right",
        /// Too much: gaps are closed.
        Over = "over",
    }
}

/// A test that was judged.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct JudgedTest {
    /// How long it was exposed, s.
    pub exposure_s: f64,
    /// How it came out.
    pub verdict: Verdict,
}

/// The exposure to try next, s: between the longest that was too little and the shortest that was
/// too much, as many times the one as the other is times it. Nothing where one was right, or one of
/// the two is missing.
#[must_use]
pub fn next_exposure(tests: &[JudgedTest]) -> Option<f64> {
    let of = |verdict: Verdict| {
        let same = tests.iter().filter(move |t| t.verdict == verdict);
        same.map(|t| t.exposure_s)
    };
    if of(Verdict::Right).next().is_some() {
        return None;
    }
    let under = of(Verdict::Under).reduce(f64::max)?;
    let over = of(Verdict::Over).reduce(f64::min)?;
    Some((under * over).sqrt())
}
