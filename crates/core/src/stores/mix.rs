//! Resins poured together: they cannot be parted again, so density and price are carried through.

use crate::units::Money;
use crate::workshop::resin::ResinFacts;

/// What a mix weighs and costs. Volumes add up, as they nearly do with resins (common practice, no
/// source).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mixed {
    /// Density, g/ml.
    pub density_g_per_ml: f64,
    /// Price of a kilogram, minor units.
    pub price_per_kg_minor: f64,
}

impl Mixed {
    /// As a resin of its own; the price to the minor unit.
    #[must_use]
    pub fn facts(&self) -> ResinFacts {
        ResinFacts {
            price_per_kg: Money::from_minor_f64(self.price_per_kg_minor),
            density_g_per_ml: self.density_g_per_ml,
            cured_g_per_ml: ResinFacts::usual_cured(self.density_g_per_ml),
            ..ResinFacts::ASSUMED
        }
    }
}

/// Of volumes; nothing where there are none.
#[must_use]
pub fn mixed_by_volume(parts: &[(f64, ResinFacts)]) -> Option<Mixed> {
    let volume: f64 = parts.iter().map(|(ml, _)| ml).sum();
    let grams: f64 = parts.iter().map(|(ml, r)| ml * r.density_g_per_ml).sum();
    let price: f64 = parts
        .iter()
        .map(|(ml, r)| ml * r.density_g_per_ml * r.price_per_kg.0 as f64)
        .sum();
    (volume > 0.0 && grams > 0.0).then(|| Mixed {
        density_g_per_ml: grams / volume,
        price_per_kg_minor: price / grams,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand: 0.8 · 1.12 + 0.2 · 1.08 = 1.112 g/ml; (0.896 · 41.50 + 0.216 · 54.00) / 1.112 = 43.93;
    /// by mass 0.8 · 41.50 + 0.2 · 54.00 = 44.00.
    #[test]
    fn four_parts_and_one() {
        let resin = |price, density_g_per_ml| ResinFacts {
            price_per_kg: Money(price),
            density_g_per_ml,
            ..ResinFacts::ASSUMED
        };
        let parts = [(80.0, resin(4150, 1.12)), (20.0, resin(5400, 1.08))];
        let by_volume = mixed_by_volume(&parts).unwrap();
        assert!((by_volume.density_g_per_ml - 1.112).abs() < 1e-12);
        assert_eq!(by_volume.facts().price_per_kg, Money(4393));
        // A kitchen scale gives masses: as much of each by volume.
        let by_mass = parts.map(|(g, r)| (g / r.density_g_per_ml, r));
        assert_eq!(
            mixed_by_volume(&by_mass).unwrap().facts().price_per_kg,
            Money(4400)
        );
        assert_eq!(mixed_by_volume(&[]), None);
    }
}
