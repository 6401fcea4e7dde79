//! Who pays for copies that failed.

use std::collections::BTreeMap;

use super::split;
use crate::ids::{CopyId, PartId, PlateId};
use crate::units::Money;

/// A printed copy, as far as it is charged for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Charged {
    /// Which one.
    pub copy: CopyId,
    /// Of this part.
    pub part: PartId,
    /// From this plate.
    pub plate: PlateId,
    /// What it cost.
    pub cost: Money,
    /// It failed.
    pub failed: bool,
}

/// Who pays for what failed.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Charges {
    /// What each copy that did not fail is charged with.
    pub to: BTreeMap<CopyId, Money>,
    /// What no copy is left to pay for, plate by plate: the project's loss.
    pub lost: BTreeMap<PlateId, Money>,
}

impl Charges {
    /// Plate by plate: what failed of a part is charged evenly to those of the part that did not fail there; where
    /// none is left, to all that did not fail on the plate; where none is left, it is lost. A plate that was
    /// judged is so settled by itself, and nothing moves it later. To the minor unit, in the order of `copies`.
    #[must_use]
    pub fn of(copies: &[Charged]) -> Self {
        let mut plates: BTreeMap<PlateId, Vec<&Charged>> = BTreeMap::new();
        for copy in copies {
            plates.entry(copy.plate).or_default().push(copy);
        }
        let mut charges = Self::default();
        for (plate, on_it) in plates {
            let mut failed: BTreeMap<PartId, Money> = BTreeMap::new();
            for copy in on_it.iter().filter(|c| c.failed) {
                *failed.entry(copy.part).or_default() += copy.cost;
            }
            let held: Vec<&Charged> = on_it.into_iter().filter(|c| !c.failed).collect();
            let mut rest = Money(0);
            for (part, amount) in failed {
                let same: Vec<&Charged> = held.iter().copied().filter(|c| c.part == part).collect();
                if same.is_empty() {
                    rest += amount;
                } else {
                    charges.share(amount, &same);
                }
            }
            if held.is_empty() && rest != Money(0) {
                charges.lost.insert(plate, rest);
            } else {
                charges.share(rest, &held);
            }
        }
        charges
    }

    fn share(&mut self, amount: Money, among: &[&Charged]) {
        if amount == Money(0) {
            return;
        }
        let evenly = vec![1.0; among.len()];
        for (copy, share) in among.iter().zip(split(amount, &evenly)) {
            *self.to.entry(copy.copy).or_default() += share;
        }
    }

    /// What a copy is charged with.
    #[must_use]
    pub fn to(&self, copy: CopyId) -> Money {
        self.to.get(&copy).copied().unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn copy(id: i64, part: i64, plate: i64, cost: i64, failed: bool) -> Charged {
        Charged {
            copy: CopyId(id),
            part: PartId(part),
            plate: PlateId(plate),
            cost: Money(cost),
            failed,
        }
    }

    /// The worked figures of the design: copies 2 and 7 of seven failed, 379 go as 76 four times and 75.
    #[test]
    fn good_copies_of_the_part_pay() {
        let costs = [192, 191, 191, 191, 191, 189, 188];
        let copies: Vec<Charged> = (1..)
            .zip(costs)
            .map(|(id, cost)| copy(id, 1, 1, cost, id == 2 || id == 7))
            .collect();
        let charges = Charges::of(&copies);
        let to: Vec<i64> = charges.to.values().map(|m| m.0).collect();
        assert_eq!(to, [76, 76, 76, 76, 75]);
        assert_eq!(charges.to(CopyId(2)), Money(0));
        assert!(charges.lost.is_empty());
    }

    #[rstest]
    // The only arm failed: the two heads of the plate pay.
    #[case(&[(1, 1, true), (2, 2, false), (3, 2, false)], &[0, 51, 50], 0)]
    // A head failed too: the other pays for it, and half of the arm is nobody else's.
    #[case(&[(1, 1, true), (2, 2, true), (3, 2, false)], &[0, 0, 203], 0)]
    #[case(&[(1, 1, true), (2, 2, true), (3, 2, true)], &[0, 0, 0], 306)]
    fn else_the_plate_else_the_project(
        #[case] copies: &[(i64, i64, bool)],
        #[case] to: &[i64],
        #[case] lost: i64,
    ) {
        let all: Vec<Charged> = copies
            .iter()
            .map(|(id, part, failed)| copy(*id, *part, 1, 100 + id, *failed))
            .collect();
        let charges = Charges::of(&all);
        let charged: Vec<i64> = all.iter().map(|c| charges.to(c.copy).0).collect();
        assert_eq!(charged, to);
        assert_eq!(charges.lost.values().map(|m| m.0).sum::<i64>(), lost);
    }

    proptest! {
        /// Whatever fails: what all copies cost is what those that held cost with their charges, and what is lost;
        /// nothing is negative, and what failed pays nothing.
        #[test]
        fn nothing_is_lost(many in proptest::collection::vec((0..4_i64, 0..3_i64, 0..900_i64, any::<bool>()), 0..40)) {
            let copies: Vec<Charged> = (0..).zip(&many).map(|(id, (part, plate, cost, failed))| copy(id, *part, *plate, *cost, *failed)).collect();
            let charges = Charges::of(&copies);
            let all: Money = copies.iter().map(|c| c.cost).sum();
            let held: Money = copies.iter().filter(|c| !c.failed).map(|c| c.cost + charges.to(c.copy)).sum();
            prop_assert_eq!(held + charges.lost.values().copied().sum(), all);
            prop_assert!(charges.to.values().all(|m| m.0 >= 0));
            prop_assert!(copies.iter().filter(|c| c.failed).all(|c| charges.to(c.copy) == Money(0)));
        }
    }
}
