//! A whole project at one look: units, models, parts with their recipes and counted copies.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::cost::{PartCost, one_model};
use wembrit_core::demand::Need;
use wembrit_core::flow::{SculptState, Stage};
use wembrit_core::ids::{ModelId, PartId, ProjectId, RecipeId, SculptId, UnitId};
use wembrit_core::progress::{
    PartCount, PartStanding, Progress, Standing, model_progress, model_standing,
};
use wembrit_core::units::Money;

use super::muster;
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::{Model, Part, Project, RecipeVersion, Unit};
use crate::schema::{copies, models, parts, placements, recipe_versions, sculpts, units};

/// Copies of one part by stage, and what they cost.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct StageCounts {
    by_stage: HashMap<Stage, u32>,
    /// Cost of every copy that was ever put on an accepted plate, released ones apart.
    pub spent: Money,
    /// Of this the copies that failed.
    pub lost: Money,
}

impl StageCounts {
    /// Copies in a stage.
    #[must_use]
    pub fn of(&self, stage: Stage) -> u32 {
        self.by_stage.get(&stage).copied().unwrap_or(0)
    }

    /// Copies that count against demand.
    #[must_use]
    pub fn alive(&self) -> u32 {
        self.by_stage
            .iter()
            .filter(|(stage, _)| stage.is_alive())
            .map(|(_, n)| n)
            .sum()
    }
}

/// A part in its army.
#[derive(Debug, Clone, PartialEq)]
pub struct ArmyPart {
    /// The part.
    pub part: Part,
    /// The newest version of its recipe.
    pub recipe: RecipeVersion,
    /// Name and state of its sculpt.
    pub sculpt: Option<(String, SculptState)>,
    /// Its copies.
    pub counts: StageCounts,
    /// What it needs.
    pub need: Need,
}

/// A model in its army.
#[derive(Debug, Clone, PartialEq)]
pub struct ArmyModel {
    /// The model.
    pub model: Model,
    /// Its parts.
    pub parts: Vec<ArmyPart>,
    /// Its progress.
    pub progress: Progress,
}

impl ArmyModel {
    /// How its models stand, one by one.
    #[must_use]
    pub fn standing(&self) -> Standing {
        let part = |p: &ArmyPart| PartStanding {
            count: p.need.count,
            good: p.counts.of(Stage::Good),
            alive: p.need.alive,
            failed: p.counts.of(Stage::Failed),
        };
        let parts: Vec<PartStanding> = self.parts.iter().map(part).collect();
        model_standing(self.progress.models as u32, &parts)
    }

    /// What one model costs: for each part the mean cost of its living copies, times its count;
    /// nothing until every part has been planned.
    #[must_use]
    pub fn cost_each(&self) -> Option<Money> {
        let part = |p: &ArmyPart| PartCost {
            count: p.need.count,
            copies: u64::from(p.counts.alive()),
            cost: p.counts.spent - p.counts.lost,
        };
        one_model(&self.parts.iter().map(part).collect::<Vec<_>>())
    }

    /// Everything spent on it.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.parts.iter().map(|p| p.counts.spent).sum()
    }

    /// Of this, what failed copies cost.
    #[must_use]
    pub fn lost(&self) -> Money {
        self.parts.iter().map(|p| p.counts.lost).sum()
    }
}

/// A unit in its army.
#[derive(Debug, Clone, PartialEq)]
pub struct ArmyUnit {
    /// The unit.
    pub unit: Unit,
    /// Its models.
    pub models: Vec<ArmyModel>,
    /// Its progress.
    pub progress: Progress,
}

impl ArmyUnit {
    /// Everything spent on it.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.models.iter().map(ArmyModel::spent).sum()
    }

    /// Of this, what failed copies cost.
    #[must_use]
    pub fn lost(&self) -> Money {
        self.models.iter().map(ArmyModel::lost).sum()
    }
}

/// A project with everything in it.
#[derive(Debug, Clone, PartialEq)]
pub struct Army {
    /// The project.
    pub project: Project,
    /// Its units, most urgent first.
    pub units: Vec<ArmyUnit>,
    /// Its progress.
    pub progress: Progress,
}

impl Army {
    /// Every part of the army.
    pub fn parts(&self) -> impl Iterator<Item = (&ArmyUnit, &ArmyModel, &ArmyPart)> {
        self.units.iter().flat_map(|u| {
            u.models
                .iter()
                .flat_map(move |m| m.parts.iter().map(move |p| (u, m, p)))
        })
    }

    /// Everything spent on it.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.units.iter().map(ArmyUnit::spent).sum()
    }

    /// Of this, what failed copies cost.
    #[must_use]
    pub fn lost(&self) -> Money {
        self.units.iter().map(ArmyUnit::lost).sum()
    }
}

/// Loads a project with everything in it, in a handful of queries whatever its size.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn load(conn: &mut Conn, id: ProjectId) -> Result<Army, StoreError> {
    let project = muster::project(conn, id)?;
    let all_units: Vec<Unit> = units::table
        .filter(
            units::project_id
                .eq(id.0)
                .and(units::removed_at_ms.is_null()),
        )
        .order((units::priority, units::position, units::id))
        .select(Unit::as_select())
        .load(conn)?;
    let mut models_of: HashMap<UnitId, Vec<Model>> = HashMap::new();
    let all_models: Vec<Model> = models::table
        .inner_join(units::table)
        .filter(
            units::project_id
                .eq(id.0)
                .and(models::removed_at_ms.is_null()),
        )
        .order((models::position, models::id))
        .select(Model::as_select())
        .load(conn)?;
    for model in all_models {
        models_of.entry(model.unit_id).or_default().push(model);
    }
    let mut parts_of = parts_of(conn, id)?;
    let units: Vec<ArmyUnit> = all_units
        .into_iter()
        .map(|unit| {
            let models: Vec<ArmyModel> = models_of
                .remove(&unit.id)
                .unwrap_or_default()
                .into_iter()
                .map(|model| army_model(parts_of.remove(&model.id).unwrap_or_default(), model))
                .collect();
            let progress = models.iter().map(|m| m.progress).sum();
            ArmyUnit {
                unit,
                models,
                progress,
            }
        })
        .collect();
    let progress = units.iter().map(|u| u.progress).sum();
    Ok(Army {
        project,
        units,
        progress,
    })
}

type LoosePart = (
    Part,
    RecipeVersion,
    Option<(String, SculptState)>,
    StageCounts,
);

fn army_model(loose: Vec<LoosePart>, model: Model) -> ArmyModel {
    let number = |n: i64| u32::try_from(n).unwrap_or(0);
    let quantity = number(model.quantity);
    let parts: Vec<ArmyPart> = loose
        .into_iter()
        .map(|(part, recipe, sculpt, counts)| {
            let need = Need {
                quantity,
                count: number(part.count),
                spares: number(part.spares),
                alive: counts.alive(),
            };
            ArmyPart {
                part,
                recipe,
                sculpt,
                counts,
                need,
            }
        })
        .collect();
    let counted: Vec<PartCount> = parts
        .iter()
        .map(|p| PartCount {
            count: p.need.count,
            good: p.counts.of(Stage::Good),
        })
        .collect();
    ArmyModel {
        progress: model_progress(quantity, &counted),
        model,
        parts,
    }
}

fn parts_of(
    conn: &mut Conn,
    id: ProjectId,
) -> Result<HashMap<ModelId, Vec<LoosePart>>, StoreError> {
    let in_project = parts::table
        .inner_join(models::table.inner_join(units::table))
        .left_join(sculpts::table);
    let rows: Vec<(Part, Option<String>, Option<String>)> = in_project
        .filter(
            units::project_id
                .eq(id.0)
                .and(parts::removed_at_ms.is_null()),
        )
        .order((parts::position, parts::id))
        .select((
            Part::as_select(),
            sculpts::name.nullable(),
            sculpts::state.nullable(),
        ))
        .load(conn)?;
    let versions: Vec<RecipeVersion> = recipe_versions::table
        .inner_join(parts::table.on(parts::recipe_id.eq(recipe_versions::recipe_id)))
        .inner_join(models::table.on(models::id.eq(parts::model_id)))
        .inner_join(units::table.on(units::id.eq(models::unit_id)))
        .filter(units::project_id.eq(id.0))
        .order(recipe_versions::version)
        .select(RecipeVersion::as_select())
        .load(conn)?;
    let newest: HashMap<RecipeId, RecipeVersion> =
        versions.into_iter().map(|v| (v.recipe_id, v)).collect();
    let mut counts = copy_counts(conn, id)?;
    let mut parts_of: HashMap<ModelId, Vec<LoosePart>> = HashMap::new();
    for (part, sculpt, state) in rows {
        let recipe = newest.get(&part.recipe_id).cloned();
        let recipe =
            recipe.ok_or_else(|| StoreError::BadRow(format!("part {} has no recipe", part.id)))?;
        let state = state
            .map(SculptState::try_from)
            .transpose()
            .map_err(|e| StoreError::BadRow(e.to_string()))?;
        let counts = counts.remove(&part.id).unwrap_or_default();
        parts_of
            .entry(part.model_id)
            .or_default()
            .push((part, recipe, sculpt.zip(state), counts));
    }
    Ok(parts_of)
}

fn copy_counts(conn: &mut Conn, id: ProjectId) -> Result<HashMap<PartId, StageCounts>, StoreError> {
    use diesel::dsl::{count_star, sql};
    use diesel::sql_types::BigInt;
    type Counted = (i64, String, i64, i64);
    let rows: Vec<Counted> = copies::table
        .inner_join(placements::table.on(placements::copy_id.eq(copies::id.nullable())))
        .inner_join(parts::table.on(parts::id.eq(copies::part_id)))
        .inner_join(models::table.on(models::id.eq(parts::model_id)))
        .inner_join(units::table.on(units::id.eq(models::unit_id)))
        .filter(units::project_id.eq(id.0))
        .group_by((copies::part_id, copies::stage))
        .select((
            copies::part_id,
            copies::stage,
            count_star(),
            sql::<BigInt>("coalesce(sum(placements.cost_minor), 0)"),
        ))
        .load(conn)?;
    let mut counts: HashMap<PartId, StageCounts> = HashMap::new();
    for (part, stage, number, cost) in rows {
        let stage = Stage::try_from(stage).map_err(|e| StoreError::BadRow(e.to_string()))?;
        let cost = Money(cost);
        let entry = counts.entry(PartId(part)).or_default();
        *entry.by_stage.entry(stage).or_default() += u32::try_from(number).unwrap_or(u32::MAX);
        if stage != Stage::Released {
            entry.spent += cost;
        }
        if stage == Stage::Failed {
            entry.lost += cost;
        }
    }
    Ok(counts)
}

/// The parts that are printed from a sculpt, with their models, for its page.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn users_of(
    conn: &mut Conn,
    sculpt: SculptId,
) -> Result<Vec<(ModelId, String, PartId, String)>, StoreError> {
    let rows: Vec<(i64, String, i64, String)> = parts::table
        .inner_join(models::table)
        .filter(
            parts::sculpt_id
                .eq(sculpt.0)
                .and(parts::removed_at_ms.is_null()),
        )
        .order(parts::id)
        .select((models::id, models::name, parts::id, parts::name))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(m, model, p, part)| (ModelId(m), model, PartId(p), part))
        .collect())
}
