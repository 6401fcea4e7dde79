//! The contact sheet: poses of a part side by side, with their scores.

use askama::Template;
use wembrit_core::flow::Task;
use wembrit_core::odds::believed;
use wembrit_core::recipe::orient::{Candidate, Origin, Score, Scores, rank};
use wembrit_core::recipe::supports::{Holding, Supports};
use wembrit_core::sculpt::SculptFacts;
use wembrit_core::workshop::practice::{Practice, Question};
use wembrit_store::queries::pages::recipes::PosesPage;

use super::Page;
use super::holding::HoldingView;
use super::recipes::Head;
use super::show::hours;

/// One pose on the sheet.
pub(crate) struct PoseCard {
    pub(crate) id: i64,
    pub(crate) text: String,
    pub(crate) words: String,
    pub(crate) origin: String,
    pub(crate) scores: Vec<(&'static str, String, bool)>,
    pub(crate) contacts: usize,
    /// Its tips against its pull, where it hangs on some.
    pub(crate) holding: Option<HoldingView>,
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
    pub(crate) tilt: Option<String>,
    pub(crate) base: Option<BaseView>,
    pub(crate) zones: Vec<(i64, String)>,
    /// Sides, with the width and height of their pictures.
    pub(crate) sides: Vec<(&'static str, f64, f64)>,
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
fn is_practice(practice: &Practice, candidate: &Candidate) -> bool {
    match candidate.origin {
        Origin::Upright => practice.hangs_upright(),
        Origin::Tilted => practice.hangs_tilted(),
        Origin::Imported
        | Origin::FlatTurned
        | Origin::FlatDown
        | Origin::HeadDown
        | Origin::OnSide
        | Origin::BaseJoined
        | Origin::Search => false,
    }
}

fn card(id: i64, c: &Candidate, fit: f64, data: &PosesPage, scored: &[Score]) -> PoseCard {
    let score = |s: &Score| (label(*s), shown(*s, &c.scores), c.best_in.contains(s));
    PoseCard {
        id,
        text: c.pose.to_string(),
        words: c.pose.words(),
        origin: match c.origin {
            Origin::Search => {
                let best: Vec<&str> = c.best_in.iter().map(|s| s.as_str()).collect();
                format!("least {}", best.join(", "))
            }
            other => other.to_string(),
        },
        scores: scored.iter().map(score).collect(),
        contacts: c.contacts,
        holding: holding(c, data),
        height: format!("{:.1}", c.height_mm),
        undominated: c.undominated,
        chosen: c.is_setup(data.of.recipe.setup),
        on_plate: c.on_plate(),
        own_practice: is_practice(&data.practice, c),
        fit,
        shows_only: c.origin == Origin::BaseJoined,
    }
}

fn holding(c: &Candidate, data: &PosesPage) -> Option<HoldingView> {
    let supports = if c.on_plate() {
        Supports::None
    } else {
        Supports::Planned(data.of.recipe.setup.supports.style())
    };
    let pull = c.scores.of(Score::Pull);
    Holding::of(&supports, c.contacts, pull, 0.0).map(|h| HoldingView::new(&h, &data.holds))
}

/// Its four sides, each as wide and high as fits a thumbnail; the server knows shares of it.
fn thumbnails(f: &SculptFacts) -> Vec<(&'static str, f64, f64)> {
    let sides = [
        ("front", f.width_mm),
        ("right", f.depth_mm),
        ("back", f.width_mm),
        ("left", f.depth_mm),
    ];
    let side = |(side, across): (&'static str, f64)| {
        let scale = 190.0 / across.max(f.height_mm).max(1e-6);
        (
            side,
            (across * scale).round(),
            (f.height_mm * scale).round(),
        )
    };
    sides.map(side).to_vec()
}

impl PosesView {
    pub(crate) fn new(page: Page, data: &PosesPage, weights: &Weights) -> Self {
        let marked = &data.zones;
        let school = data.practice.school(Question::Tilt);
        let found = &data.found;
        let scores: Vec<Scores> = found.iter().map(|(_, c)| c.scores).collect();
        let fits = rank(&scores, weights);
        let scored: Vec<Score> = Score::ALL
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
            .map(|((id, candidate), fit)| card(*id, candidate, fit, data, &scored))
            .collect();
        cards.sort_by(|a, b| a.fit.total_cmp(&b.fit));
        let base = base_view(found, believed(data.judged, data.judged).mean());
        let facts = data.facts.as_ref();
        let tilt = facts.and_then(|f| tilt_words(f.pull_upright?, f.pull_tilted?));
        let drawn = facts.filter(|_| data.has_pictures);
        let sides = drawn.map_or_else(Vec::new, thumbnails);
        let task = data.task.as_ref();
        Self {
            percent: task.and_then(Task::open_percent),
            message: task
                .and_then(Task::ended_message)
                .unwrap_or_default()
                .to_owned(),
            stale: data.stale,
            weights: scored
                .iter()
                .map(|s| WeightField {
                    name: format!("w{}", *s as usize),
                    label: label(*s),
                    value: weights[*s as usize],
                })
                .collect(),
            practice: (school.word, school.good_for, school.costs),
            tilt,
            base,
            zones: marked
                .iter()
                .map(|(id, z)| {
                    let [x, y, height] = z.at_mm.map(|c| c * data.sculpt.unit_mm);
                    let r = z.radius_mm * data.sculpt.unit_mm;
                    (*id, format!("{r:.1} mm around {x:.1}, {y:.1}, {height:.1}"))
                })
                .collect(),
            sides,
            cards,
            head: Head::new(&data.of),
            page,
        }
    }
}

/// What tilting far back does to the pull of a sculpt.
pub(crate) fn tilt_words(upright: f64, tilted: f64) -> Option<String> {
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
fn base_view(found: &[(i64, Candidate)], good: f64) -> Option<BaseView> {
    let at = |origin: Origin| {
        found
            .iter()
            .map(|(_, c)| c)
            .filter(|c| c.origin == origin)
            .max_by(|a, b| a.pose.tilt_deg().total_cmp(&b.pose.tilt_deg()))
    };
    let (joined, apart) = (at(Origin::BaseJoined)?, at(Origin::Upright)?);
    let odds = |p: f64| format!("{:.0} %", p * 100.0);
    Some(BaseView {
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
    })
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
    pub(crate) fn new(task: Option<&Task>) -> Self {
        Self {
            percent: task.and_then(Task::open_percent),
        }
    }
}
