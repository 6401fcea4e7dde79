//! The plates page: the open plan, the accepted plates; two plans side by side; advice.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use wembrit_core::army::Army;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::army::surplus::Over;
use wembrit_core::cost::CopySums;
use wembrit_core::flow::{PlanRevision, PlanState, Plate, PlateCopy, PlateState, Task};
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId};
use wembrit_core::plan::concerns::ConcernFacts;
use wembrit_core::plan::{NotPlanned, OtherWays, PlateEdit};
use wembrit_core::workshop::{Printer, Resin};

use super::plates::{PlatesShown, shown};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::edits::{self, Beside};
pub use crate::queries::plates::Orphans;
use crate::queries::surplus;
use crate::queries::{army, concerns, demand, plans, plates, printers, resins, tasks};
use crate::until_written::kept;

/// A plan with everything on its plates, for comparing.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanShown {
    /// The plan.
    pub plan: PlanRevision,
    /// Its plates.
    pub plates: Vec<Plate>,
    /// What stands on each.
    pub copies: HashMap<PlateId, Vec<PlateCopy>>,
    /// The plates that are drawn.
    pub leaf: Leaf,
}

/// Plates on one leaf of a long list.
pub const ON_A_LEAF: usize = 12;

/// Where the leaves of the page's lists begin: so many plates stand before them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Leaves {
    /// Of the open plan.
    pub plan: usize,
    /// Of the accepted plates.
    pub open: usize,
    /// Of those that are done.
    pub done: usize,
}

/// One leaf of a long list of plates.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Leaf {
    /// So many stand before it.
    pub before: usize,
    /// All of the list.
    pub of: usize,
    /// Its plates.
    pub shown: PlatesShown,
}

fn leaf(conn: &mut Conn, all: &[Plate], before: usize) -> Result<Leaf, StoreError> {
    let before = if before < all.len() { before } else { 0 };
    let on_it = all.iter().skip(before).take(ON_A_LEAF).cloned().collect();
    Ok(Leaf {
        before,
        of: all.len(),
        shown: shown(conn, on_it)?,
    })
}

/// The plan nobody has accepted yet.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenPlan {
    /// The plan.
    pub plan: PlanRevision,
    /// All of its plates.
    pub plates: Vec<Plate>,
    /// What stands on them, by part.
    pub sums: BTreeMap<PartId, CopySums>,
    /// The plates that are drawn.
    pub leaf: Leaf,
    /// An earlier draft that is still there.
    pub rival: Option<PlanRevision>,
    /// Part, copies and reason of what it leaves out.
    pub left_over: Vec<(PartId, u64, NotPlanned)>,
    /// What it was asked for.
    pub lines: Vec<DemandLine>,
    /// Parts of it that nobody has tried.
    pub untried: Vec<PartId>,
    /// What stands open in its project is drawn from this.
    pub concerns: Arc<ConcernFacts>,
}

/// Everything on the plates page.
#[derive(Debug, Clone, PartialEq)]
pub struct PlatesPage {
    /// The army.
    pub army: Arc<Army>,
    /// The plan nobody has accepted yet.
    pub open: Option<OpenPlan>,
    /// The accepted plates that are not done.
    pub accepted: Vec<Plate>,
    /// Those of them that are drawn.
    pub accepted_leaf: Leaf,
    /// Waiting plates with copies of what was taken away.
    pub orphans: Vec<Orphans>,
    /// The plates that are done or lost.
    pub done: Vec<Plate>,
    /// Those of them that are drawn.
    pub done_leaf: Leaf,
    /// The printers in use.
    pub printers: Vec<Printer>,
    /// The resins in use.
    pub resins: Vec<Resin>,
    /// Copies that are over elsewhere and fit parts of this project.
    pub over: Vec<Over>,
}

/// Loads the plates page of a project.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(
    conn: &mut Conn,
    project: ProjectId,
    leaves: Leaves,
) -> Result<Arc<PlatesPage>, StoreError> {
    kept(
        conn,
        (
            "plates page",
            &[
                project.0,
                leaves.plan as i64,
                leaves.open as i64,
                leaves.done as i64,
            ],
        ),
        |conn| {
            let all = plates::accepted(conn, project)?;
            let ended = |p: &Plate| matches!(p.state, PlateState::Done | PlateState::Lost);
            let (done, accepted): (Vec<Plate>, Vec<Plate>) = all.into_iter().partition(ended);
            let army = army::load(conn, project)?;
            Ok(PlatesPage {
                open: open_plan(conn, &army, leaves.plan)?,
                army,
                accepted_leaf: leaf(conn, &accepted, leaves.open)?,
                accepted,
                orphans: plates::orphans(conn, project)?,
                done_leaf: leaf(conn, &done, leaves.done)?,
                done,
                printers: printers::list(conn)?,
                resins: resins::list(conn)?,
                over: surplus::for_project(conn, project)?,
            })
        },
    )
}

/// The task that computes the open plan, while it is computed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn task(conn: &mut Conn, page: &PlatesPage) -> Result<Option<Task>, StoreError> {
    let computing = |p: &&OpenPlan| p.plan.state == PlanState::Computing;
    match page.open.as_ref().filter(computing) {
        Some(open) => tasks::of_plan(conn, open.plan.id),
        None => Ok(None),
    }
}

/// Loads the open plan of a project alone: nothing of its accepted plates.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn plan_alone(
    conn: &mut Conn,
    project: ProjectId,
    leaves: Leaves,
) -> Result<PlatesPage, StoreError> {
    let army = army::load(conn, project)?;
    Ok(PlatesPage {
        open: open_plan(conn, &army, leaves.plan)?,
        army,
        accepted: Vec::new(),
        accepted_leaf: Leaf::default(),
        orphans: Vec::new(),
        done: Vec::new(),
        done_leaf: Leaf::default(),
        printers: printers::list(conn)?,
        resins: resins::list(conn)?,
        over: Vec::new(),
    })
}

fn open_plan(conn: &mut Conn, army: &Army, before: usize) -> Result<Option<OpenPlan>, StoreError> {
    let project = army.project.id;
    let mut all = plans::open_plans(conn, project)?.into_iter();
    let Some(plan) = all.next() else {
        return Ok(None);
    };
    let lines = plans::demand_of(conn, plan.id)?;
    let plates = plates::of_plan(conn, plan.id)?;
    Ok(Some(OpenPlan {
        rival: all.find(|p| p.state == PlanState::Draft),
        left_over: plans::left_over(conn, plan.id)?,
        untried: demand::untried(conn, &lines)?,
        lines,
        concerns: concerns::of_project(conn, project)?,
        sums: plates::sums_of_plan(conn, plan.id)?,
        leaf: leaf(conn, &plates, before)?,
        plates,
        plan,
    }))
}

fn with_plates(conn: &mut Conn, plan: PlanRevision) -> Result<PlanShown, StoreError> {
    let all = plates::of_plan(conn, plan.id)?;
    let ids: Vec<PlateId> = all.iter().map(|p| p.id).collect();
    Ok(PlanShown {
        copies: plates::copies_on(conn, &ids)?,
        leaf: leaf(conn, &all, 0)?,
        plates: all,
        plan,
    })
}

/// Two plans of a project.
#[derive(Debug, Clone, PartialEq)]
pub struct TwoPlans {
    /// The army.
    pub army: Arc<Army>,
    /// The plans.
    pub plans: [PlanShown; 2],
    /// The printers in use.
    pub printers: Vec<Printer>,
    /// All resins.
    pub resins: Vec<Resin>,
}

/// Loads two plans; the first one says in which project.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn two(conn: &mut Conn, of: [PlanId; 2]) -> Result<TwoPlans, StoreError> {
    let [a, b] = of.map(|id| plans::load(conn, id));
    let (a, b) = (a?, b?);
    Ok(TwoPlans {
        army: army::load(conn, a.project)?,
        plans: [with_plates(conn, a)?, with_plates(conn, b)?],
        printers: printers::list(conn)?,
        resins: resins::list_all(conn)?,
    })
}

/// Plates of a draft with what would shorten them.
#[derive(Debug, Clone, PartialEq)]
pub struct Advised {
    /// The army, for names.
    pub army: Arc<Army>,
    /// The plates, each with other ways to hold the part that sets its hours.
    pub plates: Arc<Vec<(PlateEdit, Option<OtherWays>)>>,
}

/// Plates that are looked at for advice: the first ones are printed first.
const ADVISED_PLATES: usize = 12;

/// Loads the plates of a draft for advice; none for a plan that is no draft.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn advised(conn: &mut Conn, id: PlanId) -> Result<Arc<Advised>, StoreError> {
    kept(conn, ("advised plan", &[id.0]), |conn| {
        let plan = plans::load(conn, id)?;
        let mut of = Vec::new();
        if plan.state == PlanState::Draft {
            let first = plates::of_plan(conn, id)?.into_iter().take(ADVISED_PLATES);
            of.extend(first.map(|p| p.id));
        }
        advised_plates(conn, &plan, &of)
    })
}

/// Loads one plate of a draft for advice.
///
/// # Errors
/// [`StoreError::Refused`] when it is no draft any more.
pub fn advised_plate(conn: &mut Conn, id: PlateId) -> Result<Arc<Advised>, StoreError> {
    kept(conn, ("advised plate", &[id.0]), |conn| {
        let plan = plates::load(conn, id)?.plan;
        let plan = plans::load(conn, plan)?;
        advised_plates(conn, &plan, &[id])
    })
}

fn advised_plates(
    conn: &mut Conn,
    plan: &PlanRevision,
    of: &[PlateId],
) -> Result<Advised, StoreError> {
    let placed = plates::placed_on_plan(conn, plan.id)?;
    let mut advised = Vec::new();
    for edit in edits::load_many(conn, plan.id, of, Beside::All)? {
        let ways = edits::other_setups(conn, &edit, &placed)?;
        advised.push((edit, ways));
    }
    Ok(Advised {
        army: army::load(conn, plan.project)?,
        plates: Arc::new(advised),
    })
}
