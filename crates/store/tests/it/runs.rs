//! Runs of a plate that went otherwise: put back, stopped, lost, and run again; marks; money.

use std::collections::BTreeSet;

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Nullable, Text};
use rstest::rstest;
use wembrit_core::army::part_name;
use wembrit_core::cost_parts::CostParts;
use wembrit_core::flow::{FailureCause, PlateState, RunOutcome, Stage};
use wembrit_core::ids::PlateId;
use wembrit_store::commands::{accept_plan, judge_plate, release_plate, run_plate};
use wembrit_store::queries::{army, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const HOUR: i64 = 3_600_000;

fn accept(fresh: &Fresh) -> PlateId {
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| accept_plan::accept(c, plan, NOW))
        .unwrap();
    let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
    all.unwrap().last().unwrap().id
}

fn stages(fresh: &Fresh, plate: PlateId) -> BTreeSet<Stage> {
    let copies = fresh.store.read(|c| plates::copies_of(c, plate)).unwrap();
    let stages = copies.iter().filter_map(|c| Some(c.copy.as_ref()?.stage));
    stages.collect()
}

fn state(fresh: &Fresh, plate: PlateId) -> PlateState {
    fresh.store.read(|c| plates::load(c, plate)).unwrap().state
}

#[derive(QueryableByName, Debug, PartialEq, Eq)]
struct RunKept {
    #[diesel(sql_type = BigInt)]
    started_at_ms: i64,
    #[diesel(sql_type = Nullable<BigInt>)]
    ended_at_ms: Option<i64>,
    #[diesel(sql_type = Nullable<Text>)]
    outcome: Option<String>,
    #[diesel(sql_type = Nullable<BigInt>)]
    stopped_at_layer: Option<i64>,
}

fn runs(fresh: &Fresh) -> Vec<RunKept> {
    let all = "SELECT started_at_ms, ended_at_ms, outcome, stopped_at_layer FROM runs ORDER BY id";
    let load = |c: &mut Conn| diesel::sql_query(all).load(c).map_err(StoreError::from);
    fresh.store.read(load).unwrap()
}

fn kept(from: i64, to: i64, outcome: RunOutcome, layer: Option<i64>) -> RunKept {
    RunKept {
        started_at_ms: from,
        ended_at_ms: Some(to),
        outcome: Some(outcome.as_str().into()),
        stopped_at_layer: layer,
    }
}

/// Stopped by hand, put back, run again until it is good: one plate, two runs, nothing wanted anew.
#[test]
fn a_plate_put_back_runs_again_with_the_same_copies() {
    let fresh = Fresh::new(3);
    let plate = accept(&fresh);
    let write = |work: &dyn Fn(&mut Conn) -> Result<(), StoreError>| fresh.store.write(work);
    write(&|c| run_plate::start(c, plate, NOW)).unwrap();
    write(&|c| run_plate::put_back(c, plate, NOW + HOUR)).unwrap();
    assert_eq!(state(&fresh, plate), PlateState::Planned);
    assert_eq!(stages(&fresh, plate), BTreeSet::from([Stage::Planned]));
    assert_eq!(fresh.wanted(), 0);
    write(&|c| run_plate::start(c, plate, NOW + 2 * HOUR)).unwrap();
    write(&|c| run_plate::finish(c, plate, NOW + 9 * HOUR, NOW + 9 * HOUR)).unwrap();
    write(&|c| judge_plate::judge(c, plate, &[], NOW + 10 * HOUR)).unwrap();
    assert_eq!(stages(&fresh, plate), BTreeSet::from([Stage::Good]));
    assert_eq!(
        runs(&fresh),
        [
            kept(NOW, NOW + HOUR, RunOutcome::PutBack, None),
            kept(NOW + 2 * HOUR, NOW + 9 * HOUR, RunOutcome::Held, None),
        ]
    );
    // Pages show the newest.
    let newest = fresh.store.read(|c| plates::runs_of(c, &[plate])).unwrap();
    assert_eq!(newest[&plate].outcome, Some(RunOutcome::Held));
}

/// Lost while it ran or without being logged: its copies have failed for the cause and are wanted
/// again; their money stays spent. Put back after all, they are not wanted any more.
#[rstest]
#[case::stopped(true, Some(212), RunOutcome::Stopped)]
#[case::ran_through(true, None, RunOutcome::Lost)]
#[case::never_logged(false, None, RunOutcome::Lost)]
fn a_lost_plate_wants_its_copies_again_until_it_is_put_back(
    #[case] logged: bool,
    #[case] layer: Option<i64>,
    #[case] outcome: RunOutcome,
) {
    let fresh = Fresh::new(4);
    let plate = accept(&fresh);
    let began = if logged { NOW } else { NOW + HOUR };
    if logged {
        let start = |c: &mut Conn| run_plate::start(c, plate, NOW);
        fresh.store.write(start).unwrap();
    }
    let cause = FailureCause::NothingOnPlate;
    let lose = |c: &mut Conn| run_plate::lose(c, plate, cause, layer, NOW + HOUR);
    fresh.store.write(lose).unwrap();
    assert_eq!(state(&fresh, plate), PlateState::Lost);
    assert_eq!(stages(&fresh, plate), BTreeSet::from([Stage::Failed]));
    assert_eq!(fresh.wanted(), 4);
    assert_eq!(runs(&fresh), [kept(began, NOW + HOUR, outcome, layer)]);
    let copies = fresh.store.read(|c| plates::copies_of(c, plate)).unwrap();
    let causes = copies.iter().filter_map(|c| c.copy.as_ref()?.cause.clone());
    assert!(
        causes.clone().all(|c| c == cause.as_str()),
        "{:?}",
        causes.collect::<Vec<_>>()
    );
    let spent = fresh
        .store
        .read(|c| army::load(c, fresh.project))
        .unwrap()
        .spent();
    let cost = fresh.store.read(|c| plates::load(c, plate)).unwrap().cost();
    // Stopped it took less resin and fewer hours than all of it would have.
    assert!(if layer.is_some() {
        spent < cost
    } else {
        spent == cost
    });
    // A second time it is refused, and nothing changes.
    assert!(matches!(fresh.store.write(lose), Err(StoreError::Flow(_))));

    fresh
        .store
        .write(|c| run_plate::put_back(c, plate, NOW + 2 * HOUR))
        .unwrap();
    assert_eq!(fresh.wanted(), 0);
    assert_eq!(stages(&fresh, plate), BTreeSet::from([Stage::Planned]));
    let copies = fresh.store.read(|c| plates::copies_of(c, plate)).unwrap();
    let forgiven = copies
        .iter()
        .filter_map(|c| c.copy.as_ref())
        .all(|c| c.cause.is_none());
    assert!(forgiven, "a cause without a failure");
}

/// What was planned in place of a lost plate came out good, and so did that plate at last: what is
/// wanted is good, the rest is surplus.
#[test]
fn a_plate_put_back_too_late_makes_a_surplus() {
    let fresh = Fresh::new(2);
    let first = accept(&fresh);
    let cause = FailureCause::Warped;
    let run = |plate: PlateId, at: i64| {
        fresh
            .store
            .write(|c| run_plate::log_run(c, plate, at, at + HOUR, at + HOUR))?;
        fresh
            .store
            .write(|c| judge_plate::judge(c, plate, &[], at + HOUR))
    };
    fresh
        .store
        .write(|c| run_plate::lose(c, first, cause, None, NOW))
        .unwrap();
    let second = accept(&fresh);
    assert_ne!(first, second);
    run(second, NOW + HOUR).unwrap();
    assert_eq!(fresh.wanted(), 0);
    fresh
        .store
        .write(|c| run_plate::put_back(c, first, NOW + 3 * HOUR))
        .unwrap();
    run(first, NOW + 4 * HOUR).unwrap();
    let both = [first, second].map(|p| fresh.store.read(|c| plates::copies_of(c, p)).unwrap());
    let of = |stage: Stage| {
        let copies = both.iter().flatten().filter_map(|c| c.copy.as_ref());
        copies.filter(|c| c.stage == stage).count()
    };
    assert_eq!((of(Stage::Good), of(Stage::Surplus)), (2, 2));
}

/// A printer prints one plate at a time: a run written down afterwards that meets another is refused
/// with both named, and nothing changes. One that follows at once is taken, and so is one beside a run
/// that was put back in the queue.
#[rstest]
#[case::inside(20, 40, false)]
#[case::around(-30, 90, false)]
#[case::into_its_beginning(-30, 1, false)]
#[case::out_of_its_end(59, 70, false)]
#[case::right_before(-30, 0, true)]
#[case::right_after(60, 90, true)]
fn runs_of_one_printer_do_not_meet(#[case] from: i64, #[case] to: i64, #[case] taken: bool) {
    let minute = 60_000;
    let fresh = Fresh::new(2);
    let first = accept(&fresh);
    let write = |plate, from: i64, to: i64| {
        let (from, to) = (NOW + from * minute, NOW + to * minute);
        fresh
            .store
            .write(|c| run_plate::log_run(c, plate, from, to, NOW + 2 * HOUR))
    };
    fresh
        .store
        .write(|c| run_plate::start(c, first, NOW - HOUR))
        .unwrap();
    fresh
        .store
        .write(|c| run_plate::put_back(c, first, NOW + HOUR))
        .unwrap();
    write(first, 0, 60).unwrap();
    fresh.fails(first, NOW + HOUR);
    let second = accept(&fresh);
    match write(second, from, to) {
        Ok(()) => assert!(taken),
        Err(StoreError::RunsMeet(met)) => {
            assert!(!taken);
            assert_eq!((met.other, met.plate), (1, 2));
            assert_eq!((met.from_ms, met.to_ms), (NOW, Some(NOW + HOUR)));
            assert_eq!(state(&fresh, second), PlateState::Planned);
        }
        Err(other) => panic!("{other}"),
    }
}

#[rstest]
#[case::running(|c: &mut Conn, plate| run_plate::start(c, plate, NOW))]
#[case::printed(|c: &mut Conn, plate| run_plate::log_run(c, plate, NOW, NOW + HOUR, NOW + HOUR))]
#[case::lost(|c: &mut Conn, plate| run_plate::lose(c, plate, FailureCause::Other, None, NOW))]
fn what_has_run_is_not_released(#[case] then: fn(&mut Conn, PlateId) -> Result<(), StoreError>) {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    fresh.store.write(|c| then(c, plate)).unwrap();
    let before = (state(&fresh, plate), stages(&fresh, plate));
    let released = fresh.store.write(|c| release_plate::release(c, plate, NOW));
    assert!(matches!(released, Err(StoreError::Flow(_))));
    assert_eq!((state(&fresh, plate), stages(&fresh, plate)), before);
}

/// Marks count through the workshop, are never given twice, and stay when a plate is put back.
#[test]
fn a_mark_is_one_copys_alone_and_stays_with_it() {
    let fresh = Fresh::new(3);
    let first = accept(&fresh);
    let marks = |plate: PlateId| {
        let copies = fresh.store.read(|c| plates::copies_of(c, plate)).unwrap();
        let marks = copies.iter().filter_map(|c| Some(c.copy.as_ref()?.mark));
        marks.collect::<BTreeSet<i64>>()
    };
    assert_eq!(marks(first), BTreeSet::from([1, 2, 3]));
    let cause = FailureCause::Other;
    fresh
        .store
        .write(|c| run_plate::lose(c, first, cause, None, NOW))
        .unwrap();
    let second = accept(&fresh);
    assert_eq!(marks(second), BTreeSet::from([4, 5, 6]));
    fresh
        .store
        .write(|c| run_plate::put_back(c, first, NOW))
        .unwrap();
    assert_eq!(marks(first), BTreeSet::from([1, 2, 3]));
    let twice = "UPDATE copies SET mark = 1 WHERE mark = 2";
    let update = |c: &mut Conn| {
        diesel::sql_query(twice)
            .execute(c)
            .map_err(StoreError::from)
    };
    assert!(
        fresh.store.write(update).is_err(),
        "two copies with one mark"
    );
}

/// Each component of what copies cost adds up to the plate's, to the last cent, also after one was
/// taken off a draft.
#[test]
fn the_parts_of_a_cost_add_up_to_the_plates() {
    let fresh = Fresh::new(7);
    let plate = accept(&fresh);
    let of = fresh.store.read(|c| plates::load(c, plate)).unwrap();
    let copies = fresh.store.read(|c| plates::copies_of(c, plate)).unwrap();
    let all: CostParts = copies.iter().map(|c| c.cost).sum();
    assert_eq!(all, of.costs);
    let ml: f64 = copies.iter().map(|c| c.resin_ml).sum();
    assert!((ml - of.resin_ml).abs() < 1e-6, "{ml} {}", of.resin_ml);
    assert!(
        copies
            .iter()
            .all(|c| !part_name(&c.model_name, &c.part_name).is_empty())
    );
}
