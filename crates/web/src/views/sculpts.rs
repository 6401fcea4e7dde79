//! Sculpts: the list with its tasks, one sculpt as a specimen.

use std::collections::HashMap;

use askama::Template;
use wembrit_core::flow::SculptState;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{Drain, Hollow, is_worth_it};
use wembrit_core::mesh::guess_unit;
use wembrit_core::pose::Pose;
use wembrit_core::sculpt::findings::{Evidence, Finding, LEAST_WIDTH_MM, find};
use wembrit_core::units::{Money, layer_count};
use wembrit_core::workshop::practice::{KEEPS_SOLID, Question};
use wembrit_core::workshop::resin::{ResinFacts, Viscosity};
use wembrit_paper::{Specimen, draw_specimen};
use wembrit_store::queries::{
    army, dismissals, hollows, practices, prepared, resins, sculpts, tasks, workshop,
};
use wembrit_store::rows::{HollowFacts, PreparedFacts, Resin, Sculpt, SculptFacts};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::poses::lean;
use super::show::{grouped, size, tenth};
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

/// Every sculpt in use.
pub(crate) struct SculptList {
    pub(crate) rows: Vec<SculptRow>,
    pub(crate) layer: String,
}

impl SculptList {
    pub(crate) fn load(c: &mut Conn) -> Result<Self, StoreError> {
        let layer = workshop::load(c)?.layer;
        let mut rows = Vec::new();
        for (sculpt, facts) in sculpts::list(c)? {
            let open = sculpt.state == SculptState::Waiting;
            let task = open
                .then(|| tasks::find(c, TaskKind::Measure, &sculpts::task_key(&sculpt)))
                .transpose()?;
            let parked = task
                .as_ref()
                .filter(|t| !t.state.is_open())
                .map(|t| t.message.clone());
            rows.push(SculptRow {
                id: sculpt.id,
                name: sculpt.name,
                file_name: sculpt.file_name,
                open_percent: task
                    .filter(|t| t.state.is_open())
                    .map(|t| (t.progress * 100.0) as i64),
                refusal: sculpt.refusal.or(parked),
                figures: facts.map(|f| figures(&f, layer)),
                unit_asked: sculpt.unit_asked,
            });
        }
        Ok(Self {
            rows,
            layer: layer.to_string(),
        })
    }
}

/// The list with the form to upload more.
#[derive(Template)]
#[template(path = "sculpts/show.html")]
pub(crate) struct SculptsView {
    pub(crate) page: Page,
    pub(crate) list: SculptList,
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
    /// The dearest findings, told at once.
    pub(crate) findings: Vec<FindingRow>,
    pub(crate) more: Vec<FindingRow>,
    pub(crate) dismissed: Vec<FindingRow>,
    pub(crate) hollow: Option<HollowView>,
    pub(crate) wall: String,
    pub(crate) price: String,
    pub(crate) prepared: Vec<PreparedRow>,
    /// The unit it was probably drawn in, the mm in it, and its height then.
    pub(crate) question: Option<(String, f64, String)>,
    /// What leaning far back does to its pull.
    pub(crate) lean: Option<String>,
    pub(crate) users: Vec<(i64, String, i64, String)>,
}

impl SculptView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: SculptId) -> Result<Self, StoreError> {
        let layer = workshop::load(c)?.layer;
        let sculpt = sculpts::load(c, id)?;
        let facts = sculpts::load_facts(c, id)?;
        let prepared = prepared::of_sculpt(c, id)?;
        let at_file_size = prepared
            .iter()
            .find(|p| p.scale == 1.0 && p.pose == Pose::AS_IMPORTED);
        let curve = at_file_size
            .map(PreparedFacts::area_curve)
            .transpose()?
            .unwrap_or_default();
        let notes = match &facts {
            Some(f) => f.warnings()?.iter().map(|w| sentence(w)).collect(),
            None => Vec::new(),
        };
        let hollow = hollows::of_sculpt(c, id)?;
        let users = army::users_of(c, id)?;
        // What its first part is printed in; without one the workshop's first resin.
        let resin = match users.first() {
            Some(user) => Some(resins::load(c, user.resin)?),
            None => resins::list(c)?.into_iter().next(),
        };
        let keeps_solid = practices::answers(c, page.project.as_ref().map(|p| p.id))?
            [&Question::Hollow]
            .0
            .word
            == KEEPS_SOLID;
        let all = match (&facts, at_file_size) {
            (Some(f), Some(p)) => all_findings(f, p, hollow.as_ref(), resin.as_ref())?,
            _ => Vec::new(),
        };
        let reasons = dismissals::of_sculpt(c, id)?;
        let rows = all.iter().map(|f| finding_row(f, &reasons));
        let (dismissed, mut told): (Vec<FindingRow>, Vec<FindingRow>) =
            rows.partition(|r| r.reason.is_some());
        let more = told.split_off(TOLD.min(told.len()));
        let drawing = match &facts {
            Some(f) => {
                let address = format!("/sculpts/{id}/side");
                let drawn = hollows::has_pictures(c, id)?;
                draw_specimen(&Specimen {
                    outline: &f.outline()?,
                    reach: &f.reach()?,
                    size_mm: [f.width_mm, f.depth_mm, f.height_mm],
                    area_mm2: &curve,
                    pictures: drawn.then_some(address.as_str()),
                    heights: &heights(&told, f.height_mm),
                    base_mm: users.first().map(|u| u.base_mm),
                })
            }
            None => String::new(),
        };
        let sculpt_wall = sculpt.wall_um as f64 / 1000.0;
        let question = facts.as_ref().and_then(|f| question(&sculpt, f));
        Ok(Self {
            page,
            bytes: size(sculpt.bytes),
            notes,
            findings: told,
            more,
            dismissed,
            wall: plain(sculpt_wall),
            price: Money(sculpt.price_minor).to_string(),
            sculpt,
            hollow: hollow
                .as_ref()
                .zip(facts.as_ref())
                .map(|(h, f)| hollow_view(h, f, &resin, keeps_solid))
                .transpose()?,
            prepared: prepared.iter().map(prepared_row).collect(),
            question,
            figures: facts.as_ref().map(|f| figures(f, layer)),
            layer: layer.to_string(),
            drawing,
            lean: facts
                .as_ref()
                .and_then(|f| lean(f.pull_upright?, f.pull_tilted?)),
            users: users
                .into_iter()
                .map(|u| (u.model.0, u.model_name, u.part.0, u.part_name))
                .collect(),
        })
    }

    pub(crate) fn open(&self) -> bool {
        self.sculpt.state == SculptState::Waiting
    }
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

fn prepared_row(p: &PreparedFacts) -> PreparedRow {
    PreparedRow {
        scale: plain(p.scale * 100.0),
        pose: p.pose.says(),
        layer: p.layer.to_string(),
        layers: grouped(p.layers),
        volume_ml: format!("{:.2}", p.volume_mm3 / 1000.0),
        section: tenth(p.largest_section_mm2),
        overhang: tenth(p.overhang_mm2),
        thinnest: p
            .thinnest_mm
            .map_or_else(|| "–".into(), |t| format!("{t:.2}")),
        tips: format!("{:.0}", p.tips_at_deg),
        pull: format!("{:.2}", p.peak_pull),
    }
}

/// The question about the unit, while it is open.
fn question(sculpt: &Sculpt, facts: &SculptFacts) -> Option<(String, f64, String)> {
    let name = sculpt.unit_asked.clone()?;
    let longest = facts.width_mm.max(facts.depth_mm).max(facts.height_mm);
    let unit = guess_unit(longest)?;
    Some((name, unit.mm, tenth(facts.height_mm * unit.mm)))
}

fn sentence(words: &str) -> String {
    let mut chars = words.chars();
    let first = chars
        .next()
        .map(|c| c.to_uppercase().to_string())
        .unwrap_or_default();
    format!("{first}{}.", chars.as_str())
}

/// Findings told one by one; the rest are counted.
const TOLD: usize = 3;

/// One finding as the page shows it.
pub(crate) struct FindingRow {
    pub(crate) key: String,
    pub(crate) at_mm: Option<f64>,
    pub(crate) says: String,
    pub(crate) todo: String,
    pub(crate) loud: bool,
    /// What one copy loses by it; none where nothing is lost.
    pub(crate) cost: Option<String>,
    /// Why the maker put it aside.
    pub(crate) reason: Option<String>,
}

fn finding_row(f: &Finding, reasons: &HashMap<String, String>) -> FindingRow {
    FindingRow {
        key: f.key.clone(),
        at_mm: f.at_mm,
        says: f.says.clone(),
        todo: f.todo.clone(),
        loud: f.loud,
        cost: (f.cost.0 > 0).then(|| f.cost.to_string()),
        reason: reasons.get(&f.key).cloned(),
    }
}

pub(super) fn all_findings(
    facts: &SculptFacts,
    p: &PreparedFacts,
    hollow: Option<&HollowFacts>,
    resin: Option<&Resin>,
) -> Result<Vec<Finding>, StoreError> {
    let hollows = hollow
        .map(HollowFacts::hollows)
        .transpose()?
        .unwrap_or_default();
    let (islands, cups) = (p.islands()?, p.cups()?);
    Ok(find(&Evidence {
        volume_mm3: p.volume_mm3,
        resin: resin.map_or(ResinFacts::ASSUMED, Resin::facts),
        least_width_mm: LEAST_WIDTH_MM,
        islands: &islands,
        cups: &cups,
        hollows: &hollows,
        thinnest_mm: p.thinnest_mm.map(|t| (t, p.thinnest_at_mm)),
        open_edge_mm: facts.open_edge_mm,
        inverted_shells: facts.inverted_shells,
        tips_at_deg: p.tips_at_deg,
    }))
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
    resin: &Option<Resin>,
    keeps_solid: bool,
) -> Result<HollowView, StoreError> {
    let ml = |mm3: f64| format!("{:.2}", mm3 / 1000.0);
    let viscosity = resin.as_ref().map_or(Viscosity::Medium, |r| r.viscosity);
    let drain = |d: &Drain| {
        let place = if d.hidden {
            "through the sole, out of sight"
        } else {
            "from the surface nearest to it"
        };
        format!("at {:.1} mm height, {place}", d.at_mm[2])
    };
    let already = |x: &Hollow| match x.ways_out {
        0 => format!("The file is hollow: {} ml, sealed.", ml(x.volume_mm3)),
        n => format!(
            "The file is hollow: {} ml with {}.",
            ml(x.volume_mm3),
            super::show::count(n as u64, "way out", "ways out")
        ),
    };
    Ok(HollowView {
        saved: format!("{} ± {}", ml(h.saved_mm3), ml(h.uncertain_mm3)),
        share: format!("{:.0}", 100.0 * h.saved_mm3 / facts.volume_mm3.max(1e-9)),
        worth: is_worth_it(h.saved_mm3, facts.volume_mm3),
        needed: h.drains_needed,
        diameter: plain(viscosity.drain_diameter_mm()),
        drains: h.drains()?.iter().map(drain).collect(),
        trapped: ml(h.trapped_mm3),
        hanging: ml(h.left_hanging_mm3),
        standing: ml(h.left_standing_mm3),
        pitch: format!("{:.2}", h.pitch_mm),
        pockets: h.pockets,
        already: h.hollows()?.iter().map(already).collect(),
        keeps_solid,
    })
}
