//! Prints of a plate on the scale.

use askama::Template;
use wembrit_core::ids::{PartId, PlateId, ResinId};
use wembrit_core::stores::{OnScale, WeightSays, reckoned_g};
use wembrit_store::queries::pages::weighing::{WeighedPart, WeighingPage};

use super::Page;
use super::show::{self, tenth};
use super::stores::weight_words;

/// What can be put on the scale, and what it should weigh as each state, g.
pub(crate) struct ScaleRow {
    /// As the form names it.
    pub(crate) value: String,
    pub(crate) name: String,
    pub(crate) copies: u64,
    pub(crate) expected: Vec<String>,
    pub(crate) hollow: bool,
}

/// The page.
#[derive(Template)]
#[template(path = "plates/scale.html")]
pub(crate) struct WeighingView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) can_be: bool,
    pub(crate) states: &'static [OnScale],
    pub(crate) rows: Vec<ScaleRow>,
    /// What prints of the resin weigh against what was reckoned.
    pub(crate) learned: String,
    pub(crate) resin: ResinId,
    /// What the last weight says.
    pub(crate) said: String,
    pub(crate) weighed: Vec<(i64, [String; 5])>,
    pub(crate) fault: String,
}

/// What a weight says, in words.
pub(crate) fn says_words(says: WeightSays) -> String {
    match says {
        WeightSays::AsExpected => {
            "It is as heavy as it should be; the next estimate follows it.".to_owned()
        }
        WeightSays::Liquid(ml) => format!(
            "It is heavier than prints differ: about {} ml of liquid seem to be inside. Open a drain, fill and empty \
             it in the bath, and cure it inside, or it leaks or bursts within weeks. It is not counted for the estimate.",
            tenth(ml)
        ),
        WeightSays::Far(times) => format!(
            "It weighs {times:.2} times what is expected: look at the grams, the number of copies, the supports and the \
             unit of the file again; forget it below if it was mistyped."
        ),
    }
}

impl WeighingView {
    pub(crate) fn new(page: Page, data: &WeighingPage, said: String, fault: String) -> Self {
        let facts = data.resin.facts;
        let expected = |part: Option<PartId>| {
            let body = data.body(part, 1).unwrap_or_default();
            let grams = |state: &OnScale| {
                let grams = reckoned_g(&body, *state, &facts) * facts.weighed.times;
                format!("{grams:.2}")
            };
            OnScale::ALL.iter().map(grams).collect()
        };
        let all = ScaleRow {
            value: "all".into(),
            name: "All of it".into(),
            copies: data.copies(None),
            expected: expected(None),
            hollow: data.hollow_ml(None, 1) > 0.0,
        };
        let row = |p: &WeighedPart| ScaleRow {
            value: format!("part {}", p.part),
            name: p.name.clone(),
            copies: p.copies,
            expected: expected(Some(p.part)),
            hollow: p.hollow_ml > 0.0,
        };
        let weighed = data.weighed.iter().map(|w| {
            let [reckoned, weighed] = w.grams;
            let what = match &w.part {
                Some(part) => format!("{} × {part}, {}", w.copies, w.state),
                None => format!("all of it, {}", w.state),
            };
            let liquid = w.liquid_ml.map(|ml| format!("{} ml inside", tenth(ml)));
            let words = [
                show::when(w.at_ms, &page.zone),
                what,
                format!("{reckoned:.2}"),
                format!("{weighed:.2}"),
                liquid.unwrap_or_else(|| format!("{:+.1} %", (weighed / reckoned - 1.0) * 100.0)),
            ];
            (w.id, words)
        });
        Self {
            id: data.plate.id,
            number: data.plate.number,
            can_be: data.can_be_weighed(),
            states: OnScale::ALL,
            rows: std::iter::once(all)
                .chain(data.parts.iter().map(row))
                .collect(),
            resin: data.resin.id,
            learned: weight_words(&data.resin.name, &facts),
            said,
            weighed: weighed.collect(),
            fault,
            page,
        }
    }
}
