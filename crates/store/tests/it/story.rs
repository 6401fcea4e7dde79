//! Whatever a maker does, in whatever order: nothing is lost, nothing is counted twice.

use std::collections::HashSet;

use proptest::prelude::*;
use wembrit_core::army::ArmyUnit;
use wembrit_core::flow::{FailureCause, Plate, PlateState, Stage};
use wembrit_core::ledger::{LedgerPlate, PlateTotals};
use wembrit_core::units::Money;
use wembrit_store::commands::judge_plate::Failure;
use wembrit_store::commands::muster::ModelChange;
use wembrit_store::queries::{army, charges, ledger, muster, plates, spent};
use wembrit_store::{StoreError, commands};

use crate::fresh::{Fresh, NOW};

/// Something a maker does; numbers choose a plate or copies among those there are.
#[derive(Debug, Clone)]
enum Deed {
    Want(u32),
    PlanAndAccept,
    PlanOnly,
    Start(usize),
    Finish(usize),
    Judge(usize, u8),
    Rejudge(usize),
    Release(usize),
    PutBack(usize),
    Lose(usize, Option<i64>),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        (0u32..9).prop_map(Deed::Want),
        Just(Deed::PlanAndAccept),
        Just(Deed::PlanOnly),
        any::<usize>().prop_map(Deed::Start),
        any::<usize>().prop_map(Deed::Finish),
        (any::<usize>(), any::<u8>()).prop_map(|(plate, lost)| Deed::Judge(plate, lost)),
        any::<usize>().prop_map(Deed::Rejudge),
        any::<usize>().prop_map(Deed::Release),
        any::<usize>().prop_map(Deed::PutBack),
        (any::<usize>(), proptest::option::of(1i64..900)).prop_map(|(n, at)| Deed::Lose(n, at)),
    ]
}

/// Does it; steps that do not lead on are refused and change nothing.
fn attempt(fresh: &Fresh, deed: &Deed) -> Result<(), StoreError> {
    let store = &fresh.store;
    let all = store.read(|c| plates::accepted(c, fresh.project))?;
    let pick = |n: usize| {
        all.get(n % all.len().max(1))
            .map(|p| p.id)
            .ok_or(StoreError::NotFound { what: "plate" })
    };
    match deed {
        Deed::Want(quantity) => {
            let row = store.read(|c| muster::model(c, fresh.model))?;
            let to = ModelChange {
                name: row.name,
                quantity: *quantity,
                base_width_mm: 25.0,
                base_depth_mm: 25.0,
                carries: 0,
            };
            store.write(|c| {
                commands::muster::change_model(c, fresh.model, row.row_version, &to, NOW)
            })
        }
        Deed::PlanAndAccept => {
            let plan = fresh.draft()?;
            store.write(|c| commands::accept_plan::accept(c, plan, NOW))
        }
        Deed::PlanOnly => fresh.draft().map(drop),
        Deed::Start(n) => store.write(|c| commands::run_plate::start(c, pick(*n)?, NOW)),
        Deed::Finish(n) => {
            store.write(|c| commands::run_plate::finish(c, pick(*n)?, NOW + 1, NOW + 1))
        }
        Deed::Judge(n, bits) => {
            let plate = pick(*n)?;
            let spots = store
                .read(|c| plates::copies_on(c, &[plate]))?
                .remove(&plate)
                .unwrap_or_default();
            let lost: Vec<Failure> = spots
                .iter()
                .enumerate()
                .filter(|(i, _)| bits >> (i % 8) & 1 == 1)
                .filter_map(|(_, s)| s.copy.as_ref().map(|c| c.id))
                .map(|copy| Failure {
                    copy,
                    cause: FailureCause::Other,
                    note: String::new(),
                })
                .collect();
            store.write(|c| commands::judge_plate::judge(c, plate, &lost, NOW))
        }
        Deed::Rejudge(n) => store.write(|c| commands::judge_plate::rejudge(c, pick(*n)?, NOW)),
        Deed::Release(n) => store.write(|c| commands::release_plate::release(c, pick(*n)?, NOW)),
        Deed::PutBack(n) => store.write(|c| commands::run_plate::put_back(c, pick(*n)?, NOW + 2)),
        Deed::Lose(n, at) => store
            .write(|c| commands::run_plate::lose(c, pick(*n)?, FailureCause::Other, *at, NOW + 2)),
    }
}

/// What must hold after every deed.
fn check(fresh: &Fresh, known: &mut HashSet<i64>) -> Result<(), TestCaseError> {
    let (all, spots, army) = fresh
        .store
        .read(|c| {
            let all = plates::accepted(c, fresh.project)?;
            let spots = plates::copies_on(c, &all.iter().map(|p| p.id).collect::<Vec<_>>())?;
            Ok((all, spots, army::load(c, fresh.project)?))
        })
        .map_err(|e| TestCaseError::fail(e.to_string()))?;
    let part = army.parts().next().expect("the part").2;
    let on_plates: Vec<_> = spots
        .values()
        .flatten()
        .filter_map(|s| s.copy.as_ref())
        .collect();
    let ids: HashSet<i64> = on_plates.iter().map(|c| c.id.0).collect();
    prop_assert_eq!(
        ids.len(),
        on_plates.len(),
        "a copy stands on one plate only"
    );
    let marks: HashSet<i64> = on_plates.iter().map(|c| c.mark).collect();
    prop_assert_eq!(marks.len(), on_plates.len(), "every copy has its own mark");
    // Copies of released plates leave the list, and only they.
    let gone = known.difference(&ids).count() as u32;
    prop_assert_eq!(part.counts.of(Stage::Released), gone, "no copy vanishes");
    known.extend(ids);
    let alive = on_plates.iter().filter(|c| c.stage.is_alive()).count() as u64;
    prop_assert_eq!(u64::from(part.counts.alive()), alive);
    prop_assert_eq!(
        part.need.wanted(),
        part.need.required().saturating_sub(alive)
    );
    prop_assert!(
        u64::from(part.counts.of(Stage::Good)) <= part.need.required(),
        "good copies are wanted ones"
    );
    let ledger = fresh
        .store
        .read(|c| spent::plates_of(c, fresh.project))
        .map_err(|e| TestCaseError::fail(e.to_string()))?;
    let over = |p: &&LedgerPlate| !matches!(p.state, PlateState::Planned | PlateState::Running);
    let spent: Money = ledger
        .iter()
        .filter(over)
        .filter_map(|p| Some(p.actual()?.total()))
        .sum();
    let on_copies: Money = army.units.iter().map(ArmyUnit::spent).sum();
    prop_assert_eq!(on_copies, spent, "money is on copies to the last cent");
    let runs = all.iter().filter(|p| p.state == PlateState::Running);
    let running: Money = runs.map(Plate::cost).sum();
    prop_assert_eq!(army.money.running, running);
    prop_assert_eq!(army.spent(), PlateTotals::of(&ledger).actual.total());
    let waiting = all.iter().filter(|p| p.state == PlateState::Planned);
    let committed: Money = waiting.map(Plate::cost).sum();
    prop_assert_eq!(
        army.committed(),
        committed,
        "what nobody started is not spent"
    );
    let charges = fresh
        .store
        .read(|c| charges::load(c, fresh.project))
        .map_err(|e| TestCaseError::fail(e.to_string()))?
        .charges;
    let costs = fresh
        .store
        .read(|c| ledger::copies(c, Some(fresh.project)))
        .map_err(|e| TestCaseError::fail(e.to_string()))?;
    let held: Money = costs
        .iter()
        .filter(|c| !c.failed() && c.stage != Stage::Printing)
        .map(|c| c.cost.total() + charges.to(c.copy))
        .sum();
    prop_assert_eq!(
        held + charges.lost.values().copied().sum(),
        spent,
        "what failed is paid by somebody, or said to be lost"
    );
    prop_assert!(
        charges
            .to
            .values()
            .chain(charges.lost.values())
            .all(|m| m.0 >= 0)
    );
    for plate in &all {
        let stages: HashSet<Stage> = spots[&plate.id]
            .iter()
            .filter_map(|s| Some(s.copy.as_ref()?.stage))
            .collect();
        let fits = |s: &Stage| match plate.state {
            PlateState::Planned => *s == Stage::Planned,
            PlateState::Running => *s == Stage::Printing,
            PlateState::Printed => *s == Stage::InFinishing,
            PlateState::Done => matches!(s, Stage::Good | Stage::Failed | Stage::Surplus),
            PlateState::Lost => *s == Stage::Failed,
            PlateState::Draft | PlateState::Released => false,
        };
        prop_assert!(
            stages.iter().all(fits),
            "plate {} is {} with copies {:?}",
            plate.number,
            plate.state,
            stages
        );
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, max_shrink_iters: 200, ..ProptestConfig::default() })]
    #[test]
    fn nothing_is_lost_whatever_the_order(deeds in proptest::collection::vec(deed(), 1..30)) {
        let fresh = Fresh::new(4);
        let mut known = HashSet::new();
        for deed in &deeds {
            match attempt(&fresh, deed) {
                Ok(())
                | Err(StoreError::Flow(_) | StoreError::Refused(_) | StoreError::NotFound { .. } | StoreError::Conflict { .. }) => {}
                Err(other) => prop_assert!(false, "{deed:?}: {other}"),
            }
            check(&fresh, &mut known)?;
        }
    }
}
