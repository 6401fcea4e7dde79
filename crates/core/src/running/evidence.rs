//! What a run's own figures say about a failure, and what was different the last time it went well.

use crate::flow::FailureCause;
use crate::units::PULL_SLAB_MM;
use crate::workshop::is_confirmed;
use crate::workshop::resin::ROOM_C;

/// A copy that failed, by itself.
#[derive(Debug, Clone, PartialEq)]
pub struct OwnPull {
    /// What a person calls it.
    pub name: String,
    /// Its own hardest pull as far as it was printed, against a disc of 20 mm.
    pub pull: f64,
}

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
    /// Hardest pull of a layer that was printed, of all that stands on the plate, against a disc of 20 mm.
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

/// Of loads slab by slab those that were printed before a run stopped at a height above the plate, mm.
#[must_use]
pub fn printed(slabs: &[f64], stopped_at_mm: Option<f64>) -> &[f64] {
    let many = stopped_at_mm.map_or(slabs.len(), |mm| (mm / PULL_SLAB_MM).ceil() as usize);
    &slabs[..many.min(slabs.len())]
}

/// What the figures say about a cause, each a sentence; nothing where they say nothing. `hardest` is the
/// copy that pulled hardest by itself of those that failed so.
#[must_use]
pub fn evidence(cause: FailureCause, hardest: Option<&OwnPull>, run: &RunFigures) -> Vec<String> {
    let mut said = Vec::new();
    // A copy tears off its own tips: what its neighbours pull is held by theirs.
    if let Some(own) = hardest.filter(|_| cause == FailureCause::TornOff) {
        said.push(format!(
            "Of those that tore off, {} pulls hardest: {:.2} times a disc of 20 mm by itself.",
            own.name, own.pull
        ));
    }
    if let Some(c) = run.room_c.filter(|c| *c < ROOM_C && COLD.contains(&cause)) {
        said.push(format!("The room was at {c:.0} °C, under {ROOM_C:.0}."));
    }
    if PULLED.contains(&cause)
        && let Some(pull) = run.peak_pull
    {
        match run.pull_limit {
            Some(limit) if pull > 0.8 * limit => said.push(format!(
                "The hardest layer that was printed pulls {pull:.2} over the whole plate, and {} takes {limit:.2}.",
                run.printer
            )),
            None if pull > 1.0 => {
                said.push(format!(
                    "The hardest layer that was printed pulls {pull:.2} times a disc of 20 mm over the whole plate."
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
        let said = evidence(cause, None, &run());
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
        assert_eq!(evidence(cause, None, &fine), Vec::<String>::new());
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

    /// A copy that tore off is explained by its own pull first; other causes are not.
    #[test]
    fn what_tore_off_pulled_by_itself() {
        let arm = OwnPull {
            name: "Reeve, arm".into(),
            pull: 0.31,
        };
        let said = evidence(FailureCause::TornOff, Some(&arm), &run());
        assert!(
            said[0].contains("Reeve, arm pulls hardest: 0.31"),
            "{said:?}"
        );
        assert!(said[1..].iter().any(|s| s.contains("over the whole plate")));
        let fused = evidence(FailureCause::Fused, Some(&arm), &run());
        assert!(!fused.iter().any(|s| s.contains("Reeve")));
    }

    /// What stands above the layer at which a run stopped never pulled.
    #[rstest]
    #[case::to_its_end(None, 9.0)]
    #[case::stopped_low(Some(2.0 * PULL_SLAB_MM), 2.0)]
    #[case::within_a_slab(Some(2.5 * PULL_SLAB_MM), 3.0)]
    #[case::above_it_all(Some(99.0), 9.0)]
    #[case::at_once(Some(0.0), 0.0)]
    fn only_what_was_printed_pulled(#[case] stopped_at_mm: Option<f64>, #[case] hardest: f64) {
        let slabs = [1.0, 2.0, 3.0, 9.0, 4.0];
        let most = printed(&slabs, stopped_at_mm);
        assert_eq!(most.iter().copied().fold(0.0, f64::max), hardest);
    }
}
