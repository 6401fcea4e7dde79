//! A recipe: how a part hangs, what that takes, its versions, its supports, its print mesh.

use askama::Template;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{ModelId, PartId, SculptId};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{Character, Proof, suits};
use wembrit_core::sculpt::findings::{Evidence, LEAST_WIDTH_MM, find};
use wembrit_core::units::Money;
use wembrit_core::units::layer_count;
use wembrit_core::workshop::practice::Question;
use wembrit_core::workshop::print_time::plate_seconds;
use wembrit_core::workshop::resin::{resin_cost_minor, resin_use};
use wembrit_paper::{draw_hung, letter};
use wembrit_store::queries::prepared::Preparing;
use wembrit_store::queries::print_meshes::{POSE_MATCHES_DEG, SIZE_MATCHES};
use wembrit_store::queries::{
    hung, muster, practices, prepared, print_meshes, printers, recipes, resins, scales, sculpts,
    settings, tasks, trials, workshop,
};
use wembrit_store::rows::{
    HungFacts, Part, PreparedFacts, PrintMeshRow, RecipeVersion, Resin, Sculpt,
};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::show::{hours, tenth};
use crate::forms::plain;

/// What every page around a recipe says at its head.
pub(crate) struct Head {
    pub(crate) part: PartId,
    pub(crate) name: String,
    pub(crate) model: ModelId,
    pub(crate) version: i64,
    pub(crate) standing: Proof,
    pub(crate) sculpt: Option<(SculptId, String)>,
}

impl Head {
    /// The word of its standing as a class.
    pub(crate) fn class(&self) -> String {
        self.standing.as_str().replace(' ', "-")
    }
}

/// A part with its recipe, loaded once for a page.
pub(crate) struct Loaded {
    pub(crate) part: Part,
    pub(crate) base_mm: [f64; 2],
    pub(crate) recipe: RecipeVersion,
    pub(crate) sculpt: Option<Sculpt>,
    pub(crate) head: Head,
}

impl Loaded {
    pub(crate) fn load(c: &mut Conn, id: PartId) -> Result<Self, StoreError> {
        let part = muster::part(c, id)?;
        let model = muster::model(c, part.model_id)?;
        let recipe = recipes::newest(c, part.recipe_id)?;
        let sculpt = part.sculpt_id().map(|s| sculpts::load(c, s)).transpose()?;
        let standing = recipes::proofs(c, &[recipe.id])?[&recipe.id];
        Ok(Self {
            head: Head {
                part: id,
                name: format!("{}, {}", model.name, part.name.to_lowercase()),
                model: model.id,
                version: recipe.version,
                standing,
                sculpt: sculpt.as_ref().map(|s| (s.id, s.name.clone())),
            },
            base_mm: [model.base_width_mm, model.base_depth_mm],
            part,
            recipe,
            sculpt,
        })
    }

    /// How its sculpt is to hang; nothing without a sculpt.
    pub(crate) fn preparing(&self) -> Option<Preparing> {
        Some(Preparing::of(self.sculpt.as_ref()?, &self.recipe))
    }
}

/// Figures of a part as it hangs.
pub(crate) struct HungView {
    pub(crate) drawing: String,
    pub(crate) height: String,
    pub(crate) layers: String,
    pub(crate) hours: String,
    pub(crate) part_ml: String,
    pub(crate) support_ml: String,
    pub(crate) cost: String,
    pub(crate) contacts: i64,
    pub(crate) fine: i64,
    pub(crate) minutes: String,
    pub(crate) pull: String,
    pub(crate) pull_at: String,
    pub(crate) starts_left: i64,
    pub(crate) estimate: bool,
    /// The riskiest starts, by letter and height.
    pub(crate) riskiest: Vec<(&'static str, String)>,
}

/// Hours of a part alone on the first printer that has a setting for it.
pub(crate) fn hours_alone(
    c: &mut Conn,
    recipe: &RecipeVersion,
    height_mm: f64,
) -> Result<Option<(String, f64)>, StoreError> {
    let setting = settings::list(c)?
        .into_iter()
        .find(|(s, _)| s.resin_id == recipe.resin_id && s.layer == recipe.layer);
    let Some((setting, version)) = setting else {
        return Ok(None);
    };
    let printer = printers::load(c, setting.printer_id)?;
    let seconds = plate_seconds(
        printer.kind,
        printer.startup_s,
        &version.timing(),
        recipe.layer,
        layer_count(height_mm, recipe.layer),
        wembrit_core::workshop::print_time::Drawn::default(),
    );
    Ok(Some((printer.name, seconds)))
}

pub(crate) fn hung_view(
    c: &mut Conn,
    part: PartId,
    h: &HungFacts,
    recipe: &RecipeVersion,
    resin: &Resin,
) -> Result<HungView, StoreError> {
    let drawing = h.drawing()?;
    let waste = workshop::load(c)?.waste_share;
    let used = resin_use(h.part_mm3 + h.support_mm3, waste, &resin.facts());
    let cost = Money::from_minor_f64(resin_cost_minor(used, &resin.facts()));
    let alone = hours_alone(c, recipe, h.height_mm)?;
    Ok(HungView {
        riskiest: drawing
            .riskiest
            .iter()
            .enumerate()
            .map(|(i, p)| (letter(i), tenth(p[1])))
            .collect(),
        drawing: draw_hung(
            &drawing,
            &format!("/parts/{part}/hung/{}", h.id),
            h.height_mm,
        ),
        height: tenth(h.height_mm),
        layers: super::show::grouped(i64::from(layer_count(h.height_mm, recipe.layer))),
        hours: alone.map_or_else(|| "–".into(), |(_, s)| hours(s)),
        part_ml: format!("{:.2}", h.part_mm3 / 1000.0),
        support_ml: format!("{:.2}", h.support_mm3 / 1000.0),
        cost: cost.to_string(),
        contacts: h.contacts,
        fine: h.fine_contacts,
        minutes: tenth(h.minutes),
        pull: format!("{:.2}", h.peak_pull),
        pull_at: tenth(h.peak_pull_at_mm),
        starts_left: h.starts_left,
        estimate: matches!(h.supports, Supports::Planned(_)),
    })
}

/// One version in the list.
pub(crate) struct VersionRow {
    pub(crate) version: i64,
    pub(crate) says: String,
    pub(crate) changed: String,
    pub(crate) standing: Proof,
    /// Printers it is proven on.
    pub(crate) on: String,
}

impl VersionRow {
    pub(crate) fn class(&self) -> String {
        self.standing.as_str().replace(' ', "-")
    }
}

/// A mesh that came back.
pub(crate) struct MeshRow {
    pub(crate) id: i64,
    pub(crate) file: String,
    pub(crate) says: String,
    pub(crate) mismatch: Option<String>,
    pub(crate) may_use: bool,
    pub(crate) in_use: bool,
    pub(crate) open: bool,
}

fn mesh_row(c: &mut Conn, m: &PrintMeshRow, recipe: &RecipeVersion) -> Result<MeshRow, StoreError> {
    let file = sculpts::load(c, m.file_id)?.file_name;
    let in_use = recipe.supports == Supports::PrintMesh(m.id);
    let (mut says, mut mismatch) = (String::new(), None);
    if let Some(why) = &m.refusal {
        says.clone_from(why);
    }
    if let (Some(size), Some(lean), Some(turned), Some(shift)) =
        (m.size_factor, m.leans_deg, m.turned_deg, m.shift_mm)
    {
        says = format!(
            "Found again, to {:.3} mm: moved by {shift:.1} mm, turned by {turned:.1}°. Its supports take {:.2} ml and touch at {} places; {:.1} mm tall.",
            m.rms_mm.unwrap_or(0.0),
            m.support_mm3.unwrap_or(0.0) / 1000.0,
            m.contacts.unwrap_or(0),
            m.height_mm.unwrap_or(0.0)
        );
        let mut off = Vec::new();
        if (size - 1.0).abs() > SIZE_MATCHES {
            off.push(format!(
                "it is {:.2} % of the size that was exported",
                size * 100.0
            ));
        }
        if lean > POSE_MATCHES_DEG {
            off.push(format!(
                "it leans by {lean:.1}° from the orientation that was exported"
            ));
        }
        if !off.is_empty() {
            mismatch = Some(format!("It does not match: {}.", off.join(", ")));
        }
    }
    Ok(MeshRow {
        id: m.id.0,
        file,
        says,
        mismatch,
        may_use: m.state == "measured"
            && !in_use
            && (m.scale, m.pose) == (recipe.scale, recipe.pose),
        in_use,
        open: m.state == "waiting",
    })
}

/// The page of a recipe.
#[derive(Template)]
#[template(path = "recipes/show.html")]
pub(crate) struct RecipeView {
    pub(crate) page: Page,
    pub(crate) head: Head,
    pub(crate) hung: Option<HungView>,
    /// Why it could not be measured as it hangs.
    pub(crate) failed: Option<String>,
    pub(crate) pose: String,
    pub(crate) supports: String,
    pub(crate) scale: String,
    pub(crate) resin: String,
    pub(crate) layer: String,
    pub(crate) source: &'static str,
    pub(crate) tip: String,
    pub(crate) spacing: String,
    pub(crate) lift: String,
    /// The file seems to bring supports: how many columns.
    pub(crate) columns: i64,
    pub(crate) findings: Vec<(String, String)>,
    pub(crate) advice: Vec<String>,
    pub(crate) sanded: bool,
    pub(crate) lock: String,
    pub(crate) practice: (&'static str, &'static str, &'static str),
    pub(crate) versions: Vec<VersionRow>,
    pub(crate) meshes: Vec<MeshRow>,
    pub(crate) trials: Vec<(i64, String)>,
    pub(crate) most_bytes: u64,
}

impl RecipeView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PartId,
        most_bytes: u64,
    ) -> Result<Self, StoreError> {
        let loaded = Loaded::load(c, id)?;
        let Loaded {
            part,
            recipe,
            sculpt,
            ..
        } = &loaded;
        let resin = resins::load(c, recipe.resin_id)?;
        let (lock, sanded) = recipes::lasting(c, part.recipe_id)?;
        let (mut facts, mut failed, mut known) = (None, None, None);
        let mut joints = false;
        if let (Some(what), Some(sculpt)) = (loaded.preparing(), sculpt) {
            facts = hung::of(c, &what)?;
            if facts.is_none() {
                let task = tasks::find(c, TaskKind::Prepare, &what.task_key(sculpt)).ok();
                failed = task.filter(|t| !t.state.is_open()).map(|t| t.message);
            }
            known = prepared::of_sculpt(c, sculpt.id)?.into_iter().find(|p| {
                p.scale == recipe.scale && p.layer == recipe.layer && p.pose == recipe.pose
            });
            joints = !scales::joints_of(c, sculpt.id)?.is_empty();
        }
        let character = Character {
            thinnest_mm: known.as_ref().and_then(|p| p.thinnest_mm),
            joints,
            sanded,
        };
        let style = recipe.supports.style();
        let answers = practices::answers(c, page.project.as_ref().map(|p| p.id))?;
        let tilt = answers[&Question::Tilt].0;
        Ok(Self {
            hung: facts
                .as_ref()
                .map(|h| hung_view(c, id, h, recipe, &resin))
                .transpose()?,
            failed,
            pose: recipe.pose.says(),
            supports: recipe.supports.says(),
            scale: plain(recipe.scale * 100.0),
            layer: recipe.layer.to_string(),
            source: match recipe.supports {
                Supports::None => "none",
                Supports::InFile => "in the file",
                Supports::Planned(_) => "planned",
                Supports::PrintMesh(_) => "print mesh",
            },
            tip: plain(style.tip_mm),
            spacing: plain(style.spacing_mm),
            lift: plain(style.lift_mm),
            columns: known.as_ref().map_or(0, |p| p.support_columns),
            findings: known
                .as_ref()
                .map(|p| findings(p, &resin, recipe))
                .transpose()?
                .unwrap_or_default(),
            advice: suits(&character, resin.nature),
            resin: resin.name,
            sanded,
            lock,
            practice: (tilt.word, tilt.good_for, tilt.costs),
            versions: version_rows(c, part)?,
            meshes: print_meshes::of_recipe(c, part.recipe_id)?
                .iter()
                .map(|m| mesh_row(c, m, recipe))
                .collect::<Result<_, _>>()?,
            trials: trials::of_part(c, id)?
                .into_iter()
                .map(|t| {
                    let says = match t.state {
                        TrialState::Open => "variants are being put together",
                        TrialState::Planned => "its plates are planned: print and judge them",
                        TrialState::Decided => "a winner is declared",
                        TrialState::Dropped => "given up",
                    };
                    (t.id.0, says.to_owned())
                })
                .collect(),
            most_bytes,
            head: loaded.head,
            page,
        })
    }

    /// Something is still being measured.
    pub(crate) fn open(&self) -> bool {
        let waiting = self.hung.is_none() && self.failed.is_none() && self.head.sculpt.is_some();
        waiting || self.meshes.iter().any(|m| m.open)
    }
}

/// What the layers tell of it in this orientation; what its supports hold is no finding.
fn findings(
    p: &PreparedFacts,
    resin: &Resin,
    recipe: &RecipeVersion,
) -> Result<Vec<(String, String)>, StoreError> {
    let (islands, cups) = (p.islands()?, p.cups()?);
    let held = recipe.supports != Supports::None;
    let found = find(&Evidence {
        volume_mm3: p.volume_mm3,
        resin: resin.facts(),
        least_width_mm: LEAST_WIDTH_MM.max(resin.safe_um as f64 / 1000.0),
        islands: if held { &[] } else { &islands },
        cups: &cups,
        hollows: &[],
        thinnest_mm: p.thinnest_mm.map(|t| (t, p.thinnest_at_mm)),
        open_edge_mm: 0.0,
        inverted_shells: 0,
        tips_at_deg: 90.0,
    });
    Ok(found
        .into_iter()
        .take(3)
        .map(|f| (f.says, f.todo))
        .collect())
}

fn version_rows(c: &mut Conn, part: &Part) -> Result<Vec<VersionRow>, StoreError> {
    let all = recipes::versions(c, part.recipe_id)?;
    let ids: Vec<_> = all.iter().map(|v| v.id).collect();
    let proofs = recipes::proofs(c, &ids)?;
    let on = recipes::proven_on(c, part.recipe_id)?;
    let mut rows = Vec::new();
    for v in &all {
        let words = recipes::in_words(c, v)?;
        let good = on.get(&v.id).map_or(&[][..], Vec::as_slice);
        rows.push(VersionRow {
            version: v.version,
            says: format!(
                "{} %, {}, {}, {}, {} mm",
                plain(v.scale * 100.0),
                v.pose.says(),
                v.supports.says(),
                words.resin,
                v.layer
            ),
            changed: v.changed.clone(),
            standing: proofs[&v.id],
            on: good
                .iter()
                .map(|(printer, n)| format!("{n} good on {printer}"))
                .collect::<Vec<_>>()
                .join(", "),
        });
    }
    Ok(rows)
}
