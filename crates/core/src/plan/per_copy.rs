//! What one copy takes in minutes and money, by how many share its plate; and from how many on
//! that is less than somebody else asks.

use crate::pack::{Item, PackJob, PackSearch, Wishes};
use crate::plan::{PlanPart, build_area, plate_figures};
use crate::units::Money;
use crate::watch::Unwatched;
use crate::workshop::resin::ResinFacts;
use crate::workshop::{Printer, ProcessSetting, Rates};

/// One point of the curve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PerCopy {
    /// Copies on the plate.
    pub copies: u64,
    /// Printer minutes of each.
    pub minutes: f64,
    /// What each costs, minor units.
    pub cost_minor: f64,
}

/// Most copies looked at.
const MOST: u64 = 400;

/// A part, and what its copies would be printed with.
#[derive(Debug, Clone, PartialEq)]
pub struct CopyOf {
    /// The part.
    pub part: PlanPart,
    /// The printer.
    pub printer: Printer,
    /// Its process setting.
    pub setting: ProcessSetting,
    /// The resin.
    pub resin: ResinFacts,
    /// The workshop's rates.
    pub rates: Rates,
}

impl CopyOf {
    /// Minutes and cost of a copy when so many of the part share a plate, from one to as many as
    /// the plate takes. On a beam machine every copy is drawn, so minutes fall less.
    #[must_use]
    pub fn curve(&self) -> Vec<PerCopy> {
        let point = |copies: u64| {
            let on_it: Vec<&PlanPart> = (0..copies).map(|_| &self.part).collect();
            let (figures, _) = plate_figures(
                &on_it,
                &self.printer,
                &self.setting,
                &self.resin,
                &self.rates,
            );
            PerCopy {
                copies,
                minutes: figures.seconds / 60.0 / copies as f64,
                cost_minor: figures.cost.total().0 as f64 / copies as f64,
            }
        };
        (1..=self.fits()).map(point).collect()
    }

    /// Copies of the part that one plate takes.
    fn fits(&self) -> u64 {
        let (part, rates) = (&self.part, &self.rates);
        let build_area = build_area(&self.printer, &self.setting, 0.0);
        let inside = (build_area.width_mm - 2.0 * build_area.margin_mm + rates.clearance_mm)
            * (build_area.depth_mm - 2.0 * build_area.margin_mm + rates.clearance_mm);
        let most = ((inside / part.outline.area_mm2().max(1.0)).ceil() as u64).clamp(1, MOST);
        let item = Item {
            pull: part.pull.clone(),
            ..Item::new(part.outline.clone(), part.height_mm, most)
        };
        let job = PackJob {
            wishes: Wishes::default(),
            build_areas: vec![build_area],
            clearance_mm: rates.clearance_mm,
            items: vec![item],
        };
        let mut first = 0;
        // One complete packing: its first plate is the fullest.
        let _ = PackSearch::AT_ONCE.improve(&job, None, &Unwatched, &mut |packing| {
            first = packing
                .plates
                .first()
                .map_or(0, |p| p.placements.len() as u64);
        });
        first
    }
}

/// What one copy costs where each is bought for so much, and every order of so many for so much
/// more, minor units.
#[must_use]
pub fn bought_minor(copies: u64, each: Money, order: Money) -> f64 {
    each.0 as f64 + order.0 as f64 / copies.max(1) as f64
}

/// The fewest copies on a plate for which making them costs no more than buying them, where each
/// costs so much and every order so much more; nothing when that never is.
#[must_use]
pub fn break_even(curve: &[PerCopy], each: Money, order: Money) -> Option<u64> {
    curve
        .iter()
        .find(|p| p.cost_minor <= bought_minor(p.copies, each, order) + 1e-9)
        .map(|p| p.copies)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn curve() -> Vec<PerCopy> {
        // By hand: 750 of hands a plate, 40 of resin a copy, 240 minutes a plate.
        (1..=10)
            .map(|copies| PerCopy {
                copies,
                minutes: 240.0 / copies as f64,
                cost_minor: 40.0 + 750.0 / copies as f64,
            })
            .collect()
    }

    /// 40 + 750/n ≤ p + o/n, so n ≥ (750 − o)/(p − 40).
    #[rstest]
    #[case(400, 0, Some(3))]
    #[case(200, 0, Some(5))]
    #[case(790, 0, Some(1))]
    #[case(50, 0, None)]
    #[case(200, 350, Some(3))]
    fn making_pays_from_so_many_on(
        #[case] each: i64,
        #[case] order: i64,
        #[case] from: Option<u64>,
    ) {
        assert_eq!(break_even(&curve(), Money(each), Money(order)), from);
    }
}
