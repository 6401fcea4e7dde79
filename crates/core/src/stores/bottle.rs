//! Bottles.

use super::books::{Books, Place, Volume};
use crate::ids::ResinId;
use crate::units::Money;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::worth;

/// A bottle of the workshop.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bottle {
    /// Which one.
    pub id: i64,
    /// What it was bought as.
    pub resin: ResinId,
    /// What it held when it was full, ml.
    pub size_ml: f64,
    /// What was paid for it.
    pub price: Money,
    /// When it came, ms since 1970.
    pub came_at_ms: i64,
    /// Until when it is good, ms since 1970, where somebody said.
    pub best_before_ms: Option<i64>,
    /// What it weighs empty, g, where somebody said.
    pub empty_g: Option<f64>,
}

/// Why a weight is not that of a bottle.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum BottleWeightError {
    /// It cannot weigh that.
    #[error("write what it weighs, from what it weighs empty up to {0:.0} g")]
    NoWeight(f64),
}

/// Days before its date from which on a bottle is told of.
const SOON_DAYS: i64 = 30;

impl Bottle {
    /// What it holds by its weight, ml, with resin of that density. A bottle is filled a little more than its
    /// label says.
    ///
    /// # Errors
    /// [`BottleWeightError`].
    pub fn weighed_ml(
        &self,
        grams: f64,
        empty_g: f64,
        density_g_per_ml: f64,
    ) -> Result<f64, BottleWeightError> {
        let most_g = empty_g + self.size_ml * 1.1 * density_g_per_ml;
        let sensible = empty_g > 0.0 && (empty_g..=most_g).contains(&grams);
        sensible
            .then(|| (grams - empty_g) / density_g_per_ml)
            .ok_or(BottleWeightError::NoWeight(most_g.max(0.0)))
    }

    /// Bottles that hold a resin and nothing else, those that are open first, and what each holds.
    #[must_use]
    pub fn open_first(books: &Books, bottles: &[Self], resin: ResinId) -> Vec<(Self, Volume)> {
        let pure = |b: &&Self| {
            let content = books.content(Place::Bottle(b.id));
            content.get(&resin).is_some_and(|v| v.0 > 0)
                && content.iter().all(|(r, v)| *r == resin || v.0 == 0)
        };
        let held = |b: &Self| books.held(Place::Bottle(b.id));
        let mut all: Vec<&Self> = bottles.iter().filter(pure).collect();
        all.sort_by_key(|b| (held(b).in_ml() >= b.size_ml, b.id));
        all.into_iter().map(|b| (*b, held(b))).collect()
    }

    /// How its date stands at a time: over, or near.
    #[must_use]
    pub fn keeps(&self, now_ms: i64) -> Keeps {
        match self.best_before_ms {
            Some(until) if until < now_ms => Keeps::Over,
            Some(until) if until - now_ms < SOON_DAYS * 86_400_000 => Keeps::Soon,
            _ => Keeps::Well,
        }
    }

    /// What so much of it is worth: by what was paid for it, or by the price of the resin where nobody
    /// said.
    #[must_use]
    pub fn worth(&self, ml: f64, resin: &ResinFacts) -> Money {
        if self.price.0 > 0 {
            Money::from_minor_f64(self.price.0 as f64 * ml / self.size_ml)
        } else {
            worth(ml, resin)
        }
    }
}

/// Whether a bottle is still good.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Keeps {
    /// For a while, or nobody has said.
    Well,
    /// Its date is near: use it first.
    Soon,
    /// Its date is over: test it before a plate hangs on it.
    Over,
}

/// Resin that is cured over the whole film to lift bits out of the vat, ml.
#[must_use]
pub fn sheet_ml(area_mm2: f64, thickness_mm: f64) -> f64 {
    area_mm2 * thickness_mm / 1000.0
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A fifth of 19.50 is 3.90; a sheet of 0.3 mm over 150 by 85 mm is 3.8 ml.
    #[test]
    fn a_drop_is_worth_what_was_paid_for_it() {
        let litre = ResinFacts {
            price_per_kg: Money(2500),
            density_g_per_ml: 1.0,
            ..ResinFacts::ASSUMED
        };
        let bottle = |price| Bottle {
            id: 1,
            resin: ResinId(1),
            size_ml: 500.0,
            price: Money(price),
            came_at_ms: 0,
            best_before_ms: None,
            empty_g: None,
        };
        assert_eq!(bottle(1950).worth(100.0, &litre), Money(390));
        assert_eq!(bottle(0).worth(100.0, &litre), Money(250));
        // By hand: 612 g with a bottle of 112 g are 500 g, of 1.25 g/ml 400 ml.
        let weighed = |g, empty| bottle(0).weighed_ml(g, empty, 1.25);
        assert_eq!(weighed(612.0, 112.0), Ok(400.0));
        assert!(weighed(100.0, 112.0).is_err() && weighed(900.0, 112.0).is_err());
        assert!(weighed(f64::NAN, 112.0).is_err() && weighed(50.0, 0.0).is_err());
        let day = 86_400_000;
        let until = |days| Bottle {
            best_before_ms: Some(days * day),
            ..bottle(0)
        };
        let keeps = [until(9), until(39), until(41), bottle(0)].map(|b| b.keeps(10 * day));
        assert_eq!(keeps, [Keeps::Over, Keeps::Soon, Keeps::Well, Keeps::Well]);
        assert!((sheet_ml(150.0 * 85.0, 0.3) - 3.825).abs() < 1e-9);
    }
}
