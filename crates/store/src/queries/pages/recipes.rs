//! A part with its recipe: its page, its scale, its poses.

use std::collections::HashMap;

use wembrit_core::army::{Model, Part};
use wembrit_core::flow::Task;
use wembrit_core::ids::{PartId, PrinterId, ProjectId, RecipeVersionId, ResinId};
use wembrit_core::odds::Judged;
use wembrit_core::recipe::orient::{Candidate, FineZone};
use wembrit_core::recipe::scale::{Joint, Outcome};
use wembrit_core::recipe::supports::HoldingLimit;
use wembrit_core::recipe::{
    KeptPart, PartSetup, PreparedPart, PrintMesh, Proof, Proofs, Recipe, RecipeVersion, Trial,
};
use wembrit_core::sculpt::{Foot, LayerFacts, Sculpt, SculptFacts};
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::practice::Practice;

use super::workshop::WorkshopPage;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::poses::{self, PoseQuestion};
use crate::queries::{
    demand, holding, hollows, judged, kits, layer_facts, muster, practices, prepared_parts,
    print_meshes, recipes, resins, scales, sculpts, trials, zones,
};

/// A part with the newest version of its recipe.
#[derive(Debug, Clone, PartialEq)]
pub struct RecipePart {
    /// The part.
    pub part: Part,
    /// Its model.
    pub model: Model,
    /// The newest version of its recipe.
    pub recipe: RecipeVersion,
    /// Its sculpt.
    pub sculpt: Option<Sculpt>,
    /// How far the version is proven, and others with it.
    pub proofs: Proofs,
    /// The workshop.
    pub workshop: WorkshopPage,
}

impl RecipePart {
    /// How its sculpt is to be printed; nothing without a sculpt.
    #[must_use]
    pub fn setup(&self) -> Option<PartSetup> {
        Some(PartSetup::of(self.sculpt.as_ref()?, &self.recipe))
    }

    /// How far its newest version is proven.
    #[must_use]
    pub fn proof(&self) -> Proof {
        self.proofs.best(&self.recipe, &self.workshop.settings)
    }

    /// For what its poses are compared.
    #[must_use]
    pub fn pose_question(&self) -> PoseQuestion {
        PoseQuestion {
            scale: self.recipe.scale,
            layer: self.recipe.layer,
            resin: self.recipe.resin,
            base_mm: self.model.base_width_mm,
            style: self.recipe.setup.supports.style(),
        }
    }
}

/// Loads a part with its recipe.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn part(conn: &mut Conn, id: PartId) -> Result<RecipePart, StoreError> {
    let part = muster::part(conn, id)?;
    let recipe = recipes::newest(conn, part.recipe)?;
    Ok(RecipePart {
        model: muster::model(conn, part.model)?,
        sculpt: part.sculpt.map(|s| sculpts::load(conn, s)).transpose()?,
        proofs: recipes::proofs(conn, &[recipe.id])?,
        workshop: super::workshop::load(conn)?,
        recipe,
        part,
    })
}

/// The page of a recipe.
#[derive(Debug, Clone, PartialEq)]
pub struct RecipePage {
    /// The part with the newest version.
    pub of: RecipePart,
    /// Its resin.
    pub resin: Resin,
    /// Why its scale is locked, and whether it is sanded.
    pub lasting: (String, bool),
    /// As it was prepared.
    pub kept: Option<KeptPart>,
    /// The task that prepares it, while that is not done.
    pub task: Option<Task>,
    /// What the layers of the part alone tell, as it hangs.
    pub layers: Option<LayerFacts>,
    /// What they tell of its file as that stands.
    pub of_file: Option<LayerFacts>,
    /// Its joints.
    pub joints: Vec<(i64, Joint)>,
    /// The maker's practice.
    pub practice: Practice,
    /// All versions, the newest first, in the words of the rules beside.
    pub versions: Vec<(RecipeVersion, Recipe)>,
    /// How far they are proven.
    pub proofs: Proofs,
    /// Meshes that came back, with the names of their files.
    pub meshes: Vec<(PrintMesh, String)>,
    /// Its trials.
    pub trials: Vec<Trial>,
    /// From which section of tips parts hold here.
    pub holds: HoldingLimit,
}

/// Loads the page of a recipe; the practice is that of the project that is open.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(
    conn: &mut Conn,
    id: PartId,
    project: Option<ProjectId>,
) -> Result<RecipePage, StoreError> {
    let of = part(conn, id)?;
    let recipe = of.part.recipe;
    let (mut kept, mut task, mut joints) = (None, None, Vec::new());
    let (mut layers, mut of_file) = (None, None);
    if let (Some(setup), Some(sculpt)) = (of.setup(), &of.sculpt) {
        kept = prepared_parts::of(conn, &setup)?;
        let facts = demand::facts_of(conn, &[sculpt.id])?.remove(&sculpt.id);
        if let (Some(kept), Some(facts)) = (&mut kept, facts) {
            let part = PreparedPart::or_file(Some(&kept.part), &facts, setup.scale);
            kept.part = part.into_owned();
        }
        if kept.is_none() {
            task = layer_facts::task(conn, sculpt, &setup)?;
        }
        let all = layer_facts::of_sculpt(conn, sculpt.id)?;
        of_file = all.iter().find(|p| p.is_of_file()).cloned();
        layers = all
            .into_iter()
            .find(|p| (p.scale, p.layer, p.pose) == (setup.scale, setup.layer, setup.setup.pose));
        joints = scales::joints_of(conn, sculpt.id)?;
    }
    let mut versions = Vec::new();
    for version in recipes::versions(conn, recipe)? {
        let words = recipes::in_words(conn, &version)?;
        versions.push((version, words));
    }
    let ids: Vec<RecipeVersionId> = versions.iter().map(|(v, _)| v.id).collect();
    let mut meshes = Vec::new();
    for mesh in print_meshes::of_recipe(conn, recipe)? {
        let file = sculpts::load(conn, mesh.file)?.file_name;
        meshes.push((mesh, file));
    }
    Ok(RecipePage {
        resin: resins::load(conn, of.recipe.resin)?,
        lasting: recipes::lasting(conn, recipe)?,
        kept,
        task,
        layers,
        of_file,
        joints,
        practice: practices::load(conn, project)?,
        versions,
        proofs: recipes::proofs(conn, &ids)?,
        meshes,
        trials: trials::of_part(conn, id)?,
        holds: *holding::limit(conn)?,
        of,
    })
}

/// Another part of the same model.
#[derive(Debug, Clone, PartialEq)]
pub struct Sibling {
    /// The part.
    pub part: Part,
    /// The newest version of its recipe.
    pub recipe: RecipeVersion,
    /// Why its scale is locked.
    pub lock: String,
}

/// A part with what its scale is found from.
#[derive(Debug, Clone, PartialEq)]
pub struct ScaledPart {
    /// The part with the newest version of its recipe.
    pub of: RecipePart,
    /// What was measured on its sculpt.
    pub facts: SculptFacts,
    /// As it was prepared.
    pub kept: Option<KeptPart>,
    /// Why its scale is locked.
    pub lock: String,
}

/// The page of a part's scale.
#[derive(Debug, Clone, PartialEq)]
pub struct ScalePage {
    /// The part.
    pub scaled: ScaledPart,
    /// Its sides are drawn.
    pub has_pictures: bool,
    /// Its resin.
    pub resin: Resin,
    /// Its joints.
    pub joints: Vec<(i64, Joint)>,
    /// What its figure stands on, at the size of the file.
    pub foot: Foot,
    /// Thinnest wall or rod of its figure, at the size of the file, mm.
    pub thinnest_mm: Option<f64>,
    /// Scales that worked or fused, by printer.
    pub tried: HashMap<PrinterId, Vec<(f64, Outcome)>>,
    /// All parts of the model that have a sculpt.
    pub siblings: Vec<Sibling>,
    /// The parts that are ticked to share a plate.
    pub set: Vec<ScaledPart>,
}

/// Loads the page of a part's scale; `set` are the parts that are ticked to share a plate.
///
/// # Errors
/// [`StoreError::Refused`] while its sculpt is not measured.
pub fn scale(conn: &mut Conn, id: PartId, set: &[PartId]) -> Result<ScalePage, StoreError> {
    let no_sculpt = || StoreError::Refused("give the part a measured sculpt first".into());
    let scaled = scaled_part(conn, id)?.ok_or_else(no_sculpt)?;
    let sculpt = scaled.facts.sculpt;
    let resin = scaled.of.recipe.resin;
    let layers = layer_facts::of_sculpt(conn, sculpt)?;
    let of_file = layers.iter().find(|p| p.is_of_file());
    let foot = scaled
        .of
        .sculpt
        .as_ref()
        .and_then(|s| Foot::of(s, &scaled.facts, of_file));
    let mut siblings = Vec::new();
    for part in kits::parts_of(conn, scaled.of.part.model)? {
        if part.sculpt.is_some() {
            siblings.push(Sibling {
                recipe: recipes::newest(conn, part.recipe)?,
                lock: recipes::lasting(conn, part.recipe)?.0,
                part,
            });
        }
    }
    let mut ticked = Vec::new();
    for part in set {
        ticked.extend(scaled_part(conn, *part)?);
    }
    Ok(ScalePage {
        has_pictures: hollows::has_pictures(conn, sculpt)?,
        joints: scales::joints_of(conn, sculpt)?,
        foot: foot.unwrap_or_else(|| Foot::all_of(&scaled.facts)),
        thinnest_mm: scaled
            .of
            .sculpt
            .as_ref()
            .and_then(|s| s.thinnest_mm(of_file, of_file)),
        tried: tried(conn, &scaled, resin)?,
        resin: resins::load(conn, resin)?,
        siblings,
        set: ticked,
        scaled,
    })
}

fn tried(
    conn: &mut Conn,
    scaled: &ScaledPart,
    resin: ResinId,
) -> Result<HashMap<PrinterId, Vec<(f64, Outcome)>>, StoreError> {
    let mut tried = HashMap::new();
    for printer in &scaled.of.workshop.printers {
        let known = scales::tried(conn, scaled.facts.sculpt, (printer.id, resin))?;
        tried.insert(printer.id, known);
    }
    Ok(tried)
}

fn scaled_part(conn: &mut Conn, id: PartId) -> Result<Option<ScaledPart>, StoreError> {
    let of = part(conn, id)?;
    let Some(setup) = of.setup() else {
        return Ok(None);
    };
    let Some(facts) = sculpts::load_facts(conn, setup.sculpt)? else {
        return Ok(None);
    };
    Ok(Some(ScaledPart {
        kept: prepared_parts::of(conn, &setup)?,
        lock: recipes::lasting(conn, of.part.recipe)?.0,
        facts,
        of,
    }))
}

/// The contact sheet of a part's poses.
#[derive(Debug, Clone, PartialEq)]
pub struct PosesPage {
    /// The part with the newest version of its recipe.
    pub of: RecipePart,
    /// Its sculpt.
    pub sculpt: Sculpt,
    /// What was measured on it.
    pub facts: Option<SculptFacts>,
    /// Its sides are drawn.
    pub has_pictures: bool,
    /// The search for poses, if it was asked for.
    pub task: Option<Task>,
    /// Poses that were compared, with their identity.
    pub found: Vec<(i64, Candidate)>,
    /// They were compared for another scale, layer height, resin, base or other zones.
    pub stale: bool,
    /// Zones marked fine.
    pub zones: Vec<(i64, FineZone)>,
    /// The maker's practice.
    pub practice: Practice,
    /// Copies judged in the workshop.
    pub judged: Judged,
    /// From which section of tips parts hold here.
    pub holds: HoldingLimit,
}

/// Loads the contact sheet; the practice is that of the project that is open.
///
/// # Errors
/// [`StoreError::Refused`] for a part without a sculpt.
pub fn poses(
    conn: &mut Conn,
    id: PartId,
    project: Option<ProjectId>,
) -> Result<PosesPage, StoreError> {
    let of = part(conn, id)?;
    let sculpt = of
        .sculpt
        .clone()
        .ok_or_else(|| StoreError::Refused("give the part a sculpt first".into()))?;
    let question = of.pose_question();
    let key = poses::key(conn, &sculpt, &question)?;
    let all = poses::of_sculpt(conn, sculpt.id)?;
    Ok(PosesPage {
        has_pictures: hollows::has_pictures(conn, sculpt.id)?,
        facts: sculpts::load_facts(conn, sculpt.id)?,
        task: poses::task(conn, &sculpt, &question)?,
        stale: all.iter().any(|(asked, _, _)| *asked != key),
        found: all.into_iter().map(|(_, id, c)| (id, c)).collect(),
        zones: zones::of_sculpt(conn, sculpt.id)?,
        practice: practices::load(conn, project)?,
        judged: judged::of_workshop(conn)?,
        holds: *holding::limit(conn)?,
        of,
        sculpt,
    })
}

/// The search for poses of a part, if it was asked for.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn pose_task(conn: &mut Conn, id: PartId) -> Result<Option<Task>, StoreError> {
    let of = part(conn, id)?;
    match &of.sculpt {
        Some(sculpt) => poses::task(conn, sculpt, &of.pose_question()),
        None => Ok(None),
    }
}
