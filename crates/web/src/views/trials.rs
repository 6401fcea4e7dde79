//! A trial: variants side by side, marked, ranked, a winner.

use askama::Template;
use wembrit_core::ids::{PartId, TrialId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::orient::Origin;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::trial::{BEST_MARK, TrialState, ranked};
use wembrit_core::recipe::{Proof, Recipe, what_changed};
use wembrit_store::queries::prepared::Preparing;
use wembrit_store::queries::{hung, poses, printers, recipes, resins, sculpts, settings, trials};
use wembrit_store::rows::{RecipeVersion, Variant};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::plates::state_word;
use super::recipes::{Head, Loaded, hours_alone};
use super::show::{hours, tenth};
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
    /// It has the best marks so far.
    pub(crate) leads: bool,
}

/// A mark of one variant in one thing.
pub(crate) struct MarkCell {
    pub(crate) field: String,
    pub(crate) label: String,
    pub(crate) value: String,
    /// The marks there are, and which is given.
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
    /// What is judged, with the marks of every variant.
    pub(crate) judged: Vec<(String, Vec<MarkCell>)>,
    /// Variants that are still being measured.
    pub(crate) waiting: Vec<String>,
    pub(crate) plates: usize,
    pub(crate) new: NewVariant,
    pub(crate) reason: String,
    pub(crate) won: Option<(i64, Proof)>,
}

impl TrialView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: TrialId) -> Result<Self, StoreError> {
        let trial = trials::load(c, id)?;
        let loaded = Loaded::load(c, trial.part_id)?;
        let sculpt = loaded
            .sculpt
            .clone()
            .ok_or(StoreError::NotFound { what: "sculpt" })?;
        let criteria: Vec<String> = trial.criteria().iter().map(ToString::to_string).collect();
        let all = trials::variants(c, id)?;
        let given = trials::marks(c, id)?;
        let where_is = trials::whereabouts(c, &trial)?;
        let marks: Vec<Vec<i64>> = all
            .iter()
            .map(|(v, _)| {
                criteria
                    .iter()
                    .filter_map(|k| given.get(&(v.id, k.clone())).copied())
                    .collect()
            })
            .collect();
        let order = ranked(&marks);
        let first = match all.first() {
            Some((_, version)) => Some(recipes::in_words(c, version)?),
            None => None,
        };
        let mut columns = Vec::new();
        for (index, (variant, version)) in all.iter().enumerate() {
            let facts = hung::of(c, &Preparing::of(&sculpt, version))?;
            let rank = order.iter().position(|(i, _)| *i == index).unwrap_or(index);
            let words = recipes::in_words(c, version)?;
            columns.push(Column {
                id: variant.id.0,
                name: variant.name.clone(),
                picture: facts
                    .as_ref()
                    .map(|h| format!("/parts/{}/hung/{}", trial.part_id, h.id)),
                differs: differs(first.as_ref(), &words, variant),
                figures: figures(c, variant, version, facts.as_ref())?,
                plate: where_is.get(&variant.id).map(|w| {
                    (
                        w.plate,
                        w.number,
                        format!("{}, {}", state_word(w.state), w.stage),
                    )
                }),
                mean: order[rank].1.map_or_else(|| "–".into(), tenth),
                rank: rank + 1,
                won: trial.winner_id() == Some(variant.id),
                leads: rank == 0 && order[0].1.is_some(),
            });
        }
        let rows = ROWS
            .iter()
            .enumerate()
            .map(|(i, name)| {
                (
                    *name,
                    columns.iter().map(|x| x.figures[i].clone()).collect(),
                )
            })
            .collect();
        let won = match trial.won_version_id() {
            Some(version) => {
                let standing = recipes::proofs(c, &[version])?[&version];
                Some((recipes::version(c, version)?.version, standing))
            }
            None => None,
        };
        let plates = wembrit_core::recipe::trial::plates(
            &all.iter()
                .map(|(v, r)| wembrit_core::recipe::trial::OnPlate {
                    printer: v.printer_id,
                    resin: r.resin_id,
                    layer: r.layer,
                    exposure_s: v.exposure_s,
                })
                .collect::<Vec<_>>(),
        );
        Ok(Self {
            waiting: if trial.state == TrialState::Open {
                trials::unprepared(c, &trial)?
            } else {
                Vec::new()
            },
            plates: plates.len(),
            new: new_variant(c, &loaded, trial.part_id)?,
            id,
            state: trial.state,
            reason: trial.reason.clone(),
            columns,
            rows,
            judged: criteria
                .iter()
                .enumerate()
                .map(|(index, criterion)| {
                    let cell = |(variant, _): &(Variant, RecipeVersion)| {
                        let mark = given.get(&(variant.id, criterion.clone())).copied();
                        MarkCell {
                            field: format!("m{}_{index}", variant.id),
                            label: format!("{criterion}, {}", variant.name),
                            value: mark.map_or_else(|| "–".into(), |m| m.to_string()),
                            choices: (1..=BEST_MARK).map(|n| (n, mark == Some(n))).collect(),
                        }
                    };
                    (criterion.clone(), all.iter().map(cell).collect())
                })
                .collect(),
            criteria,
            won,
            head: loaded.head,
            page,
        })
    }

    pub(crate) fn open(&self) -> bool {
        !self.waiting.is_empty()
    }
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
    c: &mut Conn,
    variant: &Variant,
    version: &RecipeVersion,
    facts: Option<&wembrit_store::rows::HungFacts>,
) -> Result<Vec<String>, StoreError> {
    let none = || "–".to_owned();
    let printer = printers::load(c, variant.printer_id)?.name;
    let exposure = match variant.exposure_s {
        Some(s) => plain(s),
        None => settings::list(c)?
            .into_iter()
            .find(|(s, _)| {
                (s.printer_id, s.resin_id, s.layer)
                    == (variant.printer_id, version.resin_id, version.layer)
            })
            .map_or_else(none, |(_, v)| plain(v.exposure_s)),
    };
    let alone = match facts {
        Some(h) => hours_alone(c, version, h.height_mm)?,
        None => None,
    };
    let of = |f: &dyn Fn(&wembrit_store::rows::HungFacts) -> String| facts.map_or_else(none, f);
    Ok(vec![
        printer,
        exposure,
        of(&|h| tenth(h.height_mm)),
        alone.map_or_else(none, |(_, s)| hours(s)),
        of(&|h| format!("{:.2}", (h.part_mm3 + h.support_mm3) / 1000.0)),
        of(&|h| h.contacts.to_string()),
        of(&|h| format!("{:.2}", h.peak_pull)),
    ])
}

fn new_variant(c: &mut Conn, loaded: &Loaded, part: PartId) -> Result<NewVariant, StoreError> {
    let now = &loaded.recipe;
    let mut choices: Vec<(Pose, String)> = vec![(now.pose, format!("{}, as now", now.pose.says()))];
    if let Some(sculpt) = &loaded.sculpt {
        for (_, row) in poses::of_sculpt(c, sculpt.id)? {
            let known = choices.iter().any(|(p, _)| *p == row.pose);
            if !known && row.origin != Origin::BaseJoined {
                choices.push((row.pose, row.pose.says()));
            }
        }
    }
    if choices.len() == 1 {
        // Before poses were compared: what makers try first.
        for pose in [
            Pose::AS_IMPORTED,
            Pose::new(10.0, 90.0),
            Pose::new(45.0, 90.0),
            Pose::new(180.0, 0.0),
        ] {
            if pose != now.pose {
                choices.push((pose, pose.says()));
            }
        }
    }
    let style = now.supports.style();
    let _ = part;
    Ok(NewVariant {
        poses: choices
            .into_iter()
            .map(|(p, says)| (p.to_string(), says, p == now.pose))
            .collect(),
        tip: plain(style.tip_mm),
        spacing: plain(style.spacing_mm),
        lift: plain(style.lift_mm),
        planned: matches!(now.supports, Supports::Planned(_)),
        scale: plain(now.scale * 100.0),
        layer: now.layer.to_string(),
        resins: resins::list(c)?
            .into_iter()
            .map(|r| (r.id.0, r.name, r.id == now.resin_id))
            .collect(),
        printers: printers::list(c)?
            .into_iter()
            .enumerate()
            .map(|(i, p)| (p.id.0, p.name, i == 0))
            .collect(),
    })
}

/// Whether a trial's variants are all measured, as its page fetches it while it waits.
pub(crate) fn waiting_words(c: &mut Conn, id: TrialId) -> Result<&'static str, StoreError> {
    let trial = trials::load(c, id)?;
    let open = trial.state == TrialState::Open && !trials::unprepared(c, &trial)?.is_empty();
    Ok(if open {
        "<span data-open>Variants are being measured as they hang.</span>"
    } else {
        "They are measured."
    })
}

/// The sculpt of a part, or a word about it.
pub(crate) fn sculpt_of(
    c: &mut Conn,
    part: PartId,
) -> Result<wembrit_store::rows::Sculpt, StoreError> {
    let loaded = wembrit_store::queries::muster::part(c, part)?;
    let id = loaded
        .sculpt_id()
        .ok_or_else(|| StoreError::Refused("give the part a sculpt first".into()))?;
    sculpts::load(c, id)
}
