//! What nobody would miss where no spares were wanted.

use std::collections::BTreeMap;

use super::demand::Need;
use crate::ids::{PartId, PlateId};

/// Plates that hold nothing but spares, as many of them as could be left out together: what the
/// models take is alive elsewhere. Of two that cannot both go, the earlier in the list goes.
#[must_use]
pub fn only_spares(
    needs: &BTreeMap<PartId, Need>,
    plates: &[(PlateId, Vec<PartId>)],
) -> Vec<PlateId> {
    let over = |need: &Need| u64::from(need.alive).saturating_sub(need.required());
    let mut over: BTreeMap<PartId, u64> = needs.iter().map(|(p, n)| (*p, over(n))).collect();
    let mut spare = Vec::new();
    for (plate, parts) in plates.iter().filter(|(_, parts)| !parts.is_empty()) {
        let mut left = over.clone();
        let goes = parts.iter().all(|part| {
            let Some(of) = left.get_mut(part).filter(|n| **n > 0) else {
                return false;
            };
            *of -= 1;
            true
        });
        if goes {
            spare.push(*plate);
            over = left;
        }
    }
    spare
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Ten models and three spares, thirteen copies alive: of three plates with two copies of it
    /// each one can go. A plate with a copy that a model takes stays, however few it holds.
    #[rstest]
    #[case::one_of_three(13, "1 1, 1 1, 1 1", &[1])]
    #[case::two_of_three(14, "1 1, 1 1, 1 1", &[1, 2])]
    #[case::a_smaller_one_too(13, "1 1, 1 1, 1", &[1, 3])]
    #[case::none_is_over(10, "1, 1", &[])]
    #[case::with_something_wanted(13, "1 2, 2", &[])]
    #[case::unknown_and_empty(13, "7, ", &[])]
    fn what_nobody_would_miss(#[case] alive: u32, #[case] plates: &str, #[case] goes: &[i64]) {
        let need = |alive| Need {
            quantity: 10,
            count: 1,
            spares: 3,
            alive,
        };
        let needs = BTreeMap::from([(PartId(1), need(alive)), (PartId(2), need(10))]);
        let parts = |of: &str| {
            let ids = of.split_whitespace().map(|p| p.parse().expect("a number"));
            ids.map(PartId).collect()
        };
        let plates = plates.split(',').map(parts);
        let plates: Vec<_> = (1..).map(PlateId).zip(plates).collect();
        let goes: Vec<PlateId> = goes.iter().map(|id| PlateId(*id)).collect();
        assert_eq!(only_spares(&needs, &plates), goes);
    }
}
