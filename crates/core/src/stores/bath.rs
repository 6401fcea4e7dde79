//! How long a bath lasts: resin that drains off prints ends in it.

/// Resin that stays on a print and goes into the bath, ml: its surface times the film on it.
#[must_use]
pub fn drained_ml(surface_mm2: f64, film_mm: f64) -> f64 {
    surface_mm2 * film_mm / 1000.0
}

/// A bath as it is used.
///
/// # Units
/// ml; the limit is a share.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BathUse {
    /// What it holds.
    pub volume_ml: f64,
    /// The share of resin from which on it cleans no more.
    pub limit: f64,
    /// Resin in it.
    pub resin_ml: f64,
}

impl BathUse {
    /// Resin it still takes.
    #[must_use]
    pub fn left_ml(&self) -> f64 {
        (self.volume_ml * self.limit - self.resin_ml).max(0.0)
    }

    /// How used up it is: 1 at its limit.
    #[must_use]
    pub fn used(&self) -> f64 {
        self.resin_ml / (self.volume_ml * self.limit).max(f64::EPSILON)
    }

    /// How many more plates it takes that each bring in so much.
    #[must_use]
    pub fn plates(&self, each_ml: f64) -> u64 {
        // A hair's breadth is no plate.
        (self.left_ml() / each_ml.max(1e-9) + 1e-9).floor() as u64
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// By hand: 1,640 cm² with 0.05 mm are 8.2 ml; 5 % of a litre are 50: six plates.
    #[test]
    fn a_litre_takes_six_plates() {
        let each = drained_ml(164_000.0, 0.05);
        assert!((each - 8.2).abs() < 1e-9);
        let fresh = BathUse {
            volume_ml: 1000.0,
            limit: 0.05,
            resin_ml: 0.0,
        };
        assert_eq!(fresh.plates(each), 6);
        let used = BathUse {
            resin_ml: 6.0 * each,
            ..fresh
        };
        assert!((used.used() - 0.984).abs() < 1e-9);
        assert_eq!((used.plates(each), used.plates(0.8)), (0, 1));
    }
}
