//! Prints of a plate on the scale.

use askama::Template;
use wembrit_core::ids::{PartId, PlateId, ResinId};
use wembrit_core::stores::{OnScale, WeighedPart, reckoned_g};
use wembrit_store::queries::pages::weighing::WeighingPage;

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

/// What was typed, where it is asked about again.
#[derive(Debug, Clone, Default)]
pub(crate) struct TypedWeight {
    pub(crate) what: String,
    pub(crate) state: String,
    pub(crate) copies: String,
    pub(crate) grams: String,
    pub(crate) fault: String,
    /// It is far off: somebody is to look again.
    pub(crate) asks: bool,
}

/// A weight that was written down.
pub(crate) struct WeightRow {
    pub(crate) id: i64,
    pub(crate) when: String,
    pub(crate) what: String,
    pub(crate) reckoned: String,
    pub(crate) weighed: String,
    pub(crate) off: String,
    /// What to do, where it seems to hold liquid.
    pub(crate) liquid: String,
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
    pub(crate) weighed: Vec<WeightRow>,
    pub(crate) typed: TypedWeight,
}

/// What to look at where a weight is far off.
pub(crate) fn far_words(times: f64) -> String {
    format!(
        "It weighs {times:.2} times what is expected: look at the grams, the number of copies, the supports and the \
         unit of the file again."
    )
}

/// What to do about liquid inside.
fn liquid_words(ml: f64) -> String {
    format!(
        "Heavier than prints differ: about {} ml of liquid seem to be inside. Open a drain, fill and empty it in the \
         bath, and cure it inside, or it leaks or bursts within weeks. It is not counted for the estimate.",
        tenth(ml)
    )
}

impl WeighingView {
    pub(crate) fn new(page: Page, data: &WeighingPage, typed: TypedWeight) -> Self {
        let on_it = &data.on_it;
        let facts = data.resin.facts;
        let expected = |part: Option<PartId>| {
            let body = on_it.body(part, 1).unwrap_or_default();
            let grams = |state: &OnScale| {
                let grams = reckoned_g(&body, *state, &facts) * facts.weighed.times;
                format!("{grams:.2}")
            };
            OnScale::ALL.iter().map(grams).collect()
        };
        let all = ScaleRow {
            value: "all".into(),
            name: "All of it".into(),
            copies: on_it.copies(None),
            expected: expected(None),
            hollow: on_it.hollow_ml(None, 1) > 0.0,
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
            WeightRow {
                id: w.id,
                when: show::when(w.at_ms, &page.zone),
                what,
                reckoned: format!("{reckoned:.2}"),
                weighed: format!("{weighed:.2}"),
                off: format!("{:+.1} %", (weighed / reckoned - 1.0) * 100.0),
                liquid: w.liquid_ml.map_or_else(String::new, liquid_words),
            }
        });
        Self {
            id: data.plate.id,
            number: data.plate.number,
            can_be: data.can_be_weighed(),
            states: OnScale::ALL,
            rows: std::iter::once(all)
                .chain(on_it.0.iter().map(row))
                .collect(),
            resin: data.resin.id,
            learned: weight_words(&data.resin.name, &facts),
            weighed: weighed.collect(),
            typed,
            page,
        }
    }
}
