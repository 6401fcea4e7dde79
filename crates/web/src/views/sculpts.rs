//! Sculpts: the list with its tasks, one sculpt as a specimen.

use crate::currency::Amount;
use std::collections::HashMap;

use askama::Template;
use wembrit_core::flow::{Task, TaskKind};
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{Drain, Hollow, WayOut, is_worth_it};
use wembrit_core::mesh::{DrawnUnit, guess_unit};
use wembrit_core::sculpt::findings::{self, Finding, Stake};
use wembrit_core::sculpt::{
    HollowFacts, LayerFacts, Sculpt, SculptFacts, SupportsSaid, brings_supports,
};
use wembrit_core::units::layer_count;
use wembrit_core::workshop::resin::Viscosity;
use wembrit_paper::{Specimen, draw_specimen};
use wembrit_store::queries::pages::sculpts::{
    self as pages, FindingFacts, ListedSculpt, SculptPage,
};

use super::Page;
use super::poses::tilt_words;
use super::show::{count, grouped, size, tenth};
use super::supported::supported_words;
use super::waiting::Waiting;
use crate::forms::plain;

pub(crate) struct SculptRow {
    pub(crate) id: SculptId,
    pub(crate) name: String,
    pub(crate) file_name: String,
    /// Waiting or being measured, from 0 to 100.
    pub(crate) open_percent: Option<i64>,
    pub(crate) refusal: Option<String>,
    pub(crate) figures: Option<Figures>,
    /// A unit it was probably drawn in.
    pub(crate) unit_asked: Option<String>,
    /// It has its picture.
    pub(crate) pictured: bool,
}

/// Measured figures at the size of the file.
pub(crate) struct Figures {
    pub(crate) triangles: String,
    pub(crate) size: String,
    pub(crate) volume_ml: String,
    pub(crate) surface_cm2: String,
    pub(crate) layers: String,
    pub(crate) tight: String,
    pub(crate) shells: i64,
}

fn figures(facts: &SculptFacts, layer: wembrit_core::units::LayerHeight) -> Figures {
    Figures {
        triangles: grouped(facts.triangles),
        size: format!(
            "{:.1} × {:.1} × {:.1}",
            facts.width_mm, facts.depth_mm, facts.height_mm
        ),
        volume_ml: format!("{:.2}", facts.volume_mm3 / 1000.0),
        surface_cm2: tenth(facts.surface_mm2 / 100.0),
        layers: grouped(i64::from(layer_count(facts.height_mm, layer))),
        tight: if facts.open_edge_mm == 0.0 {
            "yes".into()
        } else {
            format!("{:.1} mm open", facts.open_edge_mm)
        },
        shells: facts.shells,
    }
}

/// The list alone, as the page fetches it again while tasks are open.
#[derive(Template)]
#[template(path = "sculpts/list.html")]
pub(crate) struct SculptListView {
    pub(crate) list: SculptList,
}

/// What of the list is shown, and in which order.
#[derive(Debug, Clone, Default)]
pub(crate) struct SculptSearch {
    /// Words of the name or of the file; empty for all.
    pub(crate) find: String,
    /// What the list is ordered by; by what came last where that is none of the orders.
    pub(crate) by: String,
}

impl SculptSearch {
    /// The orders: word and label.
    pub(crate) const ORDERS: [(&'static str, &'static str); 5] = [
        ("new", "newest first"),
        ("name", "by name"),
        ("tall", "tallest first"),
        ("large", "most resin first"),
        ("open", "what asks for a look first"),
    ];

    pub(crate) fn is_by(&self, word: &&str) -> bool {
        self.by == *word
    }

    fn shows(&self, sculpt: &Sculpt) -> bool {
        let there = format!("{} {}", sculpt.name, sculpt.file_name).to_lowercase();
        let words = self.find.to_lowercase();
        words.split_whitespace().all(|word| there.contains(word))
    }

    /// It is ordered by what is at stake, so that has to be known.
    pub(crate) fn by_stake(&self) -> bool {
        self.by == "open"
    }

    fn order(&self, all: &mut [&ListedSculpt], facts: Option<&FindingFacts>) {
        let least = f64::NEG_INFINITY;
        let of = |l: &ListedSculpt, f: fn(&SculptFacts) -> f64| l.facts.as_ref().map_or(least, f);
        match self.by.as_str() {
            "name" => all.sort_by_key(|l| l.sculpt.name.to_lowercase()),
            "tall" => all.sort_by(|a, b| {
                let height = |l: &ListedSculpt| of(l, |f| f.height_mm);
                height(b).total_cmp(&height(a))
            }),
            "large" => all.sort_by(|a, b| {
                let volume = |l: &ListedSculpt| of(l, |f| f.volume_mm3);
                volume(b).total_cmp(&volume(a))
            }),
            "open" => all.sort_by_cached_key(|l| {
                let asks = l.sculpt.refusal.is_some() || l.sculpt.unit_asked.is_some();
                let stake = facts.and_then(|f| stake(l, f)).unwrap_or_default();
                (!asks, l.facts.is_some(), std::cmp::Reverse(stake))
            }),
            _ => {}
        }
    }

    /// As the end of an address.
    pub(crate) fn query(&self) -> String {
        form_urlencoded::Serializer::new(String::new())
            .append_pair("find", &self.find)
            .append_pair("by", &self.by)
            .finish()
    }
}

/// What is at stake with a file that is measured.
fn stake(of: &ListedSculpt, facts: &FindingFacts) -> Option<Stake> {
    let id = of.sculpt.id;
    let measured = (of.facts.as_ref()?, facts.layers.get(&id)?);
    let hollow = facts.hollow.get(&id);
    let found = findings::of_file(&of.sculpt, measured, hollow, facts.resin.as_ref());
    let is_aside = |f: &Finding| facts.aside.contains(&(id, f.key.clone()));
    Some(Stake::of(&found, is_aside))
}

/// The sculpts in use that are shown.
pub(crate) struct SculptList {
    pub(crate) rows: Vec<SculptRow>,
    pub(crate) layer: String,
    /// All there are.
    pub(crate) of: usize,
}

impl SculptList {
    pub(crate) fn new(
        data: &pages::SculptList,
        facts: Option<&FindingFacts>,
        search: &SculptSearch,
    ) -> Self {
        let row = |listed: &ListedSculpt| {
            let sculpt = &listed.sculpt;
            let parked = listed.task.as_ref().and_then(Task::ended_message);
            SculptRow {
                id: sculpt.id,
                name: sculpt.name.clone(),
                file_name: sculpt.file_name.clone(),
                open_percent: listed.task.as_ref().and_then(Task::open_percent),
                refusal: sculpt.refusal.as_deref().or(parked).map(str::to_owned),
                figures: listed.facts.as_ref().map(|f| figures(f, data.layer)),
                unit_asked: sculpt.unit_asked.clone(),
                pictured: data.pictured.contains(&sculpt.id),
            }
        };
        let mut shown: Vec<&ListedSculpt> = data.sculpts.iter().collect();
        shown.retain(|l| search.shows(&l.sculpt));
        search.order(&mut shown, facts);
        Self {
            of: data.sculpts.len(),
            rows: shown.into_iter().map(row).collect(),
            layer: data.layer.to_string(),
        }
    }
}

/// A hollow the file has, with its ways out and whether they are wide enough for a resin.
fn already_words(hollow: &Hollow, wanted_mm: f64) -> String {
    let ml = hollow.volume_mm3 / 1000.0;
    if hollow.ways_out.is_empty() {
        return format!("The file is hollow: {ml:.2} ml, sealed.");
    }
    let way = |w: &WayOut| {
        let [x, y, z] = w.at_mm;
        let narrow = if w.wide_mm < wanted_mm - 0.25 {
            " (narrow)"
        } else {
            ""
        };
        format!(
            "about {:.1} mm wide at {x:.1}, {y:.1}, {z:.1} mm high{narrow}",
            w.wide_mm
        )
    };
    let many = count(hollow.ways_out.len() as u64, "way out", "ways out");
    let ways: Vec<String> = hollow.ways_out.iter().map(way).collect();
    let widen = if ways.iter().any(|w| w.ends_with("(narrow)")) {
        format!(
            " This resin drains through {} mm and more.",
            plain(wanted_mm)
        )
    } else {
        String::new()
    };
    format!(
        "The file is hollow: {ml:.2} ml with {many}: {}.{widen}",
        ways.join("; ")
    )
}

/// The list with the form to upload more.
#[derive(Template)]
#[template(path = "sculpts/show.html")]
pub(crate) struct SculptsView {
    pub(crate) page: Page,
    pub(crate) list: SculptList,
    pub(crate) search: SculptSearch,
    pub(crate) most_bytes: u64,
}

/// One sculpt.
#[derive(Template)]
#[template(path = "sculpts/sculpt.html")]
pub(crate) struct SculptView {
    pub(crate) page: Page,
    pub(crate) sculpt: Sculpt,
    pub(crate) bytes: String,
    pub(crate) figures: Option<Figures>,
    pub(crate) layer: String,
    pub(crate) drawing: String,
    /// How sure the figures are.
    pub(crate) notes: Vec<String>,
    /// The dearest findings.
    pub(crate) findings: Vec<FindingRow>,
    pub(crate) more: Vec<FindingRow>,
    pub(crate) dismissed: Vec<FindingRow>,
    pub(crate) hollow: Option<HollowView>,
    pub(crate) wall: String,
    pub(crate) price: String,
    /// Bundles it may have come with: number, name, chosen.
    pub(crate) bundles: Vec<(i64, String, bool)>,
    pub(crate) prepared: Vec<PreparedRow>,
    /// What is asked about its unit, while that is open.
    pub(crate) question: Option<UnitQuestion>,
    /// Every unit: its name, the mm in it, and whether it is the one of the file.
    pub(crate) units: Vec<(&'static str, f64, bool)>,
    /// The file brings supports: what tells.
    pub(crate) brought: Option<String>,
    /// What may be said of that, and whether it is.
    pub(crate) supports: Vec<(SupportsSaid, bool)>,
    /// What tilting it far back does to its pull.
    pub(crate) tilt: Option<String>,
    pub(crate) users: Vec<(i64, String, i64, String)>,
    /// Work about it that ended without a result: what, and why.
    pub(crate) given_up: Vec<(&'static str, String)>,
    waits: bool,
}

/// What a piece of work does, as its sculpt's page names it.
const fn work_name(kind: TaskKind) -> &'static str {
    match kind {
        TaskKind::Measure => "Measuring the file",
        TaskKind::Prepare => "Measuring it as a recipe prints it",
        TaskKind::Hollow => "Looking for hollows and drawing its sides",
        TaskKind::Poses => "Searching for orientations",
        TaskKind::Register => "Matching a supported file",
        TaskKind::Plan => "Planning",
    }
}

impl SculptView {
    pub(crate) fn new(page: Page, data: &SculptPage) -> Self {
        let (sculpt, facts) = (&data.sculpt, data.facts.as_ref());
        let of_file = data.layers.iter().find(|p| p.is_of_file());
        let all = facts.zip(of_file).map_or_else(Vec::new, |(f, p)| {
            findings::of_file(sculpt, (f, p), data.hollow.as_ref(), data.resin.as_ref())
        });
        let rows = all.iter().map(|f| finding_row(f, &data.put_aside));
        let (dismissed, mut first): (Vec<FindingRow>, Vec<FindingRow>) =
            rows.partition(|r| r.reason.is_some());
        let more = first.split_off(SHOWN.min(first.len()));
        let hollow = data.hollow.as_ref().zip(facts);
        Self {
            drawing: facts.map_or_else(String::new, |f| specimen(data, f, of_file, &first)),
            bytes: size(sculpt.bytes),
            notes: facts.map_or_else(Vec::new, |f| {
                f.warnings.iter().map(|w| sentence(w)).collect()
            }),
            findings: first,
            more,
            dismissed,
            wall: plain(sculpt.wall_mm),
            price: sculpt.price.written(),
            bundles: data
                .bundles
                .0
                .iter()
                .map(|b| (b.id, b.name.clone(), data.bundles.1 == Some(b.id)))
                .collect(),
            hollow: hollow.map(|(h, f)| hollow_view(h, f, of_file, data)),
            prepared: data.layers.iter().map(prepared_row).collect(),
            question: facts.and_then(|f| question(sculpt, f)),
            brought: supported_words(sculpt, of_file, 1.0),
            supports: SupportsSaid::ALL
                .iter()
                .map(|s| (*s, *s == sculpt.supports))
                .collect(),
            units: DrawnUnit::ALL
                .map(|u| (u.name, u.mm, u.mm == sculpt.unit_mm))
                .to_vec(),
            figures: facts.map(|f| figures(f, data.layer)),
            layer: data.layer.to_string(),
            // A file on its own supports is not tilted.
            tilt: facts
                .filter(|_| brings_supports(sculpt, of_file).is_none())
                .and_then(|f| tilt_words(f.pull_upright?, f.pull_tilted?)),
            users: data
                .users
                .iter()
                .map(|u| {
                    (
                        u.model.0,
                        u.model_name.clone(),
                        u.part.0,
                        u.part_name.clone(),
                    )
                })
                .collect(),
            given_up: (data.given_up.iter())
                .map(|task| {
                    let why = task.message.trim_start_matches("Given up: ");
                    (work_name(task.kind), sentence(why.trim_end_matches('.')))
                })
                .collect(),
            waits: data.waits(),
            sculpt: sculpt.clone(),
            page,
        }
    }

    pub(crate) fn open(&self) -> bool {
        self.waits
    }

    pub(crate) fn waiting(&self) -> Waiting {
        Waiting::of_sculpt(self.open())
    }
}

/// The sculpt as a specimen: four sides, its section area, the heights of what was found.
fn specimen(
    data: &SculptPage,
    facts: &SculptFacts,
    of_file: Option<&LayerFacts>,
    found: &[FindingRow],
) -> String {
    let address = format!("/sculpts/{}/side", data.sculpt.id);
    draw_specimen(&Specimen {
        outline: &facts.outline,
        profile: &facts.profile,
        size_mm: facts.size_mm(1.0),
        area_mm2: of_file.map_or(&[], |p| p.area_curve.as_slice()),
        pictures: data.has_pictures.then_some(address.as_str()),
        heights: &heights(found, facts.height_mm),
        places_mm: &found.iter().filter_map(|f| f.place_mm).collect::<Vec<_>>(),
        base_mm: data.users.first().map(|u| u.base_mm),
    })
}

/// A line of the table of figures at print scale.
pub(crate) struct PreparedRow {
    pub(crate) scale: String,
    pub(crate) pose: String,
    pub(crate) layer: String,
    pub(crate) layers: String,
    pub(crate) volume_ml: String,
    pub(crate) section: String,
    pub(crate) overhang: String,
    pub(crate) thinnest: String,
    pub(crate) tips: String,
    pub(crate) pull: String,
}

fn prepared_row(p: &LayerFacts) -> PreparedRow {
    PreparedRow {
        scale: plain(p.scale * 100.0),
        pose: p.pose.words(),
        layer: p.layer.to_string(),
        layers: grouped(p.layers),
        volume_ml: format!("{:.2}", p.volume_mm3 / 1000.0),
        section: tenth(p.largest_section_mm2),
        overhang: tenth(p.overhang_mm2),
        thinnest: p
            .thinnest_mm()
            .map_or_else(|| "–".into(), |t| format!("{t:.2}")),
        tips: format!("{:.0}", p.tips_at_deg),
        pull: format!("{:.2}", p.peak_pull),
    }
}

/// The question about the unit.
pub(crate) struct UnitQuestion {
    pub(crate) words: String,
    /// Units that make sense: name, mm in it, height then.
    pub(crate) likely: Vec<(&'static str, f64, String)>,
}

fn question(sculpt: &Sculpt, facts: &SculptFacts) -> Option<UnitQuestion> {
    sculpt.unit_asked.as_ref()?;
    let size = [facts.width_mm, facts.depth_mm, facts.height_mm];
    let longest = size.into_iter().fold(0.0, f64::max);
    let doubt = guess_unit(longest)?;
    let offer = |u: &DrawnUnit| (u.name, u.mm, tenth(facts.height_mm * u.mm));
    Some(UnitQuestion {
        words: format!(
            "In millimetres it is {} long: {}.",
            plain((longest * 1000.0).round() / 1000.0),
            if longest > 1.0 && doubt.likely.is_empty() {
                "longer than a build plate. If it is drawn as large as life, its recipe scales it"
            } else {
                "in which unit was it drawn"
            }
        ),
        likely: doubt.likely.iter().map(offer).collect(),
    })
}

fn sentence(words: &str) -> String {
    let mut chars = words.chars();
    let first = chars
        .next()
        .map(|c| c.to_uppercase().to_string())
        .unwrap_or_default();
    format!("{first}{}.", chars.as_str())
}

/// Findings shown one by one; the rest are counted.
const SHOWN: usize = 3;

/// One finding as the page shows it.
pub(crate) struct FindingRow {
    pub(crate) key: String,
    pub(crate) at_mm: Option<f64>,
    pub(crate) words: String,
    pub(crate) todo: String,
    pub(crate) loud: bool,
    place_mm: Option<[f64; 3]>,
    /// What one copy loses by it; none where nothing is lost.
    pub(crate) cost: Option<String>,
    /// Why the maker put it aside.
    pub(crate) reason: Option<String>,
}

fn finding_row(f: &Finding, reasons: &HashMap<String, String>) -> FindingRow {
    FindingRow {
        key: f.key.clone(),
        at_mm: f.at_mm,
        place_mm: f.place_mm,
        words: f.words.clone(),
        todo: f.todo.clone(),
        loud: f.loud,
        cost: (f.cost.0 > 0).then(|| f.cost.written()),
        reason: reasons.get(&f.key).cloned(),
    }
}

/// Heights of findings that lie in the sculpt, mm.
fn heights(findings: &[FindingRow], height_mm: f64) -> Vec<f64> {
    let at = findings.iter().filter_map(|f| f.at_mm);
    at.filter(|z| *z <= height_mm).collect()
}

/// Hollowing, in figures and words.
pub(crate) struct HollowView {
    pub(crate) saved: String,
    pub(crate) share: String,
    pub(crate) worth: bool,
    pub(crate) needed: i64,
    pub(crate) diameter: String,
    pub(crate) drains: Vec<String>,
    pub(crate) trapped: String,
    pub(crate) hanging: String,
    pub(crate) standing: String,
    pub(crate) pitch: String,
    pub(crate) pockets: i64,
    pub(crate) already: Vec<String>,
    pub(crate) keeps_solid: bool,
}

fn hollow_view(
    h: &HollowFacts,
    facts: &SculptFacts,
    of_file: Option<&LayerFacts>,
    data: &SculptPage,
) -> HollowView {
    let ml = |mm3: f64| format!("{:.2}", mm3 / 1000.0);
    let viscosity = data
        .resin
        .as_ref()
        .map_or(Viscosity::Medium, |r| r.viscosity);
    let drain = |d: &Drain| {
        let place = if d.hidden {
            "through the sole, out of sight"
        } else {
            "from the surface nearest to it"
        };
        format!("at {:.1} mm height, {place}", d.at_mm[2])
    };
    let already = |x: &Hollow| already_words(x, viscosity.drain_diameter_mm());
    HollowView {
        saved: format!("{} ± {}", ml(h.saved_mm3), ml(h.uncertain_mm3)),
        share: format!("{:.0}", 100.0 * h.saved_mm3 / facts.volume_mm3.max(1e-9)),
        worth: is_worth_it(h.saved_mm3, facts.volume_mm3),
        needed: h.drains_needed,
        diameter: plain(viscosity.drain_diameter_mm()),
        drains: h.drains.iter().map(drain).collect(),
        trapped: ml(h.trapped_mm3),
        hanging: ml(h.left_hanging_mm3),
        standing: ml(h.left_standing_mm3),
        pitch: format!("{:.2}", h.pitch_mm),
        pockets: h.pockets,
        already: of_file
            .map_or_else(|| h.hollows.clone(), |l| h.hollows_told(l))
            .iter()
            .map(already)
            .collect(),
        keeps_solid: data.practice.keeps_solid(),
    }
}
