//! Cases of `wembrit fit`, as JSON. The format is that of `../shared/bench/learn/README.md`.

use serde::Deserialize;
use serde_json::{Value, json};

use super::bracket::{JudgedTest, next_exposure};
use super::ladder::{Ladder, LadderPoint, other_layer};
use super::line::{TimeLine, TimedRun};
use super::{LearnError, Verdict};
use crate::cases::{Case, CaseError, answer};

#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(tag = "kind", rename_all = "lowercase")]
enum FitCase {
    Line {
        runs: Vec<Run>,
        #[serde(default)]
        ask: Vec<f64>,
        #[serde(default = "usual_level")]
        level: f64,
        prior: Prior,
    },
    Ladder {
        points: Vec<Point>,
        ask: Option<Layers>,
    },
    Layer(Layers),
    Bracket {
        tests: Vec<Test>,
    },
}

fn usual_level() -> f64 {
    0.9
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Prior {
    None,
    Workshop,
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
struct Run {
    reckoned_s: f64,
    actual_s: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
struct Point {
    exposure_s: f64,
    depth_mm: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
struct Layers {
    exposure_s: f64,
    from_mm: f64,
    to_mm: f64,
}

#[derive(Debug, Clone, PartialEq, Deserialize)]
struct Test {
    exposure_s: f64,
    verdict: String,
}

/// Why a case has no answer.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum FitError {
    /// A test came out as none does.
    #[error(transparent)]
    Verdict(#[from] crate::words::UnknownWord),
    /// Nothing can be learned from it.
    #[error(transparent)]
    Learn(#[from] LearnError),
}

/// Answers a case, or an array of them by an array.
///
/// # Errors
/// [`CaseError`] of the first that has no answer.
pub fn answer_fit(text: &str) -> Result<Value, CaseError<FitError>> {
    answer::<FitCase>(text)
}

impl Layers {
    fn sensible(&self) -> Result<(), LearnError> {
        let usual = |v: f64| v.is_finite() && v > 0.0;
        if !usual(self.exposure_s) || self.exposure_s > 1e6 {
            return Err(LearnError::NoNumber("an exposure"));
        }
        // Thicker layers than a millimetre are nobody's.
        if [self.from_mm, self.to_mm]
            .iter()
            .any(|v| !usual(*v) || *v > 1.0)
        {
            return Err(LearnError::NoNumber("a layer height"));
        }
        Ok(())
    }
}

impl Case for FitCase {
    type Error = FitError;

    fn answer(&self) -> Result<Value, FitError> {
        Ok(match self {
            Self::Line {
                runs,
                ask,
                level,
                prior,
            } => line(runs, ask, *level, *prior)?,
            Self::Ladder { points, ask } => ladder(points, ask.as_ref())?,
            Self::Layer(of) => {
                of.sensible()?;
                let [low, high] = other_layer(of.exposure_s, of.from_mm, of.to_mm);
                json!({ "low_s": low, "high_s": high })
            }
            Self::Bracket { tests } => bracket(tests)?,
        })
    }
}

fn line(runs: &[Run], ask: &[f64], level: f64, prior: Prior) -> Result<Value, FitError> {
    if !(level > 0.0 && level < 1.0) {
        return Err(LearnError::NoNumber("a level").into());
    }
    if ask.iter().any(|s| !s.is_finite() || *s < 0.0 || *s > 1e9) {
        return Err(LearnError::NoNumber("a time that is asked about").into());
    }
    let timed = |r: &Run| TimedRun {
        reckoned_s: r.reckoned_s,
        actual_s: r.actual_s,
    };
    let runs: Vec<TimedRun> = runs.iter().map(timed).collect();
    let line = match prior {
        Prior::None => TimeLine::least_squares(&runs)?,
        Prior::Workshop => TimeLine::learned(&runs)?,
    };
    let predicted = ask.iter().map(|s| {
        let p = line.predict(*s, level);
        json!({
            "reckoned_s": s, "seconds": p.seconds, "low_s": p.low_s, "high_s": p.high_s,
        })
    });
    Ok(json!({
        "intercept_s": line.intercept_s(), "slope": line.slope(),
        "residual_s": line.residual_s(), "predictions": predicted.collect::<Vec<Value>>(),
    }))
}

fn ladder(points: &[Point], ask: Option<&Layers>) -> Result<Value, FitError> {
    let step = |p: &Point| LadderPoint {
        exposure_s: p.exposure_s,
        depth_mm: p.depth_mm,
    };
    let points: Vec<LadderPoint> = points.iter().map(step).collect();
    let fit = Ladder::fit(&points)?;
    let mut answer = json!({
        "dp_mm": fit.dp_mm, "dp_low_mm": fit.dp_low_mm, "dp_high_mm": fit.dp_high_mm,
        "threshold_s": fit.threshold_s,
    });
    if let Some(of) = ask {
        of.sensible()?;
        answer["exposure_s"] = fit.exposure_s(of.exposure_s, of.from_mm, of.to_mm).into();
    }
    Ok(answer)
}

fn bracket(tests: &[Test]) -> Result<Value, FitError> {
    let mut judged = Vec::new();
    for test in tests {
        if !test.exposure_s.is_finite() || test.exposure_s <= 0.0 || test.exposure_s > 1e6 {
            return Err(LearnError::NoNumber("an exposure").into());
        }
        let verdict: Verdict = test.verdict.parse()?;
        judged.push(JudgedTest {
            exposure_s: test.exposure_s,
            verdict,
        });
    }
    Ok(json!({ "next_s": next_exposure(&judged) }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn answer(text: &str) -> Result<Value, CaseError<FitError>> {
        answer_fit(text)
    }

    /// By hand: the root of 1.5 × 1.9; 2.5 s · exp(∓0.02 / 0.05) and 0.2; a ladder that is a curve
    /// with Dp 0.1 mm and threshold 1 s exactly.
    #[rstest]
    #[case::between(r#"{"kind":"bracket","tests":[{"exposure_s":1.2,"verdict":"under"},{"exposure_s":1.9,"verdict":"over"},{"exposure_s":1.5,"verdict":"under"},{"exposure_s":2.5,"verdict":"over"}]}"#, &[("next_s", 1.688_194)])]
    #[case::thinner(r#"{"kind":"layer","exposure_s":2.5,"from_mm":0.05,"to_mm":0.03}"#, &[("low_s", 1.675_800), ("high_s", 2.262_094)])]
    #[case::thicker(r#"{"kind":"layer","exposure_s":2.5,"from_mm":0.03,"to_mm":0.05}"#, &[("low_s", 2.762_927), ("high_s", 3.729_562)])]
    #[case::ladder(r#"{"kind":"ladder","points":[{"exposure_s":1,"depth_mm":1e-12},{"exposure_s":2.718281828459045,"depth_mm":0.1},{"exposure_s":7.38905609893065,"depth_mm":0.2},{"exposure_s":20.085536923187668,"depth_mm":0.3}],"ask":{"exposure_s":2,"from_mm":0.05,"to_mm":0.05}}"#, &[("dp_mm", 0.1), ("dp_low_mm", 0.1), ("dp_high_mm", 0.1), ("threshold_s", 1.0), ("exposure_s", 2.0)])]
    fn cases_worked_by_hand(#[case] text: &str, #[case] known: &[(&str, f64)]) {
        let found = answer(text).expect("an answer");
        for (name, value) in known {
            let of = found[name].as_f64().expect("a number");
            assert!((of / value - 1.0).abs() < 1e-6, "{name}: {of} for {value}");
        }
    }

    #[rstest]
    #[case::one_is_right(r#"{"exposure_s":1.5,"verdict":"under"},{"exposure_s":1.7,"verdict":"right"},{"exposure_s":1.9,"verdict":"over"}"#)]
    #[case::nothing_over(r#"{"exposure_s":1.5,"verdict":"under"}"#)]
    #[case::nothing("")]
    fn there_is_no_next(#[case] tests: &str) {
        let text = format!(r#"[{{"kind":"bracket","tests":[{tests}]}}]"#);
        assert_eq!(
            answer(&text).expect("an answer"),
            json!([{ "next_s": null }])
        );
    }

    #[rstest]
    #[case("", "it is no case")]
    #[case("{}", "kind")]
    #[case(r#"{"kind":"tide"}"#, "unknown variant")]
    #[case(r#"{"kind":"line","runs":[],"prior":"none"}"#, "0 are too few")]
    #[case(
        r#"{"kind":"line","runs":[],"prior":"workshop","level":1.5}"#,
        "a level"
    )]
    #[case(
        r#"{"kind":"line","runs":[],"prior":"workshop","ask":[-1]}"#,
        "asked about"
    )]
    #[case(
        r#"{"kind":"bracket","tests":[{"exposure_s":1,"verdict":"burnt"}]}"#,
        "burnt"
    )]
    #[case(
        r#"{"kind":"bracket","tests":[{"exposure_s":-1,"verdict":"over"}]}"#,
        "an exposure"
    )]
    #[case(
        r#"{"kind":"layer","exposure_s":1,"from_mm":0,"to_mm":0.05}"#,
        "a layer height"
    )]
    #[case(
        r#"{"kind":"ladder","points":[{"exposure_s":1,"depth_mm":0.1}]}"#,
        "1 are too few"
    )]
    #[case(r#"{"kind":"ladder","points":[{"exposure_s":1,"depth_mm":0.4},{"exposure_s":2,"depth_mm":0.3},{"exposure_s":3,"depth_mm":0.2},{"exposure_s":4,"depth_mm":0.1}]}"#, "do not cure deeper")]
    fn what_has_no_answer_is_said_in_one_line(#[case] text: &str, #[case] why: &str) {
        let said = answer(text).expect_err("no answer").to_string();
        assert!(said.contains(why) && !said.contains('\n'), "{said}");
    }
}
