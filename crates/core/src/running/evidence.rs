//! What a run's own figures say about a failure, and what was different the last time it went well.

use crate::flow::FailureCause;
use crate::workshop::is_confirmed;
use crate::workshop::resin::ROOM_C;
/// What is known of a run.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RunFigures {
    /// The room, °C.
    pub room_c: Option<f64>,
    /// Exposure of a layer, s.
    pub exposure_s: f64,
    /// Exposure of a bottom layer, s.
    pub bottom_s: f64,
    /// Names of the figures of its setting that nobody has confirmed, parted by commas.
    pub assumed: String,
    /// Hardest pull of a layer, against a disc of 20 mm.
    pub peak_pull: Option<f64>,
    /// The printer's limit for a plate.
    pub pull_limit: Option<f64>,
    /// Somebody looked at the first layers.
    pub looked: bool,
    /// What was gone on with.
    pub trouble: String,
    /// The printer.
    pub printer: String,
    /// The resin.
    pub resin: String,
}

/// Causes that a cold room makes likelier.
const COLD: &[FailureCause] = &[
    FailureCause::NothingOnPlate,
    FailureCause::TornOff,
    FailureCause::StuckToFilm,
    FailureCause::SoftDetail,
];
/// Causes that pull makes likelier.
const PULLED: &[FailureCause] = &[FailureCause::StuckToFilm, FailureCause::TornOff];
/// Causes that the exposure decides.
const EXPOSED: &[FailureCause] = &[
    FailureCause::NothingOnPlate,
    FailureCause::TornOff,
    FailureCause::Fused,
    FailureCause::SoftDetail,
    FailureCause::BrokenAtRemoval,
];

/// What the figures say about a cause, each a sentence; nothing where they say nothing.
#[must_use]
pub fn evidence(cause: FailureCause, run: &RunFigures) -> Vec<String> {
    let mut said = Vec::new();
    if let Some(c) = run.room_c.filter(|c| *c < ROOM_C && COLD.contains(&cause)) {
        said.push(format!("The room was at {c:.0} °C, under {ROOM_C:.0}."));
    }
    if PULLED.contains(&cause)
        && let Some(pull) = run.peak_pull
    {
        match run.pull_limit {
            Some(limit) if pull > 0.8 * limit => said.push(format!(
                "Its hardest layer pulls {pull:.2}, and {} takes {limit:.2}.",
                run.printer
            )),
            None if pull > 1.0 => {
                said.push(format!(
                    "Its hardest layer pulls {pull:.2} times a disc of 20 mm."
                ));
            }
            _ => {}
        }
    }
    if EXPOSED.contains(&cause) && !is_confirmed("exposure_s", &run.assumed) {
        said.push(format!(
            "Its exposure of {:.1} s is assumed: nobody has tested it.",
            run.exposure_s
        ));
    }
    if !run.looked && cause == FailureCause::NothingOnPlate {
        said.push("Nobody noted a look at its first layers.".into());
    }
    if !run.trouble.is_empty() {
        said.push(format!("It was gone on with: {}.", run.trouble));
    }
    said
}

/// What was different in the last run of the same recipe that went well, each a sentence.
#[must_use]
pub fn differences(run: &RunFigures, good: &RunFigures) -> Vec<String> {
    let mut said = Vec::new();
    let mut differs = |what: &str, then: String, now: String| {
        if then != now {
            said.push(format!("{what}: {then} then, {now} now."));
        }
    };
    differs("Printer", good.printer.clone(), run.printer.clone());
    differs("Resin", good.resin.clone(), run.resin.clone());
    let s = |s: f64| format!("{s:.1} s");
    differs("Exposure", s(good.exposure_s), s(run.exposure_s));
    differs("Bottom exposure", s(good.bottom_s), s(run.bottom_s));
    if let (Some(then), Some(now)) = (good.room_c, run.room_c)
        && (then - now).abs() >= 2.0
    {
        differs("Room", format!("{then:.0} °C"), format!("{now:.0} °C"));
    }
    said
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn run() -> RunFigures {
        RunFigures {
            room_c: Some(16.0),
            exposure_s: 1.7,
            bottom_s: 30.0,
            assumed: "lift_mm,exposure_s".into(),
            peak_pull: Some(1.4),
            pull_limit: Some(1.5),
            looked: false,
            trouble: String::new(),
            printer: "Dunlin".into(),
            resin: "Slate tough".into(),
        }
    }

    #[rstest]
    #[case(FailureCause::StuckToFilm, &["16 °C", "pulls 1.40"])]
    #[case(FailureCause::NothingOnPlate, &["16 °C", "assumed", "first layers"])]
    #[case(FailureCause::Fused, &["assumed"])]
    #[case(FailureCause::Warped, &[])]
    fn a_run_says_what_it_knows(#[case] cause: FailureCause, #[case] words: &[&str]) {
        let said = evidence(cause, &run());
        assert_eq!(said.len(), words.len(), "{said:?}");
        for (sentence, word) in said.iter().zip(words) {
            assert!(sentence.contains(word), "{sentence}");
        }
        let fine = RunFigures {
            room_c: Some(21.0),
            assumed: "lift_mm".into(),
            peak_pull: Some(0.3),
            looked: true,
            ..run()
        };
        assert_eq!(evidence(cause, &fine), Vec::<String>::new());
    }

    #[test]
    fn only_what_differs_is_told() {
        let good = RunFigures {
            room_c: Some(21.0),
            exposure_s: 2.0,
            ..run()
        };
        assert_eq!(differences(&run(), &run()), Vec::<String>::new());
        assert_eq!(
            differences(&run(), &good),
            [
                "Exposure: 2.0 s then, 1.7 s now.",
                "Room: 21 °C then, 16 °C now."
            ]
        );
    }
}
