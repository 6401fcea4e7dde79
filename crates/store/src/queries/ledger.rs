//! Printed copies of the whole workshop with everything the ledger asks of them.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::cost_parts::{CostKind, CostParts};
use wembrit_core::finishing::{Step, StepState};
use wembrit_core::flow::{Plate, PlateState, RunOutcome, Stage};
use wembrit_core::ids::{PlateId, PrinterId, ProjectId, RecipeVersionId, SculptId};
use wembrit_core::ledger::{LedgerCopy, LedgerPlate, Look};
use wembrit_core::odds::Stood;
use wembrit_core::stores::{Lost, Place, Volume};

use super::{plates as all_plates, prepared_parts, recipes, took};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{CopyRow, PlacementRow, Row};
use crate::schema::{
    batch_steps, batches, copies, hollow_facts, models, moves, parts, placements, plates, printers,
    resins, runs,
};
use crate::until_written::kept;

/// Runs by plate in which supports came off before the cure, or after it.
fn supports_off(conn: &mut Conn) -> Result<HashMap<PlateId, &'static str>, StoreError> {
    let steps: Vec<(i64, i64, String)> = batch_steps::table
        .inner_join(batches::table.inner_join(runs::table))
        .filter(batch_steps::state.eq(StepState::Done.as_str()))
        .filter(batch_steps::step.eq_any([Step::SupportsOff.as_str(), Step::Cure.as_str()]))
        .order((runs::plate_id, batch_steps::seq))
        .select((runs::plate_id, batch_steps::seq, batch_steps::step))
        .load(conn)?;
    let mut first: HashMap<PlateId, &'static str> = HashMap::new();
    for (plate, _, step) in steps {
        let cured = step == Step::Cure.as_str();
        first
            .entry(PlateId(plate))
            .or_insert(Look::of_supports_off(cured));
    }
    Ok(first)
}

/// Sculpts with a hollow in them.
fn hollow(conn: &mut Conn) -> Result<HashSet<SculptId>, StoreError> {
    let ids: Vec<i64> = hollow_facts::table
        .filter(
            hollow_facts::hollows
                .ne("")
                .and(hollow_facts::hollows.ne("[]")),
        )
        .select(hollow_facts::sculpt_id)
        .distinct()
        .load(conn)?;
    Ok(ids.into_iter().map(SculptId).collect())
}

type Joined = (
    PlacementRow,
    CopyRow,
    (String, i64, i64, i64, f64),
    (String, String),
);

/// Every copy whose printing began, of one project or of all, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn copies(conn: &mut Conn, of: Option<ProjectId>) -> Result<Vec<LedgerCopy>, StoreError> {
    let waits = [Stage::Planned, Stage::Released].map(Stage::as_str);
    let mut query = copies::table
        .inner_join(plates::table)
        .inner_join(placements::table.on(placements::copy_id.eq(copies::id.nullable())))
        .inner_join(parts::table.inner_join(models::table))
        .filter(copies::stage.ne_all(waits))
        .into_boxed();
    if let Some(project) = of {
        query = query.filter(plates::project_id.eq(project.0));
    }
    let rows: Vec<Joined> = query
        .order(copies::id)
        .select((
            PlacementRow::as_select(),
            CopyRow::as_select(),
            (
                plates::state,
                plates::number,
                plates::printer_id,
                plates::resin_id,
                plates::height_mm,
            ),
            (parts::name, models::name),
        ))
        .load(conn)?;
    let beds: HashMap<i64, (String, f64, f64)> = printers::table
        .select((
            printers::id,
            (printers::name, printers::width_mm, printers::depth_mm),
        ))
        .load::<(i64, (String, f64, f64))>(conn)?
        .into_iter()
        .collect();
    let named: HashMap<i64, String> = resins::table
        .select((resins::id, resins::name))
        .load::<(i64, String)>(conn)?
        .into_iter()
        .collect();
    let (off, hollow) = (supports_off(conn)?, hollow(conn)?);
    let taken = costs_as_taken(conn, of)?;
    let printed = rows.iter().map(|(placement, ..)| {
        (
            SculptId(placement.sculpt_id),
            RecipeVersionId(placement.recipe_version_id),
        )
    });
    let hang = prepared_parts::held_figures(conn, printed)?;
    // Many copies share a version, and few are mended: both are read once.
    let of = rows
        .iter()
        .map(|(p, ..)| RecipeVersionId(p.recipe_version_id));
    let of: BTreeSet<RecipeVersionId> = of.collect();
    let versions = recipes::versions_of(conn, &of.into_iter().collect::<Vec<_>>())?;
    let mended = rows
        .iter()
        .filter(|(_, copy, ..)| copy.mend_minutes.is_some());
    let bases = took::bases(conn, mended.map(|(p, ..)| p.plate_id).collect())?;
    let mut all = Vec::new();
    let mut at: HashMap<PlateId, Vec<[f64; 2]>> = HashMap::new();
    for (placement, copy, (state, number, printer, resin, plate_height), name) in rows {
        let placed = placement.placed();
        let plate = PlateId(placement.plate_id);
        let copy = copy.noun()?;
        let cost = taken
            .get(&copy.id.0)
            .map_or_else(|| placement.cost(), |t| t.cost);
        let basis = bases.get(&plate);
        let mend = copy.mend_minutes.and_then(|m| Some(basis?.mend(m)));
        let cost = cost.with(CostKind::Mends, mend.unwrap_or_default());
        let bed = beds.get(&printer);
        let key = (
            SculptId(placement.sculpt_id),
            RecipeVersionId(placement.recipe_version_id),
        );
        let version = versions.get(&key.1).ok_or(StoreError::NotFound {
            what: "version of a recipe",
        })?;
        at.entry(plate).or_default().push(placed.at_mm);
        let (part_name, model_name) = name;
        let full = format!("{model_name}, {part_name}");
        let alike = [
            (Look::Printer, bed.map(|b| b.0.clone())),
            (Look::Resin, named.get(&resin).cloned()),
            (
                Look::Recipe,
                Some(format!("{full}, version {}", version.version)),
            ),
            (
                Look::Supports,
                Some(Look::of_supports(version.setup.supports).to_owned()),
            ),
            (Look::SupportsOff, off.get(&plate).map(|w| (*w).to_owned())),
            (
                Look::Pose,
                Some(Look::of_pose(version.setup.pose).to_owned()),
            ),
            (
                Look::Hollow,
                Some(
                    if hollow.contains(&key.0) {
                        "hollow"
                    } else {
                        "solid"
                    }
                    .to_owned(),
                ),
            ),
            (Look::Layer, Some(format!("{} mm", version.layer))),
        ];
        let share = |mm: f64, of: f64| (mm / of.max(1.0)).clamp(0.0, 1.0);
        let (width, depth) = bed.map_or((1.0, 1.0), |b| (b.1, b.2));
        all.push(LedgerCopy {
            mark: copy.mark,
            plate: (plate, number),
            part: (placed.part, full),
            recipe: (version.recipe, version.version),
            printer: PrinterId(printer),
            alike: alike
                .into_iter()
                .filter_map(|(look, word)| Some((look, word?)))
                .collect(),
            stood: Stood {
                at: [share(placed.at_mm[0], width), share(placed.at_mm[1], depth)],
                height_mm: hang.get(&key).map_or(plate_height, |h| h.height_mm),
                neighbour_mm: None,
                failed: copy.stage == Stage::Failed,
            },
            stage: copy.stage,
            cause: copy.cause,
            failed_at: copy.failed_at,
            plate_lost: state == PlateState::Lost.as_str(),
            cost,
            resin_ml: placement.resin_ml,
            copy: copy.id,
        });
    }
    LedgerCopy::find_neighbours(&mut all, &at);
    Ok(all)
}

/// Resin that was lost with the runs of plates, by cause, ml: what went into prints and baths is not.
fn spoilt(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<HashMap<PlateId, BTreeMap<String, f64>>, StoreError> {
    let lost = [Lost::Spilt, Lost::Sheet, Lost::Changed, Lost::WrittenOff];
    let rows: Vec<(i64, String, i64)> = moves::table
        .inner_join(runs::table)
        .filter(runs::plate_id.eq_any(of.iter().map(|p| p.0)))
        .filter(moves::to_place.eq_any(lost.map(|l| Place::Gone(l).word().0)))
        .select((runs::plate_id, moves::cause, moves::ul))
        .load(conn)?;
    let mut all: HashMap<PlateId, BTreeMap<String, f64>> = HashMap::new();
    for (plate, cause, ul) in rows {
        let of = all.entry(PlateId(plate)).or_default();
        *of.entry(cause).or_default() += Volume(ul).in_ml();
    }
    Ok(all)
}

/// The plates of a project that were accepted, with what they took.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plates_of(conn: &mut Conn, project: ProjectId) -> Result<Arc<Vec<LedgerPlate>>, StoreError> {
    kept(conn, ("plates of the ledger", &[project.0]), |conn| {
        took_by_plates(conn, project)
    })
}

/// What copies cost by what their plates took, where that is not what was planned; of one project or
/// of all.
///
/// # Errors
/// [`StoreError`] of the data file.
pub(super) fn costs_as_taken(
    conn: &mut Conn,
    of: Option<ProjectId>,
) -> Result<HashMap<i64, Taken>, StoreError> {
    let projects = match of {
        Some(project) => vec![project.0],
        None => plates::table
            .select(plates::project_id)
            .distinct()
            .load(conn)?,
    };
    let mut all = HashMap::new();
    for project in projects {
        let of = plates_of(conn, ProjectId(project))?;
        let otherwise = of
            .iter()
            .filter(|p| p.actual().is_some_and(|a| a != p.planned));
        let otherwise: HashMap<i64, &LedgerPlate> = otherwise.map(|p| (p.id.0, p)).collect();
        let placed: Vec<(i64, PlacementRow)> = placements::table
            .filter(placements::plate_id.eq_any(otherwise.keys()))
            .filter(placements::copy_id.is_not_null())
            .order((placements::plate_id, placements::seq))
            .select((
                placements::copy_id.assume_not_null(),
                PlacementRow::as_select(),
            ))
            .load(conn)?;
        for on_one in placed.chunk_by(|a, b| a.1.plate_id == b.1.plate_id) {
            let planned: Vec<CostParts> = on_one.iter().map(|(_, row)| row.cost()).collect();
            let taken = otherwise[&on_one[0].1.plate_id].of_copies(&planned);
            for (((copy, _), planned), cost) in on_one.iter().zip(planned).zip(taken) {
                all.insert(*copy, Taken { planned, cost });
            }
        }
    }
    Ok(all)
}

/// What a copy was planned to cost, and what it cost by what its plate took.
#[derive(Debug, Clone, Copy)]
pub(super) struct Taken {
    /// As planned.
    pub(super) planned: CostParts,
    /// As it was taken.
    pub(super) cost: CostParts,
}

fn took_by_plates(conn: &mut Conn, project: ProjectId) -> Result<Vec<LedgerPlate>, StoreError> {
    let accepted = all_plates::accepted(conn, project)?;
    let ids: Vec<PlateId> = accepted.iter().map(|p| p.id).collect();
    let mut spoilt = spoilt(conn, &ids)?;
    let took = took::of_plates(conn, &ids)?;
    let back = RunOutcome::PutBack.as_str();
    let ended: HashMap<i64, i64> = runs::table
        .filter(runs::plate_id.eq_any(ids.iter().map(|p| p.0)))
        .filter(runs::outcome.is_null().or(runs::outcome.ne(back)))
        .filter(runs::ended_at_ms.is_not_null())
        .order(runs::id)
        .select((runs::plate_id, runs::ended_at_ms.assume_not_null()))
        .load::<(i64, i64)>(conn)?
        .into_iter()
        .collect();
    let mut plate = |p: Plate| {
        let of = took.get(&p.id);
        LedgerPlate {
            basis: of.and_then(|t| t.planned),
            took: of.and_then(|t| t.took),
            ended_at_ms: ended.get(&p.id.0).copied(),
            spoilt_ml: spoilt.remove(&p.id).unwrap_or_default(),
            id: p.id,
            number: p.number,
            state: p.state,
            planned: p.costs,
            goes: p.goes,
        }
    };
    Ok(accepted.into_iter().map(&mut plate).collect())
}
