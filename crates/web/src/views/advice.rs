//! What would shorten a plate or a plan, each with the button that does it.

use askama::Template;
use wembrit_core::army::Army;
use wembrit_core::flow::Plate;
use wembrit_core::ids::{PartId, PlateId};
use wembrit_core::pack::Slots;
use wembrit_core::plan::advice::{Advice, saved_in_all};
use wembrit_core::plan::{PlateAdvice, TiltAdvice};

use super::Page;
use super::show::hours;

/// One sentence of advice with its button.
pub(crate) struct AdviceRow {
    pub(crate) words: String,
    /// Nothing where it is only said.
    pub(crate) button: &'static str,
    /// Hours it saves, s.
    saves_s: f64,
    /// What the form sends.
    pub(crate) fields: Vec<(&'static str, String)>,
}

/// Advice on all plates of a plan.
#[derive(Template)]
#[template(path = "plates/advice.html")]
pub(crate) struct PlanAdviceView {
    pub(crate) rows: Vec<AdviceOn>,
}

/// Advice on a page of its own, for those without scripts.
#[derive(Template)]
#[template(path = "plates/advice_page.html")]
pub(crate) struct AdvicePage<'a> {
    page: Page,
    /// Where it came from.
    back: String,
    /// Its own address.
    here: String,
    /// Nothing while it is being worked out.
    advice: Option<&'a PlanAdviceView>,
}

impl<'a> AdvicePage<'a> {
    pub(crate) fn new(
        page: Page,
        back: String,
        here: String,
        advice: Option<&'a PlanAdviceView>,
    ) -> Self {
        Self {
            page,
            back,
            here,
            advice,
        }
    }
}

/// Advice with the plate it is about.
pub(crate) struct AdviceOn {
    pub(crate) plate: PlateId,
    /// Its number, where advice on several plates stands together.
    pub(crate) number: Option<i64>,
    pub(crate) advice: AdviceRow,
}

/// Least saving over a plan that is worth a sentence, s.
const LEAST_SAVED_S: f64 = 600.0;
/// So much shorter a plate may become for it, s.
const LITTLE_S: f64 = 3_600.0;
/// Pieces of advice shown on a plan.
const ADVICE_SHOWN: usize = 5;
impl PlanAdviceView {
    /// On one plate alone, or on a plan: then what saves most first, and no more than one reads.
    pub(crate) fn new(
        army: &Army,
        found: &[(Plate, PlateAdvice)],
        slots: &Slots,
        one: bool,
    ) -> Self {
        let name = |part: PartId| army.part_name(part);
        let mut rows = Vec::new();
        for (plate, advice) in found {
            let number = (!one).then_some(plate.number);
            let tilted = advice.tilt.as_ref().map(|found| tilt_row(found, &name));
            let rest = found.iter().filter(|(other, _)| other.id != plate.id);
            let rest: Vec<f64> = rest.map(|(other, _)| other.seconds).collect();
            // Over a plan only what is less in all is advised.
            let pays = |a: &&Advice| match a {
                Advice::Leave {
                    saves_s, alone_s, ..
                } => one || saved_in_all(*saves_s, *alone_s, &rest) >= LEAST_SAVED_S,
                Advice::Fill { .. } => true,
            };
            let others = advice.others.iter().filter(pays);
            let others = others.map(|a| advice_row(a, one, &name));
            let edge = slots.edge(plate.seconds, LITTLE_S).map(edge_row);
            rows.extend(
                tilted
                    .into_iter()
                    .chain(edge)
                    .chain(others)
                    .map(|advice| AdviceOn {
                        plate: plate.id,
                        number,
                        advice,
                    }),
            );
        }
        if !one {
            rows.sort_by(|a, b| b.advice.saves_s.total_cmp(&a.advice.saves_s));
            rows.truncate(ADVICE_SHOWN);
        }
        Self { rows }
    }
}

/// What a plate loses by ending when nobody is there.
fn edge_row((less_s, sooner_s): (f64, f64)) -> AdviceRow {
    AdviceRow {
        words: format!(
            "{} h less would free its printer {} h sooner, on the average of the hours you are there.",
            hours(less_s),
            hours(sooner_s)
        ),
        button: "",
        saves_s: sooner_s,
        fields: Vec::new(),
    }
}

fn tilt_row(found: &TiltAdvice, name: &dyn Fn(PartId) -> String) -> AdviceRow {
    AdviceRow {
        words: format!(
            "{} at {}, as measured before, makes this plate {} h shorter.",
            name(found.part),
            found.setup.pose,
            hours(found.saves_s)
        ),
        button: "Set it up so",
        saves_s: found.saves_s,
        fields: vec![("do", "tilt".into())],
    }
}

fn advice_row(advice: &Advice, one: bool, name: &dyn Fn(PartId) -> String) -> AdviceRow {
    match advice {
        Advice::Leave {
            part,
            copies,
            saves_s,
            alone_s,
        } => AdviceRow {
            words: format!(
                "Without {} × {} this plate takes {} h less; {}.",
                copies,
                name(*part),
                hours(*saves_s),
                if one {
                    format!("on a plate of their own they take {} h", hours(*alone_s))
                } else {
                    "another plate is as long anyhow, and takes them where they fit".to_owned()
                }
            ),
            button: "Take them off",
            saves_s: *saves_s,
            fields: vec![("do", "leave".into()), ("part", part.to_string())],
        },
        Advice::Fill {
            part,
            copies,
            from_pool,
            ml,
        } => AdviceRow {
            words: format!(
                "{} × {} would still fit, in no more hours: {:.1} ml of resin{}.",
                copies,
                name(*part),
                ml,
                if *from_pool { "" } else { ", as spares" }
            ),
            saves_s: 0.0,
            button: if *from_pool {
                "Put them on"
            } else {
                "Print them as spares"
            },
            fields: vec![
                ("do", if *from_pool { "add" } else { "spares" }.into()),
                ("part", part.to_string()),
                ("n", copies.to_string()),
            ],
        },
    }
}
