//! Miniatures: numbered models being built, each with the particular copies it keeps for itself.

use std::collections::BTreeMap;

use super::whole::ArmyModel;
use crate::ids::{ArrivalId, ChoiceId, CopyId, MiniatureId, ModelId, OptionId, PartId};
use crate::units::Money;
use crate::words::words;

words! {
    /// How far a maker is with a miniature; before it is built it is open, or complete.
    BuildStep, "step of a miniature" {
        /// Its pieces lie together, or some of them.
        Apart = "not built",
        /// Glued.
        Built = "built",
        /// Under its first coat.
        Primed = "primed",
        /// Painted.
        Painted = "painted",
        /// On its base: done.
        Based = "based",
    }
}

words! {
    /// How a copy came that no plate of this workshop printed.
    Arrived, "way to come" {
        /// For money.
        Bought = "bought",
        /// As a gift.
        Gifted = "gifted",
        /// On a printer that is not of this workshop.
        Elsewhere = "printed elsewhere",
    }
}

/// A good copy a miniature can keep: one that was printed here, or one that came.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Held {
    /// Printed here.
    Copy(CopyId),
    /// Came from elsewhere.
    Arrival(ArrivalId),
}

/// A copy with its number in the workshop.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct HeldCopy {
    /// Its mark.
    pub mark: i64,
    /// Its part.
    pub part: PartId,
    /// Which one.
    pub held: Held,
}

/// A model being built.
#[derive(Debug, Clone, PartialEq)]
pub struct Miniature {
    /// Which one.
    pub id: MiniatureId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Of which kind.
    pub model: ModelId,
    /// Its number among those of its kind.
    pub number: i64,
    /// How far it is.
    pub step: BuildStep,
    /// The options it takes.
    pub options: Vec<OptionId>,
    /// The good copies it keeps.
    pub keeps: Vec<HeldCopy>,
}

/// A copy that no plate of this workshop printed.
#[derive(Debug, Clone, PartialEq)]
pub struct Arrival {
    /// Which one.
    pub id: ArrivalId,
    /// Its mark.
    pub mark: i64,
    /// Its part.
    pub part: PartId,
    /// How it came.
    pub how: Arrived,
    /// What was paid for it.
    pub cost: Money,
    /// From whom, or whatever else is to be known.
    pub note: String,
    /// The miniature that keeps it.
    pub kept_by: Option<MiniatureId>,
}

/// Options a miniature takes, and the copies it is to keep besides those it has.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Put {
    /// Its options.
    pub options: Vec<OptionId>,
    /// Further copies.
    pub takes: Vec<HeldCopy>,
}

/// Good copies of a model's parts that no miniature keeps, those with the lowest mark first.
pub type Free = BTreeMap<PartId, Vec<HeldCopy>>;

impl Miniature {
    fn kept(&self, part: PartId) -> u32 {
        let of_part = self.keeps.iter().filter(|k| k.part == part);
        u32::try_from(of_part.count()).unwrap_or(u32::MAX)
    }

    fn takes(&self, option: Option<OptionId>) -> bool {
        option.is_none_or(|o| self.options.contains(&o))
    }

    /// Parts it lacks copies of, and how many.
    #[must_use]
    pub fn lacks(&self, model: &ArmyModel) -> Vec<(PartId, u32)> {
        let short = |p: &super::ArmyPart| {
            let short = p.part.count.saturating_sub(self.kept(p.part.id));
            (self.takes(p.part.option) && short > 0).then_some((p.part.id, short))
        };
        model.parts.iter().filter_map(short).collect()
    }

    /// Choices that are not made yet, though the model may not go without.
    #[must_use]
    pub fn undecided(&self, model: &ArmyModel) -> usize {
        let open = |c: &&super::ArmyChoice| {
            !c.choice.may_go_without && !c.options.iter().any(|o| self.options.contains(&o.id))
        };
        model.choices.iter().filter(open).count()
    }

    /// It has every piece, and an option of every choice.
    #[must_use]
    pub fn is_whole(&self, model: &ArmyModel) -> bool {
        self.lacks(model).is_empty() && self.undecided(model) == 0
    }
}

/// What is still to be given out of a model: copies, pieces from elsewhere, options.
struct Stock<'a> {
    model: &'a ArmyModel,
    free: Free,
    /// Pieces at hand, less those that are in miniatures.
    pieces: BTreeMap<i64, u32>,
    /// Models that take an option, less the miniatures that do.
    options: BTreeMap<OptionId, u32>,
    /// Models that go without an option of a choice, less the miniatures that do.
    without: BTreeMap<ChoiceId, u32>,
}

impl<'a> Stock<'a> {
    fn new(model: &'a ArmyModel, standing: &[Miniature], free: &Free) -> Self {
        let count = |holds: &dyn Fn(&Miniature) -> bool| {
            u32::try_from(standing.iter().filter(|m| holds(m)).count()).unwrap_or(u32::MAX)
        };
        let options = model.choices.iter().flat_map(|c| &c.options);
        let without = |c: &super::ArmyChoice| {
            let chosen: u32 = c.options.iter().map(|o| o.models).sum();
            let of_choice = |m: &Miniature| c.options.iter().any(|o| m.options.contains(&o.id));
            let used = count(&|m: &Miniature| !of_choice(m));
            let may = model.model.quantity.saturating_sub(chosen);
            let left = if c.choice.may_go_without {
                may.saturating_sub(used)
            } else {
                0
            };
            (c.choice.id, left)
        };
        Self {
            without: model.choices.iter().map(without).collect(),
            model,
            free: free.clone(),
            pieces: model
                .pieces
                .iter()
                .map(|p| {
                    let used = count(&|m: &Miniature| m.takes(p.option)).saturating_mul(p.count);
                    (p.id.0, p.at_hand.saturating_sub(used))
                })
                .collect(),
            options: options
                .map(|o| {
                    let used = count(&|m: &Miniature| m.options.contains(&o.id));
                    (o.id, o.models.saturating_sub(used))
                })
                .collect(),
        }
    }

    /// What is there of everything that goes with an option is enough for one.
    fn enough(&self, option: Option<OptionId>) -> bool {
        let parts = self.model.parts.iter().filter(|p| p.part.option == option);
        let pieces = self.model.pieces.iter().filter(|p| p.option == option);
        let free = |part: PartId| self.free.get(&part).map_or(0, Vec::len);
        parts
            .into_iter()
            .all(|p| free(p.part.id) >= p.part.count as usize)
            && pieces
                .into_iter()
                .all(|p| self.pieces.get(&p.id.0).copied().unwrap_or(0) >= p.count)
    }

    fn take(&mut self, part: PartId, most: u32, to: &mut Put) {
        let Some(free) = self.free.get_mut(&part) else {
            return;
        };
        let many = free.len().min(most as usize);
        to.takes.extend(free.drain(..many));
    }

    fn give(&mut self, options: Vec<OptionId>) -> Put {
        let mut put = Put::default();
        self.take_all_of(None, &mut put);
        for choice in &self.model.choices {
            let chosen = choice.options.iter().find(|o| options.contains(&o.id));
            match chosen {
                Some(option) => self.take_all_of(Some(option.id), &mut put),
                None => {
                    let left = self.without.entry(choice.choice.id).or_default();
                    *left = left.saturating_sub(1);
                }
            }
        }
        put.options = options;
        put
    }

    fn take_all_of(&mut self, option: Option<OptionId>, to: &mut Put) {
        for part in self.model.parts.iter().filter(|p| p.part.option == option) {
            self.take(part.part.id, part.part.count, to);
        }
        for piece in self.model.pieces.iter().filter(|p| p.option == option) {
            let left = self.pieces.entry(piece.id.0).or_default();
            *left = left.saturating_sub(piece.count);
        }
        if let Some(left) = option.and_then(|o| self.options.get_mut(&o)) {
            *left = left.saturating_sub(1);
        }
    }

    /// The option of each choice that a further miniature can have whole: of those that are left the one most models
    /// still wait for. Nothing where it cannot be complete.
    fn options_for_one(&self) -> Option<Vec<OptionId>> {
        let mut chosen = Vec::new();
        for choice in &self.model.choices {
            let left = |o: &&super::ChoiceOption| {
                self.options.get(&o.id).is_some_and(|n| *n > 0) && self.enough(Some(o.id))
            };
            let best = choice
                .options
                .iter()
                .filter(left)
                .max_by_key(|o| self.options[&o.id]);
            match best {
                Some(option) => chosen.push(option.id),
                None if self.without.get(&choice.choice.id).is_some_and(|n| *n > 0) => {}
                None => return None,
            }
        }
        Some(chosen)
    }
}

/// Gives the free copies out: first to miniatures that lack some, in the order of their numbers, then as many new
/// complete ones as are wanted and can be, `most` of them at most. What each that stands gets, by its id; and each
/// new one.
#[must_use]
pub fn put_together(
    model: &ArmyModel,
    standing: &[Miniature],
    free: &Free,
    most: u32,
) -> (Vec<(MiniatureId, Put)>, Vec<Put>) {
    let mut stock = Stock::new(model, standing, free);
    let mut filled = Vec::new();
    for miniature in standing {
        let mut put = Put::default();
        for (part, short) in miniature.lacks(model) {
            stock.take(part, short, &mut put);
        }
        if !put.takes.is_empty() {
            filled.push((miniature.id, put));
        }
    }
    let there = u32::try_from(standing.len()).unwrap_or(u32::MAX);
    let wanted = model.model.quantity.saturating_sub(there).min(most);
    let mut new = Vec::new();
    let has_needs = !model.parts.is_empty() || !model.pieces.is_empty();
    while has_needs && (new.len() as u64) < u64::from(wanted) && stock.enough(None) {
        let Some(options) = stock.options_for_one() else {
            break;
        };
        new.push(stock.give(options));
    }
    (filled, new)
}

/// Why a miniature does not go to a step.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BuildError {
    /// Pieces are missing.
    #[error("number {0} is not complete: what it lacks has to come first")]
    Lacks(i64),
}

/// A miniature may go to this step: back always, onward once it is complete.
///
/// # Errors
/// [`BuildError::Lacks`].
pub fn may_go_to(
    miniature: &Miniature,
    model: &ArmyModel,
    step: BuildStep,
) -> Result<(), BuildError> {
    if step > BuildStep::Apart && step > miniature.step && !miniature.is_whole(model) {
        return Err(BuildError::Lacks(miniature.number));
    }
    Ok(())
}

/// How many of a model's miniatures are at a step or beyond, with every piece.
#[must_use]
pub fn reached(standing: &[Miniature], model: &ArmyModel, step: BuildStep) -> usize {
    let there = standing.iter().filter(|m| m.step >= step);
    there.filter(|m| m.is_whole(model)).count()
}

/// What a miniature is called by how far it is: open and complete are told apart by what it keeps.
#[must_use]
pub fn state_of(miniature: &Miniature, model: &ArmyModel) -> &'static str {
    match (miniature.step, miniature.is_whole(model)) {
        (BuildStep::Apart, true) => "complete",
        (_, false) => "open",
        (step, _) => step.as_str(),
    }
}

#[cfg(test)]
#[path = "miniatures_tests.rs"]
mod tests;
