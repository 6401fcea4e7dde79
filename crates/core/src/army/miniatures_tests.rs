//! No copy is given twice, and as many are complete as the counts say.

use std::collections::BTreeSet;

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::army::kit::Source;
use crate::army::samples::{good, loose, model};
use crate::army::{ArmyChoice, Choice, ChoiceOption, Piece};
use crate::ids::{ChoiceId, PieceId};
use crate::units::Money;

const SPEAR: OptionId = OptionId(1);
const AXE: OptionId = OptionId(2);

/// A body, two arms, a spear or an axe; a magnet from elsewhere.
struct Kit {
    quantity: u32,
    spears: u32,
    axes: u32,
    may_go_without: bool,
    /// Good bodies, arms, spears, axes; magnets at hand.
    good: [u32; 5],
}

const PARTS: [(i64, u32, Option<OptionId>); 4] = [
    (1, 1, None),
    (2, 2, None),
    (3, 1, Some(SPEAR)),
    (4, 1, Some(AXE)),
];

impl Kit {
    fn model(&self) -> ArmyModel {
        let part = |((id, count, option), copies): (&(i64, u32, Option<OptionId>), u32)| {
            loose(*id, "a part", *count, *option, good(copies))
        };
        let option = |(id, models): (OptionId, u32)| ChoiceOption {
            id,
            choice: ChoiceId(1),
            name: "a weapon".into(),
            models,
        };
        ArmyModel::new(
            model(1, "Piker", self.quantity, 0),
            PARTS.iter().zip(self.good).map(part).collect(),
            vec![Piece {
                id: PieceId(1),
                row_version: 1,
                model: ModelId(1),
                option: None,
                name: "Magnet".into(),
                source: Source::Box,
                count: 1,
                at_hand: self.good[4],
                cost_each: Money(0),
                minutes_each: 0.0,
            }],
            vec![ArmyChoice {
                choice: Choice {
                    id: ChoiceId(1),
                    row_version: 1,
                    model: ModelId(1),
                    name: "Weapon".into(),
                    may_go_without: self.may_go_without,
                },
                options: [(SPEAR, self.spears), (AXE, self.axes)]
                    .map(option)
                    .to_vec(),
            }],
        )
    }

    /// Marks count up over all parts.
    fn free(&self) -> Free {
        let mut mark = 0;
        let mut of = |part: PartId, good: u32| {
            let copies = (0..good).map(|_| {
                mark += 1;
                HeldCopy {
                    mark,
                    part,
                    held: Held::Copy(CopyId(mark)),
                }
            });
            (part, copies.collect())
        };
        let parts = PARTS.iter().zip(self.good);
        parts.map(|((id, ..), n)| of(PartId(*id), n)).collect()
    }
}

fn built(put: Put, number: i64) -> Miniature {
    Miniature {
        id: MiniatureId(number),
        row_version: 1,
        model: ModelId(1),
        number,
        step: BuildStep::Apart,
        options: put.options,
        keeps: put.takes,
    }
}

/// By hand: five with spears, three with axes.
#[rstest]
#[case::all(8, [8, 16, 5, 3, 8], 8)]
#[case::the_arms_decide(8, [8, 13, 5, 3, 8], 6)]
#[case::so_do_the_axes(8, [8, 16, 5, 1, 8], 6)]
#[case::and_what_comes_from_elsewhere(8, [8, 16, 5, 3, 2], 2)]
#[case::no_more_than_asked(3, [8, 16, 5, 3, 8], 3)]
fn as_many_as_can_be(#[case] most: u32, #[case] good: [u32; 5], #[case] complete: usize) {
    let kit = Kit {
        quantity: 8,
        spears: 5,
        axes: 3,
        may_go_without: false,
        good,
    };
    let (filled, new) = put_together(&kit.model(), &[], &kit.free(), most);
    assert_eq!((filled.len(), new.len()), (0, complete));
}

/// One whose body failed is open again, keeps its other pieces, takes the next body before any new one is begun, and
/// is not built before.
#[test]
fn what_lacks_is_filled_first() {
    let kit = Kit {
        quantity: 8,
        spears: 5,
        axes: 3,
        may_go_without: false,
        good: [2, 4, 2, 0, 8],
    };
    let (model, free) = (kit.model(), kit.free());
    let (_, mut new) = put_together(&model, &[], &free, 1);
    let mut first = built(new.remove(0), 1);
    assert_eq!(state_of(&first, &model), "complete");
    assert_eq!(may_go_to(&first, &model, BuildStep::Primed), Ok(()));
    let lost = first.keeps.remove(0);
    assert_eq!(lost.part, PartId(1));
    assert_eq!(first.lacks(&model), vec![(PartId(1), 1)]);
    assert_eq!(state_of(&first, &model), "open");
    let painted = Miniature {
        step: BuildStep::Painted,
        ..first.clone()
    };
    assert_eq!(
        reached(&[painted], &model, BuildStep::Built),
        0,
        "it lacks a body"
    );
    assert_eq!(
        may_go_to(&first, &model, BuildStep::Built),
        Err(BuildError::Lacks(1))
    );
    // What the first one keeps is not free any more, and the lost body is gone.
    let left: Free = free
        .into_iter()
        .map(|(part, all)| {
            let free = all
                .into_iter()
                .filter(|c| *c != lost && !first.keeps.contains(c));
            (part, free.collect())
        })
        .collect();
    let (filled, new) = put_together(&model, &[first.clone()], &left, u32::MAX);
    assert_eq!(filled.len(), 1);
    assert_eq!(filled[0].1.takes[0].part, PartId(1));
    assert_eq!(new, vec![], "its body went to the first");
}

proptest! {
    /// No copy twice; as many complete ones as the counts say; in two rounds as in one.
    #[test]
    fn copies_are_given_once_and_counts_agree(
        quantity in 0u32..12,
        spears in 0u32..8,
        axes in 0u32..8,
        may_go_without: bool,
        good in prop::array::uniform5(0u32..20),
        first in 0u32..12,
    ) {
        let kit = Kit { quantity, spears: spears.min(quantity), axes: axes.min(quantity - spears.min(quantity)), may_go_without, good };
        let (model, free) = (kit.model(), kit.free());
        let (_, one) = put_together(&model, &[], &free, first);
        let standing: Vec<Miniature> = (1..).zip(one).map(|(n, put)| built(put, n)).collect();
        let kept: BTreeSet<HeldCopy> = standing.iter().flat_map(|m| m.keeps.clone()).collect();
        let left: Free = free.into_iter().map(|(part, all)| (part, all.into_iter().filter(|c| !kept.contains(c)).collect())).collect();
        let (filled, two) = put_together(&model, &standing, &left, u32::MAX);
        prop_assert!(filled.is_empty());
        let all: Vec<Miniature> = standing.iter().cloned().chain((100..).zip(two).map(|(n, put)| built(put, n))).collect();
        let keeps: Vec<HeldCopy> = all.iter().flat_map(|m| m.keeps.clone()).collect();
        let once: BTreeSet<HeldCopy> = keeps.iter().copied().collect();
        prop_assert_eq!(once.len(), keeps.len(), "a copy is given twice");
        prop_assert_eq!(all.len() as u64, model.progress.complete);
        for miniature in &all {
            prop_assert_eq!(state_of(miniature, &model), "complete");
        }
    }
}
