//! Where the resin of a project went.

use super::copies::LedgerCopy;
use super::plates::LedgerPlate;
use crate::units::ResinUse;

/// Resin of plates that were printed, by what became of it, ml.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ResinFlow {
    /// In copies that are good, or not judged yet.
    pub good_ml: f64,
    /// In copies that failed.
    pub failed_ml: f64,
    /// In supports and rafts.
    pub support_ml: f64,
    /// Liquid in hollows without a way out.
    pub inside_ml: f64,
    /// Drained into the bath.
    pub film_ml: f64,
    /// Lost on tools, gloves and paper.
    pub waste_ml: f64,
    /// Spoilt in its vat, spilt or cured away.
    pub spoilt_ml: f64,
}

impl ResinFlow {
    /// What plates took, split over what stood on them: copies and what became of them.
    #[must_use]
    pub fn of<'a>(plates: impl IntoIterator<Item = (f64, ResinUse, Vec<&'a LedgerCopy>)>) -> Self {
        plates
            .into_iter()
            .fold(Self::default(), |sum, (took_ml, goes, copies)| {
                let all: f64 = copies.iter().map(|c| c.resin_ml).sum();
                let failed: f64 = copies
                    .iter()
                    .filter(|c| c.failed())
                    .map(|c| c.resin_ml)
                    .sum();
                let bad = if all > 0.0 { failed / all } else { 0.0 };
                // What was taken, by the shares it was planned in.
                let times = if goes.ml() > 0.0 {
                    took_ml / goes.ml()
                } else {
                    0.0
                };
                // Where it was not kept apart, all of it is in the copies.
                let part = times
                    * if goes.is_split() {
                        goes.part_ml
                    } else {
                        goes.ml()
                    };
                let rest = |ml: f64| if goes.is_split() { ml * times } else { 0.0 };
                Self {
                    good_ml: sum.good_ml + part * (1.0 - bad),
                    failed_ml: sum.failed_ml + part * bad,
                    support_ml: sum.support_ml + rest(goes.support_ml),
                    inside_ml: sum.inside_ml + rest(goes.inside_ml),
                    film_ml: sum.film_ml + rest(goes.film_ml),
                    waste_ml: sum.waste_ml + rest(goes.waste_ml),
                    ..sum
                }
            })
    }

    /// With what was spoilt with the runs of plates.
    #[must_use]
    pub fn with_spoilt(self, plates: &[LedgerPlate]) -> Self {
        let spoilt = plates.iter().flat_map(|p| p.spoilt_ml.values()).sum();
        Self {
            spoilt_ml: spoilt,
            ..self
        }
    }

    /// All of it.
    #[must_use]
    pub fn ml(&self) -> f64 {
        self.each().iter().map(|(_, ml)| ml).sum()
    }

    /// By name, the largest of what is no good copy not first: as it is drawn.
    #[must_use]
    pub fn each(&self) -> [(&'static str, f64); 7] {
        [
            ("good copies", self.good_ml),
            ("failed copies", self.failed_ml),
            ("supports and rafts", self.support_ml),
            ("shut in hollows", self.inside_ml),
            ("drained into the bath", self.film_ml),
            ("gloves, tools, paper", self.waste_ml),
            ("spoilt vats", self.spoilt_ml),
        ]
    }
}

#[cfg(test)]
mod tests {
    use super::super::failures::tests::copy;
    use super::*;

    /// A plate planned with 6 ml in parts, 2 in supports, 1 drained, 1 lost took 20 ml; one of its two equal copies
    /// failed. Another that was planned before that was kept apart took 5: all of it is in the copies.
    #[test]
    fn resin_goes_where_it_was_planned_to() {
        let (good, bad) = (copy(1, 1, [0.5, 0.5], false), copy(2, 1, [0.5, 0.5], true));
        let goes = ResinUse {
            part_ml: 6.0,
            support_ml: 2.0,
            film_ml: 1.0,
            waste_ml: 1.0,
            inside_ml: 0.0,
        };
        let old = ResinUse {
            waste_ml: 10.0,
            ..ResinUse::default()
        };
        let flow = ResinFlow::of([(20.0, goes, vec![&good, &bad]), (5.0, old, vec![&good])]);
        let told = flow.each().map(|(_, ml)| ml);
        assert_eq!(told, [11.0, 6.0, 4.0, 0.0, 2.0, 2.0, 0.0]);
        assert!((flow.ml() - 25.0).abs() < 1e-9);
        assert_eq!(
            ResinFlow::of([(0.0, ResinUse::default(), vec![])]).ml(),
            0.0
        );
    }
}
