//! The exposure of a process setting: judged tests, what to try next, and when it is due.

use askama::Template;
use wembrit_core::exposure::{
    ExposureAdvice, ExposureState, ExposureTest, FeatureKind, TestPiece, Tested, advise,
};
use wembrit_core::ids::ProcessSettingId;
use wembrit_core::learn::{Ladder, Verdict, other_layer};
use wembrit_core::workshop::is_confirmed;
use wembrit_paper::{ExposureMark, draw_exposures, draw_test_piece};
use wembrit_store::queries::pages::exposure::ExposurePage;

use super::Page;
use super::show;

/// What is typed of a test that is judged.
#[derive(Debug, Clone, Default)]
pub(crate) struct TypedTest {
    pub(crate) exposure_s: String,
    pub(crate) room_c: String,
    pub(crate) shelf_mm: String,
    pub(crate) note: String,
    pub(crate) fault: String,
}

impl TypedTest {
    /// Nothing but what is wrong.
    pub(crate) fn wrong(fault: String) -> Self {
        Self {
            fault,
            ..Self::default()
        }
    }
}

/// One of the two exposures of a setting.
pub(crate) struct ExposureRow {
    pub(crate) of: Tested,
    pub(crate) name: &'static str,
    pub(crate) in_use: String,
    pub(crate) assumed: bool,
    pub(crate) drawing: String,
    pub(crate) words: String,
    /// What is typed into the form where nothing was yet.
    pub(crate) propose: String,
    /// What can be taken over.
    pub(crate) take: Option<String>,
    /// Verdict and what it looks like.
    pub(crate) looks: [(Verdict, &'static str); 3],
}

/// A question about what came out of the test piece.
pub(crate) struct Tap {
    pub(crate) kind: FeatureKind,
    pub(crate) name: &'static str,
    pub(crate) sizes: &'static [f64],
}

impl Tap {
    fn new(kind: FeatureKind, name: &'static str) -> Self {
        Self {
            kind,
            name,
            sizes: TestPiece.sizes_mm(kind),
        }
    }
}

/// The page.
#[derive(Template)]
#[template(path = "workshop/exposure.html")]
pub(crate) struct ExposureView {
    pub(crate) page: Page,
    pub(crate) id: ProcessSettingId,
    pub(crate) version: i64,
    pub(crate) heading: String,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) state: &'static str,
    pub(crate) why: String,
    pub(crate) rows: Vec<ExposureRow>,
    pub(crate) piece: String,
    pub(crate) taps: [Tap; 3],
    pub(crate) typed: TypedTest,
    /// When, of what, how long, how it came out, room, note.
    pub(crate) tests: Vec<[String; 6]>,
    /// From other layer heights.
    pub(crate) from_others: Vec<String>,
    pub(crate) ladder: String,
    pub(crate) steps: Vec<(String, String)>,
}

/// The state of an exposure in a word, and why.
pub(crate) fn state_words(state: &ExposureState) -> (&'static str, String) {
    match state {
        ExposureState::Fresh => (
            "fresh",
            "confirmed, and nothing speaks against it".to_owned(),
        ),
        ExposureState::Missing => ("missing", "nobody has tested it".to_owned()),
        ExposureState::Due(why) => ("due", why.words()),
    }
}

/// Seconds as machines take them.
fn seconds(s: f64) -> String {
    let text = format!("{s:.2}");
    text.strip_suffix('0').map_or(text.clone(), str::to_owned)
}

fn row(data: &ExposurePage, of: Tested) -> ExposureRow {
    let timing = &data.setting.timing;
    let (in_use, field, name) = match of {
        Tested::Layer => (timing.exposure_s, "exposure_s", "Layers"),
        Tested::Bottom => (
            timing.bottom_exposure_s,
            "bottom_exposure_s",
            "Bottom layers",
        ),
    };
    let confirmed = is_confirmed(field, &data.setting.assumed);
    let past = |t: &ExposureTest| data.changed_at_ms.is_some_and(|at| t.at_ms <= at);
    let counted: Vec<ExposureTest> = data
        .tests
        .iter()
        .map(|(t, _)| *t)
        .filter(|t| !past(t))
        .collect();
    let advice = advise(&counted, of, (in_use, confirmed));
    let marks = data.tests.iter().map(|(t, _)| t).filter(|t| t.of == of);
    let marks: Vec<ExposureMark> = marks
        .map(|t| ExposureMark {
            exposure_s: t.judged.exposure_s,
            verdict: t.judged.verdict,
            past: past(t),
        })
        .collect();
    let next = match advice {
        ExposureAdvice::Try { seconds, .. } => Some(seconds),
        _ => None,
    };
    let looks = of.looks();
    ExposureRow {
        of,
        name,
        in_use: seconds(in_use),
        assumed: !confirmed,
        drawing: draw_exposures(&marks, in_use, next),
        words: advice_words(&advice),
        propose: seconds(next.unwrap_or(in_use)),
        take: match advice {
            ExposureAdvice::TakeOver(s) => Some(seconds(s)),
            _ => None,
        },
        looks: [
            (Verdict::Under, looks[0]),
            (Verdict::Right, looks[1]),
            (Verdict::Over, looks[2]),
        ],
    }
}

fn advice_words(advice: &ExposureAdvice) -> String {
    match advice {
        ExposureAdvice::Nothing => {
            "No test yet: print the piece with what is in use, and judge it.".into()
        }
        ExposureAdvice::Keep => "What is in use came out right.".into(),
        ExposureAdvice::TakeOver(s) => format!("{} s came out right.", seconds(*s)),
        ExposureAdvice::Try {
            seconds: next,
            under,
            over,
        } => {
            let next = seconds(*next);
            match (under, over) {
                (Some(u), Some(o)) => format!(
                    "Try {next} s next, as many times {} s (too little) as {} s (too much) is times it.",
                    seconds(*u),
                    seconds(*o)
                ),
                (Some(u), None) => format!("Try {next} s next: {} s was too little.", seconds(*u)),
                _ => format!(
                    "Try {next} s next: {} s was too much.",
                    over.map_or_else(String::new, seconds)
                ),
            }
        }
        ExposureAdvice::Contradicts { under, over } => format!(
            "{} s was too little and {} s too much: that cannot both be. Was the room, the film or the resin \
             another? Test one of them again.",
            seconds(*under),
            seconds(*over)
        ),
    }
}

/// What other layer heights of the same printer and resin say of this one.
fn from_others(data: &ExposurePage, ladder: Option<&Ladder>) -> Vec<String> {
    let to = data.setting.layer.mm();
    let said = |other: &wembrit_core::workshop::ProcessSetting| {
        let (known, from) = (other.timing.exposure_s, other.layer.mm());
        let [low, high] = other_layer(known, from, to);
        let between = match ladder {
            Some(l) => format!(
                "{} s, by the depth that was measured",
                seconds(l.exposure_s(known, from, to))
            ),
            None => format!("{} to {} s", seconds(low), seconds(high)),
        };
        format!(
            "From {} mm, where {} s is in use: {between}. Test this next.",
            other.layer,
            seconds(known)
        )
    };
    data.others.iter().map(said).collect()
}

impl ExposureView {
    pub(crate) fn new(page: Page, data: &ExposurePage, typed: TypedTest) -> Self {
        let (state, why) = state_words(&data.state);
        let fit = Ladder::fit(&data.ladder);
        let ladder = match (&fit, data.ladder.len()) {
            (Ok(l), _) => format!(
                "Depth of penetration {:.3} mm ({:.3} to {:.3} at nine of ten), nothing cures before {} s.",
                l.dp_mm,
                l.dp_low_mm,
                l.dp_high_mm,
                seconds(l.threshold_s)
            ),
            (Err(_), 0) => String::new(),
            (Err(why), _) => format!("No curve yet: {why}."),
        };
        let test = |(t, note): &(ExposureTest, String)| {
            [
                show::when(t.at_ms, &page.zone),
                t.of.to_string(),
                seconds(t.judged.exposure_s),
                match t.judged.verdict {
                    Verdict::Under => "too little".into(),
                    Verdict::Right => "right".into(),
                    Verdict::Over => "too much".into(),
                },
                t.room_c.map_or_else(String::new, |c| format!("{c:.0}")),
                note.clone(),
            ]
        };
        let room = || data.room_c.map_or_else(String::new, |c| format!("{c:.0}"));
        Self {
            id: data.setting.id,
            version: data.setting.number,
            heading: format!(
                "Exposure of {} with {} at {} mm",
                data.printer.name, data.resin.name, data.setting.layer
            ),
            printer: data.printer.name.clone(),
            resin: data.resin.name.clone(),
            state,
            why,
            rows: [Tested::Layer, Tested::Bottom]
                .map(|of| row(data, of))
                .into(),
            piece: draw_test_piece(),
            taps: [
                Tap::new(FeatureKind::Pin, "Thinnest pin that stands, mm"),
                Tap::new(FeatureKind::Wall, "Thinnest wall that stands, mm"),
                Tap::new(FeatureKind::Gap, "Narrowest gap that is free, mm"),
            ],
            typed: TypedTest {
                room_c: if typed.fault.is_empty() {
                    room()
                } else {
                    typed.room_c.clone()
                },
                ..typed
            },
            tests: data.tests.iter().rev().map(test).collect(),
            from_others: from_others(data, fit.as_ref().ok()),
            ladder,
            steps: data
                .ladder
                .iter()
                .map(|p| (seconds(p.exposure_s), format!("{:.3}", p.depth_mm)))
                .collect(),
            page,
        }
    }
}
