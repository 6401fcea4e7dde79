//! Demand is a number: what is wanted, less what is alive.

use crate::ids::{PartId, RecipeVersionId, SculptId};

/// What decides the demand for one part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Need {
    /// Models that take the part: all that are wanted, or those with its option.
    pub quantity: u32,
    /// Copies of the part in each model.
    pub count: u32,
    /// Further copies against losses.
    pub spares: u32,
    /// Copies planned, printing, in finishing or good.
    pub alive: u32,
}

impl Need {
    /// Copies the models take, spares not counted.
    #[must_use]
    pub fn required(&self) -> u64 {
        u64::from(self.quantity) * u64::from(self.count)
    }

    /// Copies still to be planned: quantity × count + spares − alive, never below 0.
    #[must_use]
    pub fn wanted(&self) -> u64 {
        (self.required() + u64::from(self.spares)).saturating_sub(u64::from(self.alive))
    }

    /// Of [`Need::wanted`] what the models take, spares left out.
    #[must_use]
    pub fn wanted_by_models(&self) -> u64 {
        self.required().saturating_sub(u64::from(self.alive))
    }
}

/// What has to happen to good copies when what is wanted has changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Settling {
    /// Nothing.
    Rest,
    /// So many good copies are more than are wanted: they are set aside, none is lost.
    SetAside(u32),
    /// So many copies that were set aside are wanted after all.
    Recall(u32),
}

/// Settles the good copies of a part. Copies still on their way are left alone: some of them may
/// fail.
#[must_use]
pub fn settle(need: &Need, good: u32, surplus: u32) -> Settling {
    let most = need.required() + u64::from(need.spares);
    let over = u64::from(good).saturating_sub(most);
    let short = most.saturating_sub(u64::from(need.alive));
    let back = u64::from(surplus).min(short) as u32;
    if over > 0 {
        Settling::SetAside(over as u32)
    } else if back > 0 {
        Settling::Recall(back)
    } else {
        Settling::Rest
    }
}

/// One line of a demand: so many copies of a part, printed in this way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct DemandLine {
    /// The part.
    pub part: PartId,
    /// Its sculpt.
    pub sculpt: SculptId,
    /// The version of its recipe.
    pub recipe_version: RecipeVersionId,
    /// Copies wanted, at least 1.
    pub wanted: u64,
}

/// A short text that is equal exactly when the demand is, whatever its order. Plans keep it to
/// notice when they have become stale.
#[must_use]
pub fn fingerprint(lines: &[DemandLine]) -> String {
    let mut sorted = lines.to_vec();
    sorted.sort_unstable();
    let mut hasher = blake3::Hasher::new();
    for line in sorted {
        for number in [
            line.part.0,
            line.sculpt.0,
            line.recipe_version.0,
            line.wanted as i64,
        ] {
            hasher.update(&number.to_le_bytes());
        }
    }
    hasher.finalize().to_hex()[..32].to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing_yet(12, 2, 1, 0, 25)]
    #[case::a_failed_copy_is_not_alive(12, 1, 0, 11, 1)]
    #[case::all_there(12, 1, 0, 12, 0)]
    #[case::more_than_enough(4, 1, 0, 9, 0)]
    #[case::huge(u32::MAX, u32::MAX, 0, 0, u32::MAX as u64 * u32::MAX as u64)]
    fn wanted_is_what_is_not_alive(
        #[case] quantity: u32,
        #[case] count: u32,
        #[case] spares: u32,
        #[case] alive: u32,
        #[case] wanted: u64,
    ) {
        assert_eq!(
            Need {
                quantity,
                count,
                spares,
                alive
            }
            .wanted(),
            wanted
        );
    }

    /// Quantity, spares, alive, good, set aside.
    #[rstest]
    #[case::enough(12, 0, 12, 12, 0, Settling::Rest)]
    #[case::lowered(9, 0, 12, 12, 0, Settling::SetAside(3))]
    #[case::spares_stay(9, 2, 12, 12, 0, Settling::SetAside(1))]
    #[case::those_on_their_way_may_fail(9, 0, 12, 8, 0, Settling::Rest)]
    #[case::raised_again(12, 0, 9, 9, 3, Settling::Recall(3))]
    #[case::raised_a_little(10, 0, 9, 9, 3, Settling::Recall(1))]
    #[case::planned_already(12, 0, 12, 9, 3, Settling::Rest)]
    fn good_copies_are_set_aside_and_recalled(
        #[case] quantity: u32,
        #[case] spares: u32,
        #[case] alive: u32,
        #[case] good: u32,
        #[case] surplus: u32,
        #[case] expected: Settling,
    ) {
        let need = Need {
            quantity,
            count: 1,
            spares,
            alive,
        };
        assert_eq!(settle(&need, good, surplus), expected);
    }

    #[test]
    fn the_fingerprint_knows_order_from_change() {
        let line = |part, wanted| DemandLine {
            part: PartId(part),
            sculpt: SculptId(1),
            recipe_version: RecipeVersionId(1),
            wanted,
        };
        let one = fingerprint(&[line(1, 5), line(2, 7)]);
        assert_eq!(one, fingerprint(&[line(2, 7), line(1, 5)]));
        assert_ne!(one, fingerprint(&[line(1, 5), line(2, 6)]));
        assert_ne!(one, fingerprint(&[line(1, 5)]));
    }
}
