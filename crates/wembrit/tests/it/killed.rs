//! The real binary killed at any moment while a plan is accepted: all of it or nothing.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Duration;

use rstest::rstest;
use wembrit_core::flow::{PlanState, PlateState};
use wembrit_store::Store;
use wembrit_store::queries::{muster, plans, plates};

use crate::browser::{Served, demo_file};

/// A request without waiting for its answer.
fn post(base: &str, path: &str) -> TcpStream {
    let host = base.strip_prefix("http://").unwrap();
    let mut stream = TcpStream::connect(host).unwrap();
    write!(
        stream,
        "POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"
    )
    .unwrap();
    stream
}

#[rstest]
#[case(0)]
#[case(3)]
#[case(8)]
#[case(15)]
#[case(40)]
fn a_plan_is_accepted_whole_or_not_at_all(#[case] after_ms: u64) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("demo.sqlite");
    std::fs::write(&file, demo_file()).unwrap();
    let mut served = Served::start(&["demo", "--data", file.to_str().unwrap()]);
    let mut answer = String::new();
    post(&served.base, "/projects/1/plan")
        .read_to_string(&mut answer)
        .unwrap();
    assert!(answer.starts_with("HTTP/1.1 303"), "{answer}");
    let store = Store::open(&file).unwrap();
    let project = store.read(muster::projects).unwrap()[0].id;
    let draft = loop {
        let plan = store
            .read(|c| plans::open_plan(c, project))
            .unwrap()
            .unwrap();
        let there = store.read(|c| plates::of_plan(c, plan.id)).unwrap();
        if !there.is_empty() {
            break plan.id;
        }
        std::thread::sleep(Duration::from_millis(20));
    };
    let before = store.read(|c| plates::accepted(c, project)).unwrap().len();
    drop(store);

    let stream = post(&served.base, &format!("/plans/{draft}/accept"));
    std::thread::sleep(Duration::from_millis(after_ms));
    served.kill();
    drop(stream);

    let store = Store::open(&file).unwrap();
    let state = store.read(|c| plans::load(c, draft)).unwrap().state;
    let accepted = store.read(|c| plates::accepted(c, project)).unwrap();
    let placed = store
        .read(|c| plates::copies_on(c, &accepted.iter().map(|p| p.id).collect::<Vec<_>>()))
        .unwrap();
    assert!(
        placed.values().flatten().all(|spot| spot.copy.is_some()),
        "every copy has its row"
    );
    match state {
        PlanState::Accepted => {
            let of = store.read(|c| plates::of_plan(c, draft)).unwrap();
            assert_eq!(accepted.len(), before + of.len());
        }
        PlanState::Draft | PlanState::Computing => {
            assert_eq!(accepted.len(), before);
            let still = store.read(|c| plates::of_plan(c, draft)).unwrap();
            assert!(!still.is_empty() && still.iter().all(|p| p.state == PlateState::Draft));
        }
        other => panic!("a plan half way: {other}"),
    }
}
