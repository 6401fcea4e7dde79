//! How much of a resin copies take: what cures, what drains off them, what is lost besides.

use super::resin::ResinFacts;
use crate::units::{Money, ResinUse};

/// What is printed of a copy.
///
/// # Units
/// mm³, mm².
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Body {
    /// Solid of the part.
    pub part_mm3: f64,
    /// Supports and raft.
    pub support_mm3: f64,
    /// Surface of all.
    pub surface_mm2: f64,
    /// Hollows that keep the resin they fill with.
    pub inside_mm3: f64,
}

impl Body {
    /// All that cures, mm³.
    #[must_use]
    pub fn volume_mm3(&self) -> f64 {
        self.part_mm3 + self.support_mm3
    }

    /// Of so many copies.
    #[must_use]
    pub fn times(&self, copies: u64) -> Self {
        let many = copies as f64;
        Self {
            part_mm3: self.part_mm3 * many,
            support_mm3: self.support_mm3 * many,
            surface_mm2: self.surface_mm2 * many,
            inside_mm3: self.inside_mm3 * many,
        }
    }

    /// Several together.
    #[must_use]
    pub fn sum<'a>(all: impl IntoIterator<Item = &'a Self>) -> Self {
        all.into_iter().fold(Self::default(), |sum, b| Self {
            part_mm3: sum.part_mm3 + b.part_mm3,
            support_mm3: sum.support_mm3 + b.support_mm3,
            surface_mm2: sum.surface_mm2 + b.surface_mm2,
            inside_mm3: sum.inside_mm3 + b.inside_mm3,
        })
    }
}

/// The film that stays on a print when it has dripped off, and goes into the bath, ml: surface times thickness.
#[must_use]
pub fn drained_ml(body: &Body, resin: &ResinFacts) -> f64 {
    body.surface_mm2 * resin.film_mm / 1000.0
}

/// Resin for what is printed.
///
/// A cured solid holds its volume times its density of mass, and the liquid it came from as much: so its
/// volume is that of the solid by cured to liquid density; what stays in hollows is liquid as it is. What prints weighed corrects it. The film that
/// drains off is the surface times its thickness (thin layers on a withdrawn plate: Landau and Levich 1942
/// give how it grows with viscosity, from memory; the figures are common practice, no source).
///
/// # Units
/// `waste_share` 0.1 is a tenth on top.
#[must_use]
pub fn resin_use(body: &Body, waste_share: f64, resin: &ResinFacts) -> ResinUse {
    let liquid = |mm3: f64| {
        mm3 / 1000.0 * resin.cured_g_per_ml / resin.density_g_per_ml * resin.weighed.times
    };
    let (part_ml, support_ml) = (liquid(body.part_mm3), liquid(body.support_mm3));
    let film_ml = drained_ml(body, resin);
    let inside_ml = body.inside_mm3 / 1000.0;
    ResinUse {
        part_ml,
        support_ml,
        inside_ml,
        film_ml,
        waste_ml: (part_ml + support_ml + inside_ml + film_ml) * waste_share,
    }
}

/// What so much liquid resin is worth, minor units before rounding.
#[must_use]
pub fn worth_minor(ml: f64, resin: &ResinFacts) -> f64 {
    ml * resin.density_g_per_ml / 1000.0 * resin.price_per_kg.0 as f64
}

/// What so much liquid resin is worth.
#[must_use]
pub fn worth(ml: f64, resin: &ResinFacts) -> Money {
    Money::from_minor_f64(worth_minor(ml, resin))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learn::WeightFactor;

    /// A US fluid ounce is 29.5735 ml (NIST Handbook 44, appendix C); at 25 a litre and 1 g/ml
    /// it is worth about 0.74: common practice says "about 0.75".
    #[test]
    fn an_ounce_of_resin_is_worth_three_quarters() {
        let resin = ResinFacts {
            price_per_kg: Money(2500),
            density_g_per_ml: 1.0,
            ..ResinFacts::ASSUMED
        };
        assert!((worth_minor(29.5735, &resin) - 73.93).abs() < 0.01);
        assert_eq!(worth(29.5735, &resin), Money(74));
    }

    /// By hand: 10 ml of 1.188 g/ml are 11.88 g, of 1.1 g/ml liquid 10.8 ml; 2 ml of supports 2.16; 40 cm²
    /// under 0.05 mm are 0.2; a tenth on top 1.316; prints a twentieth heavier: 11.34, 2.268, 0.2 and 1.3808.
    #[test]
    fn each_goes_where_it_goes() {
        let resin = ResinFacts {
            price_per_kg: Money(4000),
            density_g_per_ml: 1.1,
            cured_g_per_ml: 1.188,
            film_mm: 0.05,
            ..ResinFacts::ASSUMED
        };
        let body = Body {
            part_mm3: 10_000.0,
            support_mm3: 2_000.0,
            surface_mm2: 4_000.0,
            inside_mm3: 0.0,
        };
        let near = |used: ResinUse, by_hand: [f64; 4]| {
            let [p, s, f, w] = by_hand;
            let off = [
                used.part_ml - p,
                used.support_ml - s,
                used.film_ml - f,
                used.waste_ml - w,
                used.ml() - (p + s + f + w),
            ];
            assert!(off.iter().all(|o| o.abs() < 1e-9), "{used:?}");
        };
        let used = resin_use(&body, 0.1, &resin);
        near(used, [10.8, 2.16, 0.2, 1.316]);
        near(used.weighing(1.05), [11.34, 2.268, 0.2, 1.3808]);
        let heavier = ResinFacts {
            weighed: WeightFactor {
                times: 1.05,
                ..WeightFactor::AS_RECKONED
            },
            ..resin
        };
        assert_eq!(
            resin_use(&body, 0.1, &heavier).ml(),
            used.weighing(1.05).ml()
        );
        // What nobody kept apart does not move.
        let old = ResinUse {
            waste_ml: 30.0,
            ..ResinUse::default()
        };
        assert_eq!(old.weighing(1.2), old);
    }
}
