//! What a spare and a plate of its own cost, for the advice on spares.

use crate::army::ArmyPart;
use crate::cost_parts::{CostKind, CostParts};
use crate::flow::Stage;
use crate::odds::{Judged, SparesAsked};

/// What one copy more of a part costs on a plate that is printed anyway, minor units.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct SpareCost {
    /// Its resin, and what drains off it.
    pub resin_minor: f64,
    /// Hands on it alone: taking it off, its contacts.
    pub hands_minor: f64,
}

impl SpareCost {
    /// Of so many copies that cost so much together, with hands on each.
    #[must_use]
    pub fn of(cost: &CostParts, copies: u64, hands_minor: f64) -> Option<Self> {
        let resin = cost.get(CostKind::Resin) + cost.get(CostKind::Consumables);
        (copies > 0).then(|| Self {
            resin_minor: resin.0 as f64 / copies as f64,
            hands_minor,
        })
    }
}

/// What is asked of the spares of a part, with its judged copies, those of the workshop, what a plate costs in the
/// mean, and what one copy more does. Nothing where none is wanted any more.
///
/// A spare shares a plate that is printed anyway. What is missing at the end takes a plate of its own: the hands,
/// electricity and wear of one, beside the copy.
#[must_use]
pub fn spares_asked(
    part: &ArmyPart,
    judged: Judged,
    workshop: Judged,
    plate: &CostParts,
    spare: SpareCost,
) -> Option<SparesAsked> {
    let wanted = part
        .need
        .required()
        .saturating_sub(u64::from(part.counts.of(Stage::Good)));
    if wanted == 0 {
        return None;
    }
    let own = spare.resin_minor + spare.hands_minor;
    let of_plate = plate.total() - plate.get(CostKind::Resin) - plate.get(CostKind::Consumables);
    Some(SparesAsked {
        wanted,
        judged,
        workshop,
        // The smallest coin at least: nothing is for nothing.
        spare_minor: own.max(1.0),
        reprint_minor: (of_plate.0 as f64 + own).max(own),
    })
}
