//! Bottles.

use crate::ids::ResinId;
use crate::units::Money;
use crate::workshop::resin::ResinFacts;

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
}

impl Bottle {
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

/// What so much of a resin is worth.
#[must_use]
pub fn worth(ml: f64, resin: &ResinFacts) -> Money {
    let kg = ml * resin.density_g_per_ml / 1000.0;
    Money::from_minor_f64(kg * resin.price_per_kg.0 as f64)
}

/// Resin that is cured over the whole film to lift bits out of the vat, ml.
#[must_use]
pub fn sheet_ml(area_mm2: f64, thickness_mm: f64) -> f64 {
    area_mm2 * thickness_mm / 1000.0
}

#[cfg(test)]
mod tests {
    use super::*;

    /// An ounce, 29.57 ml, at 25.00 a litre is 0.74; a sheet of 0.3 mm over 150 by 85 mm is 3.8 ml.
    #[test]
    fn the_last_drop_is_worth_its_price() {
        let litre = ResinFacts {
            price_per_kg: Money(2500),
            density_g_per_ml: 1.0,
        };
        assert_eq!(worth(29.57, &litre), Money(74));
        let bottle = |price| Bottle {
            id: 1,
            resin: ResinId(1),
            size_ml: 500.0,
            price: Money(price),
            came_at_ms: 0,
            best_before_ms: None,
        };
        assert_eq!(bottle(1950).worth(100.0, &litre), Money(390));
        assert_eq!(bottle(0).worth(100.0, &litre), Money(250));
        assert!((sheet_ml(150.0 * 85.0, 0.3) - 3.825).abs() < 1e-9);
    }
}
