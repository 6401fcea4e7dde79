//! Advice on the spares of parts: what one costs, how many pay, on which plates.

use std::collections::BTreeMap;

use crate::army::ArmyPart;
use crate::cost_parts::{CostKind, CostParts};
use crate::flow::Stage;
use crate::ids::PartId;
use crate::learn::Hands;
use crate::odds::{Judged, SparesAdvice, SparesAsked, believed, where_to_put};
use crate::units::Money;

/// What one copy more of a part costs on a plate that is printed anyway, minor units.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct SpareCost {
    /// Its resin, and what drains off it.
    pub resin_minor: f64,
    /// Hands on it alone: taking it off, its contacts.
    pub hands_minor: f64,
}

impl SpareCost {
    /// Of so many copies that cost so much together, each with so many contacts, by what hands take here.
    #[must_use]
    pub fn of(
        cost: &CostParts,
        copies: u64,
        contacts: f64,
        hands: &Hands,
        hour: Money,
    ) -> Option<Self> {
        let resin = cost.get(CostKind::Resin) + cost.get(CostKind::Consumables);
        let [_, of_copy, of_contact] = hands.each();
        let minutes = (of_copy + of_contact * contacts).max(0.0);
        (copies > 0).then(|| Self {
            resin_minor: resin.0 as f64 / copies as f64,
            hands_minor: minutes / 60.0 * hour.0 as f64,
        })
    }
}

/// What is known for advice on spares.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SparesFacts {
    /// How copies of each part came out.
    pub judged: BTreeMap<PartId, Judged>,
    /// How all copies of the workshop did.
    pub workshop: Judged,
    /// Plates that held, and those lost whole.
    pub plates_lost: Judged,
    /// What a plate costs in the mean.
    pub plate: CostParts,
    /// What one copy more of each part costs.
    pub spare: BTreeMap<PartId, SpareCost>,
}

impl SparesFacts {
    /// How many copies of a part are to be printed: what was asked, and the answer. Nothing where none is wanted any
    /// more, or none was put on a plate yet.
    ///
    /// A spare shares a plate that is printed anyway. What is missing at the end takes a plate of its own: the hands,
    /// electricity and wear of one, beside the copy.
    #[must_use]
    pub fn advised(&self, part: &ArmyPart) -> Option<(SparesAsked, SparesAdvice)> {
        let spare = self.spare.get(&part.part.id)?;
        let wanted = wanted(part);
        if wanted == 0 {
            return None;
        }
        let own = spare.resin_minor + spare.hands_minor;
        let plate = &self.plate;
        let of_plate =
            plate.total() - plate.get(CostKind::Resin) - plate.get(CostKind::Consumables);
        let asked = SparesAsked {
            wanted,
            judged: self.judged.get(&part.part.id).copied().unwrap_or_default(),
            workshop: self.workshop,
            // The smallest coin at least: nothing is for nothing.
            spare_minor: own.max(1.0),
            reprint_minor: of_plate.0 as f64 + own,
        };
        Some((asked, asked.advice().ok()?))
    }

    /// On which of the plates that wait spares of a part help most, by the copies of it on each. What is on its way
    /// already is believed to come out.
    #[must_use]
    pub fn put_on(&self, part: &ArmyPart, advice: &SparesAdvice, on: &[u64]) -> Vec<u64> {
        let under_way = part.counts.of(Stage::Printing) + part.counts.of(Stage::InFinishing);
        let wanted = wanted(part).saturating_sub(u64::from(under_way));
        let lost = 1.0 - believed(self.plates_lost, self.plates_lost).mean();
        where_to_put(advice.spares, wanted, on, lost, advice.odds.mean()).unwrap_or_default()
    }

    /// The chance that every part comes out as wanted, without spares and as advised; nothing where nothing is
    /// advised.
    #[must_use]
    pub fn whole(&self, parts: &[ArmyPart]) -> Option<[f64; 2]> {
        let all: Vec<SparesAdvice> = parts
            .iter()
            .filter_map(|p| Some(self.advised(p)?.1))
            .collect();
        let product = |of: fn(&SparesAdvice) -> f64| all.iter().map(of).product();
        (!all.is_empty()).then(|| [product(|a| a.without), product(|a| a.with)])
    }
}

/// Good copies of a part that are still to come.
fn wanted(part: &ArmyPart) -> u64 {
    let good = u64::from(part.counts.of(Stage::Good));
    part.need.required().saturating_sub(good)
}
