//! A whole project at one look: units, models, parts with their recipes and counted copies.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::army::demand::Need;
use wembrit_core::army::kit::{ChoiceFault, Overloaded, check_choice, check_load};
use wembrit_core::army::progress::{
    ChoiceState, KitState, ModelState, OptionState, PartState, Progress,
};
use wembrit_core::cost::{PartCost, one_model};
use wembrit_core::flow::{SculptState, Stage};
use wembrit_core::ids::{
    ModelId, OptionId, PartId, ProjectId, RecipeId, ResinId, SculptId, UnitId,
};
use wembrit_core::units::Money;

use super::{kits, muster, recipes};
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::{Choice, ChoiceOption, Model, Part, Piece, Project, RecipeVersion, Unit};
use crate::schema::{copies, models, parts, placements, projects, recipe_versions, sculpts, units};

/// Copies of one part by stage, and what they cost.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct StageCounts {
    by_stage: HashMap<Stage, u32>,
    /// Cost of every copy that was ever put on an accepted plate, released ones apart.
    pub spent: Money,
    /// Of this the copies that failed.
    pub lost: Money,
    /// Of this the copies set aside.
    pub surplus: Money,
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

/// A choice with its options, in its army.
#[derive(Debug, Clone, PartialEq)]
pub struct ArmyChoice {
    /// The choice.
    pub choice: Choice,
    /// Its options.
    pub options: Vec<ChoiceOption>,
}

/// A model in its army.
#[derive(Debug, Clone, PartialEq)]
pub struct ArmyModel {
    /// The model.
    pub model: Model,
    /// Its parts.
    pub parts: Vec<ArmyPart>,
    /// What it needs that is not printed.
    pub pieces: Vec<Piece>,
    /// Its choices.
    pub choices: Vec<ArmyChoice>,
    /// Its progress.
    pub progress: Progress,
}

impl ArmyModel {
    /// Models that take an option; all of them for none.
    #[must_use]
    pub fn takers(&self, option: Option<OptionId>) -> u32 {
        let Some(option) = option else {
            return number(self.model.quantity);
        };
        let all = self.choices.iter().flat_map(|c| &c.options);
        all.into_iter()
            .find(|o| o.id == option)
            .map_or(0, |o| number(o.models))
    }

    /// Everything it needs, counted.
    #[must_use]
    pub fn kit(&self) -> KitState {
        let part = |p: &ArmyPart| PartState {
            count: p.need.count,
            good: p.counts.of(Stage::Good),
            alive: p.need.alive,
            failed: p.counts.of(Stage::Failed),
            printed: true,
        };
        let piece = |p: &Piece| PartState {
            count: number(p.count),
            good: number(p.at_hand),
            alive: number(p.at_hand),
            failed: 0,
            printed: false,
        };
        let needed = |option: Option<OptionId>| {
            let parts = self
                .parts
                .iter()
                .filter(|p| p.part.option_id() == option)
                .map(part);
            let pieces = self
                .pieces
                .iter()
                .filter(|p| p.option_id() == option)
                .map(piece);
            parts.chain(pieces).collect::<Vec<_>>()
        };
        let choice = |c: &ArmyChoice| ChoiceState {
            may_go_without: c.choice.may_go_without(),
            options: c
                .options
                .iter()
                .map(|o| OptionState {
                    models: number(o.models),
                    parts: needed(Some(o.id)),
                })
                .collect(),
        };
        KitState {
            quantity: number(self.model.quantity),
            parts: needed(None),
            choices: self.choices.iter().map(choice).collect(),
        }
    }

    /// Choices whose options do not add up to the models wanted.
    #[must_use]
    pub fn choice_faults(&self) -> Vec<(&ArmyChoice, ChoiceFault)> {
        let check = |c: &ArmyChoice| {
            let models: Vec<u32> = c.options.iter().map(|o| number(o.models)).collect();
            check_choice(
                number(self.model.quantity),
                &models,
                c.choice.may_go_without(),
            )
            .err()
        };
        self.choices
            .iter()
            .filter_map(|c| Some((c, check(c)?)))
            .collect()
    }

    /// How its models stand, one by one.
    #[must_use]
    pub fn state(&self) -> ModelState {
        self.kit().state()
    }

    /// What one model costs: for each part the mean cost of its living copies, times its count;
    /// pieces at their own price. Parts of options count for the share of models that take them.
    /// Nothing until every part has been planned.
    #[must_use]
    pub fn cost_each(&self) -> Option<Money> {
        let share = |option| {
            f64::from(self.takers(option)) / f64::from(number(self.model.quantity)).max(1.0)
        };
        let part = |p: &ArmyPart| PartCost {
            per_model: f64::from(p.need.count) * share(p.part.option_id()),
            copies: u64::from(p.counts.alive()),
            cost: p.counts.spent - p.counts.lost - p.counts.surplus,
        };
        let piece = |p: &Piece| PartCost {
            per_model: p.count as f64 * share(p.option_id()),
            copies: 1,
            cost: p.cost_each(),
        };
        let all: Vec<PartCost> = self
            .parts
            .iter()
            .map(part)
            .chain(self.pieces.iter().map(piece))
            .collect();
        one_model(&all)
    }

    /// Everything spent on its copies.
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

fn number(n: i64) -> u32 {
    u32::try_from(n).unwrap_or(0)
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

    /// Models wanted in it.
    #[must_use]
    pub fn size(&self) -> u64 {
        self.models
            .iter()
            .map(|m| u64::from(number(m.model.quantity)))
            .sum()
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

    /// A unit that is larger than what carries it.
    #[must_use]
    pub fn overload(&self, unit: &ArmyUnit) -> Option<(&ArmyModel, Overloaded)> {
        let carrier = unit.unit.carrier_id()?;
        let carrier = self
            .units
            .iter()
            .flat_map(|u| &u.models)
            .find(|m| m.model.id == carrier)?;
        let each = u64::from(number(carrier.model.carries));
        let carriers = u64::from(number(carrier.model.quantity));
        Some((carrier, check_load(unit.size(), carriers, each).err()?))
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
    let mut kits = Kits::load(conn, id, &models_of)?;
    let units: Vec<ArmyUnit> = all_units
        .into_iter()
        .map(|unit| {
            let models: Vec<ArmyModel> = models_of
                .remove(&unit.id)
                .unwrap_or_default()
                .into_iter()
                .map(|model| kits.army_model(model))
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

/// What belongs to the models of a project, by model.
struct Kits {
    parts: HashMap<ModelId, Vec<LoosePart>>,
    pieces: HashMap<ModelId, Vec<Piece>>,
    choices: HashMap<ModelId, Vec<ArmyChoice>>,
}

impl Kits {
    fn load(
        conn: &mut Conn,
        project: ProjectId,
        models_of: &HashMap<UnitId, Vec<Model>>,
    ) -> Result<Self, StoreError> {
        let models: Vec<ModelId> = models_of.values().flatten().map(|m| m.id).collect();
        let mut pieces: HashMap<ModelId, Vec<Piece>> = HashMap::new();
        for piece in kits::pieces_of(conn, &models)? {
            pieces.entry(piece.model_id).or_default().push(piece);
        }
        let all = kits::choices_of(conn, &models)?;
        let mut options: HashMap<_, Vec<ChoiceOption>> = HashMap::new();
        for option in kits::options_of(conn, &all.iter().map(|c| c.id).collect::<Vec<_>>())? {
            options.entry(option.choice_id).or_default().push(option);
        }
        let mut choices: HashMap<ModelId, Vec<ArmyChoice>> = HashMap::new();
        for choice in all {
            let options = options.remove(&choice.id).unwrap_or_default();
            choices
                .entry(choice.model_id)
                .or_default()
                .push(ArmyChoice { choice, options });
        }
        Ok(Self {
            parts: parts_of(conn, project)?,
            pieces,
            choices,
        })
    }

    fn army_model(&mut self, model: Model) -> ArmyModel {
        let mut army = ArmyModel {
            parts: Vec::new(),
            pieces: self.pieces.remove(&model.id).unwrap_or_default(),
            choices: self.choices.remove(&model.id).unwrap_or_default(),
            progress: Progress::default(),
            model,
        };
        let loose = self.parts.remove(&army.model.id).unwrap_or_default();
        army.parts = loose
            .into_iter()
            .map(|(part, recipe, sculpt, counts)| {
                let need = Need {
                    quantity: army.takers(part.option_id()),
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
        army.progress = army.kit().progress();
        army
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
        match stage {
            Stage::Failed => entry.lost += cost,
            Stage::Surplus => entry.surplus += cost,
            _ => {}
        }
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
            resin: recipes::newest(conn, RecipeId(recipe))?.resin_id,
        });
    }
    Ok(users)
}
