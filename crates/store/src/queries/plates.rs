//! Plates, what stands on them, their runs.

use std::collections::{BTreeMap, HashMap};

use diesel::dsl::{count_star, sql};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Double};
use wembrit_core::cost::CopySums;
use wembrit_core::flow::{Plate, PlateCopy, PlateState, Run, RunOutcome};
use wembrit_core::ids::{
    CopyId, PartId, PlanId, PlateId, PrinterId, ProjectId, RecipeVersionId, SculptId,
};
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{paces, weighings};
use crate::rows::{CopyRow, Nouns, PlacementRow, PlateRow, Row, RunRow};
use crate::schema::{
    copies, models, parts, placements, plates, projects, recipe_versions, runs, units,
};

/// What placements cost together.
pub(super) const SUM_OF_COSTS: &str = "coalesce(sum(placements.resin_cost_minor + placements.consumables_cost_minor \
     + placements.power_cost_minor + placements.wear_cost_minor + placements.hands_cost_minor), 0)";

/// One plate.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlateId) -> Result<Plate, StoreError> {
    let row: PlateRow = plates::table
        .find(id.0)
        .select(PlateRow::as_select())
        .first(conn)
        .or_not_found("plate")?;
    Ok(row.by(&paces::load(conn)?, &weighings::weights(conn)?))
}

/// Plates with what is expected of them.
fn expected(conn: &mut Conn, rows: Vec<PlateRow>) -> Result<Vec<Plate>, StoreError> {
    let (paces, weights) = (paces::load(conn)?, weighings::weights(conn)?);
    let by = |row: PlateRow| row.by(&paces, &weights);
    Ok(rows.into_iter().map(by).collect())
}

/// The plates of a draft.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plan(conn: &mut Conn, plan: PlanId) -> Result<Vec<Plate>, StoreError> {
    let in_plan = plates::table.filter(plates::plan_id.eq(plan.0));
    let rows = in_plan
        .order(plates::number)
        .select(PlateRow::as_select())
        .load(conn)?;
    expected(conn, rows)
}

/// The accepted plates of a project, given up ones apart.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn accepted(conn: &mut Conn, project: ProjectId) -> Result<Vec<Plate>, StoreError> {
    let hidden = [PlateState::Draft.as_str(), PlateState::Released.as_str()];
    let rows = plates::table
        .filter(
            plates::project_id
                .eq(project.0)
                .and(plates::state.ne_all(hidden)),
        )
        .order(plates::number)
        .select(PlateRow::as_select())
        .load(conn)?;
    expected(conn, rows)
}

/// What stands on these plates, plate by plate, in the order of the plate.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn copies_on(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<HashMap<PlateId, Vec<PlateCopy>>, StoreError> {
    type Joined = (PlacementRow, String, String, String, f64, Option<CopyRow>);
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<Joined> = placements::table
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .inner_join(recipe_versions::table)
        .left_join(copies::table)
        .filter(placements::plate_id.eq_any(ids))
        .order((placements::plate_id, placements::seq))
        .select((
            PlacementRow::as_select(),
            parts::name,
            models::name,
            units::name,
            recipe_versions::scale,
            Option::<CopyRow>::as_select(),
        ))
        .load(conn)?;
    let mut on: HashMap<PlateId, Vec<PlateCopy>> =
        of.iter().map(|plate| (*plate, Vec::new())).collect();
    for (placement, part_name, model_name, unit_name, scale, copy) in rows {
        let plate = PlateId(placement.plate_id);
        on.entry(plate).or_default().push(PlateCopy {
            plate,
            placed: placement.placed(),
            sculpt: SculptId(placement.sculpt_id),
            recipe_version: RecipeVersionId(placement.recipe_version_id),
            scale,
            resin_ml: placement.resin_ml,
            cost: placement.cost(),
            copy: copy.noun()?,
            part_name,
            model_name,
            unit_name,
        });
    }
    Ok(on)
}

/// What stands on one plate.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn copies_of(conn: &mut Conn, id: PlateId) -> Result<Vec<PlateCopy>, StoreError> {
    Ok(copies_on(conn, &[id])?.remove(&id).unwrap_or_default())
}

/// The copy of a plate with this mark.
///
/// # Errors
/// [`StoreError::Refused`] where none has it.
pub fn copy_with_mark(conn: &mut Conn, plate: PlateId, mark: i64) -> Result<CopyId, StoreError> {
    let found = copies::table
        .filter(copies::plate_id.eq(plate.0).and(copies::mark.eq(mark)))
        .select(copies::id)
        .first(conn)
        .optional()?;
    found.map(CopyId).ok_or_else(|| {
        let words =
            format!("no copy on this plate has mark {mark}: its sorting sheet has them all");
        StoreError::Refused(words)
    })
}

/// What stands on plates of a plan by part: copies, resin, cost.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn sums_of_plan(
    conn: &mut Conn,
    plan: PlanId,
) -> Result<BTreeMap<PartId, CopySums>, StoreError> {
    let sum = "coalesce(sum(placements.resin_ml), 0.0)";
    let rows: Vec<(i64, i64, f64, i64)> = placements::table
        .inner_join(plates::table)
        .filter(plates::plan_id.eq(plan.0))
        .group_by(placements::part_id)
        .select((
            placements::part_id,
            count_star(),
            sql::<Double>(sum),
            sql::<BigInt>(SUM_OF_COSTS),
        ))
        .load(conn)?;
    let sums = |(part, copies, ml, cost): (i64, i64, f64, i64)| {
        let sums = CopySums {
            copies: copies.max(0) as u64,
            ml,
            cost: Money(cost),
        };
        (PartId(part), sums)
    };
    Ok(rows.into_iter().map(sums).collect())
}

/// Copies of each part that stand on plates of a plan.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn placed_on_plan(conn: &mut Conn, plan: PlanId) -> Result<BTreeMap<PartId, u64>, StoreError> {
    let rows: Vec<(i64, i64)> = placements::table
        .inner_join(plates::table)
        .filter(plates::plan_id.eq(plan.0))
        .group_by(placements::part_id)
        .select((placements::part_id, count_star()))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(part, n)| (PartId(part), n.max(0) as u64))
        .collect())
}

/// Copies on a plate that nobody has started, of something that was taken away since.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Orphans {
    /// The plate.
    pub plate: PlateId,
    /// Its number.
    pub number: i64,
    /// So many of its copies.
    pub copies: u64,
    /// Units and models they stood in.
    pub of: Vec<String>,
}

/// Accepted plates of a project that wait with copies of what was taken away: units, models or parts.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn orphans(conn: &mut Conn, project: ProjectId) -> Result<Vec<Orphans>, StoreError> {
    let gone = units::removed_at_ms
        .is_not_null()
        .or(models::removed_at_ms.is_not_null())
        .or(parts::removed_at_ms.is_not_null());
    let rows: Vec<(i64, i64, String, String)> = placements::table
        .inner_join(plates::table)
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .filter(
            plates::project_id
                .eq(project.0)
                .and(plates::state.eq(PlateState::Planned.as_str())),
        )
        .filter(gone)
        .order((plates::number, units::name, models::name))
        .select((plates::id, plates::number, units::name, models::name))
        .load(conn)?;
    let mut all: Vec<Orphans> = Vec::new();
    for (plate, number, unit, model) in rows {
        if all.last().is_none_or(|o| o.plate.0 != plate) {
            all.push(Orphans {
                plate: PlateId(plate),
                number,
                copies: 0,
                of: Vec::new(),
            });
        }
        let Some(last) = all.last_mut() else {
            continue;
        };
        last.copies += 1;
        let name = format!("{unit}, {model}");
        if last.of.last() != Some(&name) {
            last.of.push(name);
        }
    }
    Ok(all)
}

/// The number of a plate that runs on a printer, other than this one.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn running_on(
    conn: &mut Conn,
    printer: PrinterId,
    but: PlateId,
) -> Result<Option<i64>, StoreError> {
    let running = plates::state.eq(PlateState::Running.as_str());
    Ok(plates::table
        .filter(plates::printer_id.eq(printer.0).and(running))
        .filter(plates::id.ne(but.0))
        .select(plates::number)
        .first(conn)
        .optional()?)
}

/// The plate that runs on a printer.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn runs_on(conn: &mut Conn, printer: PrinterId) -> Result<Option<PlateId>, StoreError> {
    let running = plates::state.eq(PlateState::Running.as_str());
    let id: Option<i64> = plates::table
        .filter(plates::printer_id.eq(printer.0).and(running))
        .select(plates::id)
        .first(conn)
        .optional()?;
    Ok(id.map(PlateId))
}

/// Plates of all projects that need a hand: to be taken off, or to be judged.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn need_a_hand(conn: &mut Conn) -> Result<u64, StoreError> {
    let open = [PlateState::Running.as_str(), PlateState::Printed.as_str()];
    let many: i64 = plates::table
        .inner_join(projects::table)
        .filter(plates::state.eq_any(open))
        .filter(projects::removed_at_ms.is_null())
        .count()
        .get_result(conn)?;
    Ok(many.max(0) as u64)
}

/// The highest number a plate of this plate's plan or project carries.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn highest_number(conn: &mut Conn, plate: &Plate) -> Result<i64, StoreError> {
    let all = match plate.state {
        PlateState::Draft => of_plan(conn, plate.plan)?,
        _ => accepted(conn, plate.project)?,
    };
    Ok(all.iter().map(|p| p.number).max().unwrap_or(plate.number))
}

/// When a printer was at plates, ms since 1970; one that is on it now keeps it for good. What was put back
/// in the queue was not printed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn taken(conn: &mut Conn, printer: PrinterId) -> Result<Vec<(i64, i64)>, StoreError> {
    let back = RunOutcome::PutBack.as_str();
    let rows: Vec<(i64, Option<i64>)> = runs::table
        .inner_join(plates::table)
        .filter(plates::printer_id.eq(printer.0))
        .filter(runs::outcome.is_null().or(runs::outcome.ne(back)))
        .select((runs::started_at_ms, runs::ended_at_ms))
        .load(conn)?;
    let stretch = |(from, to): (i64, Option<i64>)| (from, to.unwrap_or(i64::MAX));
    Ok(rows.into_iter().map(stretch).collect())
}

/// The newest run of each of these plates that has one.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn runs_of(conn: &mut Conn, of: &[PlateId]) -> Result<HashMap<PlateId, Run>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let all = runs::table
        .filter(runs::plate_id.eq_any(ids))
        .order(runs::id)
        .select(RunRow::as_select())
        .nouns::<RunRow>(conn)?;
    Ok(all.into_iter().map(|run| (run.plate, run)).collect())
}
