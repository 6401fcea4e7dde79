//! A whole project at one look, in a handful of queries whatever its size.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use diesel::dsl::{count_star, sql};
use diesel::prelude::*;
use diesel::sql_types::BigInt;
use wembrit_core::army::{
    Army, ArmyChoice, ArmyModel, ArmyUnit, ChoiceOption, LoosePart, Model, Piece, ProjectMoney,
    StageCounts, Unit,
};
use wembrit_core::cost_parts::CostParts;
use wembrit_core::flow::{SculptState, Stage};
use wembrit_core::ids::{ModelId, PartId, ProjectId, RecipeId, ResinId, SculptId, UnitId};
use wembrit_core::ledger::LedgerPlate;
use wembrit_core::recipe::RecipeVersion;

use super::{charges, kits, miniatures, muster, recipes, spent};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, PartRow, RecipeVersionRow, Row};
use crate::schema::{copies, models, parts, placements, projects, recipe_versions, sculpts, units};
use crate::until_written::kept;

/// Loads a project with everything in it.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn load(conn: &mut Conn, id: ProjectId) -> Result<Arc<Army>, StoreError> {
    kept(conn, ("army", &[id.0]), |conn| {
        let units = muster::units(conn, id)?;
        of_units(conn, id, units)
    })
}

/// A project with some of its units alone: what is counted over the army counts these.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn some(conn: &mut Conn, id: ProjectId, of: &[UnitId]) -> Result<Army, StoreError> {
    let mut units = muster::units(conn, id)?;
    units.retain(|u| of.contains(&u.id));
    of_units(conn, id, units)
}

fn of_units(conn: &mut Conn, id: ProjectId, all_units: Vec<Unit>) -> Result<Army, StoreError> {
    let project = muster::project(conn, id)?;
    let ids: Vec<i64> = all_units.iter().map(|u| u.id.0).collect();
    let mut models_of: HashMap<UnitId, Vec<Model>> = HashMap::new();
    for model in muster::models(conn, &ids)? {
        models_of.entry(model.unit).or_default().push(model);
    }
    let mut kits = Kits::load(conn, (id, &ids), &models_of)?;
    let units: Vec<ArmyUnit> = all_units
        .into_iter()
        .map(|unit| {
            let models = models_of.remove(&unit.id).unwrap_or_default();
            let models: Vec<ArmyModel> = models.into_iter().map(|m| kits.army_model(m)).collect();
            ArmyUnit {
                progress: models.iter().map(|m| m.progress).sum(),
                unit,
                models,
            }
        })
        .collect();
    Ok(Army {
        project,
        progress: units.iter().map(|u| u.progress).sum(),
        units,
        money: money(conn, id)?,
    })
}

fn money(conn: &mut Conn, id: ProjectId) -> Result<ProjectMoney, StoreError> {
    let came = miniatures::came(conn, id)?.values().map(|c| c.1).sum();
    Ok(LedgerPlate::project_money(
        &spent::plates_of(conn, id)?,
        came,
    ))
}

/// One unit, as it stands in its army.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn unit(conn: &mut Conn, id: UnitId) -> Result<ArmyUnit, StoreError> {
    let project = muster::unit(conn, id)?.project;
    let mut units = some(conn, project, &[id])?.units;
    units.pop().ok_or(StoreError::NotFound { what: "unit" })
}

/// One model with its unit, as it stands in its army.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn model(conn: &mut Conn, id: ModelId) -> Result<(Unit, ArmyModel), StoreError> {
    let of = muster::model(conn, id)?.unit;
    let of = unit(conn, of)?;
    let found = of.models.into_iter().find(|m| m.model.id == id);
    found
        .map(|model| (of.unit, model))
        .ok_or(StoreError::NotFound { what: "model" })
}

/// The units parts belong to.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn units_of(conn: &mut Conn, of: &[PartId]) -> Result<Vec<UnitId>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let units: Vec<i64> = parts::table
        .inner_join(models::table)
        .filter(parts::id.eq_any(ids))
        .select(models::unit_id)
        .distinct()
        .load(conn)?;
    Ok(units.into_iter().map(UnitId).collect())
}

/// What belongs to the models of a project, by model.
struct Kits {
    parts: HashMap<ModelId, Vec<LoosePart>>,
    pieces: HashMap<ModelId, Vec<Piece>>,
    choices: HashMap<ModelId, Vec<ArmyChoice>>,
}

impl Kits {
    fn load(
        conn: &mut Conn,
        (project, units): (ProjectId, &[i64]),
        models_of: &HashMap<UnitId, Vec<Model>>,
    ) -> Result<Self, StoreError> {
        let models: Vec<ModelId> = models_of.values().flatten().map(|m| m.id).collect();
        let mut pieces: HashMap<ModelId, Vec<Piece>> = HashMap::new();
        for piece in kits::pieces_of(conn, &models)? {
            pieces.entry(piece.model).or_default().push(piece);
        }
        let all = kits::choices_of(conn, &models)?;
        let mut options: HashMap<_, Vec<ChoiceOption>> = HashMap::new();
        for option in kits::options_of(conn, &all.iter().map(|c| c.id).collect::<Vec<_>>())? {
            options.entry(option.choice).or_default().push(option);
        }
        let mut choices: HashMap<ModelId, Vec<ArmyChoice>> = HashMap::new();
        for choice in all {
            let options = options.remove(&choice.id).unwrap_or_default();
            choices
                .entry(choice.model)
                .or_default()
                .push(ArmyChoice { choice, options });
        }
        Ok(Self {
            parts: parts_of(conn, project, units)?,
            pieces,
            choices,
        })
    }

    fn army_model(&mut self, model: Model) -> ArmyModel {
        let id = model.id;
        ArmyModel::new(
            model,
            self.parts.remove(&id).unwrap_or_default(),
            self.pieces.remove(&id).unwrap_or_default(),
            self.choices.remove(&id).unwrap_or_default(),
        )
    }
}

fn parts_of(
    conn: &mut Conn,
    id: ProjectId,
    of: &[i64],
) -> Result<HashMap<ModelId, Vec<LoosePart>>, StoreError> {
    let in_project = parts::table
        .inner_join(models::table.inner_join(units::table))
        .left_join(sculpts::table);
    let rows: Vec<(PartRow, Option<String>, Option<String>)> = in_project
        .filter(units::id.eq_any(of).and(parts::removed_at_ms.is_null()))
        .order((parts::position, parts::id))
        .select((
            PartRow::as_select(),
            sculpts::name.nullable(),
            sculpts::state.nullable(),
        ))
        .load(conn)?;
    let versions = recipe_versions::table
        .inner_join(parts::table.on(parts::recipe_id.eq(recipe_versions::recipe_id)))
        .inner_join(models::table.on(models::id.eq(parts::model_id)))
        .filter(models::unit_id.eq_any(of))
        .order(recipe_versions::version)
        .select(RecipeVersionRow::as_select())
        .nouns::<RecipeVersionRow>(conn)?;
    let newest: HashMap<RecipeId, RecipeVersion> =
        versions.into_iter().map(|v| (v.recipe, v)).collect();
    let mut counts = copy_counts(conn, id, of)?;
    let mut parts_of: HashMap<ModelId, Vec<LoosePart>> = HashMap::new();
    for (part, sculpt, state) in rows {
        let part = part.noun()?;
        let recipe = newest.get(&part.recipe).cloned();
        let recipe =
            recipe.ok_or_else(|| StoreError::BadRow(format!("part {} has no recipe", part.id)))?;
        let state = state.map(SculptState::try_from).transpose()?;
        parts_of.entry(part.model).or_default().push(LoosePart {
            counts: counts.remove(&part.id).unwrap_or_default(),
            part,
            recipe,
            sculpt: sculpt.zip(state),
        });
    }
    Ok(parts_of)
}

fn copy_counts(
    conn: &mut Conn,
    id: ProjectId,
    of: &[i64],
) -> Result<HashMap<PartId, StageCounts>, StoreError> {
    type Row = (i64, String, i64, (i64, i64, i64, i64, i64));
    let sum = |column: &str| sql::<BigInt>(&format!("coalesce(sum(placements.{column}), 0)"));
    let rows: Vec<Row> = copies::table
        .inner_join(placements::table.on(placements::copy_id.eq(copies::id.nullable())))
        .inner_join(parts::table.on(parts::id.eq(copies::part_id)))
        .inner_join(models::table.on(models::id.eq(parts::model_id)))
        .filter(models::unit_id.eq_any(of))
        .group_by((copies::part_id, copies::stage))
        .select((
            copies::part_id,
            copies::stage,
            count_star(),
            (
                sum("resin_cost_minor"),
                sum("consumables_cost_minor"),
                sum("power_cost_minor"),
                sum("wear_cost_minor"),
                sum("hands_cost_minor"),
            ),
        ))
        .load(conn)?;
    let mut counts: HashMap<PartId, StageCounts> = HashMap::new();
    for (part, stage, number, (resin, consumables, power, wear, hands)) in rows {
        let number = u32::try_from(number).unwrap_or(u32::MAX);
        let cost = CostParts::of_planned([resin, consumables, power, wear, hands]);
        let of_part = counts.entry(PartId(part)).or_default();
        of_part.add(Stage::try_from(stage)?, number, cost);
    }
    // Counted as planned above, in one query; what a plate took otherwise is corrected copy by copy.
    let taken = spent::costs_as_taken(conn, Some(id))?;
    let stages: Vec<(i64, i64, String)> = copies::table
        .filter(copies::id.eq_any(taken.keys()))
        .select((copies::id, copies::part_id, copies::stage))
        .load(conn)?;
    for (copy, part, stage) in stages {
        if let Some(of_part) = counts.get_mut(&PartId(part)) {
            let of = &taken[&copy];
            of_part.add(Stage::try_from(stage)?, 0, of.cost - of.planned);
        }
    }
    for (part, (many, paid)) in miniatures::came(conn, id)? {
        counts.entry(part).or_default().add_came(many, paid);
    }
    for (part, beside) in charges::load(conn, id)?.beside {
        counts.entry(part).or_default().beside = beside;
    }
    Ok(counts)
}

/// A part that is printed from a sculpt.
#[derive(Debug, Clone, PartialEq)]
pub struct User {
    /// The model it belongs to.
    pub model: ModelId,
    /// Name of the model.
    pub model_name: String,
    /// Width of the base of the model, mm; 0 for none.
    pub base_mm: f64,
    /// The part.
    pub part: PartId,
    /// Name of the part.
    pub part_name: String,
    /// The resin of its recipe.
    pub resin: ResinId,
}

/// Sculpts that parts are printed from; what was taken away, or stands in something that was, does not count.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn sculpts_in_use(conn: &mut Conn) -> Result<HashSet<SculptId>, StoreError> {
    let ids: Vec<i64> = parts::table
        .inner_join(models::table.inner_join(units::table.inner_join(projects::table)))
        .filter(
            parts::sculpt_id
                .is_not_null()
                .and(parts::removed_at_ms.is_null())
                .and(models::removed_at_ms.is_null())
                .and(units::removed_at_ms.is_null())
                .and(projects::removed_at_ms.is_null()),
        )
        .select(parts::sculpt_id.assume_not_null())
        .distinct()
        .load(conn)?;
    Ok(ids.into_iter().map(SculptId).collect())
}

/// The parts that are printed from a sculpt, for its page; what was taken away, or stands in
/// something that was, does not count.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn users_of(conn: &mut Conn, sculpt: SculptId) -> Result<Vec<User>, StoreError> {
    type Row = (i64, String, f64, i64, String, i64);
    let rows: Vec<Row> = parts::table
        .inner_join(models::table.inner_join(units::table.inner_join(projects::table)))
        .filter(
            parts::sculpt_id
                .eq(sculpt.0)
                .and(parts::removed_at_ms.is_null())
                .and(models::removed_at_ms.is_null())
                .and(units::removed_at_ms.is_null())
                .and(projects::removed_at_ms.is_null()),
        )
        .order(parts::id)
        .select((
            models::id,
            models::name,
            models::base_width_mm,
            parts::id,
            parts::name,
            parts::recipe_id,
        ))
        .load(conn)?;
    let mut users = Vec::new();
    for (model, model_name, base_mm, part, part_name, recipe) in rows {
        users.push(User {
            model: ModelId(model),
            model_name,
            base_mm,
            part: PartId(part),
            part_name,
            resin: recipes::newest(conn, RecipeId(recipe))?.resin,
        });
    }
    Ok(users)
}
