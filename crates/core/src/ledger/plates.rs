//! What plates took against what was planned.

use std::collections::BTreeMap;

use crate::army::ProjectMoney;
use crate::cost::{Basis, Took, split};
use crate::cost_parts::{CostKind, CostParts};
use crate::flow::PlateState;
use crate::ids::PlateId;
use crate::units::{Money, ResinUse};

/// A plate of the ledger.
#[derive(Debug, Clone, PartialEq)]
pub struct LedgerPlate {
    /// Which one.
    pub id: PlateId,
    /// Its number.
    pub number: i64,
    /// Where it stands.
    pub state: PlateState,
    /// What it was planned to cost.
    pub planned: CostParts,
    /// Its resin, by where it goes.
    pub goes: ResinUse,
    /// What that was reckoned from; nothing where it was not kept.
    pub basis: Option<Basis>,
    /// What was written down of its runs; nothing while none has ended.
    pub took: Option<Took>,
    /// When its newest run ended, ms since 1970.
    pub ended_at_ms: Option<i64>,
    /// Resin that was spoilt, spilt or cured away with its runs, by the cause that was said, ml.
    pub spoilt_ml: BTreeMap<String, f64>,
}

impl LedgerPlate {
    /// What it really took, reckoned from.
    #[must_use]
    pub fn actual_basis(&self) -> Option<Basis> {
        Some(self.basis?.took(&self.took?))
    }

    /// Resin it took, ml.
    #[must_use]
    pub fn took_ml(&self) -> Option<f64> {
        let took = self.took?;
        Some(took.ml.unwrap_or(self.goes.ml() * took.share))
    }

    /// What it really cost; as planned where what it was reckoned from was not kept; nothing while it has not run.
    #[must_use]
    pub fn actual(&self) -> Option<CostParts> {
        self.took?;
        Some(self.actual_basis().map_or(self.planned, |b| b.cost()))
    }

    /// What its copies cost by what it really took, from what they were planned to cost: component by
    /// component in the same proportions, to the minor unit. As planned while it waits or runs, since
    /// what it took before then was taken by other copies.
    #[must_use]
    pub fn of_copies(&self, planned: &[CostParts]) -> Vec<CostParts> {
        let over = matches!(
            self.state,
            PlateState::Printed | PlateState::Done | PlateState::Lost
        );
        let Some(actual) = self.actual().filter(|a| over && *a != self.planned) else {
            return planned.to_vec();
        };
        let mut shares = vec![CostParts::default(); planned.len()];
        for kind in CostKind::ALL {
            let weights: Vec<f64> = planned.iter().map(|c| c.get(*kind).0 as f64).collect();
            for (share, part) in shares.iter_mut().zip(split(actual.get(*kind), &weights)) {
                *share = share.with(*kind, part);
            }
        }
        shares
    }

    /// What a ml of its resin costs, minor units.
    fn ml_minor(&self) -> f64 {
        let planned = self.planned.get(CostKind::Resin).0 as f64 / self.goes.ml().max(f64::EPSILON);
        self.basis.map_or(planned, |b| b.ml_minor)
    }

    /// What a project has cost so far, by its accepted plates and what was paid for copies from elsewhere.
    #[must_use]
    pub fn project_money(plates: &[Self], came: Money) -> ProjectMoney {
        let running = plates.iter().filter(|p| p.state == PlateState::Running);
        ProjectMoney {
            plates: PlateTotals::of(plates).actual.total(),
            spoilt: plates.iter().flat_map(Self::spoilt).map(|s| s.1).sum(),
            came,
            running: running.map(|p| p.planned.total()).sum(),
        }
    }

    /// What was spoilt with its runs, by cause.
    pub fn spoilt(&self) -> impl Iterator<Item = (&str, Money)> {
        let minor = self.ml_minor();
        self.spoilt_ml
            .iter()
            .map(move |(cause, ml)| (cause.as_str(), Money::from_minor_f64(ml * minor)))
    }
}

/// Sums over the plates that have run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct PlateTotals {
    /// Plates.
    pub plates: u64,
    /// What they were planned to cost.
    pub planned: CostParts,
    /// What they cost.
    pub actual: CostParts,
}

impl PlateTotals {
    /// Over some plates.
    #[must_use]
    pub fn of(plates: &[LedgerPlate]) -> Self {
        plates.iter().fold(Self::default(), |sum, p| {
            p.actual().map_or(sum, |actual| Self {
                plates: sum.plates + 1,
                planned: sum.planned + p.planned,
                actual: sum.actual + actual,
            })
        })
    }
}

/// What was spent up to a time: planned and actual, added up.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Spent {
    /// When, ms since 1970.
    pub at_ms: i64,
    /// The plate that came off then.
    pub number: i64,
    /// Planned so far.
    pub planned: CostParts,
    /// Actual so far.
    pub actual: CostParts,
}

/// Spending as plates came off, oldest first.
#[must_use]
pub fn spent_over_time(plates: &[LedgerPlate]) -> Vec<Spent> {
    let mut ended: Vec<(i64, &LedgerPlate, CostParts)> = plates
        .iter()
        .filter_map(|p| Some((p.ended_at_ms?, p, p.actual()?)))
        .collect();
    ended.sort_by_key(|(at, p, _)| (*at, p.number));
    let mut sums = (CostParts::default(), CostParts::default());
    ended
        .into_iter()
        .map(|(at_ms, plate, actual)| {
            sums = (sums.0 + plate.planned, sums.1 + actual);
            Spent {
                at_ms,
                number: plate.number,
                planned: sums.0,
                actual: sums.1,
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::cost::Takes;

    /// 40 ml at 5, four hours at 10 and thirty minutes at 20: planned 2.00, 0.40 and 6.00. It took 44 ml, three hours,
    /// and forty minutes of hands.
    #[test]
    fn what_a_plate_took_stands_beside_what_was_planned() {
        let basis = Basis {
            ml: 40.0,
            ml_minor: 5.0,
            hours: 4.0,
            hour_minor: 10.0,
            copies: 4.0,
            plate_minutes: 30.0,
            hands_minor: 1200.0,
            ..Basis::default()
        };
        let plate = |number, took: Option<Took>| LedgerPlate {
            id: PlateId(number),
            number,
            state: PlateState::Done,
            planned: basis.cost(),
            goes: ResinUse::default(),
            basis: Some(basis),
            took,
            ended_at_ms: took.map(|_| 10 - number),
            spoilt_ml: BTreeMap::new(),
        };
        let took = Took {
            ml: Some(44.0),
            hours: Some(3.0),
            share: 1.0,
            minutes: Some(40.0),
            runs: 1.0,
        };
        let as_planned = Took {
            share: 1.0,
            runs: 1.0,
            ..Took::default()
        };
        let half = Took {
            share: 0.5,
            runs: 1.0,
            ..Took::default()
        };
        let all = [
            plate(1, Some(took)),
            plate(2, Some(as_planned)),
            plate(3, None),
            plate(4, Some(half)),
        ];
        let actual = all[0].actual().expect("it ran");
        let of = |k| actual.get(k).0;
        assert_eq!(
            [of(CostKind::Resin), of(CostKind::Wear), of(CostKind::Hands)],
            [220, 30, 800]
        );
        assert_eq!(all[1].actual(), Some(basis.cost()));
        assert!(as_planned.is_planned() && !took.is_planned());
        assert_eq!(all[2].actual(), None);
        // Stopped half way: hands are taken all the same.
        assert_eq!(all[3].actual().map(|c| c.total()), Some(Money(720)));
        let totals = PlateTotals::of(&all);
        assert_eq!(
            (totals.plates, totals.planned.total(), totals.actual.total()),
            (3, Money(2520), Money(2610))
        );
        let spent = spent_over_time(&all);
        assert_eq!(
            spent.iter().map(|s| s.number).collect::<Vec<_>>(),
            [4, 2, 1]
        );
        assert_eq!(spent[2].actual, totals.actual);
        // 40 ml of a lost vat at 5 each; another plate runs for what it was planned to cost.
        let mut with = all.to_vec();
        with[1].spoilt_ml.insert("vat tore".into(), 40.0);
        with[2].state = PlateState::Running;
        let money = LedgerPlate::project_money(&with, Money(77));
        let [of, running] = [money.spent(), money.running];
        assert_eq!((of, running), (Money(2610 + 200 + 77), Money(840)));
    }

    proptest! {
        /// Whatever a plate took, its copies cost what it cost, to the minor unit, and as planned while
        /// nothing is known.
        #[test]
        fn copies_cost_what_their_plate_took(
            ml in proptest::option::of(0.0..900.0f64),
            hours in proptest::option::of(0.0..90.0f64),
            minutes in proptest::option::of(0.0..900.0f64),
            share in 0.0..3.0f64,
            takes in proptest::collection::vec((0.0..50.0f64, 0.0..900.0f64), 1..40),
            state in proptest::sample::select(PlateState::ALL),
        ) {
            let basis = Basis {
                ml: takes.iter().map(|t| t.0).sum(),
                ml_minor: 4.41,
                hours: 4.0,
                hour_minor: 10.0,
                copies: takes.len() as f64,
                plate_minutes: 30.0,
                copy_minutes: 0.5,
                hands_minor: 1200.0,
                ..Basis::default()
            };
            let each: Vec<Takes> = takes.iter().map(|(ml, area_mm2)| Takes { ml: *ml, area_mm2: *area_mm2, ..Takes::default() }).collect();
            let planned = basis.shares(&each);
            let plate = LedgerPlate {
                id: PlateId(1),
                number: 1,
                state,
                planned: basis.cost(),
                goes: ResinUse::default(),
                basis: Some(basis),
                took: Some(Took { ml, hours, minutes, share, runs: 1.0 }),
                ended_at_ms: Some(1),
                spoilt_ml: BTreeMap::new(),
            };
            let of = plate.of_copies(&planned);
            let over = matches!(state, PlateState::Printed | PlateState::Done | PlateState::Lost);
            let cost = if over { plate.actual().unwrap() } else { plate.planned };
            prop_assert_eq!(of.iter().copied().sum::<CostParts>(), cost);
            prop_assert!(over || of == planned);
        }
    }
}
