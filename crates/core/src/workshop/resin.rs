//! Resins, and how much of one a plate takes.

use crate::units::Money;
use crate::words::words;

words! {
    /// How thick a resin flows; it decides drain holes and lift speeds.
    Viscosity, "viscosity class" {
        /// Runs like water.
        Thin = "thin",
        /// As most resins.
        Medium = "medium",
        /// Runs like honey.
        Thick = "thick",
    }
}

impl Viscosity {
    /// Smallest diameter of a drain for it to run through, mm (common practice, no source).
    #[must_use]
    pub const fn drain_diameter_mm(self) -> f64 {
        match self {
            Viscosity::Thin => 2.0,
            Viscosity::Medium => 2.5,
            Viscosity::Thick => 3.5,
        }
    }
}

words! {
    /// How a resin behaves once cured.
    Nature, "kind of resin" {
        /// Hard; thin pieces snap.
        Rigid = "rigid",
        /// Bends before it breaks.
        Tough = "tough",
        /// Rubbery.
        Soft = "soft",
    }
}

words! {
    /// What a print may be washed in.
    WashAgent, "wash agent" {
        /// Isopropyl alcohol or another solvent.
        Solvent = "solvent",
        /// Water; only for resins made for it.
        Water = "water",
        /// A detergent made for the purpose.
        Detergent = "detergent",
    }
}

/// What a resin costs and weighs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ResinFacts {
    /// Price of a kilogram.
    pub price_per_kg: Money,
    /// Density of the liquid, g/ml.
    pub density_g_per_ml: f64,
}

impl ResinFacts {
    /// While the workshop has no resin: a middling one (common practice, no source).
    pub const ASSUMED: Self = Self {
        price_per_kg: Money(2500),
        density_g_per_ml: 1.1,
    };
}

/// Resin taken by some copies.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ResinUse {
    /// Millilitres, waste included.
    pub ml: f64,
    /// Grams, waste included.
    pub grams: f64,
}

/// Resin for a volume of cured parts with a share lost in the vat, on gloves and in the wash.
///
/// # Units
/// mm³ in; `waste_share` 0.1 is a tenth on top.
#[must_use]
pub fn resin_use(volume_mm3: f64, waste_share: f64, resin: &ResinFacts) -> ResinUse {
    let ml = volume_mm3 / 1000.0 * (1.0 + waste_share);
    ResinUse {
        ml,
        grams: ml * resin.density_g_per_ml,
    }
}

/// What resin costs, in minor units before rounding.
#[must_use]
pub fn resin_cost_minor(used: ResinUse, resin: &ResinFacts) -> f64 {
    used.grams / 1000.0 * resin.price_per_kg.0 as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A US fluid ounce is 29.5735 ml (NIST Handbook 44, appendix C); at 25 a litre and 1 g/ml
    /// it is worth about 0.74: common practice says "about 0.75".
    #[test]
    fn an_ounce_of_resin_is_worth_three_quarters() {
        let resin = ResinFacts {
            price_per_kg: Money(2500),
            density_g_per_ml: 1.0,
        };
        let cost = resin_cost_minor(resin_use(29_573.5, 0.0, &resin), &resin);
        assert!((cost - 73.93).abs() < 0.01);
    }

    #[test]
    fn waste_and_density_are_counted() {
        let resin = ResinFacts {
            price_per_kg: Money(4000),
            density_g_per_ml: 1.1,
        };
        let used = resin_use(10_000.0, 0.2, &resin);
        assert!((used.ml - 12.0).abs() < 1e-9 && (used.grams - 13.2).abs() < 1e-9);
        assert!((resin_cost_minor(used, &resin) - 52.8).abs() < 1e-9);
    }
}
