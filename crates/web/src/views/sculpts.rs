//! Sculpts: the list with its tasks, one sculpt as a specimen.

use askama::Template;
use wembrit_core::flow::SculptState;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::layer_count;
use wembrit_core::mesh::guess_unit;
use wembrit_core::task::TaskKind;
use wembrit_paper::draw_specimen;
use wembrit_store::queries::{army, prepared, sculpts, tasks, workshop};
use wembrit_store::rows::{PreparedFacts, Sculpt, SculptFacts};
use wembrit_store::{Conn, StoreError};

use super::Page;
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
    pub(crate) findings: Vec<String>,
    pub(crate) prepared: Vec<PreparedRow>,
    /// The unit it was probably drawn in, the mm in it, and its height then.
    pub(crate) question: Option<(String, f64, String)>,
    pub(crate) users: Vec<(i64, String, String)>,
}

impl SculptView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: SculptId) -> Result<Self, StoreError> {
        let layer = workshop::load(c)?.layer;
        let sculpt = sculpts::load(c, id)?;
        let facts = sculpts::load_facts(c, id)?;
        let prepared = prepared::of_sculpt(c, id)?;
        let at_file_size = prepared.iter().find(|p| p.scale == 1.0);
        let curve = at_file_size
            .map(PreparedFacts::area_curve)
            .transpose()?
            .unwrap_or_default();
        let drawing = match &facts {
            Some(f) => {
                let size = [f.width_mm, f.depth_mm, f.height_mm];
                draw_specimen(&f.outline()?, &f.reach()?, size, &curve)
            }
            None => String::new(),
        };
        let mut said = match &facts {
            Some(f) => f.warnings()?.iter().map(|w| sentence(w)).collect(),
            None => Vec::new(),
        };
        if let Some(p) = at_file_size {
            said.extend(findings(p)?);
        }
        let question = facts.as_ref().and_then(|f| question(&sculpt, f));
        let users = army::users_of(c, id)?;
        Ok(Self {
            page,
            bytes: size(sculpt.bytes),
            sculpt,
            findings: said,
            prepared: prepared.iter().map(prepared_row).collect(),
            question,
            figures: facts.as_ref().map(|f| figures(f, layer)),
            layer: layer.to_string(),
            drawing,
            users: users
                .into_iter()
                .map(|(m, model, _, part)| (m.0, model, part))
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

/// What the layers tell that a maker should know, in words.
fn findings(p: &PreparedFacts) -> Result<Vec<String>, StoreError> {
    let mut found = Vec::new();
    let cups = p.cups()?;
    for cup in cups.iter().take(TOLD) {
        found.push(format!(
            "A pocket opens toward the film from {:.1} to {:.1} mm and shuts in {:.0} mm²: it holds suction until it is vented. A drain at its deepest point lets the resin in.",
            cup.from_mm, cup.to_mm, cup.area_mm2
        ));
    }
    let mut islands = p.islands()?;
    islands.sort_by(|a, b| b.grown_mm2.total_cmp(&a.grown_mm2));
    for island in islands.iter().take(TOLD) {
        found.push(format!(
            "Something starts in mid-air at {:.2} mm and grows to {:.1} mm² within a millimetre: support it, or it will be missing.",
            island.z_mm, island.grown_mm2
        ));
    }
    let more = cups.len().saturating_sub(TOLD) + islands.len().saturating_sub(TOLD);
    if more > 0 {
        found.push(format!(
            "{} like these.",
            super::show::count(more as u64, "more finding", "more findings")
        ));
    }
    if p.tips_at_deg < 3.0 {
        found.push("It does not stand by itself: its middle is not over what it stands on.".into());
    }
    Ok(found)
}
