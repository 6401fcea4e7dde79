//! Demand is a number: what is wanted, less what is alive.

use crate::ids::{PartId, RecipeVersionId, SculptId};

/// What decides the demand for one part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Need {
    /// Copies of the model wanted.
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
