//! Resins, and how much of one a plate takes.

use crate::ids::ResinId;
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

/// A resin of the workshop.
#[derive(Debug, Clone, PartialEq)]
pub struct Resin {
    /// Which one.
    pub id: ResinId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// What the maker calls it.
    pub name: String,
    /// What it costs and weighs.
    pub facts: ResinFacts,
    /// How thick it flows.
    pub viscosity: Viscosity,
    /// How it behaves once cured.
    pub nature: Nature,
    /// Words of the permitted wash agents, parted by commas.
    pub wash_agents: String,
    /// Names of the figures nobody has confirmed, parted by commas.
    pub assumed: String,
    /// Thinnest feature that survives in it, mm.
    pub safe_mm: f64,
    /// Widest gap it closes, mm.
    pub fuses_mm: f64,
    /// Where its safety data sheet is; empty where nobody said.
    pub data_sheet: String,
}

impl Resin {
    /// What it may be washed in, in the order in which its sheet names them.
    #[must_use]
    pub fn washed_in(&self) -> Vec<WashAgent> {
        let words = self.wash_agents.split(',').map(str::trim);
        words.filter_map(|word| word.parse().ok()).collect()
    }

    /// Names of the figures that are assumed at first.
    pub const UNKNOWN: &'static str =
        "density_g_per_ml,viscosity,nature,wash_agents,safe_mm,fuses_mm";

    /// A resin of which only the price is known; the rest is common practice, no source.
    #[must_use]
    pub fn assumed(id: ResinId, name: &str, price_per_kg: Money) -> Self {
        Self {
            id,
            row_version: 1,
            name: name.into(),
            facts: ResinFacts {
                price_per_kg,
                ..ResinFacts::ASSUMED
            },
            viscosity: Viscosity::Medium,
            nature: Nature::Rigid,
            wash_agents: WashAgent::Solvent.to_string(),
            assumed: format!("name,{}", Self::UNKNOWN),
            safe_mm: SAFE_MM,
            fuses_mm: 0.2,
            data_sheet: String::new(),
        }
    }
}

/// Thinnest feature that survives in a resin nobody has described, mm: common practice, no source.
pub const SAFE_MM: f64 = 0.5;

/// Thinnest feature that survives in a resin; a middling one while none is chosen. Findings,
/// scales and recipes all ask here.
#[must_use]
pub fn safe_mm(resin: Option<&Resin>) -> f64 {
    resin.map_or(SAFE_MM, |r| r.safe_mm)
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

/// What liquid resin is worth.
#[must_use]
pub fn liquid_worth(ml: f64, resin: &ResinFacts) -> Money {
    resin_cost(ml * 1000.0, 0.0, resin)
}

/// What the resin of a volume of cured parts costs, a share lost on top.
#[must_use]
pub fn resin_cost(volume_mm3: f64, waste_share: f64, resin: &ResinFacts) -> Money {
    let used = resin_use(volume_mm3, waste_share, resin);
    Money::from_minor_f64(resin_cost_minor(used, resin))
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
