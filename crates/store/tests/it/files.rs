//! Opening, refusing and sweeping data files; sculpts kept once.

use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use rstest::rstest;
use wembrit_core::flow::{Lane, SculptState, TaskKind, TaskState};
use wembrit_core::ids::PlanId;
use wembrit_core::workshop::Rates;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::{muster, sculpts, tasks, workshop};
use wembrit_store::{Conn, Store, StoreError, commands};

use crate::fresh::{Fresh, NOW, spike, upload};

#[rstest]
#[case::text(b"a shopping list, long enough not to be an empty file".as_slice())]
#[case::other_sqlite(b"".as_slice())]
fn a_file_of_another_program_is_refused_and_left_alone(#[case] content: &[u8]) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("other.sqlite");
    if content.is_empty() {
        let mut conn = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
        conn.batch_execute("CREATE TABLE herons (id INTEGER PRIMARY KEY)")
            .unwrap();
    } else {
        std::fs::write(&path, content).unwrap();
    }
    let before = std::fs::read(&path).unwrap();
    assert!(matches!(Store::open(&path), Err(StoreError::NotOurs(_))));
    assert_eq!(std::fs::read(&path).unwrap(), before);
}

#[test]
fn a_file_of_a_newer_version_is_refused() {
    let fresh = Fresh::new(1);
    let path = fresh.folder.path().join("w.sqlite");
    let mut conn = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
    conn.batch_execute(
        "INSERT INTO __diesel_schema_migrations (version) VALUES ('29991231000000')",
    )
    .unwrap();
    let refused = Store::open(&path)
        .err()
        .map(|e| e.to_string())
        .unwrap_or_default();
    assert!(refused.contains("newer"), "{refused}");
}

/// A process that ends holds the file for a moment while it tidies up: the next one waits for it,
/// and when it holds on, says so, and nothing of damage.
#[rstest]
#[case::for_a_moment(300, None)]
#[case::for_good(8_000, Some("busy"))]
fn a_file_held_by_somebody_else_is_not_damaged(#[case] ms: u64, #[case] said: Option<&str>) {
    let fresh = Fresh::new(1);
    let path = fresh.folder.path().join("held.sqlite");
    fresh.store.copy_to(&path).unwrap();
    let mut conn = SqliteConnection::establish(path.to_str().unwrap()).unwrap();
    conn.batch_execute("PRAGMA journal_mode = WAL; PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE; CREATE TABLE herons (id INTEGER PRIMARY KEY); DROP TABLE herons; COMMIT")
        .unwrap();
    let held = std::thread::spawn(move || {
        std::thread::sleep(std::time::Duration::from_millis(ms));
        drop(conn);
    });
    let error = Store::open(&path).err().map(|e| e.to_string());
    match said {
        None => assert_eq!(error, None),
        Some(word) => assert!(
            error.as_ref().is_some_and(|e| e.contains(word)),
            "{error:?}"
        ),
    }
    drop(held);
}

#[test]
fn the_same_bytes_are_kept_once_and_come_back_whole() {
    let fresh = Fresh::new(1);
    let again = upload(&fresh.store, "another_name.stl", &spike(20.0)).unwrap();
    assert_eq!(again, Arrival::Known(fresh.sculpt));
    assert_eq!(fresh.store.read(sculpts::list).unwrap().len(), 1);
    assert_eq!(
        fresh
            .store
            .read(|c| sculpts::bytes(c, fresh.sculpt))
            .unwrap(),
        spike(20.0)
    );
}

#[test]
fn an_upload_cut_off_by_a_stop_is_swept_at_the_next_start() {
    let fresh = Fresh::new(1);
    let begun = fresh.store.write(|c| {
        let id = commands::sculpts::begin(c, "half.stl", NOW)?;
        commands::sculpts::add_chunk(c, id, 0, &sculpts::compress(b"half a file")?)?;
        Ok(id)
    });
    let begun = begun.unwrap();
    let path = fresh.folder.path().join("w.sqlite");
    let Fresh {
        store,
        folder: _kept,
        sculpt,
        ..
    } = fresh;
    drop(store);
    let store = Store::open(&path).unwrap();
    assert!(matches!(
        store.read(|c| sculpts::load(c, begun)),
        Err(StoreError::NotFound { .. })
    ));
    assert_eq!(
        store.read(|c| sculpts::load(c, sculpt)).unwrap().state,
        SculptState::Measured
    );
}

#[test]
fn a_sculpt_in_use_is_not_taken_away() {
    let fresh = Fresh::new(1);
    let refused = fresh
        .store
        .write(|c| commands::sculpts::remove(c, fresh.sculpt, NOW));
    assert!(matches!(refused, Err(StoreError::Refused(why)) if why.contains("'spike'")));
}

/// What is measured when its sculpt is taken away is let go of, and begun anew when it comes back.
#[test]
fn taking_a_sculpt_away_ends_its_measuring() {
    let fresh = Fresh::new(1);
    upload(&fresh.store, "other.stl", &spike(12.0)).unwrap();
    let (id, key) = fresh
        .store
        .read(|c| {
            let all = sculpts::list(c)?;
            let found = all.into_iter().find(|(s, _)| s.file_name == "other.stl");
            let sculpt = found.expect("it arrived").0;
            Ok((sculpt.id, sculpts::task_key(&sculpt)))
        })
        .unwrap();
    let task = || {
        let found = fresh
            .store
            .read(|c| tasks::find(c, TaskKind::Measure, &key));
        found.unwrap().expect("a task").state
    };
    let taken_up = fresh.store.write(|c| {
        // Whatever is asked for before it, and then itself.
        while let Some(claimed) = commands::tasks::claim(c, Lane::Quick, NOW)? {
            if claimed.input_key == key {
                return Ok(claimed);
            }
        }
        panic!("it was asked for")
    });
    let taken_up = taken_up.unwrap();
    assert_eq!(task(), TaskState::Running);
    fresh
        .store
        .write(|c| commands::sculpts::remove(c, id, NOW))
        .unwrap();
    assert_eq!(task(), TaskState::Done);
    let held = fresh
        .store
        .read(|c| wembrit_store::commands::tasks::is_held(c, &taken_up));
    assert!(!held.unwrap(), "who measures it sees so");
    fresh
        .store
        .write(|c| commands::sculpts::restore(c, id, NOW))
        .unwrap();
    assert_eq!(task(), TaskState::Waiting);
}

#[test]
fn a_task_that_dies_three_times_is_parked() {
    let fresh = Fresh::new(1);
    let key = "no such sculpt:1";
    fresh
        .store
        .write(|c| commands::tasks::ask(c, TaskKind::Measure, key, NOW))
        .unwrap();
    // The upload asked for a task as well; it stands first in the queue.
    fresh
        .store
        .write(|c| {
            let t = commands::tasks::claim(c, Lane::Quick, NOW)?.unwrap();
            commands::tasks::end(c, &t, TaskState::Done, "", NOW)
        })
        .unwrap();
    for attempt in 1..=3 {
        let claimed = fresh
            .store
            .write(|c| commands::tasks::claim(c, Lane::Quick, NOW))
            .unwrap()
            .unwrap();
        assert_eq!(
            (claimed.input_key.as_str(), claimed.attempts),
            (key, attempt)
        );
        fresh
            .store
            .write(|c| commands::tasks::take_up_again(c, NOW))
            .unwrap();
    }
    let task = fresh
        .store
        .read(|c| tasks::find(c, TaskKind::Measure, key))
        .unwrap()
        .unwrap();
    assert_eq!(task.state, TaskState::Parked);
    assert!(!task.message.is_empty());
    assert_eq!(
        fresh
            .store
            .write(|c| commands::tasks::claim(c, Lane::Quick, NOW))
            .unwrap(),
        None
    );
}

#[test]
fn a_transaction_that_fails_half_way_leaves_nothing() {
    let fresh = Fresh::new(1);
    let failed: Result<(), StoreError> = fresh.store.write(|c| {
        commands::muster::add_project(c, "half")?;
        Err(StoreError::Refused("on purpose".into()))
    });
    assert!(failed.is_err());
    assert_eq!(fresh.store.read(muster::projects).unwrap().len(), 1);
}

#[test]
fn the_second_of_two_changes_of_the_same_row_is_a_conflict() {
    let fresh = Fresh::new(1);
    let seen = fresh.store.read(workshop::load).unwrap();
    let change = commands::workshop::WorkshopChange {
        name: "Osierbank".into(),
        rates: Rates {
            clearance_mm: 1.5,
            ..seen.rates
        },
        ..commands::workshop::WorkshopChange::of(&seen)
    };
    fresh
        .store
        .write(|c| commands::workshop::change(c, seen.row_version, &change))
        .unwrap();
    let second = fresh
        .store
        .write(|c| commands::workshop::change(c, seen.row_version, &change));
    assert!(matches!(
        second,
        Err(StoreError::Conflict { what: "workshop" })
    ));
    assert_eq!(
        fresh.store.read(workshop::load).unwrap().rates.clearance_mm,
        1.5
    );
}

/// Who took a task up before it was ended or asked for anew has no say in it any more: two quick
/// stops never revive it, and a late end is not the end of the new one.
#[test]
fn a_task_belongs_to_who_took_it_up_last() {
    let fresh = Fresh::new(1);
    let key = "no such sculpt:1";
    let ask = || {
        let ask = |c: &mut Conn| commands::tasks::ask(c, TaskKind::Plan, key, NOW);
        fresh.store.write(ask).unwrap();
    };
    let claim = || {
        let claim = |c: &mut Conn| commands::tasks::claim(c, Lane::Plan, NOW);
        fresh.store.write(claim).unwrap().unwrap()
    };
    let state = || {
        let find = |c: &mut Conn| tasks::find(c, TaskKind::Plan, key);
        fresh.store.read(find).unwrap().unwrap().state
    };
    let stop = || {
        let ended = (TaskState::Done, "");
        let stop = |c: &mut Conn| commands::tasks::end_asked(c, TaskKind::Plan, key, ended, NOW);
        fresh.store.write(stop).unwrap();
    };
    ask();
    let first = claim();
    let held = |task| {
        let held = |c: &mut Conn| commands::tasks::is_held(c, task);
        fresh.store.read(held).unwrap()
    };
    assert!(held(&first));
    stop();
    stop();
    assert!(!held(&first));
    // What it says afterwards counts no more, be it that it waits again or failed.
    let late = |c: &mut Conn| {
        commands::tasks::put_back(c, &first, NOW)?;
        commands::tasks::report(c, &first, 0.5)?;
        commands::tasks::end(c, &first, TaskState::Failed, "late", NOW)
    };
    fresh.store.write(late).unwrap();
    assert_eq!(state(), TaskState::Done);
    ask();
    let second = claim();
    fresh.store.write(late).unwrap();
    assert_eq!(state(), TaskState::Running);
    assert!(held(&second) && !held(&first));
}

/// A plan nobody wants any more is not worked on, and the newest asked for comes first.
#[test]
fn dropped_plans_are_not_worked_on() {
    let fresh = Fresh::new(2);
    let ask = || {
        let asked = PlanAsk::default();
        let ask = |c: &mut Conn| commands::ask_plan::ask(c, fresh.project, &asked, NOW);
        fresh.store.write(ask).unwrap()
    };
    let plans: Vec<PlanId> = (0..5).map(|_| ask()).collect();
    let waiting = fresh
        .store
        .read(|c| tasks::list(c, TaskState::Waiting))
        .unwrap();
    let of_plans: Vec<String> = waiting
        .into_iter()
        .filter(|t| t.kind == TaskKind::Plan)
        .map(|t| t.input_key)
        .collect();
    assert_eq!(of_plans, [plans[4].to_string()]);
}
