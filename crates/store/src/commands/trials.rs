//! Trials: variants put together, planned on small plates, judged, a winner declared.

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::ids::{PartId, PlanId, PrinterId, ProjectId, TrialId, VariantId};
use wembrit_core::plan::{Plan, PlannedPlate, TrialFacts};
use wembrit_core::recipe::Trial;
use wembrit_core::recipe::trial::{BEST_GRADE, CRITERIA, OnPlate, TrialState};

use super::accept_plan::take_over;
use super::recipes::{self, RecipeChange};
use super::{layer_facts, settings};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::trials::{load, one_of_each, sculpt_of, variants};
use crate::queries::{last_id, muster, new_uid, one_row};
use crate::schema::{grades, trials, variants};

/// Begins a trial of the newest version of a part's recipe, with that version as first variant.
///
/// # Errors
/// [`StoreError::Refused`] for a part without a sculpt.
pub fn begin(
    conn: &mut Conn,
    part: PartId,
    printer: PrinterId,
    now_ms: i64,
) -> Result<TrialId, StoreError> {
    sculpt_of(conn, part)?;
    let recipe = muster::part(conn, part)?.recipe;
    let version = queries::recipes::newest(conn, recipe)?;
    diesel::insert_into(trials::table)
        .values((
            trials::uid.eq(new_uid()),
            trials::part_id.eq(part.0),
            trials::recipe_version_id.eq(version.id.0),
            trials::state.eq(TrialState::Open.as_str()),
            trials::criteria.eq(CRITERIA.join("\n")),
            trials::begun_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(TrialId)?;
    let as_it_is = VariantChange {
        name: "as it is".into(),
        recipe: RecipeChange {
            setup: Some(version.setup),
            ..RecipeChange::of(&version)
        },
        printer,
        exposure_s: None,
    };
    add_variant(conn, id, &as_it_is, now_ms)?;
    Ok(id)
}

/// Everything about a variant.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct VariantChange {
    pub name: String,
    pub recipe: RecipeChange,
    pub printer: PrinterId,
    pub exposure_s: Option<f64>,
}

/// Variants of one trial at most: more are not told apart on a bench.
const MOST_VARIANTS: i64 = 12;

fn must_be(trial: &Trial, state: TrialState) -> Result<(), StoreError> {
    if trial.state == state {
        Ok(())
    } else {
        Err(StoreError::Refused(format!(
            "the trial is {} by now: look at it again",
            trial.state
        )))
    }
}

/// Adds a variant: a recipe of its own, that no part uses, and asks for it to be measured.
///
/// # Errors
/// [`StoreError::Refused`] once the trial is planned, or with too many.
pub fn add_variant(
    conn: &mut Conn,
    id: TrialId,
    new: &VariantChange,
    now_ms: i64,
) -> Result<VariantId, StoreError> {
    let trial = load(conn, id)?;
    must_be(&trial, TrialState::Open)?;
    let siblings: i64 = variants::table
        .filter(variants::trial_id.eq(id.0))
        .count()
        .get_result(conn)?;
    if siblings >= MOST_VARIANTS {
        return Err(StoreError::Refused(format!(
            "{MOST_VARIANTS} variants are enough for one trial: begin another"
        )));
    }
    let recipe = recipes::add(conn, &new.recipe, now_ms)?;
    let version = queries::recipes::newest(conn, recipe)?;
    diesel::insert_into(variants::table)
        .values((
            variants::uid.eq(new_uid()),
            variants::trial_id.eq(id.0),
            variants::position.eq(siblings),
            variants::name.eq(new.name.trim()),
            variants::recipe_version_id.eq(version.id.0),
            variants::printer_id.eq(new.printer.0),
            variants::exposure_s.eq(new.exposure_s),
        ))
        .execute(conn)?;
    let variant = last_id(conn).map(VariantId)?;
    let sculpt = sculpt_of(conn, trial.part)?;
    layer_facts::ask(conn, &sculpt, &version, now_ms)?;
    settings::ensure(conn, new.printer, version.resin, version.layer, now_ms)?;
    Ok(variant)
}

/// Takes a variant out again while the trial is open.
///
/// # Errors
/// [`StoreError::Refused`] once it is planned.
pub fn remove_variant(conn: &mut Conn, id: TrialId, variant: VariantId) -> Result<(), StoreError> {
    must_be(&load(conn, id)?, TrialState::Open)?;
    let mine = variants::table.filter(variants::id.eq(variant.0).and(variants::trial_id.eq(id.0)));
    one_row(diesel::delete(mine).execute(conn)?, "variant")
}

/// What variants are judged by, one to a line.
///
/// # Errors
/// [`StoreError::Refused`] when none is left.
pub fn set_criteria(conn: &mut Conn, id: TrialId, lines: &str) -> Result<(), StoreError> {
    let kept: Vec<&str> = lines
        .lines()
        .map(str::trim)
        .filter(|l| !l.is_empty())
        .take(12)
        .collect();
    if kept.is_empty() {
        return Err(StoreError::Refused(
            "name one thing to judge by at least".into(),
        ));
    }
    one_row(
        diesel::update(trials::table.find(id.0))
            .set(trials::criteria.eq(kept.join("\n")))
            .execute(conn)?,
        "trial",
    )
}

/// Every variant has a process setting of its own printer, resin and layer height.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn ensure_settings(conn: &mut Conn, id: TrialId, now_ms: i64) -> Result<(), StoreError> {
    for (variant, version) in variants(conn, id)? {
        settings::ensure(conn, variant.printer, version.resin, version.layer, now_ms)?;
    }
    Ok(())
}

/// The plates of a trial are planned: an exposure of its own gets a version of the process setting
/// that is kept for the trial.
///
/// # Errors
/// [`StoreError::Conflict`] when the trial was changed since its plates were worked out.
pub fn plan(
    conn: &mut Conn,
    of: &TrialFacts,
    planned: Vec<(OnPlate, PlannedPlate)>,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let trial = load(conn, of.trial.id)?;
    must_be(&trial, TrialState::Open)?;
    let now: Vec<VariantId> = variants(conn, trial.id)?.iter().map(|v| v.0.id).collect();
    let then: Vec<VariantId> = of.variants.iter().map(|v| v.0.id).collect();
    if trial != of.trial || now != then {
        return Err(StoreError::Conflict { what: "trial" });
    }
    let mut plan = Plan::default();
    for (with, mut plate) in planned {
        if let Some(exposure_s) = with.exposure_s {
            let setting = settings::ensure(conn, with.printer, with.resin, with.layer, now_ms)?;
            let mut timing = queries::settings::load(conn, setting)?.timing;
            timing.exposure_s = exposure_s;
            plate.setting = settings::for_trial(conn, setting, &timing, now_ms)?;
        }
        plan.plates.push(plate);
    }
    let project = muster::project_of_part(conn, trial.part)?;
    let plan_id = take_over(conn, project, &[of.line()], &plan, now_ms)?;
    set_state(conn, &trial, TrialState::Planned)?;
    diesel::update(trials::table.find(trial.id.0))
        .set(trials::plan_id.eq(plan_id.0))
        .execute(conn)?;
    Ok(plan_id)
}

fn set_state(conn: &mut Conn, trial: &Trial, state: TrialState) -> Result<(), StoreError> {
    let as_seen = trials::table
        .find(trial.id.0)
        .filter(trials::state.eq(trial.state.as_str()));
    let changed = diesel::update(as_seen)
        .set((
            trials::state.eq(state.as_str()),
            trials::row_version.eq(trials::row_version + 1),
        ))
        .execute(conn)?;
    one_row(changed, "trial")
}

/// Grades a variant in one thing; no grade takes it back.
///
/// # Errors
/// [`StoreError::Refused`] for a grade that is none, or in a trial that is decided.
pub fn grade(
    conn: &mut Conn,
    id: TrialId,
    variant: VariantId,
    criterion: &str,
    value: Option<i64>,
) -> Result<(), StoreError> {
    let trial = load(conn, id)?;
    if trial.state == TrialState::Decided {
        return Err(StoreError::Refused("the trial is decided".into()));
    }
    let mine: i64 = variants::table
        .filter(variants::id.eq(variant.0).and(variants::trial_id.eq(id.0)))
        .count()
        .get_result(conn)?;
    if mine == 0 || !trial.criteria.iter().any(|c| c == criterion) {
        return Err(StoreError::NotFound { what: "grade" });
    }
    match value {
        None => {
            diesel::delete(grades::table.find((variant.0, criterion))).execute(conn)?;
        }
        Some(value) if (1..=BEST_GRADE).contains(&value) => {
            diesel::replace_into(grades::table)
                .values((
                    grades::variant_id.eq(variant.0),
                    grades::criterion.eq(criterion),
                    grades::grade.eq(value),
                ))
                .execute(conn)?;
        }
        Some(_) => {
            return Err(StoreError::Refused(format!(
                "grades run from 1 to {BEST_GRADE}"
            )));
        }
    }
    Ok(())
}

/// Declares a winner: the recipe takes it over as a new version, the process setting its
/// exposure. The version is on trial until a copy of it comes out good.
///
/// # Errors
/// [`StoreError::Refused`] before the trial is planned.
pub fn declare(
    conn: &mut Conn,
    id: TrialId,
    winner: VariantId,
    reason: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let trial = load(conn, id)?;
    must_be(&trial, TrialState::Planned)?;
    let all = variants(conn, id)?;
    let (variant, version) = all
        .into_iter()
        .find(|(v, _)| v.id == winner)
        .ok_or(StoreError::NotFound { what: "variant" })?;
    let recipe = muster::part(conn, trial.part)?.recipe;
    let change = RecipeChange {
        setup: Some(version.setup),
        ..RecipeChange::of(&version)
    };
    recipes::change(conn, recipe, &change, now_ms)?;
    let won = queries::recipes::newest(conn, recipe)?;
    if let Some(exposure_s) = variant.exposure_s {
        let setting =
            settings::ensure(conn, variant.printer, version.resin, version.layer, now_ms)?;
        let known = queries::settings::load(conn, setting)?;
        if known.timing.exposure_s != exposure_s {
            let mut timing = known.timing.clone();
            timing.exposure_s = exposure_s;
            let still: Vec<&str> = known
                .assumed
                .split(',')
                .filter(|f| *f != "exposure_s")
                .collect();
            settings::append(
                conn,
                setting,
                known.number,
                &timing,
                &still.join(","),
                now_ms,
            )?;
        }
    }
    set_state(conn, &trial, TrialState::Decided)?;
    diesel::update(trials::table.find(id.0))
        .set((
            trials::winner_id.eq(winner.0),
            trials::won_version_id.eq(won.id.0),
            trials::reason.eq(reason.trim()),
        ))
        .execute(conn)?;
    Ok(())
}

/// Gives a trial up before it is decided; plates already planned stay.
///
/// # Errors
/// [`StoreError::Refused`] once it is decided.
pub fn give_up(conn: &mut Conn, id: TrialId) -> Result<(), StoreError> {
    let trial = load(conn, id)?;
    if trial.state == TrialState::Decided {
        return Err(StoreError::Refused("the trial is decided".into()));
    }
    set_state(conn, &trial, TrialState::Dropped)
}

/// Plates with one copy of each of some parts are planned at once.
///
/// # Errors
/// [`StoreError::Conflict`] when a recipe has changed since they were worked out.
pub fn plan_first_copies(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
    plan: &Plan,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let parts: Vec<PartId> = lines.iter().map(|l| l.part).collect();
    if one_of_each(conn, &parts)? != lines {
        return Err(StoreError::Conflict { what: "recipe" });
    }
    take_over(conn, project, lines, plan, now_ms)
}
