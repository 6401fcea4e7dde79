//! What judged tests say of an exposure.

use crate::learn::{JudgedTest, Verdict, next_exposure};
use crate::words::words;

words! {
    /// Which exposure a test was of: they are judged apart.
    Tested, "kind of exposure" {
        /// That of the layers.
        Layer = "layer",
        /// That of the bottom layers.
        Bottom = "bottom layer",
    }
}

impl Tested {
    /// What too little of it looks like, what it should be, and what too much looks like.
    #[must_use]
    pub const fn looks(self) -> [&'static str; 3] {
        match self {
            Self::Layer => [
                "pins or walls are missing, or soft",
                "pins and walls stand, gaps are free",
                "gaps have grown shut, holes are small",
            ],
            Self::Bottom => [
                "it fell off the plate, or hung by a corner",
                "it held, and came off with a scraper",
                "it would not come off, or its foot has spread",
            ],
        }
    }
}

/// A test that was printed and judged.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ExposureTest {
    /// Of which exposure.
    pub of: Tested,
    /// How long, and how it came out.
    pub judged: JudgedTest,
    /// How warm the room was, °C.
    pub room_c: Option<f64>,
    /// When, ms since 1970.
    pub at_ms: i64,
}

/// What the tests of an exposure say, s.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum ExposureAdvice {
    /// Nobody has tested it.
    Nothing,
    /// What is in use is right.
    Keep,
    /// This came out right and is not in use.
    TakeOver(f64),
    /// This is to be tried next: more than what was too little, less than what was too much.
    Try {
        /// The exposure.
        seconds: f64,
        /// The longest that was too little.
        under: Option<f64>,
        /// The shortest that was too much.
        over: Option<f64>,
    },
    /// The shorter one was too much and the longer one too little.
    Contradicts {
        /// Too little.
        under: f64,
        /// Too much.
        over: f64,
    },
}

/// Exposures that differ by less than this are the same, as a share.
const SAME: f64 = 0.005;
/// How many times as long the next test is where all were too little (common practice, no source).
const STEP: f64 = 1.25;

fn same(a: f64, b: f64) -> bool {
    (a / b - 1.0).abs() < SAME
}

/// What to do about an exposure of which `in_use_s` is used, confirmed or not: by its tests, of each
/// exposure the last one counts.
#[must_use]
pub fn advise(
    tests: &[ExposureTest],
    of: Tested,
    (in_use_s, confirmed): (f64, bool),
) -> ExposureAdvice {
    let mut last: Vec<(i64, JudgedTest)> = Vec::new();
    for test in tests.iter().filter(|t| t.of == of) {
        let found = last
            .iter_mut()
            .find(|(_, j)| same(j.exposure_s, test.judged.exposure_s));
        match found {
            Some(known) if known.0 <= test.at_ms => *known = (test.at_ms, test.judged),
            Some(_) => {}
            None => last.push((test.at_ms, test.judged)),
        }
    }
    last.sort_by_key(|(at, _)| *at);
    let judged: Vec<JudgedTest> = last.iter().map(|(_, j)| *j).collect();
    let right: Vec<f64> = with(&judged, Verdict::Right).collect();
    if let Some(used) = right.iter().find(|s| same(**s, in_use_s)) {
        return if confirmed {
            ExposureAdvice::Keep
        } else {
            ExposureAdvice::TakeOver(*used)
        };
    }
    if let Some(newest) = right.last() {
        return ExposureAdvice::TakeOver(*newest);
    }
    let under = with(&judged, Verdict::Under).reduce(f64::max);
    let over = with(&judged, Verdict::Over).reduce(f64::min);
    let seconds = match (under, over) {
        (None, None) => return ExposureAdvice::Nothing,
        (Some(under), Some(over)) if under >= over => {
            return ExposureAdvice::Contradicts { under, over };
        }
        (Some(under), None) => under * STEP,
        (None, Some(over)) => over / STEP,
        (Some(_), Some(_)) => next_exposure(&judged).unwrap_or(in_use_s),
    };
    ExposureAdvice::Try {
        seconds: (seconds * 100.0).round() / 100.0,
        under,
        over,
    }
}

fn with(judged: &[JudgedTest], verdict: Verdict) -> impl Iterator<Item = f64> {
    let same = judged.iter().filter(move |j| j.verdict == verdict);
    same.map(|j| j.exposure_s)
}

/// How deep a layer cured, mm, by a shelf with nothing under it: it is thicker than it was drawn by
/// what light reached beyond its first layer. That light is of all layers of the shelf, which moves
/// the threshold but not the depth of penetration (by P. F. Jacobs' working curve, see
/// [`crate::learn::Ladder`]).
#[must_use]
pub fn shelf_depth_mm(measured_mm: f64, drawn_mm: f64, layer_mm: f64) -> f64 {
    measured_mm - drawn_mm + layer_mm
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::{Ladder, LadderPoint};
    use rstest::rstest;

    fn test(at_ms: i64, exposure_s: f64, verdict: Verdict) -> ExposureTest {
        ExposureTest {
            of: Tested::Layer,
            judged: JudgedTest {
                exposure_s,
                verdict,
            },
            room_c: None,
            at_ms,
        }
    }

    const U: Verdict = Verdict::Under;
    const R: Verdict = Verdict::Right;
    const O: Verdict = Verdict::Over;

    /// In use are 2.0 s. Between 1.5 and 1.9 the mean ratio is 1.688; a step is a quarter.
    #[rstest]
    #[case::nothing(&[], ExposureAdvice::Nothing)]
    #[case::bracket(&[(1.5, U), (1.9, O)], ExposureAdvice::Try { seconds: 1.69, under: Some(1.5), over: Some(1.9) })]
    #[case::all_under(&[(2.0, U), (1.6, U)], ExposureAdvice::Try { seconds: 2.5, under: Some(2.0), over: None })]
    #[case::all_over(&[(2.0, O)], ExposureAdvice::Try { seconds: 1.6, under: None, over: Some(2.0) })]
    #[case::right(&[(1.5, U), (1.7, R)], ExposureAdvice::TakeOver(1.7))]
    #[case::in_use(&[(1.5, U), (2.0, R)], ExposureAdvice::Keep)]
    #[case::judged_again(&[(1.7, R), (1.7, U)], ExposureAdvice::Try { seconds: 2.13, under: Some(1.7), over: None })]
    #[case::contradicts(&[(2.2, U), (1.8, O)], ExposureAdvice::Contradicts { under: 2.2, over: 1.8 })]
    fn tests_say_what_is_next(#[case] tests: &[(f64, Verdict)], #[case] says: ExposureAdvice) {
        let tests = tests.iter().zip(1..);
        let mut all: Vec<ExposureTest> = tests.map(|((s, v), at)| test(at, *s, *v)).collect();
        assert_eq!(advise(&all, Tested::Layer, (2.0, true)), says);
        // Those of bottom layers are another matter.
        for test in &mut all {
            test.of = Tested::Bottom;
        }
        let others = advise(&all, Tested::Layer, (2.0, true));
        assert_eq!(others, ExposureAdvice::Nothing);
    }

    /// A shelf of twenty layers, each of which sends its light on: the depth of penetration comes out,
    /// whatever the threshold is.
    #[test]
    fn shelves_give_the_depth_of_penetration() {
        let (dp, threshold, layer) = (0.1, 0.4, 0.05);
        let point = |exposure_s: f64| {
            // Doses add up layer by layer; where they reach the threshold the shelf ends.
            let dose = |z: f64| {
                (0..20)
                    .map(|n| exposure_s * (-(z + f64::from(n) * layer) / dp).exp())
                    .sum::<f64>()
            };
            let (mut low, mut high) = (0.0, 2.0);
            for _ in 0..60 {
                let middle = (low + high) / 2.0;
                if dose(middle) > threshold {
                    low = middle;
                } else {
                    high = middle;
                }
            }
            LadderPoint {
                exposure_s,
                depth_mm: shelf_depth_mm(1.0 + low - layer, 1.0, layer),
            }
        };
        let ladder = Ladder::fit(&[1.5, 2.0, 2.6, 3.4].map(point)).expect("a curve");
        assert!((ladder.dp_mm - dp).abs() < 1e-6, "{}", ladder.dp_mm);
    }
}
