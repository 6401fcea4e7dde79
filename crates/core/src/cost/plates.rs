//! Sums over plates.

use crate::cost_parts::CostParts;
use crate::flow::Plate;
use crate::learn::Expected;
use crate::units::Money;

/// What some plates take together.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct PlateSums {
    /// Plates.
    pub plates: u64,
    /// Hours on all printers together, s.
    pub seconds: f64,
    /// How far off that may be, to each side, s.
    pub around_s: f64,
    /// Resin, waste included, ml.
    pub resin_ml: f64,
    /// What they cost by component.
    pub costs: CostParts,
}

impl PlateSums {
    /// Over some plates.
    #[must_use]
    pub fn of<'a>(plates: impl IntoIterator<Item = &'a Plate>) -> Self {
        let plates: Vec<&Plate> = plates.into_iter().collect();
        let around_s = Expected::around_together_s(plates.iter().map(|p| &p.time));
        let nothing = Self {
            around_s,
            ..Self::default()
        };
        plates.into_iter().fold(nothing, |sum, p| Self {
            plates: sum.plates + 1,
            seconds: sum.seconds + p.seconds,
            resin_ml: sum.resin_ml + p.resin_ml,
            costs: sum.costs + p.costs,
            ..sum
        })
    }

    /// What they cost.
    #[must_use]
    pub fn cost(&self) -> Money {
        self.costs.total()
    }
}
