//! Sculpts: the list with its tasks, one sculpt as a specimen.

use askama::Template;
use wembrit_core::flow::SculptState;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::layer_count;
use wembrit_core::task::TaskKind;
use wembrit_paper::draw_specimen;
use wembrit_store::queries::{army, sculpts, tasks, workshop};
use wembrit_store::rows::{Sculpt, SculptFacts};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::show::{grouped, size, tenth};

pub(crate) struct SculptRow {
    pub(crate) id: SculptId,
    pub(crate) name: String,
    pub(crate) file_name: String,
    /// Waiting or being measured, from 0 to 100.
    pub(crate) open_percent: Option<i64>,
    pub(crate) refusal: Option<String>,
    pub(crate) figures: Option<Figures>,
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
    pub(crate) users: Vec<(i64, String, String)>,
}

impl SculptView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: SculptId) -> Result<Self, StoreError> {
        let layer = workshop::load(c)?.layer;
        let sculpt = sculpts::load(c, id)?;
        let facts = sculpts::load_facts(c, id)?;
        let drawing = match &facts {
            Some(f) => draw_specimen(
                &f.outline()?,
                &f.reach()?,
                [f.width_mm, f.depth_mm, f.height_mm],
            ),
            None => String::new(),
        };
        let users = army::users_of(c, id)?;
        Ok(Self {
            page,
            bytes: size(sculpt.bytes),
            sculpt,
            findings: facts.as_ref().map(findings).unwrap_or_default(),
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

/// What the triangles tell that a maker should know, in words.
fn findings(facts: &SculptFacts) -> Vec<String> {
    let mut found = Vec::new();
    if facts.inner_shells > 0 {
        found.push("There is a hollow inside with no way out: liquid resin would stay in it. Give it at least two drain holes, or fill it.".into());
    }
    if facts.open_edge_mm > 0.0 {
        found.push(format!(
            "Faces are missing along {:.1} mm of edges, so the volume is an estimate: close the mesh if you can.",
            facts.open_edge_mm
        ));
    }
    if facts.inverted_shells > 0 {
        found.push(format!(
            "{} turned inside out; counted as solid.",
            super::show::count(facts.inverted_shells as u64, "shell is", "shells are")
        ));
    }
    if facts.dropped > 0 {
        found.push(format!(
            "{} without area or with unreadable corners left out.",
            super::show::count(facts.dropped as u64, "triangle", "triangles")
        ));
    }
    found
}
