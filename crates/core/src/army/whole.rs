//! A whole project at one look: units, models, parts with their recipes and counted copies.

use std::collections::BTreeMap;

use super::demand::Need;
use super::kit::{ChoiceFault, Overloaded, check_choice, check_load};
use super::money::ProjectMoney;
use super::nouns::{Choice, ChoiceOption, Model, Part, Piece, Project, Unit};
use super::progress::{ChoiceState, KitState, ModelState, OptionState, PartState, Progress};
use crate::cost_parts::{CostKind, CostParts};
use crate::flow::{SculptState, Stage};
use crate::ids::{ModelId, OptionId, PartId, SculptId};
use crate::layers::HeightProfile;
use crate::recipe::RecipeVersion;
use crate::units::Money;

/// Copies of one part by stage, and what they cost.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct StageCounts {
    by_stage: BTreeMap<Stage, u32>,
    /// Cost of every copy that came off its printer, or failed on it.
    pub spent: Money,
    /// Cost of copies that are printing now.
    pub running: Money,
    /// Cost of copies on accepted plates that nobody has started.
    pub committed: Money,
    /// Of what is spent the copies that failed.
    pub failed: Money,
    /// Of this the copies set aside.
    pub surplus: Money,
    /// Good copies that came from elsewhere; they are among the good ones.
    pub came: u32,
    /// What the living ones cost, by component.
    pub living: CostParts,
    /// What is on them besides: their share of copies that failed, of files, and what was mended.
    pub beside: CostParts,
}

impl StageCounts {
    /// Counts some copies of one stage, with what they cost together.
    pub fn add(&mut self, stage: Stage, copies: u32, parts: CostParts) {
        *self.by_stage.entry(stage).or_default() += copies;
        let cost = parts.total();
        if stage.is_alive() {
            self.living = self.living + parts;
        }
        match stage {
            Stage::Released => return,
            Stage::Planned => {
                self.committed += cost;
                return;
            }
            Stage::Printing => {
                self.running += cost;
                return;
            }
            Stage::Failed => self.failed += cost,
            Stage::Surplus => self.surplus += cost,
            Stage::InFinishing | Stage::Good => {}
        }
        self.spent += cost;
    }

    /// Counts good copies that came from elsewhere, with what was paid for them.
    pub fn add_came(&mut self, copies: u32, paid: Money) {
        self.came += copies;
        self.add(Stage::Good, copies, CostParts::of(CostKind::Bought, paid));
    }

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

/// A part before it is known what its model needs of it.
#[derive(Debug, Clone, PartialEq)]
pub struct LoosePart {
    /// The part.
    pub part: Part,
    /// The newest version of its recipe.
    pub recipe: RecipeVersion,
    /// Name and state of its sculpt.
    pub sculpt: Option<(String, SculptState)>,
    /// Its copies.
    pub counts: StageCounts,
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
    /// A model with what belongs to it: each part gets what it needs by those who take it.
    #[must_use]
    pub fn new(
        model: Model,
        parts: Vec<LoosePart>,
        pieces: Vec<Piece>,
        choices: Vec<ArmyChoice>,
    ) -> Self {
        let mut army = Self {
            model,
            parts: Vec::new(),
            pieces,
            choices,
            progress: Progress::default(),
        };
        army.parts = parts
            .into_iter()
            .map(|p| ArmyPart {
                need: Need {
                    quantity: army.takers(p.part.option),
                    count: p.part.count,
                    spares: p.part.spares,
                    alive: p.counts.alive(),
                },
                part: p.part,
                recipe: p.recipe,
                sculpt: p.sculpt,
                counts: p.counts,
            })
            .collect();
        army.progress = army.kit().progress();
        army
    }

    /// Models that take an option; all of them for none.
    #[must_use]
    pub fn takers(&self, option: Option<OptionId>) -> u32 {
        let Some(option) = option else {
            return self.model.quantity;
        };
        let all = self.choices.iter().flat_map(|c| &c.options);
        all.into_iter()
            .find(|o| o.id == option)
            .map_or(0, |o| o.models)
    }

    /// Everything it needs, counted.
    #[must_use]
    pub fn kit(&self) -> KitState {
        self.kit_with(&BTreeMap::new())
    }

    /// The same if further copies came out good.
    #[must_use]
    pub fn kit_with(&self, more: &BTreeMap<PartId, u32>) -> KitState {
        let further = |p: &ArmyPart| more.get(&p.part.id).copied().unwrap_or(0);
        let part = |p: &ArmyPart| PartState {
            count: p.need.count,
            good: p.counts.of(Stage::Good) + further(p),
            alive: p.need.alive + further(p),
            failed: p.counts.of(Stage::Failed),
            printed: true,
        };
        let piece = |p: &Piece| PartState {
            count: p.count,
            good: p.at_hand,
            alive: p.at_hand,
            failed: 0,
            printed: false,
        };
        let needed = |option: Option<OptionId>| {
            let parts = self
                .parts
                .iter()
                .filter(|p| p.part.option == option)
                .map(part);
            let pieces = self.pieces.iter().filter(|p| p.option == option).map(piece);
            parts.chain(pieces).collect::<Vec<_>>()
        };
        let choice = |c: &ArmyChoice| ChoiceState {
            may_go_without: c.choice.may_go_without,
            options: c
                .options
                .iter()
                .map(|o| OptionState {
                    models: o.models,
                    parts: needed(Some(o.id)),
                })
                .collect(),
        };
        KitState {
            quantity: self.model.quantity,
            parts: needed(None),
            choices: self.choices.iter().map(choice).collect(),
        }
    }

    /// Choices whose options do not add up to the models wanted.
    #[must_use]
    pub fn choice_faults(&self) -> Vec<(&ArmyChoice, ChoiceFault)> {
        let check = |c: &ArmyChoice| {
            let models: Vec<u32> = c.options.iter().map(|o| o.models).collect();
            check_choice(self.model.quantity, &models, c.choice.may_go_without).err()
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

    /// Everything spent on its copies.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.parts.iter().map(|p| p.counts.spent).sum()
    }

    /// What its copies on accepted plates will cost that nobody has started.
    #[must_use]
    pub fn committed(&self) -> Money {
        self.parts.iter().map(|p| p.counts.committed).sum()
    }

    /// Of this, what failed copies cost.
    #[must_use]
    pub fn failed_cost(&self) -> Money {
        self.parts.iter().map(|p| p.counts.failed).sum()
    }

    /// The profile its figure is drawn by: of the parts it takes, the one that shows most from the front at print
    /// scale, as a model is told from afar by its body and not by an arm.
    pub fn told_by<'a>(
        &self,
        profile: impl Fn(SculptId) -> Option<&'a HeightProfile>,
    ) -> Option<&'a HeightProfile> {
        let seen = self.parts.iter().filter_map(|p| {
            let profile = profile(p.part.sculpt?)?;
            let front = profile.front_mm2() * p.recipe.scale.powi(2);
            Some((p.need.quantity > 0, front, profile))
        });
        let most = seen.max_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)));
        most.map(|(_, _, profile)| profile)
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
    pub fn failed_cost(&self) -> Money {
        self.models.iter().map(ArmyModel::failed_cost).sum()
    }

    /// Models wanted in it.
    #[must_use]
    pub fn size(&self) -> u64 {
        self.models
            .iter()
            .map(|m| u64::from(m.model.quantity))
            .sum()
    }
}

/// What a person calls a part: its model and its name.
#[must_use]
pub fn part_name(model: &str, part: &str) -> String {
    format!("{model}, {}", part.to_lowercase())
}

/// What a person calls a copy: its part, and its mark once it has one.
#[must_use]
pub fn copy_name(part: &str, mark: Option<i64>) -> String {
    mark.map_or_else(|| part.to_owned(), |mark| format!("{part}, mark {mark}"))
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
    /// What it has cost so far.
    pub money: ProjectMoney,
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

    /// What a person calls a part of it: its model and its name.
    #[must_use]
    pub fn part_name(&self, part: PartId) -> String {
        let found = self.parts().find(|(_, _, p)| p.part.id == part);
        found.map_or_else(
            || "a part".to_owned(),
            |(_, m, p)| part_name(&m.model.name, &p.part.name),
        )
    }

    /// One of its models, with its unit.
    #[must_use]
    pub fn model(&self, id: ModelId) -> Option<(&ArmyUnit, &ArmyModel)> {
        let all = self.units.iter();
        all.flat_map(|u| u.models.iter().map(move |m| (u, m)))
            .find(|(_, m)| m.model.id == id)
    }

    /// A unit that is larger than what carries it.
    #[must_use]
    pub fn overload(&self, unit: &ArmyUnit) -> Option<(&ArmyModel, Overloaded)> {
        let carrier = unit.unit.carrier?;
        let carrier = self
            .units
            .iter()
            .flat_map(|u| &u.models)
            .find(|m| m.model.id == carrier)?;
        let each = u64::from(carrier.model.carries);
        let carriers = u64::from(carrier.model.quantity);
        Some((carrier, check_load(unit.size(), carriers, each).err()?))
    }

    /// Everything spent on it.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.money.spent()
    }

    /// Of what is spent that which stands on none of its copies: spoilt vats, and runs whose plates
    /// wait to be printed again.
    #[must_use]
    pub fn spent_beside_copies(&self) -> Money {
        self.spent() - self.units.iter().map(ArmyUnit::spent).sum::<Money>()
    }

    /// What accepted plates will cost that nobody has started.
    #[must_use]
    pub fn committed(&self) -> Money {
        let models = self.units.iter().flat_map(|u| &u.models);
        models.map(ArmyModel::committed).sum()
    }

    /// Of this, what failed copies cost.
    #[must_use]
    pub fn failed_cost(&self) -> Money {
        self.units.iter().map(ArmyUnit::failed_cost).sum()
    }
}

#[cfg(test)]
#[path = "whole_tests.rs"]
mod tests;
