//! What a spare and a plate of its own cost, for the advice on spares.

use crate::army::ArmyPart;
use crate::cost_parts::{CostKind, CostParts};
use crate::flow::Stage;
use crate::odds::{Judged, SparesAsked};

/// What is asked of the spares of a part, with its judged copies, those of the workshop, and what a plate costs in
/// the mean. Nothing while none of its copies has been planned, or none is wanted any more.
///
/// A spare shares a plate that is printed anyway: it costs its resin and what drains off it. What is missing at the
/// end takes a plate of its own: the hands, electricity and wear of one, and its resin.
#[must_use]
pub fn spares_asked(
    part: &ArmyPart,
    judged: Judged,
    workshop: Judged,
    plate: &CostParts,
) -> Option<SparesAsked> {
    let wanted = part
        .need
        .required()
        .saturating_sub(u64::from(part.counts.of(Stage::Good)));
    let copies = f64::from(part.counts.alive());
    if wanted == 0 || copies <= 0.0 {
        return None;
    }
    let each = |kind| part.counts.living.get(kind).0 as f64 / copies;
    let own = each(CostKind::Resin) + each(CostKind::Consumables);
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
