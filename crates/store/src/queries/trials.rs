//! Trials: variants put together, planned on small plates, judged, a winner declared.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::{PartId, PlateId, ProjectId, TrialId, VariantId};
use wembrit_core::plan::{PlanFacts, TrialFacts};
use wembrit_core::recipe::trial::TrialState;
use wembrit_core::recipe::{KeptPart, PartSetup, RecipeVersion, Trial, Variant};
use wembrit_core::sculpt::Sculpt;

use super::{demand, muster, prepared_parts, recipes, sculpts};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, RecipeVersionRow, TrialRow, VariantRow};
use crate::schema::{copies, grades, placements, plates, trials, variants};

/// One trial.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: TrialId) -> Result<Trial, StoreError> {
    trials::table
        .find(id.0)
        .select(TrialRow::as_select())
        .noun::<TrialRow>(conn, "trial")
}

/// The trials of a part, the newest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_part(conn: &mut Conn, id: PartId) -> Result<Vec<Trial>, StoreError> {
    trials::table
        .filter(
            trials::part_id
                .eq(id.0)
                .and(trials::state.ne(TrialState::Dropped.as_str())),
        )
        .order(trials::id.desc())
        .select(TrialRow::as_select())
        .nouns::<TrialRow>(conn)
}

/// Its variants in order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn variants(conn: &mut Conn, id: TrialId) -> Result<Vec<(Variant, RecipeVersion)>, StoreError> {
    use crate::schema::recipe_versions as rv;
    variants::table
        .inner_join(rv::table)
        .filter(variants::trial_id.eq(id.0))
        .order((variants::position, variants::id))
        .select((VariantRow::as_select(), RecipeVersionRow::as_select()))
        .nouns::<(VariantRow, RecipeVersionRow)>(conn)
}

/// The sculpt a part is printed from.
///
/// # Errors
/// [`StoreError::Refused`] for a part without one.
pub fn sculpt_of(conn: &mut Conn, part: PartId) -> Result<Sculpt, StoreError> {
    let sculpt = muster::part(conn, part)?.sculpt.ok_or_else(|| {
        StoreError::Refused("give the part a sculpt first: there is nothing to try yet".into())
    })?;
    sculpts::load(conn, sculpt)
}

/// A trial with everything its plates are planned from.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn facts(conn: &mut Conn, id: TrialId) -> Result<TrialFacts, StoreError> {
    let trial = load(conn, id)?;
    let sculpt = sculpt_of(conn, trial.part)?;
    let project = muster::project_of_part(conn, trial.part)?;
    Ok(TrialFacts {
        variants: prepared(conn, &sculpt, id)?,
        sculpt: sculpt.id,
        facts: demand::plan_facts(conn, project, &[])?,
        trial,
    })
}

/// The variants of a trial with what was prepared of each.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn prepared(
    conn: &mut Conn,
    sculpt: &Sculpt,
    id: TrialId,
) -> Result<Vec<(Variant, RecipeVersion, Option<KeptPart>)>, StoreError> {
    variants(conn, id)?
        .into_iter()
        .map(|(variant, version)| {
            let kept = prepared_parts::of(conn, &PartSetup::of(sculpt, &version))?;
            Ok((variant, version, kept))
        })
        .collect()
}

/// One copy of each of some parts, with everything a plan for them is made from; the first part
/// says in which project.
///
/// # Errors
/// [`StoreError::Refused`] when there is nothing to try, or it is still being measured.
pub fn first_copies(
    conn: &mut Conn,
    parts: &[PartId],
) -> Result<(ProjectId, Vec<DemandLine>, PlanFacts), StoreError> {
    let first = parts
        .first()
        .ok_or_else(|| StoreError::Refused("there is nothing to try".into()))?;
    let project = muster::project_of_part(conn, *first)?;
    let lines = one_of_each(conn, parts)?;
    if !demand::unprepared(conn, &lines)?.is_empty() {
        return Err(StoreError::Refused(
            "it is still being measured as it hangs: wait a moment".into(),
        ));
    }
    let facts = demand::plan_facts(conn, project, &lines)?;
    Ok((project, lines, facts))
}

/// One copy of each of some parts that have a sculpt, by the newest version of its recipe.
pub(crate) fn one_of_each(
    conn: &mut Conn,
    parts: &[PartId],
) -> Result<Vec<DemandLine>, StoreError> {
    let mut lines = Vec::new();
    for id in parts {
        let part = muster::part(conn, *id)?;
        if let Some(sculpt) = part.sculpt {
            lines.push(DemandLine {
                part: *id,
                sculpt,
                recipe_version: recipes::newest(conn, part.recipe)?.id,
                wanted: 1,
            });
        }
    }
    Ok(lines)
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
    let Some(plan) = trial.plan else {
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
        let state = PlateState::try_from(state)?;
        let stage = Stage::try_from(stage)?;
        let here = Whereabouts {
            plate: PlateId(plate),
            number,
            state,
            stage,
        };
        by_version.entry(version).or_insert(here);
    }
    Ok(variants(conn, trial.id)?
        .into_iter()
        .filter_map(|(v, _)| Some((v.id, by_version.get(&v.recipe_version.0)?.clone())))
        .collect())
}

/// Where the copy of a variant is.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct Whereabouts {
    pub plate: PlateId,
    pub number: i64,
    pub state: PlateState,
    pub stage: Stage,
}

/// All grades of a trial, by variant and what they are for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn grades(
    conn: &mut Conn,
    id: TrialId,
) -> Result<HashMap<(VariantId, String), i64>, StoreError> {
    let rows: Vec<(i64, String, i64)> = grades::table
        .inner_join(variants::table)
        .filter(variants::trial_id.eq(id.0))
        .select((grades::variant_id, grades::criterion, grades::grade))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(variant, criterion, grade)| ((VariantId(variant), criterion), grade))
        .collect())
}
