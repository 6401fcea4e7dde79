//! Plans: what they were asked for, what they leave out, where they begin.

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{PlanRevision, PlanState, Plate};
use wembrit_core::ids::{PartId, PlanId, ProjectId, RecipeVersionId, SculptId};
use wembrit_core::plan::{ExistingPlate, NotPlanned};

use super::plates::of_plan;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, PlacementRow, PlanRow};
use crate::schema::{placements, plan_demand, plans};

/// One plan.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlanId) -> Result<PlanRevision, StoreError> {
    plans::table
        .find(id.0)
        .select(PlanRow::as_select())
        .noun::<PlanRow>(conn, "plan")
}

/// The newest plan of a project that is neither accepted nor dropped.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open_plan(conn: &mut Conn, project: ProjectId) -> Result<Option<PlanRevision>, StoreError> {
    Ok(open_plans(conn, project)?.into_iter().next())
}

/// All plans of a project that are neither accepted nor dropped, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open_plans(conn: &mut Conn, project: ProjectId) -> Result<Vec<PlanRevision>, StoreError> {
    let open = [
        PlanState::Draft.as_str(),
        PlanState::Computing.as_str(),
        PlanState::Failed.as_str(),
    ];
    plans::table
        .filter(
            plans::project_id
                .eq(project.0)
                .and(plans::state.eq_any(open)),
        )
        .order(plans::revision.desc())
        .select(PlanRow::as_select())
        .nouns::<PlanRow>(conn)
}

/// The plates of the newest open plan of a project; none without one.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn draft_plates(conn: &mut Conn, project: ProjectId) -> Result<Vec<Plate>, StoreError> {
    match open_plan(conn, project)? {
        Some(plan) => of_plan(conn, plan.id),
        None => Ok(Vec::new()),
    }
}

/// The demand a plan was asked for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn demand_of(conn: &mut Conn, id: PlanId) -> Result<Vec<DemandLine>, StoreError> {
    let rows: Vec<(i64, i64, i64, i64)> = plan_demand::table
        .filter(plan_demand::plan_id.eq(id.0))
        .order(plan_demand::part_id)
        .select((
            plan_demand::part_id,
            plan_demand::sculpt_id,
            plan_demand::recipe_version_id,
            plan_demand::wanted,
        ))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(part, sculpt, recipe, wanted)| DemandLine {
            part: PartId(part),
            sculpt: SculptId(sculpt),
            recipe_version: RecipeVersionId(recipe),
            wanted: wanted.max(0) as u64,
        })
        .collect())
}

/// The plates a plan begins from: its own as saved last, or those of the plan it was asked from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn existing_plates(conn: &mut Conn, id: PlanId) -> Result<Vec<ExistingPlate>, StoreError> {
    let plan = load(conn, id)?;
    let mut of = of_plan(conn, id)?;
    if of.is_empty()
        && let Some(from) = plan.from
    {
        of = of_plan(conn, from)?;
    }
    let ids: Vec<i64> = of.iter().map(|p| p.id.0).collect();
    let rows: Vec<PlacementRow> = placements::table
        .filter(placements::plate_id.eq_any(ids))
        .order((placements::plate_id, placements::seq))
        .select(PlacementRow::as_select())
        .load(conn)?;
    let plate = |plate: &Plate| {
        let on_it = rows.iter().filter(|r| r.plate_id == plate.id.0);
        let on_it: Vec<_> = on_it.map(PlacementRow::placed).collect();
        ExistingPlate {
            printer: plate.printer,
            resin: plate.resin,
            layer: plate.layer,
            fixed: on_it.iter().any(|c| c.pinned),
            copies: on_it
                .into_iter()
                .map(|c| (c.part, c.at_mm, c.rotation_deg))
                .collect(),
        }
    };
    Ok(of.iter().map(plate).collect())
}

/// Part, copies and reason of what a plan leaves out.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn left_over(
    conn: &mut Conn,
    id: PlanId,
) -> Result<Vec<(PartId, u64, NotPlanned)>, StoreError> {
    let rows: Vec<(i64, i64, Option<String>)> = plan_demand::table
        .filter(
            plan_demand::plan_id
                .eq(id.0)
                .and(plan_demand::left_over.gt(0)),
        )
        .select((
            plan_demand::part_id,
            plan_demand::left_over,
            plan_demand::left_over_why,
        ))
        .load(conn)?;
    rows.into_iter()
        .map(|(part, n, why)| {
            let why = NotPlanned::try_from(why.unwrap_or_default())?;
            Ok((PartId(part), n.max(0) as u64, why))
        })
        .collect()
}
