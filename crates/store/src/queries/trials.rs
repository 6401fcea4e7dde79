//! Trials: variants put together, planned on small plates, judged, a winner declared.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PartId, PlanId, PrinterId, SculptId, TrialId, UnitId, VariantId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{Plan as ComputedPlan, PlanPart, PlanRequest, PlanSetting, make_plan};
use wembrit_core::recipe::trial::{CRITERIA, OnPlate, TrialState, plates as plates_of};
use wembrit_core::watch::Unwatched;

use super::prepared::Preparing;
use super::recipes::{self, Hang, RecipeChange};
use super::{army, demand, hung, last_id, muster, new_uid, one_row, plans, sculpts, settings};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{RecipeVersion, Trial, Variant};
use crate::schema::{copies, marks, placements, plates, trials, variants};

/// One trial.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: TrialId) -> Result<Trial, StoreError> {
    trials::table
        .find(id.0)
        .select(Trial::as_select())
        .first(conn)
        .or_not_found("trial")
}

/// The trials of a part, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_part(conn: &mut Conn, id: PartId) -> Result<Vec<Trial>, StoreError> {
    Ok(trials::table
        .filter(
            trials::part_id
                .eq(id.0)
                .and(trials::state.ne(TrialState::Dropped.as_str())),
        )
        .order(trials::id.desc())
        .select(Trial::as_select())
        .load(conn)?)
}

/// Its variants in order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn variants(conn: &mut Conn, id: TrialId) -> Result<Vec<(Variant, RecipeVersion)>, StoreError> {
    use crate::schema::recipe_versions as rv;
    Ok(variants::table
        .inner_join(rv::table)
        .filter(variants::trial_id.eq(id.0))
        .order((variants::position, variants::id))
        .select((Variant::as_select(), RecipeVersion::as_select()))
        .load(conn)?)
}

/// The sculpt a part is printed from.
fn sculpt_of(conn: &mut Conn, part: PartId) -> Result<SculptId, StoreError> {
    muster::part(conn, part)?.sculpt_id().ok_or_else(|| {
        StoreError::Refused("give the part a sculpt first: there is nothing to try yet".into())
    })
}

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
    let recipe = muster::part(conn, part)?.recipe_id;
    let version = recipes::newest(conn, recipe)?;
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
            hang: Some(Hang {
                pose: version.pose,
                supports: version.supports,
            }),
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
    let version = recipes::newest(conn, recipe)?;
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
    let sculpt = sculpt_of(conn, trial.part_id)?;
    let sculpt = sculpts::load(conn, sculpt)?;
    super::prepared::ask(conn, &sculpt, &version, now_ms)?;
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

/// Names of the variants that are not measured yet: their plates cannot be planned.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn unprepared(conn: &mut Conn, trial: &Trial) -> Result<Vec<String>, StoreError> {
    let sculpt = sculpt_of(conn, trial.part_id)?;
    let sculpt = sculpts::load(conn, sculpt)?;
    let mut waiting = Vec::new();
    for (variant, version) in variants(conn, trial.id)? {
        if hung::of(conn, &Preparing::of(&sculpt, &version))?.is_none() {
            waiting.push(variant.name);
        }
    }
    Ok(waiting)
}

/// Plans a trial: one copy of every variant, on a plate for every printer, resin, layer height
/// and exposure. The plates are accepted at once, and printed and judged like any other.
///
/// # Errors
/// [`StoreError::Refused`] with fewer than two variants, while one is not measured, or when one
/// fits nowhere.
pub fn plan(conn: &mut Conn, id: TrialId, now_ms: i64) -> Result<PlanId, StoreError> {
    let trial = load(conn, id)?;
    must_be(&trial, TrialState::Open)?;
    let all = variants(conn, id)?;
    if all.len() < 2 {
        return Err(StoreError::Refused(
            "add a variant first: a trial compares two at least".into(),
        ));
    }
    let waiting = unprepared(conn, &trial)?;
    if !waiting.is_empty() {
        return Err(StoreError::Refused(format!(
            "'{}' is still being measured: wait a moment",
            waiting.join("', '")
        )));
    }
    let project = muster::project_of_part(conn, trial.part_id)?;
    let sculpt_id = sculpt_of(conn, trial.part_id)?;
    let sculpt = sculpts::load(conn, sculpt_id)?;
    let blank = demand::plan_request(conn, project, &[])?;
    let on: Vec<OnPlate> = all
        .iter()
        .map(|(variant, version)| OnPlate {
            printer: variant.printer_id,
            resin: version.resin_id,
            layer: version.layer,
            exposure_s: variant.exposure_s,
        })
        .collect();
    let mut plan = ComputedPlan::default();
    let mut lines = HashMap::new();
    for group in plates_of(&on) {
        let OnPlate {
            printer,
            resin,
            layer,
            exposure_s,
        } = on[group[0]];
        let setting = settings::ensure(conn, printer, resin, layer, now_ms)?;
        let (_, known) = settings::load(conn, setting)?;
        let mut timing = known.timing();
        let version = match exposure_s {
            Some(exposure_s) => {
                timing.exposure_s = exposure_s;
                settings::for_trial(conn, setting, &timing, now_ms)?
            }
            None => known.id,
        };
        let mut parts = Vec::new();
        for index in group {
            let (variant, recipe) = &all[index];
            let facts = hung::of(conn, &Preparing::of(&sculpt, recipe))?
                .ok_or(StoreError::NotFound { what: "variant" })?;
            // A variant stands for a part of its own while it is packed.
            let as_part = PartId(variant.id.0);
            lines.insert(
                as_part,
                DemandLine {
                    part: trial.part_id,
                    sculpt: sculpt_id,
                    recipe_version: recipe.id,
                    wanted: 1,
                },
            );
            parts.push(PlanPart {
                id: as_part,
                outline: facts.outline()?,
                height_mm: facts.height_mm,
                volume_mm3: facts.part_mm3 + facts.support_mm3,
                surface_mm2: facts.surface_mm2,
                resin,
                layer,
                wanted: 1,
                priority: 0,
                unit: UnitId(0),
                pull: facts.loads()?.pull,
                most: None,
            });
        }
        let request = PlanRequest {
            settings: vec![PlanSetting {
                version,
                printer,
                resin,
                layer,
                timing,
            }],
            parts,
            ..blank.clone()
        };
        let packed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched)
            .map_err(|e| StoreError::Refused(e.to_string()))?;
        if !packed.left_over.is_empty() {
            return Err(StoreError::Refused(
                "a variant does not fit its printer: choose a larger one".into(),
            ));
        }
        plan.plates.extend(packed.plates);
    }
    let base = DemandLine {
        part: trial.part_id,
        sculpt: sculpt_id,
        recipe_version: trial.recipe_version_id,
        wanted: all.len() as u64,
    };
    let plan_id = plans::take_over(conn, project, &[base], &plan, &lines, now_ms)?;
    set_state(conn, &trial, TrialState::Planned)?;
    diesel::update(trials::table.find(id.0))
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

/// Which plate the copy of each variant is on: plate, its number, its state, and the stage of the
/// copy.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn whereabouts(
    conn: &mut Conn,
    trial: &Trial,
) -> Result<HashMap<VariantId, Whereabouts>, StoreError> {
    let Some(plan) = trial.plan_id() else {
        return Ok(HashMap::new());
    };
    let rows: Vec<(i64, i64, i64, String, String)> = placements::table
        .inner_join(plates::table)
        .inner_join(copies::table.on(placements::copy_id.eq(copies::id.nullable())))
        .filter(plates::plan_id.eq(plan.0))
        .order((plates::number, placements::seq))
        .select((
            placements::recipe_version_id,
            plates::id,
            plates::number,
            plates::state,
            copies::stage,
        ))
        .load(conn)?;
    let mut by_version: BTreeMap<i64, Whereabouts> = BTreeMap::new();
    for (version, plate, number, state, stage) in rows {
        let state = PlateState::try_from(state).map_err(|e| StoreError::BadRow(e.to_string()))?;
        let here = Whereabouts {
            plate,
            number,
            state,
            stage,
        };
        by_version.entry(version).or_insert(here);
    }
    Ok(variants(conn, trial.id)?
        .into_iter()
        .filter_map(|(v, _)| Some((v.id, by_version.get(&v.recipe_version_id.0)?.clone())))
        .collect())
}

/// Where the copy of a variant is.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct Whereabouts {
    pub plate: i64,
    pub number: i64,
    pub state: PlateState,
    pub stage: String,
}

/// Marks a variant in one thing; no mark takes it back.
///
/// # Errors
/// [`StoreError::Refused`] for a mark that is none, or in a trial that is decided.
pub fn mark(
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
    if mine == 0 || !trial.criteria().contains(&criterion) {
        return Err(StoreError::NotFound { what: "mark" });
    }
    match value {
        None => {
            diesel::delete(marks::table.find((variant.0, criterion))).execute(conn)?;
        }
        Some(value) if (1..=5).contains(&value) => {
            diesel::replace_into(marks::table)
                .values((
                    marks::variant_id.eq(variant.0),
                    marks::criterion.eq(criterion),
                    marks::mark.eq(value),
                ))
                .execute(conn)?;
        }
        Some(_) => return Err(StoreError::Refused("marks run from 1 to 5".into())),
    }
    Ok(())
}

/// All marks of a trial, by variant and what they are for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn marks(
    conn: &mut Conn,
    id: TrialId,
) -> Result<HashMap<(VariantId, String), i64>, StoreError> {
    let rows: Vec<(i64, String, i64)> = marks::table
        .inner_join(variants::table)
        .filter(variants::trial_id.eq(id.0))
        .select((marks::variant_id, marks::criterion, marks::mark))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(variant, criterion, mark)| ((VariantId(variant), criterion), mark))
        .collect())
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
    let recipe = muster::part(conn, trial.part_id)?.recipe_id;
    let change = RecipeChange {
        hang: Some(Hang {
            pose: version.pose,
            supports: version.supports,
        }),
        ..RecipeChange::of(&version)
    };
    recipes::change(conn, recipe, &change, now_ms)?;
    let won = recipes::newest(conn, recipe)?;
    if let Some(exposure_s) = variant.exposure_s {
        let setting = settings::ensure(
            conn,
            variant.printer_id,
            version.resin_id,
            version.layer,
            now_ms,
        )?;
        let (_, known) = settings::load(conn, setting)?;
        if known.exposure_s != exposure_s {
            let mut timing = known.timing();
            timing.exposure_s = exposure_s;
            let still: Vec<&str> = known
                .assumed
                .split(',')
                .filter(|f| *f != "exposure_s")
                .collect();
            settings::append(
                conn,
                setting,
                known.version,
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

/// Plans one copy each of some parts at the newest version of their recipes, and accepts it: a
/// confirmation of one recipe, or a first plate of several before they are printed by the dozen.
///
/// # Errors
/// [`StoreError::Refused`] when one is not measured or fits nowhere.
pub fn plan_first_copies(
    conn: &mut Conn,
    parts: &[PartId],
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    let first = parts
        .first()
        .ok_or_else(|| StoreError::Refused("there is nothing to try".into()))?;
    settings::ensure_all(conn, now_ms)?;
    let project = muster::project_of_part(conn, *first)?;
    let army = army::load(conn, project)?;
    let lines: Vec<DemandLine> = army
        .parts()
        .filter(|(_, _, p)| parts.contains(&p.part.id))
        .filter_map(|(_, _, p)| {
            Some(DemandLine {
                part: p.part.id,
                sculpt: p.part.sculpt_id()?,
                recipe_version: p.recipe.id,
                wanted: 1,
            })
        })
        .collect();
    if !demand::unprepared(conn, &lines)?.is_empty() {
        return Err(StoreError::Refused(
            "it is still being measured as it hangs: wait a moment".into(),
        ));
    }
    let request = demand::plan_request(conn, project, &lines)?;
    let packed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched)
        .map_err(|e| StoreError::Refused(e.to_string()))?;
    if packed.plates.is_empty() {
        return Err(StoreError::Refused(
            "it fits no printer with this resin and layer height".into(),
        ));
    }
    let by_part = lines.iter().map(|l| (l.part, *l)).collect();
    plans::take_over(conn, project, &lines, &packed, &by_part, now_ms)
}
