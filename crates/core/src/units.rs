//! Money and layer heights: the two quantities that must never be a fraction of their unit.
//! Lengths, areas and times are `f64` with the unit in the name (`_mm`, `_mm2`, `_ml`, `_s`).

use std::iter::Sum;
use std::ops::{Add, AddAssign, Sub};

/// An amount of money in minor units (cents, pence, ore) of the workshop's currency.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Default)]
pub struct Money(pub i64);

impl Money {
    /// Rounds a computed amount in minor units to the nearest whole one.
    ///
    /// # Shape
    /// NaN becomes nothing; what does not fit is held at the limits of `i64`.
    #[must_use]
    pub fn from_minor_f64(minor: f64) -> Self {
        Self(minor.round() as i64)
    }
}

impl Add for Money {
    type Output = Self;
    fn add(self, other: Self) -> Self {
        Self(self.0.saturating_add(other.0))
    }
}

impl Sub for Money {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0.saturating_sub(other.0))
    }
}

impl AddAssign for Money {
    fn add_assign(&mut self, other: Self) {
        *self = *self + other;
    }
}

impl Sum for Money {
    fn sum<I: Iterator<Item = Self>>(amounts: I) -> Self {
        amounts.fold(Self(0), Add::add)
    }
}

/// Liquid resin taken by some copies, by where it goes, ml.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ResinUse {
    /// Cures to the parts themselves.
    pub part_ml: f64,
    /// Cures to supports and rafts.
    pub support_ml: f64,
    /// Stays liquid in hollows without a way out.
    pub inside_ml: f64,
    /// Drains off their surface into the bath.
    pub film_ml: f64,
    /// Lost on gloves, tools and paper; of plates planned before the rest was kept apart, all of it.
    pub waste_ml: f64,
}

impl ResinUse {
    /// All of it.
    #[must_use]
    pub fn ml(&self) -> f64 {
        self.part_ml + self.support_ml + self.inside_ml + self.film_ml + self.waste_ml
    }

    /// What cures.
    #[must_use]
    pub fn cured_ml(&self) -> f64 {
        self.part_ml + self.support_ml
    }

    /// Where it goes is known.
    #[must_use]
    pub fn is_split(&self) -> bool {
        self.part_ml > 0.0
    }

    /// With prints that weigh so many times what was reckoned: what cures and what is lost beside it follow,
    /// what stays liquid or drains off does not.
    #[must_use]
    pub fn weighing(&self, times: f64) -> Self {
        let liquid = self.film_ml + self.inside_ml;
        let drained = liquid / (self.ml() - self.waste_ml).max(f64::EPSILON);
        let waste = if self.is_split() {
            self.waste_ml * (times * (1.0 - drained) + drained)
        } else {
            self.waste_ml
        };
        Self {
            part_ml: self.part_ml * times,
            support_ml: self.support_ml * times,
            waste_ml: waste,
            ..*self
        }
    }

    /// That share of it.
    #[must_use]
    pub fn share(&self, share: f64) -> Self {
        Self {
            part_ml: self.part_ml * share,
            support_ml: self.support_ml * share,
            inside_ml: self.inside_ml * share,
            film_ml: self.film_ml * share,
            waste_ml: self.waste_ml * share,
        }
    }
}

/// A layer height, kept in whole micrometres so that 0.05 mm is one setting and not many.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct LayerHeight(u32);

impl LayerHeight {
    /// The thinnest layer accepted, 5 µm.
    pub const MIN: Self = Self(5);
    /// What most makers print with, 50 µm (common practice, no source).
    pub const USUAL: Self = Self(50);
    /// The thickest layer accepted, 500 µm.
    pub const MAX: Self = Self(500);

    /// A layer height in mm.
    ///
    /// # Errors
    /// [`LayerHeightError`] outside 0.005 to 0.5 mm, or for what is no number.
    pub fn from_mm(mm: f64) -> Result<Self, LayerHeightError> {
        let um = (mm * 1000.0).round();
        if um.is_finite() && (f64::from(Self::MIN.0)..=f64::from(Self::MAX.0)).contains(&um) {
            Ok(Self(um as u32))
        } else {
            Err(LayerHeightError { mm })
        }
    }

    /// In millimetres.
    #[must_use]
    pub fn mm(self) -> f64 {
        f64::from(self.0) / 1000.0
    }

    /// In micrometres.
    #[must_use]
    pub fn um(self) -> u32 {
        self.0
    }
}

impl TryFrom<i64> for LayerHeight {
    type Error = LayerHeightError;
    fn try_from(um: i64) -> Result<Self, Self::Error> {
        Self::from_mm(um as f64 / 1000.0)
    }
}

impl std::fmt::Display for LayerHeight {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        if self.0.is_multiple_of(10) {
            write!(f, "{:.2}", self.mm())
        } else {
            write!(f, "{:.3}", self.mm())
        }
    }
}

/// A layer height no printer of this kind uses.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
#[error("a layer height of {mm} mm is outside 0.005 to 0.5 mm: usual ones are 0.03 to 0.05")]
pub struct LayerHeightError {
    /// What was given, in mm.
    pub mm: f64,
}

/// Height of the slabs above the plate in which loads on the film are summed, mm.
pub const PULL_SLAB_MM: f64 = 1.0;

/// How many layers a part of this height takes.
///
/// A last layer under a thousandth of a layer height is rounding in the file and is not printed.
///
/// # Units
/// mm.
#[must_use]
pub fn layer_count(height_mm: f64, layer: LayerHeight) -> u32 {
    if height_mm <= 0.0 {
        return 0;
    }
    ((height_mm / layer.mm() - 0.001).ceil().max(1.0)) as u32
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(0.05, Some("0.05"))]
    #[case(0.025, Some("0.025"))]
    #[case(0.0, None)]
    #[case(5.0, None)]
    #[case(f64::NAN, None)]
    fn layer_heights_are_bounded(#[case] mm: f64, #[case] shown: Option<&str>) {
        let height = LayerHeight::from_mm(mm).ok().map(|h| h.to_string());
        assert_eq!(height.as_deref(), shown);
    }

    /// 0.05 mm is 20 layers a millimetre and 0.02 mm 2.5 times as many: common practice, no
    /// source. The other rows: `../shared/bench/mesh/README.md`, "Good files".
    #[rstest]
    #[case(1.0, 0.05, 20)]
    #[case(50.0, 0.05, 1000)]
    #[case(50.0, 0.02, 2500)]
    #[case(1.53, 0.05, 31)]
    #[case(1.53, 0.03, 51)]
    #[case(37.0, 0.05, 740)]
    #[case(36.87, 0.03, 1229)]
    #[case(0.0, 0.05, 0)]
    #[case(0.001, 0.05, 1)]
    fn layers_are_counted(#[case] height_mm: f64, #[case] layer_mm: f64, #[case] layers: u32) {
        assert_eq!(
            layer_count(height_mm, LayerHeight::from_mm(layer_mm).unwrap()),
            layers
        );
    }
}
