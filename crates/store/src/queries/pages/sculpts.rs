//! Sculpts: the list, one of them, candidates for a part.

use std::collections::{HashMap, HashSet};

use wembrit_core::army::{Model, Part};
use wembrit_core::flow::{SculptState, Task, TaskKind};
use wembrit_core::ids::{PartId, ProjectId, SculptId};
use wembrit_core::recipe::RecipeVersion;
use wembrit_core::sculpt::{HollowFacts, LayerFacts, Sculpt, SculptFacts};
use wembrit_core::units::LayerHeight;
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::practice::Practice;

use super::workshop::WorkshopPage;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::army::{User, users_of};
use crate::queries::bundles::{self, Bundle};
use crate::queries::{
    dismissals, hollows, kits, layer_facts, muster, picks, practices, recipes, resins, sculpts,
    task_inputs, tasks, workshop,
};

/// A sculpt in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct ListedSculpt {
    /// The sculpt.
    pub sculpt: Sculpt,
    /// What was measured on it.
    pub facts: Option<SculptFacts>,
    /// The task that measures it, while it waits for that.
    pub task: Option<Task>,
}

/// Every sculpt in use.
#[derive(Debug, Clone, PartialEq)]
pub struct SculptList {
    /// The newest first.
    pub sculpts: Vec<ListedSculpt>,
    /// Those that have their pictures.
    pub pictured: HashSet<SculptId>,
    /// The workshop's usual layer height.
    pub layer: LayerHeight,
}

/// Loads the list.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<SculptList, StoreError> {
    let mut listed = Vec::new();
    for (sculpt, facts) in sculpts::list(conn)? {
        let task = if sculpt.state == SculptState::Waiting {
            tasks::find(conn, TaskKind::Measure, &sculpts::task_key(&sculpt))?
        } else {
            None
        };
        listed.push(ListedSculpt {
            sculpt,
            facts,
            task,
        });
    }
    let ids: Vec<SculptId> = listed.iter().map(|l| l.sculpt.id).collect();
    Ok(SculptList {
        pictured: hollows::pictured(conn, &ids)?,
        sculpts: listed,
        layer: workshop::load(conn)?.layer,
    })
}

/// What findings on every sculpt are drawn from.
#[derive(Debug, Clone, PartialEq)]
pub struct FindingFacts {
    /// What the layers of files tell.
    pub layers: HashMap<SculptId, LayerFacts>,
    /// Their hollows.
    pub hollow: HashMap<SculptId, HollowFacts>,
    /// What was put aside: the sculpt and the finding.
    pub aside: HashSet<(SculptId, String)>,
    /// The workshop's first resin.
    pub resin: Option<Resin>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn finding_facts(conn: &mut Conn) -> Result<FindingFacts, StoreError> {
    let all = sculpts::names(conn)?;
    let ids: Vec<SculptId> = all.iter().map(|s| s.id).collect();
    Ok(FindingFacts {
        layers: layer_facts::of_files(conn, &ids)?,
        hollow: hollows::of_sculpts(conn, &ids)?,
        aside: dismissals::all(conn)?,
        resin: resins::list(conn)?.into_iter().next(),
    })
}

/// One sculpt with everything known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct SculptPage {
    /// The sculpt.
    pub sculpt: Sculpt,
    /// What was measured on it.
    pub facts: Option<SculptFacts>,
    /// What its layers tell, by scale and layer height.
    pub layers: Vec<LayerFacts>,
    /// Its hollows, and what hollowing it would do.
    pub hollow: Option<HollowFacts>,
    /// The parts that are printed from it.
    pub users: Vec<User>,
    /// What its first part is printed in; without one the workshop's first resin.
    pub resin: Option<Resin>,
    /// The maker's practice.
    pub practice: Practice,
    /// Findings that were put aside, with the reason.
    pub put_aside: HashMap<String, String>,
    /// Its four sides are drawn.
    pub has_pictures: bool,
    /// The workshop's usual layer height.
    pub layer: LayerHeight,
    /// Bundles of files, and the one it came with.
    pub bundles: (Vec<Bundle>, Option<i64>),
    /// Work about it that ended without a result.
    pub given_up: Vec<Task>,
}

/// A sculpt waits to be measured: nobody has given that up.
fn waits(sculpt: &Sculpt, given_up: &[Task]) -> bool {
    sculpt.state.is_open() && !given_up.iter().any(|t| t.kind == TaskKind::Measure)
}

impl SculptPage {
    /// It waits to be measured.
    #[must_use]
    pub fn waits(&self) -> bool {
        waits(&self.sculpt, &self.given_up)
    }
}

/// Whether a sculpt waits to be measured.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn is_waiting(conn: &mut Conn, id: SculptId) -> Result<bool, StoreError> {
    let sculpt = sculpts::load(conn, id)?;
    let given_up = task_inputs::given_up(conn, &sculpt)?;
    Ok(waits(&sculpt, &given_up))
}

/// Loads one sculpt; the practice is that of the project that is open.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(
    conn: &mut Conn,
    id: SculptId,
    project: Option<ProjectId>,
) -> Result<SculptPage, StoreError> {
    let users = users_of(conn, id)?;
    let resin = match users.first() {
        Some(user) => Some(resins::load(conn, user.resin)?),
        None => resins::list(conn)?.into_iter().next(),
    };
    let sculpt = sculpts::load(conn, id)?;
    Ok(SculptPage {
        given_up: task_inputs::given_up(conn, &sculpt)?,
        sculpt,
        facts: sculpts::load_facts(conn, id)?,
        layers: layer_facts::of_sculpt(conn, id)?,
        hollow: hollows::of_sculpt(conn, id)?,
        users,
        resin,
        practice: practices::load(conn, project)?,
        put_aside: dismissals::of_sculpt(conn, id)?,
        has_pictures: hollows::has_pictures(conn, id)?,
        layer: workshop::load(conn)?.layer,
        bundles: (bundles::list(conn)?, bundles::of_sculpt(conn, id)?),
    })
}

/// A candidate for a part.
#[derive(Debug, Clone, PartialEq)]
pub struct CandidateSculpt {
    /// The sculpt.
    pub sculpt: Sculpt,
    /// What was measured on it.
    pub facts: SculptFacts,
    /// What its layers tell, by scale and layer height.
    pub layers: Vec<LayerFacts>,
    /// Its hollows.
    pub hollow: Option<HollowFacts>,
    /// Its four sides are drawn.
    pub has_pictures: bool,
}

/// Candidates for a part, side by side.
#[derive(Debug, Clone, PartialEq)]
pub struct ComparePage {
    /// The part.
    pub part: Part,
    /// Its model.
    pub model: Model,
    /// All parts of the model.
    pub kit: Vec<Part>,
    /// The newest version of its recipe.
    pub recipe: RecipeVersion,
    /// Its resin.
    pub resin: Resin,
    /// The candidates that are measured.
    pub candidates: Vec<CandidateSculpt>,
    /// Every measured sculpt that could be one.
    pub all: Vec<(SculptId, String)>,
    /// Sculpts that were picked before, with the reason.
    pub picked: Vec<(String, String)>,
    /// The workshop.
    pub workshop: WorkshopPage,
}

/// Loads candidates for a part; without any asked for its own sculpt.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn compare(
    conn: &mut Conn,
    id: PartId,
    asked: &[SculptId],
    most: usize,
) -> Result<ComparePage, StoreError> {
    let part = muster::part(conn, id)?;
    let recipe = recipes::newest(conn, part.recipe)?;
    let own: Vec<SculptId> = part.sculpt.into_iter().collect();
    let wanted = if asked.is_empty() { &own[..] } else { asked };
    let mut candidates = Vec::new();
    for sculpt in wanted.iter().take(most) {
        if let Some(facts) = sculpts::load_facts(conn, *sculpt)? {
            candidates.push(CandidateSculpt {
                sculpt: sculpts::load(conn, *sculpt)?,
                facts,
                layers: layer_facts::of_sculpt(conn, *sculpt)?,
                hollow: hollows::of_sculpt(conn, *sculpt)?,
                has_pictures: hollows::has_pictures(conn, *sculpt)?,
            });
        }
    }
    let measured = |s: Sculpt| (s.state == SculptState::Measured).then_some((s.id, s.name));
    Ok(ComparePage {
        model: muster::model(conn, part.model)?,
        kit: kits::parts_of(conn, part.model)?,
        resin: resins::load(conn, recipe.resin)?,
        recipe,
        candidates,
        all: sculpts::names(conn)?
            .into_iter()
            .filter_map(measured)
            .collect(),
        picked: picks::of_part(conn, id)?,
        workshop: super::workshop::load(conn)?,
        part,
    })
}
