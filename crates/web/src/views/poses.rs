//! The contact sheet: poses of a part side by side, with their scores.

use askama::Template;
use wembrit_core::ids::PartId;
use wembrit_core::recipe::orient::{Candidate, Origin, Score, Scores, rank};
use wembrit_core::workshop::practice::Question;
use wembrit_store::queries::poses::{self, Asking};
use wembrit_store::queries::{plates, practices, sculpts, zones};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::recipes::{Head, Loaded};
use super::show::hours;

/// One pose on the sheet.
pub(crate) struct PoseCard {
    pub(crate) id: i64,
    pub(crate) text: String,
    pub(crate) says: String,
    pub(crate) origin: String,
    pub(crate) scores: Vec<(&'static str, String, bool)>,
    pub(crate) contacts: usize,
    pub(crate) height: String,
    pub(crate) undominated: bool,
    pub(crate) chosen: bool,
    pub(crate) on_plate: bool,
    pub(crate) own_practice: bool,
    pub(crate) fit: f64,
    /// Cannot be chosen: it shows what another practice would do.
    pub(crate) shows_only: bool,
}

/// What matters to the maker, from 0 to 4 each.
pub(crate) type Weights = [f64; 11];

/// What counts unless the maker says otherwise.
pub(crate) const EVEN: Weights = [2.0; 11];

pub(crate) struct WeightField {
    pub(crate) name: String,
    pub(crate) label: &'static str,
    pub(crate) value: f64,
}

/// The base joined to the figure against apart.
pub(crate) struct BaseView {
    pub(crate) rows: Vec<(&'static str, String, String)>,
}

#[derive(Template)]
#[template(path = "recipes/poses.html")]
pub(crate) struct PosesView {
    pub(crate) page: Page,
    pub(crate) head: Head,
    pub(crate) cards: Vec<PoseCard>,
    /// From 0 to 100 while poses are looked for.
    pub(crate) percent: Option<i64>,
    pub(crate) message: String,
    pub(crate) stale: bool,
    pub(crate) weights: Vec<WeightField>,
    pub(crate) practice: (&'static str, &'static str, &'static str),
    pub(crate) lean: Option<String>,
    pub(crate) base: Option<BaseView>,
    pub(crate) zones: Vec<(i64, String)>,
    /// Sides, with the width and height of their pictures.
    pub(crate) sides: Vec<(&'static str, f64, f64)>,
}

/// For what a part's poses are compared.
pub(crate) fn asking(loaded: &Loaded) -> Asking {
    Asking {
        scale: loaded.recipe.scale,
        layer: loaded.recipe.layer,
        base_mm: loaded.base_mm[0],
    }
}

fn shown(score: Score, scores: &Scores) -> String {
    let value = scores.of(score);
    match score {
        Score::Hours => hours(value * 3600.0),
        Score::Pull | Score::SupportResin => format!("{value:.2}"),
        Score::Islands | Score::FineContacts | Score::Caged => format!("{value:.0}"),
        Score::Overhang | Score::Footprint | Score::CleanUp => format!("{value:.1}"),
        Score::LinesMean | Score::LinesWorst => format!("{value:.3}"),
    }
}

fn label(score: Score) -> &'static str {
    match score {
        Score::Hours => "Hours",
        Score::Pull => "Peak pull",
        Score::Islands => "Starts in mid-air",
        Score::Overhang => "Overhang, mm²",
        Score::SupportResin => "Support resin, ml",
        Score::CleanUp => "Clean-up, min",
        Score::FineContacts => "Contacts on fine zones",
        Score::LinesMean => "Mean step, mm",
        Score::LinesWorst => "Worst step, mm",
        Score::Caged => "Caged in, %",
        Score::Footprint => "Footprint, mm²",
    }
}

/// Whether a pose is what the maker's practice says.
fn is_practice(word: &str, c: &Candidate) -> bool {
    match word {
        "upright" => c.origin == Origin::Upright,
        "tilted 30 to 45°" => c.origin == Origin::Tilted,
        _ => false,
    }
}

impl PosesView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PartId,
        weights: &Weights,
    ) -> Result<Self, StoreError> {
        let loaded = Loaded::load(c, id)?;
        let sculpt = loaded
            .sculpt
            .clone()
            .ok_or_else(|| StoreError::Refused("give the part a sculpt first".into()))?;
        let asking = asking(&loaded);
        let key = poses::key(c, &sculpt, &asking)?;
        let task = poses::task(c, &sculpt, &asking)?;
        let open = task.as_ref().filter(|t| t.state.is_open());
        let all = poses::of_sculpt(c, sculpt.id)?;
        let stale = all.iter().any(|(asked, _)| *asked != key);
        let marked = zones::of_sculpt(c, sculpt.id)?;
        let tilt = practices::answers(c, page.project.as_ref().map(|p| p.id))?[&Question::Tilt].0;
        let mut found = Vec::new();
        for (_, row) in &all {
            found.push((row.id, row.candidate()?));
        }
        let scores: Vec<Scores> = found.iter().map(|(_, c)| c.scores).collect();
        let fits = rank(&scores, weights);
        let told: Vec<Score> = Score::ALL
            .iter()
            .copied()
            .filter(|s| {
                // Zones tell nothing until one is marked.
                !marked.is_empty() || !matches!(s, Score::FineContacts | Score::LinesWorst)
            })
            .collect();
        let mut cards: Vec<PoseCard> = found
            .iter()
            .zip(fits)
            .map(|((row, c), fit)| PoseCard {
                id: *row,
                text: c.pose.to_string(),
                says: c.pose.says(),
                origin: match c.origin {
                    Origin::Search => {
                        let best: Vec<&str> = c.best_in.iter().map(|s| s.as_str()).collect();
                        format!("least {}", best.join(", "))
                    }
                    other => other.to_string(),
                },
                scores: told
                    .iter()
                    .map(|s| (label(*s), shown(*s, &c.scores), c.best_in.contains(s)))
                    .collect(),
                contacts: c.contacts,
                height: format!("{:.1}", c.height_mm),
                undominated: c.undominated,
                chosen: c.pose == loaded.recipe.pose && c.origin != Origin::BaseJoined,
                on_plate: c.origin == Origin::FlatDown,
                own_practice: is_practice(tilt.word, c),
                fit,
                shows_only: c.origin == Origin::BaseJoined,
            })
            .collect();
        cards.sort_by(|a, b| a.fit.total_cmp(&b.fit));
        let base = base_view(c, &found)?;
        let facts = sculpts::load_facts(c, sculpt.id)?;
        let lean = facts
            .as_ref()
            .and_then(|f| lean(f.pull_upright?, f.pull_tilted?));
        let sides = facts.as_ref().map_or_else(Vec::new, |f| {
            let longest = |a: f64| a.max(f.height_mm).max(1e-6);
            [
                ("front", f.width_mm),
                ("right", f.depth_mm),
                ("back", f.width_mm),
                ("left", f.depth_mm),
            ]
            .map(|(side, across)| {
                // As wide and high as fits a thumbnail; the server knows shares of it.
                let scale = 190.0 / longest(across);
                (
                    side,
                    (across * scale).round(),
                    (f.height_mm * scale).round(),
                )
            })
            .to_vec()
        });
        Ok(Self {
            percent: open.map(|t| (t.progress * 100.0) as i64),
            message: task
                .filter(|t| !t.state.is_open())
                .map(|t| t.message)
                .unwrap_or_default(),
            stale,
            weights: told
                .iter()
                .map(|s| WeightField {
                    name: format!("w{}", *s as usize),
                    label: label(*s),
                    value: weights[*s as usize],
                })
                .collect(),
            practice: (tilt.word, tilt.good_for, tilt.costs),
            lean,
            base,
            zones: marked
                .iter()
                .map(|(id, z)| {
                    let [x, y, height] = z.at_mm.map(|c| c * sculpt.unit_mm);
                    let r = z.radius_mm * sculpt.unit_mm;
                    (*id, format!("{r:.1} mm around {x:.1}, {y:.1}, {height:.1}"))
                })
                .collect(),
            sides,
            cards,
            head: loaded.head,
            page,
        })
    }
}

/// What leaning far back does to the pull of a sculpt.
pub(crate) fn lean(upright: f64, tilted: f64) -> Option<String> {
    (upright > 0.0).then(|| {
        let ratio = tilted / upright;
        let which = if ratio > 1.02 {
            "standing almost upright is the gentler school here"
        } else if ratio < 0.98 {
            "leaning far back is the gentler school here"
        } else {
            "the schools are alike here"
        };
        format!(
            "Tilted 45° back its hardest layer pulls {ratio:.2} times as hard as at 5°: {which}."
        )
    })
}

/// The base joined against the base apart, both leaning back by 10°.
fn base_view(c: &mut Conn, found: &[(i64, Candidate)]) -> Result<Option<BaseView>, StoreError> {
    let at = |origin: Origin| {
        found
            .iter()
            .map(|(_, c)| c)
            .filter(|c| c.origin == origin)
            .max_by(|a, b| a.pose.tilt_deg().total_cmp(&b.pose.tilt_deg()))
    };
    let (Some(joined), Some(apart)) = (at(Origin::BaseJoined), at(Origin::Upright)) else {
        return Ok(None);
    };
    let good = plates::share_good(c)?;
    let odds = |p: f64| format!("{:.0} %", p * 100.0);
    Ok(Some(BaseView {
        rows: vec![
            (
                "Height, mm",
                format!("{:.1}", apart.height_mm),
                format!("{:.1}", joined.height_mm),
            ),
            (
                "Hours",
                hours(apart.scores.of(Score::Hours) * 3600.0),
                hours(joined.scores.of(Score::Hours) * 3600.0),
            ),
            (
                "Peak pull",
                format!("{:.2}", apart.scores.of(Score::Pull)),
                format!("{:.2}", joined.scores.of(Score::Pull)),
            ),
            ("Parts", "2".into(), "1".into()),
            ("Both come out good", odds(good * good), odds(good)),
        ],
    }))
}

/// How far the search is, as the page fetches it while it waits.
#[derive(Template)]
#[template(
    source = "{% if let Some(p) = percent %}<span data-open class=\"acts\"><span class=\"bar\"><progress max=\"100\" value=\"{{ p }}\" aria-label=\"Looking for poses\"></progress></span> {{ p }} %</span>{% else %}Done.{% endif %}",
    ext = "html"
)]
pub(crate) struct SearchView {
    pub(crate) percent: Option<i64>,
}

impl SearchView {
    pub(crate) fn load(c: &mut Conn, id: PartId) -> Result<Self, StoreError> {
        let loaded = Loaded::load(c, id)?;
        let percent = match &loaded.sculpt {
            Some(sculpt) => poses::task(c, sculpt, &asking(&loaded))?
                .filter(|t| t.state.is_open())
                .map(|t| (t.progress * 100.0) as i64),
            None => None,
        };
        Ok(Self { percent })
    }
}
