//! A recipe: how a part hangs, what that takes, its versions, its supports, its print mesh.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::army::part_name;
use wembrit_core::flow::Task;
use wembrit_core::ids::{ModelId, PartId, SculptId};
use wembrit_core::recipe::supports::{Holding, Supports};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{
    Character, KeptPart, MeshFound, PreparedPart, PrintMesh, PrintMeshState, Proof, Recipe,
    RecipeVersion, Setup, Trial, suits,
};
use wembrit_core::sculpt::findings::of_setup;
use wembrit_core::sculpt::{LayerFacts, brings_supports};
use wembrit_core::stores::{OnScale, reckoned_g};
use wembrit_core::units::layer_count;
use wembrit_core::workshop::first_fit;
use wembrit_core::workshop::practice::Question;
use wembrit_core::workshop::print_time::Drawn;
use wembrit_core::workshop::resin_use::{resin_use, worth};
use wembrit_paper::{draw_setup, letter};
use wembrit_store::queries::pages::recipes::{RecipePage, RecipePart};
use wembrit_store::queries::pages::workshop::WorkshopPage;

use super::Page;
use super::holding::HoldingView;
use super::show::{hours, tenth};
use super::supported::supported_words;
use super::waiting::Waiting;
use crate::forms::plain;

/// What every page around a recipe says at its head.
pub(crate) struct Head {
    pub(crate) part: PartId,
    pub(crate) name: String,
    pub(crate) model: ModelId,
    pub(crate) version: i64,
    pub(crate) proof: Proof,
    pub(crate) sculpt: Option<(SculptId, String)>,
}

impl Head {
    pub(crate) fn new(of: &RecipePart) -> Self {
        Self {
            part: of.part.id,
            name: part_name(&of.model.name, &of.part.name),
            model: of.model.id,
            version: of.recipe.version,
            proof: of.proof(),
            sculpt: of.sculpt.as_ref().map(|s| (s.id, s.name.clone())),
        }
    }

    /// The word of its proof as a class.
    pub(crate) fn class(&self) -> String {
        self.proof.as_str().replace(' ', "-")
    }
}

/// Figures of a part as it hangs.
pub(crate) struct PreparedView {
    pub(crate) drawing: String,
    pub(crate) height: String,
    pub(crate) layers: String,
    pub(crate) hours: String,
    pub(crate) part_ml: String,
    pub(crate) support_ml: String,
    /// What stays liquid in its hollows, where it is worth a word.
    pub(crate) inside_ml: Option<String>,
    pub(crate) cost: String,
    pub(crate) contacts: usize,
    pub(crate) fine: usize,
    pub(crate) minutes: String,
    pub(crate) pull: String,
    pub(crate) pull_at: String,
    pub(crate) starts_left: usize,
    /// Its tips against its pull.
    pub(crate) holding: Option<HoldingView>,
    pub(crate) estimate: bool,
    /// The riskiest starts, by letter and height.
    pub(crate) riskiest: Vec<(&'static str, String)>,
}

/// Hours of a part alone on the first printer that has a setting for it.
pub(crate) fn hours_alone(
    workshop: &WorkshopPage,
    recipe: &RecipeVersion,
    part: &PreparedPart,
) -> Option<(String, f64)> {
    let (printer, setting) = first_fit(
        &workshop.printers,
        &workshop.settings,
        recipe.resin,
        recipe.layer,
    )?;
    let drawn = Drawn {
        volume_mm3: part.volume_mm3(),
        surface_mm2: part.surface_mm2,
    };
    let seconds = printer.plate_seconds(setting, part.height_mm, drawn);
    Some((printer.name.clone(), seconds))
}

fn prepared_view(data: &RecipePage, kept: &KeptPart) -> PreparedView {
    let (part, recipe) = (&kept.part, &data.of.recipe);
    let waste = data.of.workshop.workshop.rates.waste_share;
    let resin = &data.resin.facts;
    let cost = worth(resin_use(&part.body(), waste, resin).ml(), resin);
    let alone = hours_alone(&data.of.workshop, recipe, part);
    let (pull_at, pull) = part.peak_pull;
    let layers = layer_count(part.height_mm, recipe.layer);
    PreparedView {
        riskiest: part
            .drawing
            .riskiest
            .iter()
            .enumerate()
            .map(|(i, p)| (letter(i), tenth(p[1])))
            .collect(),
        drawing: draw_setup(
            &part.drawing,
            &picture_address(data.of.part.id, kept.id),
            part.height_mm,
        ),
        height: tenth(part.height_mm),
        layers: super::show::grouped(i64::from(layers)),
        hours: alone.map_or_else(|| "–".into(), |(_, s)| hours(s)),
        part_ml: format!("{:.2}", part.part_mm3 / 1000.0),
        support_ml: format!("{:.2}", part.support_mm3 / 1000.0),
        inside_ml: (part.inside_mm3 >= 50.0).then(|| tenth(part.inside_mm3 / 1000.0)),
        cost: cost.written(),
        contacts: part.contacts,
        fine: part.fine_contacts,
        minutes: tenth(part.minutes),
        pull: format!("{pull:.2}"),
        pull_at: tenth(pull_at),
        starts_left: part.starts_left,
        holding: Holding::of(
            &kept.setup.setup.supports,
            part.contacts,
            pull,
            reckoned_g(&part.body(), OnScale::Bare, &data.resin.facts),
        )
        .map(|h| HoldingView::new(&h, &data.holds)),
        estimate: matches!(kept.setup.setup.supports, Supports::Planned(_)),
    }
}

/// Where the picture of a prepared part is.
pub(crate) fn picture_address(part: PartId, kept: i64) -> String {
    format!("/parts/{part}/prepared/{kept}")
}

/// One version in the list.
pub(crate) struct VersionRow {
    pub(crate) version: i64,
    pub(crate) words: String,
    pub(crate) changed: String,
    pub(crate) proof: Proof,
    /// Printers it is proven on.
    pub(crate) on: String,
}

impl VersionRow {
    pub(crate) fn class(&self) -> String {
        self.proof.as_str().replace(' ', "-")
    }
}

/// A mesh that came back.
pub(crate) struct MeshRow {
    pub(crate) id: i64,
    pub(crate) file: String,
    pub(crate) words: String,
    pub(crate) mismatch: Option<String>,
    pub(crate) may_use: bool,
    pub(crate) in_use: bool,
    pub(crate) open: bool,
}

fn mesh_row(mesh: &PrintMesh, file: &str, recipe: &RecipeVersion) -> MeshRow {
    let in_use = recipe.setup.supports == Supports::PrintMesh(mesh.id);
    let (mut words, mut mismatch) = (mesh.refusal.clone().unwrap_or_default(), None);
    if let Some(found) = &mesh.found {
        words = format!(
            "{}, to {:.3} mm: moved by {:.1} mm, turned by {:.1}°. Its supports take {:.2} ml and touch at {} places; {:.1} mm tall.",
            if found.remeshed {
                "Its triangles are others; found again by its surface"
            } else {
                "Found again"
            },
            found.rms_mm,
            found.shift_mm,
            found.turned_deg,
            found.support_mm3 / 1000.0,
            found.contacts,
            found.height_mm
        );
        mismatch = mismatch_words(found);
    }
    MeshRow {
        id: mesh.id.0,
        file: file.to_owned(),
        words,
        mismatch,
        may_use: mesh.state == PrintMeshState::Measured
            && !in_use
            && (mesh.scale, mesh.pose) == (recipe.scale, recipe.setup.pose),
        in_use,
        open: mesh.state == PrintMeshState::Waiting,
    }
}

/// Where a mesh that came back is not what was exported.
fn mismatch_words(found: &MeshFound) -> Option<String> {
    let mut off = Vec::new();
    if !found.size_matches() {
        off.push(format!(
            "it is {:.2} % of the size that was exported",
            found.size_factor * 100.0
        ));
    }
    if !found.tilt_matches() {
        off.push(format!(
            "it leans by {:.1}° from the orientation that was exported",
            found.leans_deg
        ));
    }
    (!off.is_empty()).then(|| format!("It does not match: {}.", off.join(", ")))
}

/// The page of a recipe.
#[derive(Template)]
#[template(path = "recipes/show.html")]
pub(crate) struct RecipeView {
    pub(crate) page: Page,
    pub(crate) head: Head,
    pub(crate) prepared: Option<PreparedView>,
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
    /// The file brings supports: what tells, and their tips at its size and as it is printed.
    pub(crate) brought: Option<String>,
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
    pub(crate) fn new(page: Page, data: &RecipePage, most_bytes: u64) -> Self {
        let (recipe, layers) = (&data.of.recipe, data.layers.as_ref());
        let Setup { pose, supports } = recipe.setup;
        let (lock, sanded) = data.lasting.clone();
        let character = Character {
            thinnest_mm: data
                .of
                .sculpt
                .as_ref()
                .and_then(|s| s.thinnest_mm(layers, data.of_file.as_ref())),
            joints: !data.joints.is_empty(),
            sanded,
        };
        let style = supports.style();
        let tilt = data.practice.school(Question::Tilt);
        let meshes = data.meshes.iter();
        Self {
            prepared: data.kept.as_ref().map(|kept| prepared_view(data, kept)),
            failed: data
                .task
                .as_ref()
                .and_then(Task::ended_message)
                .map(str::to_owned),
            pose: pose.words(),
            supports: supports.words(),
            scale: plain(recipe.scale * 100.0),
            layer: recipe.layer.to_string(),
            source: match supports {
                Supports::None => "none",
                Supports::InFile => "in the file",
                Supports::Planned(_) => "planned",
                Supports::PrintMesh(_) => "print mesh",
            },
            tip: plain(style.tip_mm),
            spacing: plain(style.spacing_mm),
            lift: plain(style.lift_mm),
            brought: data
                .of
                .sculpt
                .as_ref()
                .and_then(|s| supported_words(s, data.of_file.as_ref(), recipe.scale)),
            findings: layers.map_or_else(Vec::new, |p| findings(p, data)),
            advice: suits(&character, data.resin.nature),
            resin: data.resin.name.clone(),
            sanded,
            lock,
            practice: (tilt.word, tilt.good_for, tilt.costs),
            versions: version_rows(data),
            meshes: meshes
                .map(|(mesh, file)| mesh_row(mesh, file, recipe))
                .collect(),
            trials: data.trials.iter().map(trial_row).collect(),
            most_bytes,
            head: Head::new(&data.of),
            page,
        }
    }

    /// Something is still being measured.
    pub(crate) fn open(&self) -> bool {
        let waiting =
            self.prepared.is_none() && self.failed.is_none() && self.head.sculpt.is_some();
        waiting || self.meshes.iter().any(|m| m.open)
    }

    pub(crate) fn waiting(&self) -> Waiting {
        Waiting::of_recipe(self.open())
    }
}

fn trial_row(trial: &Trial) -> (i64, String) {
    let words = match trial.state {
        TrialState::Open => "variants are being put together",
        TrialState::Planned => "its plates are planned: print and judge them",
        TrialState::Decided => "a winner is declared",
        TrialState::Dropped => "given up",
    };
    (trial.id.0, words.to_owned())
}

/// Findings shown on the page of a recipe.
const FINDINGS: usize = 3;

/// What the layers tell of it in this orientation; what its supports hold is no finding.
fn findings(layers: &LayerFacts, data: &RecipePage) -> Vec<(String, String)> {
    let held = data.of.recipe.setup.supports != Supports::None;
    let sculpt = data.of.sculpt.as_ref();
    let supported = sculpt.is_some_and(|s| brings_supports(s, data.of_file.as_ref()).is_some());
    let own = data.of_file.as_ref().filter(|_| supported);
    let found = of_setup(layers, &data.resin, held, own);
    let first = found.into_iter().take(FINDINGS);
    first.map(|f| (f.words, f.todo)).collect()
}

fn version_rows(data: &RecipePage) -> Vec<VersionRow> {
    let workshop = &data.of.workshop;
    let row = |(v, words): &(RecipeVersion, Recipe)| {
        let good = workshop.printers.iter().filter_map(|printer| {
            let of_printer = workshop.settings.iter();
            let setting = of_printer
                .clone()
                .find(|s| s.is_for(printer.id, v.resin, v.layer))?;
            let n = data.proofs.good_on(v.id, setting.id);
            (n > 0).then(|| format!("{n} good on {}", printer.name))
        });
        VersionRow {
            version: v.version,
            words: format!(
                "{} %, {}, {}, {}, {} mm",
                plain(v.scale * 100.0),
                v.setup.pose.words(),
                v.setup.supports.words(),
                words.resin,
                v.layer
            ),
            changed: v.changed.clone(),
            proof: data.proofs.best(v, &workshop.settings),
            on: good.collect::<Vec<_>>().join(", "),
        }
    };
    data.versions.iter().map(row).collect()
}
