//! A trial: variants side by side, marked, ranked, a winner.

use askama::Template;
use wembrit_core::ids::TrialId;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::trial::{BEST_GRADE, TrialState, plates, ranked};
use wembrit_core::recipe::{
    KeptPart, PreparedPart, Proof, Recipe, RecipeVersion, Variant, what_changed,
};
use wembrit_store::queries::pages::trials::TrialPage;

use super::Page;
use super::plates::state_word;
use super::recipes::{Head, hours_alone, picture_address};
use super::show::{hours, tenth};
use super::waiting::Waiting;
use crate::forms::plain;

/// One variant in its column.
pub(crate) struct Column {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) picture: Option<String>,
    /// What it does otherwise than the first.
    pub(crate) differs: String,
    pub(crate) figures: Vec<String>,
    /// Plate, its number and where it stands.
    pub(crate) plate: Option<(i64, i64, String)>,
    pub(crate) mean: String,
    pub(crate) rank: usize,
    pub(crate) won: bool,
    /// It has the best grades so far.
    pub(crate) leads: bool,
}

/// A grade of one variant in one thing.
pub(crate) struct GradeCell {
    pub(crate) field: String,
    pub(crate) label: String,
    pub(crate) value: String,
    /// The grades there are, and which is given.
    pub(crate) choices: Vec<(i64, bool)>,
}

/// The rows of figures.
const ROWS: [&str; 7] = [
    "Printer",
    "Exposure, s",
    "Height, mm",
    "Hours alone",
    "Resin, ml",
    "Contacts",
    "Peak pull",
];

/// What a new variant starts from.
pub(crate) struct NewVariant {
    pub(crate) poses: Vec<(String, String, bool)>,
    pub(crate) tip: String,
    pub(crate) spacing: String,
    pub(crate) lift: String,
    pub(crate) planned: bool,
    pub(crate) scale: String,
    pub(crate) layer: String,
    pub(crate) resins: Vec<(i64, String, bool)>,
    pub(crate) printers: Vec<(i64, String, bool)>,
}

#[derive(Template)]
#[template(path = "recipes/trial.html")]
pub(crate) struct TrialView {
    pub(crate) page: Page,
    pub(crate) head: Head,
    pub(crate) id: TrialId,
    pub(crate) state: TrialState,
    pub(crate) columns: Vec<Column>,
    pub(crate) rows: Vec<(&'static str, Vec<String>)>,
    pub(crate) criteria: Vec<String>,
    /// What is judged, with the grades of every variant.
    pub(crate) judged: Vec<(String, Vec<GradeCell>)>,
    /// Variants that are still being measured.
    pub(crate) waiting: Vec<String>,
    pub(crate) plates: usize,
    pub(crate) new: NewVariant,
    pub(crate) reason: String,
    pub(crate) won: Option<(i64, Proof)>,
}

impl TrialView {
    pub(crate) fn new(page: Page, data: &TrialPage) -> Self {
        let trial = &data.facts.trial;
        let columns = columns(data);
        let row = |(i, name): (usize, &&'static str)| {
            let figures = columns.iter().map(|x| x.figures[i].clone());
            (*name, figures.collect())
        };
        Self {
            waiting: data
                .facts
                .waiting_for()
                .into_iter()
                .map(str::to_owned)
                .collect(),
            plates: plates(&data.facts.on_plates()).len(),
            new: new_variant(data),
            id: trial.id,
            state: trial.state,
            reason: trial.reason.clone(),
            rows: ROWS.iter().enumerate().map(row).collect(),
            judged: judged(data),
            criteria: trial.criteria.clone(),
            won: data.won,
            head: Head::new(&data.of),
            columns,
            page,
        }
    }

    pub(crate) fn open(&self) -> bool {
        !self.waiting.is_empty()
    }

    pub(crate) fn waiting(&self) -> Waiting {
        Waiting::of_trial(self.open())
    }
}

fn columns(data: &TrialPage) -> Vec<Column> {
    let trial = &data.facts.trial;
    let grades: Vec<Vec<i64>> = data
        .facts
        .variants
        .iter()
        .map(|(v, _, _)| {
            let of = |k: &String| data.grades.get(&(v.id, k.clone())).copied();
            trial.criteria.iter().filter_map(of).collect()
        })
        .collect();
    let order = ranked(&grades);
    let first = data.words.first();
    let variants = data.facts.variants.iter().zip(&data.words).enumerate();
    variants
        .map(|(index, ((variant, version, kept), words))| {
            let rank = order.iter().position(|(i, _)| *i == index).unwrap_or(index);
            let plate = data.whereabouts.get(&variant.id);
            Column {
                id: variant.id.0,
                name: variant.name.clone(),
                picture: kept.as_ref().map(|k| picture_address(trial.part, k.id)),
                differs: differs(first, words, variant),
                figures: figures(data, variant, version, kept.as_ref()),
                plate: plate.map(|w| {
                    let state = format!("{}, {}", state_word(w.state), w.stage);
                    (w.plate.0, w.number, state)
                }),
                mean: order[rank].1.map_or_else(|| "–".into(), tenth),
                rank: rank + 1,
                won: trial.winner == Some(variant.id),
                leads: rank == 0 && order[0].1.is_some(),
            }
        })
        .collect()
}

/// What is judged, with the grades of every variant.
fn judged(data: &TrialPage) -> Vec<(String, Vec<GradeCell>)> {
    let row = |(index, criterion): (usize, &String)| {
        let cells = data.facts.variants.iter().map(|(variant, _, _)| {
            let grade = data.grades.get(&(variant.id, criterion.clone())).copied();
            GradeCell {
                field: format!("m{}_{index}", variant.id),
                label: format!("{criterion}, {}", variant.name),
                value: grade.map_or_else(|| "–".into(), |m| m.to_string()),
                choices: (1..=BEST_GRADE).map(|n| (n, grade == Some(n))).collect(),
            }
        });
        (criterion.clone(), cells.collect())
    };
    let criteria = data.facts.trial.criteria.iter();
    criteria.enumerate().map(row).collect()
}

/// What a variant does otherwise than the first, in words.
fn differs(first: Option<&Recipe>, words: &Recipe, variant: &Variant) -> String {
    let recipe = first
        .map(|f| what_changed(f, words))
        .filter(|d| !d.is_empty());
    let exposure = variant
        .exposure_s
        .map(|s| format!("exposure {} s", plain(s)));
    let both: Vec<String> = recipe.into_iter().chain(exposure).collect();
    both.join(", ")
}

fn figures(
    data: &TrialPage,
    variant: &Variant,
    version: &RecipeVersion,
    kept: Option<&KeptPart>,
) -> Vec<String> {
    let none = || "–".to_owned();
    let printer = data.printers.iter().find(|p| p.id == variant.printer);
    let known = data
        .facts
        .facts
        .settings
        .iter()
        .find(|s| s.is_for(variant.printer, version.resin, version.layer));
    let exposure = variant.exposure_s.or(known.map(|s| s.timing.exposure_s));
    let part = kept.map(|k| &k.part);
    let alone = part.and_then(|p| hours_alone(&data.of.workshop, version, p));
    let of = |f: &dyn Fn(&PreparedPart) -> String| part.map_or_else(none, f);
    vec![
        printer.map_or_else(none, |p| p.name.clone()),
        exposure.map_or_else(none, plain),
        of(&|p| tenth(p.height_mm)),
        alone.map_or_else(none, |(_, s)| hours(s)),
        of(&|p| format!("{:.2}", p.volume_mm3() / 1000.0)),
        of(&|p| p.contacts.to_string()),
        of(&|p| format!("{:.2}", p.peak_pull.1)),
    ]
}

/// What makers try first before poses were compared.
const FIRST_TRIED: [(f64, f64); 3] = [(10.0, 90.0), (45.0, 90.0), (180.0, 0.0)];

fn new_variant(data: &TrialPage) -> NewVariant {
    let now = &data.of.recipe;
    let own = now.setup.pose;
    let mut choices: Vec<Pose> = data.poses.iter().copied().filter(|p| *p != own).collect();
    if choices.is_empty() {
        let tried = FIRST_TRIED
            .iter()
            .map(|(tilt, toward)| Pose::new(*tilt, *toward));
        let tried = std::iter::once(Pose::AS_IMPORTED).chain(tried);
        choices.extend(tried.filter(|p| *p != own));
    }
    let mut shown = vec![(own.to_string(), format!("{}, as now", own.words()), true)];
    for pose in choices {
        let text = pose.to_string();
        if shown.iter().all(|(known, _, _)| *known != text) {
            shown.push((text, pose.words(), false));
        }
    }
    let style = now.setup.supports.style();
    let workshop = &data.of.workshop;
    NewVariant {
        poses: shown,
        tip: plain(style.tip_mm),
        spacing: plain(style.spacing_mm),
        lift: plain(style.lift_mm),
        planned: matches!(now.setup.supports, Supports::Planned(_)),
        scale: plain(now.scale * 100.0),
        layer: now.layer.to_string(),
        resins: workshop
            .resins
            .iter()
            .map(|r| (r.id.0, r.name.clone(), r.id == now.resin))
            .collect(),
        printers: workshop
            .printers
            .iter()
            .enumerate()
            .map(|(i, p)| (p.id.0, p.name.clone(), i == 0))
            .collect(),
    }
}
