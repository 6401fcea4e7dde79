//! What files cost, over the copies made of them.

use std::collections::BTreeMap;

use super::split;
use crate::ids::PartId;
use crate::units::Money;

/// A file, or a bundle of them, with its price, and the living copies made of it by part.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct FilePrice {
    /// What was paid.
    pub price: Money,
    /// Copies of each part that were made of it, or are planned.
    pub copies: BTreeMap<PartId, u64>,
}

impl FilePrice {
    /// What each part pays of these: evenly for every copy, to the minor unit. A file nobody prints waits to be paid.
    #[must_use]
    pub fn shares(files: &[Self]) -> BTreeMap<PartId, Money> {
        let mut all: BTreeMap<PartId, Money> = BTreeMap::new();
        for file in files.iter().filter(|f| f.copies.values().any(|n| *n > 0)) {
            let many: Vec<f64> = file.copies.values().map(|n| *n as f64).collect();
            for (part, share) in file.copies.keys().zip(split(file.price, &many)) {
                *all.entry(*part).or_default() += share;
            }
        }
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_paid_by_what_is_made_of_it() {
        let file = |price, copies: &[(i64, u64)]| FilePrice {
            price: Money(price),
            copies: copies.iter().map(|(p, n)| (PartId(*p), *n)).collect(),
        };
        let files = [
            file(1000, &[(1, 2), (2, 1)]),
            file(500, &[(2, 5)]),
            file(900, &[(3, 0)]),
        ];
        let shares = FilePrice::shares(&files);
        let of = |p: i64| shares.get(&PartId(p)).map(|m| m.0);
        assert_eq!([of(1), of(2), of(3)], [Some(667), Some(833), None]);
    }
}
