//! What is to be ordered: bottles of the sizes that were bought before, with what they cost.

use std::collections::BTreeMap;

use super::bottle::Bottle;
use super::enough::Enough;
use crate::ids::ResinId;
use crate::units::Money;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::worth;

/// Some bottles of one size.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OfSize {
    /// What each holds, ml.
    pub size_ml: f64,
    /// How many.
    pub bottles: u64,
    /// What they cost together.
    pub cost: Money,
}

/// What is to be ordered of a resin.
#[derive(Debug, Clone, PartialEq)]
pub struct Order {
    /// Of which resin.
    pub resin: ResinId,
    /// What is short, ml.
    pub short_ml: f64,
    /// Ways to order it, the one that costs least first.
    pub ways: Vec<OfSize>,
}

/// A litre: the size of a resin that was never bought.
const LITRE_ML: f64 = 1000.0;

/// What is to be ordered for what is short: by every size of bottle that was bought of the resin, at the price
/// paid last for that size; of one that was never bought by the litre, at its price.
#[must_use]
pub fn orders(
    told: &Enough,
    bottles: &[Bottle],
    facts: impl Fn(ResinId) -> Option<ResinFacts>,
) -> Vec<Order> {
    let order = |(resin, short): (&ResinId, &f64)| {
        // By whole ml: sizes are that.
        let mut sizes: BTreeMap<u64, Money> = BTreeMap::new();
        let bought = bottles
            .iter()
            .filter(|b| b.resin == *resin && b.price.0 > 0);
        for bottle in bought {
            sizes.insert(bottle.size_ml.round() as u64, bottle.price);
        }
        if sizes.is_empty() {
            let litre = facts(*resin).map_or(Money(0), |f| worth(LITRE_ML, &f));
            sizes.insert(LITRE_ML as u64, litre);
        }
        let way = |(size, price): (u64, Money)| {
            let size_ml = size as f64;
            let bottles = told.bottles(*resin, size_ml);
            OfSize {
                size_ml,
                bottles,
                cost: Money(
                    price
                        .0
                        .saturating_mul(i64::try_from(bottles).unwrap_or(i64::MAX)),
                ),
            }
        };
        let mut ways: Vec<OfSize> = sizes.into_iter().map(way).collect();
        ways.sort_by_key(|w| (w.cost, w.bottles));
        Order {
            resin: *resin,
            short_ml: *short,
            ways,
        }
    };
    told.short.iter().map(order).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// 620 ml short: two of half a litre at 19.50, or one litre at 34.00, of which the litre costs less; the
    /// price paid last counts. A resin that was never bought is told by the litre.
    #[test]
    fn what_is_short_is_ordered_by_size() {
        let bottle = |resin, size_ml, price| Bottle {
            id: 1,
            resin: ResinId(resin),
            size_ml,
            price: Money(price),
            came_at_ms: 0,
            best_before_ms: None,
            empty_g: None,
        };
        let told = Enough {
            short: BTreeMap::from([(ResinId(1), 620.0), (ResinId(2), 20.0)]),
            ..Enough::default()
        };
        let bought = [
            bottle(1, 500.0, 1800),
            bottle(1, 1000.0, 3400),
            bottle(1, 500.0, 1950),
            bottle(1, 130.0, 0),
        ];
        let facts = ResinFacts {
            price_per_kg: Money(2500),
            density_g_per_ml: 1.1,
            ..ResinFacts::ASSUMED
        };
        let found = orders(&told, &bought, |_| Some(facts));
        let ways = |n: usize| -> Vec<(f64, u64, i64)> {
            let of = found[n].ways.iter();
            of.map(|w| (w.size_ml, w.bottles, w.cost.0)).collect()
        };
        assert_eq!(ways(0), [(1000.0, 1, 3400), (500.0, 2, 3900)]);
        assert_eq!(ways(1), [(1000.0, 1, 2750)]);
    }
}
