//! What a model costs: the mean of its copies, mixed as its options are taken.

use std::collections::BTreeMap;

use super::split;
use crate::army::{Army, ArmyModel, ArmyPart, Piece};
use crate::cost_parts::{CostKind, CostParts};
use crate::ids::{ModelId, PartId, UnitId};
use crate::units::Money;

/// Copies of one part of a model, and what they cost together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PartCost {
    /// Copies of the part in each model; for a part of an option the mean over all models.
    pub per_model: f64,
    /// Copies that were counted.
    pub copies: u64,
    /// What these cost.
    pub cost: Money,
}

/// What one model costs: for each part the mean of its copies, times its count; nothing while a
/// part has no copies, or when there are no parts.
#[must_use]
pub fn one_model(parts: &[PartCost]) -> Option<Money> {
    let used: Vec<&PartCost> = parts.iter().filter(|p| p.per_model > 0.0).collect();
    let each =
        |p: &&PartCost| (p.copies > 0).then(|| p.cost.0 as f64 / p.copies as f64 * p.per_model);
    let minor: Option<Vec<f64>> = used.iter().map(each).collect();
    minor
        .filter(|all| !all.is_empty())
        .map(|all| Money::from_minor_f64(all.iter().sum()))
}

/// Copies of a part or piece in each model, where only some models take it: the mean over all of
/// them.
#[must_use]
pub fn per_model(count: u32, takers: u32, models: u32) -> f64 {
    f64::from(count) * f64::from(takers) / f64::from(models.max(1))
}

/// What one of some copies costs in the mean; nothing where there are none.
#[must_use]
pub fn mean(cost: Money, copies: u64) -> Option<Money> {
    (copies > 0).then(|| Money::from_minor_f64(cost.0 as f64 / copies as f64))
}

/// What one model costs, opened by part and component: the cells add up to it to the minor unit.
#[derive(Debug, Clone, PartialEq)]
pub struct ModelOpened {
    /// What one costs.
    pub each: Money,
    /// Its parts: name, copies in each model, copies that were counted, what they come to.
    pub parts: Vec<OpenedPart>,
}

impl ModelOpened {
    fn files(&self) -> Money {
        self.parts.iter().map(|p| p.cost.get(CostKind::Files)).sum()
    }

    /// What each costs but for its files, which are paid once.
    #[must_use]
    pub fn without_files(&self) -> Money {
        self.each - self.files()
    }

    /// What the files of so many cost together.
    #[must_use]
    pub fn files_of(&self, models: u32) -> Money {
        Money(self.files().0 * i64::from(models))
    }
}

/// A part of an opened model.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenedPart {
    /// Its name.
    pub name: String,
    /// Copies of it in each model, in the mean.
    pub per_model: f64,
    /// Living copies that were counted.
    pub copies: u64,
    /// What they come to in one model.
    pub cost: CostParts,
}

/// What one model of an army costs: for each part the mean of its living copies with their share of copies that
/// failed, of files and mends, pieces at their own price. Nothing until every part has been planned.
#[must_use]
pub fn model_cost(model: &ArmyModel) -> Option<ModelOpened> {
    let part = |p: &ArmyPart| {
        let of = PartCost {
            per_model: per_model(p.need.count, p.need.quantity, model.model.quantity),
            copies: u64::from(p.counts.alive()),
            cost: (p.counts.living + p.counts.beside).total(),
        };
        (of, p.part.name.clone(), p.counts.living + p.counts.beside)
    };
    let piece = |p: &Piece| {
        let of = PartCost {
            per_model: per_model(p.count, model.takers(p.option), model.model.quantity),
            copies: 1,
            cost: p.cost_each,
        };
        (
            of,
            p.name.clone(),
            CostParts::of(CostKind::Bought, p.cost_each),
        )
    };
    let parts = model.parts.iter().map(part);
    let mut all: Vec<_> = parts.chain(model.pieces.iter().map(piece)).collect();
    let each = one_model(&all.iter().map(|(of, ..)| *of).collect::<Vec<_>>())?;
    all.retain(|(of, ..)| of.per_model > 0.0);
    let cells: Vec<f64> = all
        .iter()
        .flat_map(|(of, _, cost)| {
            let times = of.per_model / of.copies.max(1) as f64;
            CostKind::ALL
                .iter()
                .map(move |k| cost.get(*k).0 as f64 * times)
        })
        .collect();
    let split = split(each, &cells);
    let opened = all.into_iter().zip(split.chunks(CostKind::ALL.len()));
    let parts = opened.map(|((of, name, _), cells)| OpenedPart {
        name,
        per_model: of.per_model,
        copies: of.copies,
        cost: CostKind::ALL
            .iter()
            .zip(cells)
            .fold(CostParts::default(), |sum, (k, m)| sum.with(*k, *m)),
    });
    Some(ModelOpened {
        each,
        parts: parts.collect(),
    })
}

/// What one model of an army costs, see [`model_cost`].
#[must_use]
pub fn cost_each(model: &ArmyModel) -> Option<Money> {
    model_cost(model).map(|m| m.each)
}

/// What one model has on some plates.
#[derive(Debug, Clone, PartialEq)]
pub struct ModelCost {
    /// Its unit.
    pub unit: (UnitId, String),
    /// The model.
    pub model: (ModelId, String),
    /// Its copies on these plates.
    pub copies: u64,
    /// Resin they take, waste included, ml.
    pub ml: f64,
    /// What they cost.
    pub cost: Money,
    /// What the printed parts of one model of the kind cost; nothing when not all of them are on
    /// these plates.
    pub each: Option<Money>,
}

/// Copies of one part on some plates, summed.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct CopySums {
    /// Copies.
    pub copies: u64,
    /// Resin they take, waste included, ml.
    pub ml: f64,
    /// What they cost.
    pub cost: Money,
}

/// The copies on some plates by part, summed by model, in the army's order.
#[must_use]
pub fn by_model(army: &Army, by_part: &BTreeMap<PartId, CopySums>) -> Vec<ModelCost> {
    let mut all = Vec::new();
    for (unit, model) in army
        .units
        .iter()
        .flat_map(|u| u.models.iter().map(move |m| (u, m)))
    {
        let on_it = |p: &ArmyPart| by_part.get(&p.part.id).copied().unwrap_or_default();
        let sums: Vec<CopySums> = model.parts.iter().map(on_it).collect();
        let parts: Vec<PartCost> = model
            .parts
            .iter()
            .zip(&sums)
            .map(|(p, sums)| PartCost {
                per_model: per_model(p.need.count, p.need.quantity, model.model.quantity),
                copies: sums.copies,
                cost: sums.cost,
            })
            .collect();
        let copies = sums.iter().map(|s| s.copies).sum();
        if copies > 0 {
            all.push(ModelCost {
                unit: (unit.unit.id, unit.unit.name.clone()),
                model: (model.model.id, model.model.name.clone()),
                copies,
                ml: sums.iter().map(|s| s.ml).sum(),
                cost: sums.iter().map(|s| s.cost).sum(),
                each: one_model(&parts),
            });
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::two_arms_and_a_body(&[(2.0, 24, 480), (1.0, 12, 900)], Some(115))]
    #[case::three_of_five_have_a_spear(&[(0.6, 3, 300), (1.0, 5, 500)], Some(160))]
    #[case::an_option_nobody_takes(&[(0.0, 0, 0), (1.0, 5, 500)], Some(100))]
    #[case::a_part_without_copies(&[(2.0, 24, 480), (1.0, 0, 0)], None)]
    #[case::no_parts(&[], None)]
    fn a_model_costs_what_its_pieces_cost(
        #[case] parts: &[(f64, u64, i64)],
        #[case] each: Option<i64>,
    ) {
        let part = |(per_model, copies, cost): &(f64, u64, i64)| PartCost {
            per_model: *per_model,
            copies: *copies,
            cost: Money(*cost),
        };
        let parts: Vec<PartCost> = parts.iter().map(part).collect();
        assert_eq!(one_model(&parts), each.map(Money));
    }

    #[rstest]
    #[case::every_model(1, 5, 5, 1.0)]
    #[case::three_of_five(2, 3, 5, 1.2)]
    #[case::nobody(2, 0, 5, 0.0)]
    #[case::no_models(2, 0, 0, 0.0)]
    fn an_option_counts_for_those_who_take_it(
        #[case] count: u32,
        #[case] takers: u32,
        #[case] models: u32,
        #[case] each: f64,
    ) {
        assert!((per_model(count, takers, models) - each).abs() < 1e-12);
    }
}
