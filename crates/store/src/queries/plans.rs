//! Plans: asked for, computed, accepted as a whole or not at all.

use std::collections::hash_map::Entry;
use std::collections::{HashMap, HashSet};

use diesel::prelude::*;
use wembrit_core::army::demand::{DemandLine, fingerprint};
use wembrit_core::flow::TaskKind;
use wembrit_core::flow::{PlanEffort, PlanState, PlateState, Stage, check_plate_step};
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId, RecipeVersionId, SculptId};
use wembrit_core::plan::{ExistingPlate, NotPlanned, Plan as ComputedPlan, PlannedPlate};

use super::{army, demand, last_id, new_uid, one_row, settings, tasks};
use crate::db::Conn;
use crate::error::{OrNotFound, Stale, StoreError};
use crate::rows::{Placement, Plan, PlanScope, Plate};
use crate::schema::{copies, placements, plan_demand, plans, plates};

/// What is asked of a new plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanAsk {
    /// What it is to take.
    pub scope: PlanScope,
    /// How much of the plan shown now it keeps.
    pub effort: PlanEffort,
}

impl Default for PlanAsk {
    fn default() -> Self {
        Self {
            scope: PlanScope::default(),
            effort: PlanEffort::Anew,
        }
    }
}

/// Asks for a plan. The draft that is shown stays beside it, to be compared; older ones make way.
///
/// # Errors
/// [`StoreError::Refused`] when nothing is wanted or there is no printer.
pub fn ask(
    conn: &mut Conn,
    project: ProjectId,
    asked: &PlanAsk,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    settings::ensure_all(conn, now_ms)?;
    let army = army::load(conn, project)?;
    let lines = demand::lines_in(&army, &asked.scope);
    if lines.is_empty() && !demand::lines(&army).is_empty() {
        return Err(StoreError::Refused(
            "nothing of this choice is wanted: choose more units or resins".into(),
        ));
    }
    if lines.is_empty() {
        let waiting = demand::without_sculpt(&army).len();
        return Err(StoreError::Refused(if waiting > 0 {
            format!(
                "nothing can be planned yet: {waiting} wanted parts have no measured sculpt; upload their files or pick sculpts for them"
            )
        } else {
            "nothing is wanted: every copy is planned, printed or good already".into()
        }));
    }
    if super::printers::list(conn)?.is_empty() {
        return Err(StoreError::Refused(
            "there is no printer yet: add one in the workshop".into(),
        ));
    }
    let mut from = None;
    for plan in open_plans(conn, project)? {
        if from.is_none() && plan.state == PlanState::Draft {
            from = Some(plan.id);
        } else {
            set_state(conn, &plan, PlanState::Dropped, None)?;
        }
    }
    let id = begin(conn, project, &lines, now_ms)?;
    let from = from.filter(|_| asked.effort != PlanEffort::Anew);
    diesel::update(plans::table.find(id.0))
        .set((
            plans::scope.eq(asked.scope.text()),
            plans::effort.eq(asked.effort.as_str()),
            plans::from_plan_id.eq(from.map(|p| p.0)),
        ))
        .execute(conn)?;
    tasks::ask(conn, TaskKind::Plan, &id.to_string(), now_ms)?;
    Ok(id)
}

/// Writes down a plan that is already computed and accepts it at once: a trial, a first plate.
/// What is placed is looked up in `lines`, so that copies of one part may follow different
/// versions of its recipe.
pub(super) fn take_over(
    conn: &mut Conn,
    project: ProjectId,
    demand: &[DemandLine],
    computed: &ComputedPlan,
    lines: &HashMap<PartId, DemandLine>,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let id = begin(conn, project, demand, now_ms)?;
    let plan = load(conn, id)?;
    let first = next_number(conn, project)?;
    for (index, plate) in computed.plates.iter().enumerate() {
        add_plate(conn, &plan, first + index as i64, plate, lines)?;
    }
    confirm(conn, &plan, now_ms)?;
    Ok(id)
}

fn begin(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let newest: Option<i64> = plans::table
        .filter(plans::project_id.eq(project.0))
        .select(diesel::dsl::max(plans::revision))
        .first(conn)?;
    diesel::insert_into(plans::table)
        .values((
            plans::uid.eq(new_uid()),
            plans::project_id.eq(project.0),
            plans::revision.eq(newest.unwrap_or(0) + 1),
            plans::state.eq(PlanState::Computing.as_str()),
            plans::fingerprint.eq(fingerprint(lines)),
            plans::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(PlanId)?;
    for line in lines {
        diesel::insert_into(plan_demand::table)
            .values((
                plan_demand::plan_id.eq(id.0),
                plan_demand::part_id.eq(line.part.0),
                plan_demand::sculpt_id.eq(line.sculpt.0),
                plan_demand::recipe_version_id.eq(line.recipe_version.0),
                plan_demand::wanted.eq(line.wanted as i64),
            ))
            .execute(conn)?;
    }
    Ok(id)
}

/// One plan.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlanId) -> Result<Plan, StoreError> {
    plans::table
        .find(id.0)
        .select(Plan::as_select())
        .first(conn)
        .or_not_found("plan")
}

/// The newest plan of a project that is neither accepted nor dropped.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open_plan(conn: &mut Conn, project: ProjectId) -> Result<Option<Plan>, StoreError> {
    Ok(open_plans(conn, project)?.into_iter().next())
}

/// All plans of a project that are neither accepted nor dropped, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open_plans(conn: &mut Conn, project: ProjectId) -> Result<Vec<Plan>, StoreError> {
    let open = [
        PlanState::Draft.as_str(),
        PlanState::Computing.as_str(),
        PlanState::Failed.as_str(),
    ];
    Ok(plans::table
        .filter(
            plans::project_id
                .eq(project.0)
                .and(plans::state.eq_any(open)),
        )
        .order(plans::revision.desc())
        .select(Plan::as_select())
        .load(conn)?)
}

/// The plates a plan begins from: its own as saved last, or those of the plan it was asked from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn standing(conn: &mut Conn, id: PlanId) -> Result<Vec<ExistingPlate>, StoreError> {
    let plan = load(conn, id)?;
    let mut of = super::plates::of_plan(conn, id)?;
    if of.is_empty()
        && let Some(from) = plan.from_plan()
    {
        of = super::plates::of_plan(conn, from)?;
    }
    let ids: Vec<i64> = of.iter().map(|p| p.id.0).collect();
    let rows: Vec<Placement> = placements::table
        .filter(placements::plate_id.eq_any(ids))
        .order((placements::plate_id, placements::seq))
        .select(Placement::as_select())
        .load(conn)?;
    let plate = |plate: &Plate| {
        let on_it = || rows.iter().filter(|r| r.plate_id == plate.id);
        ExistingPlate {
            printer: plate.printer_id,
            resin: plate.resin_id,
            layer: plate.layer,
            copies: on_it()
                .map(|r| (r.part_id, [r.x_mm, r.y_mm], r.rotation_deg))
                .collect(),
            fixed: on_it().any(Placement::pinned),
        }
    };
    Ok(of.iter().map(plate).collect())
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

/// Part, copies and reason of what a plan leaves out.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn left_over(conn: &mut Conn, id: PlanId) -> Result<Vec<(PartId, i64, String)>, StoreError> {
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
    Ok(rows
        .into_iter()
        .map(|(part, n, why)| (PartId(part), n, why.unwrap_or_default()))
        .collect())
}

/// Writes down a computed plan as draft plates: the plan can be accepted. One that was dropped
/// meanwhile stays so.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_computed(
    conn: &mut Conn,
    id: PlanId,
    computed: &ComputedPlan,
) -> Result<(), StoreError> {
    save_better(conn, id, computed)?;
    end_search(conn, id)
}

/// No better plan is looked for: what is there stands as a draft.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn end_search(conn: &mut Conn, id: PlanId) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state == PlanState::Computing {
        set_state(conn, &plan, PlanState::Draft, None)?;
    }
    Ok(())
}

/// Writes down the best plan so far, in place of the one before, while a better one is looked
/// for. A plan that is no longer computed stays as it is.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn save_better(conn: &mut Conn, id: PlanId, computed: &ComputedPlan) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state != PlanState::Computing {
        return Ok(());
    }
    let pins = pins(conn, &plan)?;
    let drafts = plates::table
        .filter(plates::plan_id.eq(id.0))
        .select(plates::id);
    diesel::delete(placements::table.filter(placements::plate_id.eq_any(drafts))).execute(conn)?;
    diesel::delete(plates::table.filter(plates::plan_id.eq(id.0))).execute(conn)?;
    diesel::update(plan_demand::table.filter(plan_demand::plan_id.eq(id.0)))
        .set((
            plan_demand::left_over.eq(0),
            plan_demand::left_over_why.eq(None::<String>),
        ))
        .execute(conn)?;
    let found = i64::from(plan.first_seconds.is_some());
    diesel::update(plans::table.find(id.0))
        .set((
            plans::bound_seconds.eq(computed.bound.seconds),
            plans::bound_plates.eq(computed.bound.plates as i64),
            plans::first_seconds.eq(plan.first_seconds.unwrap_or_else(|| computed.seconds())),
            plans::better_found.eq(plan.better_found + found),
        ))
        .execute(conn)?;
    let lines: HashMap<PartId, DemandLine> = demand_of(conn, id)?
        .into_iter()
        .map(|l| (l.part, l))
        .collect();
    let first = next_number(conn, plan.project_id)?;
    for (index, plate) in computed.plates.iter().enumerate() {
        let added = add_plate(conn, &plan, first + index as i64, plate, &lines)?;
        for (seq, copy) in plate.copies.iter().enumerate().filter(|_| plate.fixed) {
            if pins.contains(&pin_key(copy.part, copy.at_mm)) {
                let place = placements::table.filter(
                    placements::plate_id
                        .eq(added.0)
                        .and(placements::seq.eq(seq as i64 + 1)),
                );
                diesel::update(place)
                    .set(placements::pinned.eq(1))
                    .execute(conn)?;
            }
        }
    }
    for (part, copies, why) in &computed.left_over {
        let word = match why {
            NotPlanned::TooTall => "too tall",
            NotPlanned::TooWide => "too wide",
            NotPlanned::NoPrinter => "no printer",
            NotPlanned::PullsTooHard => "pulls too hard",
            NotPlanned::Untried => "untried",
            NotPlanned::TooLate => "too late",
        };
        diesel::update(plan_demand::table.find((id.0, part.0)))
            .set((
                plan_demand::left_over.eq(plan_demand::left_over + *copies as i64),
                plan_demand::left_over_why.eq(word),
            ))
            .execute(conn)?;
    }
    Ok(())
}

fn pin_key(part: PartId, at_mm: [f64; 2]) -> (i64, [u64; 2]) {
    (part.0, at_mm.map(f64::to_bits))
}

/// Where copies are pinned, on the plates a plan begins from.
fn pins(conn: &mut Conn, plan: &Plan) -> Result<HashSet<(i64, [u64; 2])>, StoreError> {
    let of = [Some(plan.id.0), plan.from_plan().map(|p| p.0)];
    let rows: Vec<Placement> = placements::table
        .inner_join(plates::table)
        .filter(
            plates::plan_id
                .eq_any(of.into_iter().flatten())
                .and(placements::pinned.eq(1)),
        )
        .select(Placement::as_select())
        .load(conn)?;
    Ok(rows
        .iter()
        .map(|r| pin_key(r.part_id, [r.x_mm, r.y_mm]))
        .collect())
}

/// Writes down why a plan could not be computed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_failed(conn: &mut Conn, id: PlanId, why: &str) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state == PlanState::Computing {
        set_state(conn, &plan, PlanState::Failed, Some(why))
    } else {
        Ok(())
    }
}

fn set_state(
    conn: &mut Conn,
    plan: &Plan,
    state: PlanState,
    refusal: Option<&str>,
) -> Result<(), StoreError> {
    let changed = diesel::update(
        plans::table
            .find(plan.id.0)
            .filter(plans::row_version.eq(plan.row_version)),
    )
    .set((
        plans::state.eq(state.as_str()),
        plans::refusal.eq(refusal),
        plans::row_version.eq(plan.row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "plan")
}

/// Plates are numbered through the project, in the order in which they were accepted.
fn next_number(conn: &mut Conn, project: ProjectId) -> Result<i64, StoreError> {
    let last: Option<i64> = plates::table
        .filter(
            plates::project_id
                .eq(project.0)
                .and(plates::state.ne(PlateState::Draft.as_str())),
        )
        .select(diesel::dsl::max(plates::number))
        .first(conn)?;
    Ok(last.unwrap_or(0) + 1)
}

fn add_plate(
    conn: &mut Conn,
    plan: &Plan,
    number: i64,
    plate: &PlannedPlate,
    lines: &HashMap<PartId, DemandLine>,
) -> Result<PlateId, StoreError> {
    let figures = &plate.figures;
    diesel::insert_into(plates::table)
        .values((
            plates::uid.eq(new_uid()),
            plates::project_id.eq(plan.project_id.0),
            plates::plan_id.eq(plan.id.0),
            plates::number.eq(number),
            plates::state.eq(PlateState::Draft.as_str()),
            plates::printer_id.eq(plate.printer.0),
            plates::resin_id.eq(plate.resin.0),
            plates::layer_um.eq(i64::from(plate.layer.um())),
            plates::setting_version_id.eq(plate.setting.0),
            plates::height_mm.eq(figures.height_mm),
            plates::layers.eq(i64::from(figures.layers)),
            plates::seconds.eq(figures.seconds),
            plates::resin_ml.eq(figures.resin.ml),
            plates::resin_g.eq(figures.resin.grams),
            plates::resin_cost_minor.eq(figures.resin_cost.0),
            plates::hands_on_cost_minor.eq(figures.hands_on_cost.0),
        ))
        .execute(conn)?;
    let plate_id = last_id(conn)?;
    for (seq, copy) in plate.copies.iter().enumerate() {
        let line = lines.get(&copy.part).ok_or(StoreError::NotFound {
            what: "part of the plan",
        })?;
        diesel::insert_into(placements::table)
            .values((
                placements::plate_id.eq(plate_id),
                placements::seq.eq(seq as i64 + 1),
                placements::part_id.eq(line.part.0),
                placements::sculpt_id.eq(line.sculpt.0),
                placements::recipe_version_id.eq(line.recipe_version.0),
                placements::x_mm.eq(copy.at_mm[0]),
                placements::y_mm.eq(copy.at_mm[1]),
                placements::rotation_deg.eq(copy.rotation_deg),
                placements::resin_ml.eq(copy.ml),
                placements::cost_minor.eq(copy.cost.0),
            ))
            .execute(conn)?;
    }
    Ok(PlateId(plate_id))
}

/// Accepts a draft: its plates are planned, every copy gets its row and its number.
///
/// # Errors
/// [`StoreError::Stale`] when the demand has changed since; [`StoreError::Conflict`] when the
/// plan is no draft any more.
pub fn accept(conn: &mut Conn, id: PlanId, now_ms: i64) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    if plan.state != PlanState::Draft {
        return Err(StoreError::Conflict { what: "plan" });
    }
    let now = demand::lines_in(&army::load(conn, plan.project_id)?, &plan.scope()?);
    if fingerprint(&now) != plan.fingerprint {
        return Err(StoreError::Stale(Stale {
            planned: demand_of(conn, id)?,
            now,
        }));
    }
    for other in open_plans(conn, plan.project_id)? {
        if other.id != id {
            set_state(conn, &other, PlanState::Dropped, None)?;
        }
    }
    confirm(conn, &plan, now_ms)
}

/// The plates of a plan are planned, every copy gets its row and its number.
fn confirm(conn: &mut Conn, plan: &Plan, now_ms: i64) -> Result<(), StoreError> {
    let id = plan.id;
    check_plate_step(PlateState::Draft, PlateState::Planned)?;
    // A plate that was emptied by hand is no plate.
    let empty = diesel::dsl::not(diesel::dsl::exists(
        placements::table.filter(placements::plate_id.eq(plates::id)),
    ));
    diesel::update(plates::table.filter(plates::plan_id.eq(id.0).and(empty)))
        .set(plates::state.eq(PlateState::Released.as_str()))
        .execute(conn)?;
    let drafts: Vec<Plate> = plates::table
        .filter(
            plates::plan_id
                .eq(id.0)
                .and(plates::state.eq(PlateState::Draft.as_str())),
        )
        .order(plates::number)
        .select(Plate::as_select())
        .load(conn)?;
    let first = next_number(conn, plan.project_id)?;
    let mut numbers: HashMap<PartId, i64> = HashMap::new();
    for (index, plate) in drafts.iter().enumerate() {
        let changed = diesel::update(
            plates::table
                .find(plate.id.0)
                .filter(plates::state.eq(PlateState::Draft.as_str())),
        )
        .set((
            plates::state.eq(PlateState::Planned.as_str()),
            plates::number.eq(first + index as i64),
        ))
        .execute(conn)?;
        one_row(changed, "plate")?;
        add_copies(conn, plate.id, &mut numbers, now_ms)?;
    }
    diesel::update(plans::table.find(id.0))
        .set(plans::accepted_at_ms.eq(now_ms))
        .execute(conn)?;
    set_state(conn, plan, PlanState::Accepted, None)
}

fn add_copies(
    conn: &mut Conn,
    plate: PlateId,
    numbers: &mut HashMap<PartId, i64>,
    now_ms: i64,
) -> Result<(), StoreError> {
    let spots: Vec<Placement> = placements::table
        .filter(placements::plate_id.eq(plate.0))
        .order(placements::seq)
        .select(Placement::as_select())
        .load(conn)?;
    for spot in spots {
        let number = match numbers.entry(spot.part_id) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(free) => {
                let last: Option<i64> = copies::table
                    .filter(copies::part_id.eq(spot.part_id.0))
                    .select(diesel::dsl::max(copies::number))
                    .first(conn)?;
                free.insert(last.unwrap_or(0))
            }
        };
        *number += 1;
        diesel::insert_into(copies::table)
            .values((
                copies::uid.eq(new_uid()),
                copies::part_id.eq(spot.part_id.0),
                copies::number.eq(*number),
                copies::plate_id.eq(plate.0),
                copies::sculpt_id.eq(spot.sculpt_id.0),
                copies::recipe_version_id.eq(spot.recipe_version_id.0),
                copies::stage.eq(Stage::Planned.as_str()),
                copies::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        let copy = last_id(conn)?;
        diesel::update(
            placements::table.filter(
                placements::plate_id
                    .eq(plate.0)
                    .and(placements::seq.eq(spot.seq)),
            ),
        )
        .set(placements::copy_id.eq(copy))
        .execute(conn)?;
    }
    Ok(())
}

/// Throws a draft away.
///
/// # Errors
/// [`StoreError::Conflict`] when it was accepted meanwhile.
pub fn drop_draft(conn: &mut Conn, id: PlanId) -> Result<(), StoreError> {
    let plan = load(conn, id)?;
    match plan.state {
        PlanState::Draft | PlanState::Computing | PlanState::Failed => {
            set_state(conn, &plan, PlanState::Dropped, None)
        }
        PlanState::Accepted | PlanState::Dropped => Err(StoreError::Conflict { what: "plan" }),
    }
}
