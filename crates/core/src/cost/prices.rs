//! What to ask for a model, and whether making it pays.

use crate::units::Money;

/// The price at which so much of it is left after the cost: a margin is a share of the price, a mark-up one of the
/// cost (any book on pricing). Nothing for a margin of everything or less than nothing.
#[must_use]
pub fn price_for_margin(cost_minor: f64, margin: f64) -> Option<Money> {
    ((0.0..1.0).contains(&margin) && cost_minor >= 0.0)
        .then(|| Money::from_minor_f64(cost_minor / (1.0 - margin)))
}

/// What a mark-up of the same share would ask: less.
#[must_use]
pub fn price_by_mark_up(cost_minor: f64, share: f64) -> Money {
    Money::from_minor_f64(cost_minor * (1.0 + share))
}

/// What somebody else asks: for each, and at least for an order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Offer {
    /// For each.
    pub each: Money,
    /// The smallest order.
    pub least: Money,
}

/// From how many on making pays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pays {
    /// From so many on, however many; 1 for always.
    From(u64),
    /// Only up to so many, while their smallest order is dearer.
    UpTo(u64),
    /// Never.
    Never,
}

/// More models than that nobody makes.
const MOST: u64 = 1_000_000;

/// Whether making so pays against an offer: `own_minor` for each, and `fixed` once, for files and the like.
#[must_use]
pub fn pays(own_minor: f64, fixed: Money, offer: Offer) -> Pays {
    let (each, least) = (offer.each.0 as f64, offer.least.0 as f64);
    let own = |n: u64| fixed.0 as f64 + n as f64 * own_minor;
    let theirs = |n: u64| (n as f64 * each).max(least);
    let cheaper = |n: u64| own(n) <= theirs(n) + 1e-9;
    if own_minor < each {
        // Once theirs is by the piece, the difference only grows.
        let by_piece = (least / each).ceil().clamp(1.0, MOST as f64) as u64;
        let paid_off = (fixed.0 as f64 / (each - own_minor)).ceil();
        if paid_off > MOST as f64 {
            return Pays::Never;
        }
        let mut from = by_piece.max(paid_off as u64).max(1);
        while from > 1 && cheaper(from - 1) {
            from -= 1;
        }
        return Pays::From(from);
    }
    let last = ((least - fixed.0 as f64) / own_minor.max(f64::EPSILON)).floor();
    if last >= 1.0 && cheaper(last.min(MOST as f64) as u64) {
        Pays::UpTo(last.min(MOST as f64) as u64)
    } else {
        Pays::Never
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// The design's figures: 2.666 and 40 %: 4.44; a mark-up says 3.73.
    #[test]
    fn a_margin_is_of_the_price() {
        assert_eq!(price_for_margin(266.6, 0.4), Some(Money(444)));
        assert_eq!(price_by_mark_up(266.6, 0.4), Money(373));
        assert_eq!(price_for_margin(266.6, 1.0), None);
        assert_eq!(price_for_margin(266.6, -0.1), None);
    }

    /// By hand. Two each against four each: files for 30 are paid off with 15; an order of 20 at least is dearer than
    /// one to five of ours, and than nine by the piece.
    #[rstest]
    #[case::always((200.0, 0), (400, 0), Pays::From(1))]
    #[case::files((200.0, 3000), (400, 0), Pays::From(15))]
    #[case::smallest_order((200.0, 1000), (400, 2000), Pays::From(1))]
    #[case::dearer((500.0, 0), (400, 2000), Pays::UpTo(4))]
    #[case::never((500.0, 0), (400, 0), Pays::Never)]
    #[case::between((200.0, 1600), (400, 2000), Pays::From(8))]
    fn making_pays_from_so_many_on(
        #[case] (own, fixed): (f64, i64),
        #[case] (each, least): (i64, i64),
        #[case] answer: Pays,
    ) {
        let offer = Offer {
            each: Money(each),
            least: Money(least),
        };
        assert_eq!(pays(own, Money(fixed), offer), answer);
        if let Pays::From(from) = answer {
            let theirs = |n: u64| (n as i64 * each).max(least) as f64;
            for n in from..from + 200 {
                assert!(fixed as f64 + n as f64 * own <= theirs(n));
            }
            assert!(from == 1 || fixed as f64 + (from - 1) as f64 * own > theirs(from - 1));
        }
    }
}
