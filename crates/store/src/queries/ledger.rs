//! Printed copies of the whole workshop with everything the ledger asks of them.

use std::collections::{BTreeSet, HashMap, HashSet};

use diesel::prelude::*;
use wembrit_core::cost_parts::CostKind;
use wembrit_core::finishing::{Step, StepState};
use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::{PlateId, PrinterId, ProjectId, RecipeVersionId, SculptId};
use wembrit_core::ledger::{LedgerCopy, Look};
use wembrit_core::odds::Stood;

use super::{prepared_parts, recipes, spent, took};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{CopyRow, PlacementRow, Row};
use crate::schema::{
    batch_steps, batches, copies, hollow_facts, models, parts, placements, plates, printers,
    resins, runs,
};

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
    let taken = spent::costs_as_taken(conn, of)?;
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
