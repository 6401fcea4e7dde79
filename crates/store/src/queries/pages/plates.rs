//! Plates with what stands on them, and everything their pictures are drawn from.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use wembrit_core::army::Army;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{PlanRevision, PlanState, Plate, PlateCopy, PlateState, Run};
use wembrit_core::ids::{CopyId, PartId, PlateId, PrinterId, RecipeVersionId, ResinId, SculptId};
use wembrit_core::plan::concerns::ConcernFacts;
use wembrit_core::plan::{PlanFacts, PlateEdit};
use wembrit_core::recipe::KeptPart;
use wembrit_core::running::TimeDoubt;
use wembrit_core::running::evidence::RunFigures;
use wembrit_core::sculpt::SculptFacts;
use wembrit_core::stores::Place;
use wembrit_core::workshop::{Printer, Resin};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::edits::{self, Beside};
use crate::queries::took::PlateTook;
use crate::queries::{
    army, concerns, demand, dismissals, links, muster, photos, plans, plates, prepared_parts,
    printers, remedies, resins, stores, took,
};
use crate::until_written::kept;

/// Some plates with their copies, and the shapes of these.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PlatesShown {
    /// The plates.
    pub plates: Vec<Plate>,
    /// What stands on each.
    pub copies: HashMap<PlateId, Vec<PlateCopy>>,
    /// Their printers, in use or not.
    pub printers: BTreeMap<PrinterId, Printer>,
    /// Their resins, in use or not.
    pub resins: BTreeMap<ResinId, Resin>,
    /// What was measured on the sculpts.
    pub facts: HashMap<SculptId, SculptFacts>,
    /// Parts as they were prepared.
    pub prepared: HashMap<(SculptId, RecipeVersionId), KeptPart>,
}

impl PlatesShown {
    /// What stands on one of them.
    #[must_use]
    pub fn on(&self, plate: PlateId) -> &[PlateCopy] {
        self.copies.get(&plate).map_or(&[], Vec::as_slice)
    }

    /// Name of a plate's printer.
    #[must_use]
    pub fn printer(&self, plate: &Plate) -> &str {
        self.printers
            .get(&plate.printer)
            .map_or("", |p| p.name.as_str())
    }

    /// Name of a plate's resin.
    #[must_use]
    pub fn resin(&self, plate: &Plate) -> &str {
        self.resins
            .get(&plate.resin)
            .map_or("", |r| r.name.as_str())
    }
}

/// Loads some plates with everything that is drawn and told of them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn shown(conn: &mut Conn, plates: Vec<Plate>) -> Result<PlatesShown, StoreError> {
    let copies = plates::copies_on(conn, &plates.iter().map(|p| p.id).collect::<Vec<_>>())?;
    let all = copies.values().flatten();
    let printed: BTreeSet<_> = all.map(|c| (c.sculpt, c.recipe_version)).collect();
    let mut sculpts: Vec<SculptId> = printed.iter().map(|p| p.0).collect();
    sculpts.dedup();
    let all = printers::list_all(conn)?;
    Ok(PlatesShown {
        facts: demand::facts_of(conn, &sculpts)?,
        prepared: prepared_parts::of_versions(conn, printed)?,
        printers: all.into_iter().map(|p| (p.id, p)).collect(),
        resins: resins::list_all(conn)?
            .into_iter()
            .map(|r| (r.id, r))
            .collect(),
        plates,
        copies,
    })
}

/// One plate's sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateSheet {
    /// The plate, alone.
    pub shown: PlatesShown,
    /// The plate.
    pub plate: Plate,
    /// The highest number a plate of its plan or project carries.
    pub of: i64,
    /// Its newest run.
    pub run: Option<Run>,
    /// Why nothing is learned from the time that its printer says.
    pub time_doubt: Option<TimeDoubt>,
    /// When its printer was at other plates, ms since 1970, while it waits itself.
    pub taken: Vec<(i64, i64)>,
    /// Copies of what was taken away, while nobody has started it.
    pub orphans: Option<plates::Orphans>,
    /// Sculpt, finding and reason of what was put aside on its sculpts.
    pub put_aside: Vec<(String, String, String)>,
    /// Until all of it is judged: the army, and what stands open in it is drawn from.
    pub concerns: Option<(Army, ConcernFacts)>,
    /// What it is changed by hand with, while its plan is a draft.
    pub hand: Option<ByHand>,
    /// Photographs of its copies: number and copy.
    pub photos: Vec<(i64, CopyId)>,
    /// What its cost was reckoned from, and what it took.
    pub took: Option<PlateTook>,
    /// What would be lost of the resin that is in its vat now, where that is another, ml; while it waits.
    pub change_ml: Option<f64>,
    /// Where copies failed: what its run tells, and the last that went well.
    pub failed: Option<FailedRun>,
}

pub use crate::queries::remedies::Remedy;

/// A run with failures.
#[derive(Debug, Clone, PartialEq)]
pub struct FailedRun {
    /// What is known of it.
    pub figures: RunFigures,
    /// Number and figures of the last plate that went well with the same recipe.
    pub good: Option<(i64, RunFigures)>,
    /// What was changed since.
    pub remedies: Vec<Remedy>,
}

/// What a plate of a draft is changed by hand with.
#[derive(Debug, Clone, PartialEq)]
pub struct ByHand {
    /// The plan it belongs to.
    pub plan: PlanRevision,
    /// What can be undone and what can be done again, in words.
    pub around: [Option<String>; 2],
    /// The plate.
    pub edit: PlateEdit,
    /// Names of the parts that may be put on.
    pub names: BTreeMap<wembrit_core::ids::PartId, String>,
}

/// Loads a plate's sheet.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn sheet(conn: &mut Conn, id: PlateId) -> Result<Arc<PlateSheet>, StoreError> {
    kept(conn, ("plate", &[id.0]), |conn| {
        let plate = plates::load(conn, id)?;
        let shown = shown(conn, vec![plate.clone()])?;
        let mut sculpts: Vec<SculptId> = shown.on(id).iter().map(|c| c.sculpt).collect();
        sculpts.sort_unstable();
        sculpts.dedup();
        let plan = plans::load(conn, plate.plan)?;
        let hand = if plate.state == PlateState::Draft && plan.state == PlanState::Draft {
            let edit = edits::load(conn, id, Beside::All)?;
            let parts: Vec<_> = edit.layout.parts.keys().copied().collect();
            Some(ByHand {
                around: edits::around(conn, &plan)?,
                names: muster::part_names(conn, &parts)?,
                edit,
                plan,
            })
        } else {
            None
        };
        let ended = matches!(
            plate.state,
            PlateState::Done | PlateState::Lost | PlateState::Released
        );
        let open = if ended {
            None
        } else {
            let army = of_parts(conn, &plate, &shown_parts(&shown, id))?;
            let facts = concerns::facts(conn, &army)?;
            Some((army, facts))
        };
        let failed = if shown.on(id).iter().any(PlateCopy::failed) {
            Some(FailedRun {
                figures: remedies::figures(conn, &plate)?,
                good: remedies::last_good(conn, &plate)?,
                remedies: remedies::of_plate(conn, id)?,
            })
        } else {
            None
        };
        let change_ml = change_ml(conn, &shown, &plate)?;
        let run = plates::runs_of(conn, &[id])?.remove(&id);
        Ok(PlateSheet {
            time_doubt: time_doubt(conn, &plate, run.as_ref())?,
            change_ml,
            took: took::of_plates(conn, &[id])?.remove(&id),
            photos: photos::of_plate(conn, id)?,
            failed,
            concerns: open,
            of: plates::highest_number(conn, &plate)?,
            taken: match plate.state {
                PlateState::Planned => plates::taken(conn, plate.printer)?,
                _ => Vec::new(),
            },
            orphans: plates::orphans(conn, plate.project)?
                .into_iter()
                .find(|o| o.plate == id),
            run,
            put_aside: dismissals::of_sculpts(conn, &sculpts)?,
            hand,
            shown,
            plate,
        })
    })
}

/// A time that its printer says and that cannot be, until somebody says another.
fn time_doubt(
    conn: &mut Conn,
    plate: &Plate,
    run: Option<&Run>,
) -> Result<Option<TimeDoubt>, StoreError> {
    let Some(run) = run
        .filter(|r| plate.is_printed() && !plate.time.is_known() && r.stopped_at_layer.is_none())
    else {
        return Ok(None);
    };
    let machine = links::of_run(conn, run.id)?;
    Ok(machine.and_then(|m| run.doubt_of(m.printed_s)))
}

fn shown_parts(shown: &PlatesShown, id: PlateId) -> Vec<PartId> {
    shown.on(id).iter().map(|c| c.placed.part).collect()
}

/// The army of a plate, as far as its units are on it.
fn of_parts(conn: &mut Conn, plate: &Plate, parts: &[PartId]) -> Result<Army, StoreError> {
    let units = army::units_of(conn, parts)?;
    army::some(conn, plate.project, &units)
}

/// What is lost of another resin that is in the vat of a plate that waits, ml.
fn change_ml(
    conn: &mut Conn,
    shown: &PlatesShown,
    plate: &Plate,
) -> Result<Option<f64>, StoreError> {
    if plate.state != PlateState::Planned {
        return Ok(None);
    }
    let inside = stores::books(conn)?.resin_in(Place::Vat(plate.printer));
    let other = inside.filter(|r| *r != plate.resin);
    let lost = shown.printers.get(&plate.printer).map(|p| p.change_ml);
    Ok(other.and(lost).filter(|ml| *ml > 0.0))
}

/// The parts on a plate, each as if one copy were wanted, in the way the plate prints it.
#[derive(Debug, Clone, PartialEq)]
pub struct OneCopy {
    /// The plate.
    pub plate: Plate,
    /// One of each.
    pub lines: Vec<DemandLine>,
    /// What a plan of them is made from.
    pub facts: PlanFacts,
    /// The army, for names.
    pub army: Army,
}

/// Loads what one copy of each part on a plate takes.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn one_copy(conn: &mut Conn, id: PlateId) -> Result<Arc<OneCopy>, StoreError> {
    kept(conn, ("one copy", &[id.0]), |conn| {
        let plate = plates::load(conn, id)?;
        let mut lines: Vec<DemandLine> = Vec::new();
        for copy in plates::copies_of(conn, id)? {
            if lines.iter().all(|l| l.part != copy.placed.part) {
                lines.push(DemandLine {
                    part: copy.placed.part,
                    sculpt: copy.sculpt,
                    recipe_version: copy.recipe_version,
                    wanted: 1,
                });
            }
        }
        let facts = demand::plan_facts(conn, plate.project, &lines)?;
        Ok(OneCopy {
            facts,
            army: of_parts(
                conn,
                &plate,
                &lines.iter().map(|l| l.part).collect::<Vec<_>>(),
            )?,
            lines,
            plate,
        })
    })
}
