//! Resins: what they cost, weigh and stand.

use crate::ids::ResinId;
use crate::learn::WeightFactor;
use crate::units::Money;
use crate::words::words;

/// In a room under this, resin is thick, and the room is warmed first, °C (common practice, no source).
pub const ROOM_C: f64 = 18.0;

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
    /// Density once cured, g/ml.
    pub cured_g_per_ml: f64,
    /// What stays on a print when it has dripped off, mm.
    pub film_mm: f64,
    /// What prints of it weighed against what was reckoned.
    pub weighed: WeightFactor,
}

impl ResinFacts {
    /// While the workshop has no resin: a middling one (common practice, no source).
    pub const ASSUMED: Self = Self {
        price_per_kg: Money(2500),
        density_g_per_ml: 1.1,
        cured_g_per_ml: 1.17,
        film_mm: 0.05,
        weighed: WeightFactor::AS_RECKONED,
    };

    /// How dense it is likely to be once cured, where only the liquid is known, g/ml: resins shrink by 5 to
    /// 7 % as they cure (common practice, no source).
    #[must_use]
    pub fn usual_cured(density_g_per_ml: f64) -> f64 {
        (density_g_per_ml * 106.0).round() / 100.0
    }
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
        "density_g_per_ml,cured_g_per_ml,film_mm,viscosity,nature,wash_agents,safe_mm,fuses_mm";

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
