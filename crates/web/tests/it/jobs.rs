//! Long work: measured off the pages, taken up again after a stop, given up after three deaths.

use std::time::{Duration, Instant};

use rstest::rstest;
use tokio::net::TcpListener;
use tokio::sync::oneshot;
use wembrit_core::flow::SculptState;
use wembrit_core::task::{TaskKind, TaskState};
use wembrit_store::Store;
use wembrit_store::queries::{sculpts, tasks};
use wembrit_web::{Clock, Settings};

use crate::app::{NOW, TestApp};

fn file(name: &str) -> Vec<u8> {
    let path = format!("{}/../core/tests/data/{name}", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(path).expect("the test file is part of the repository")
}

/// Serves a store until the condition holds, then stops in good order.
async fn served_until(store: &Store, holds: impl Fn(&Store) -> bool) {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let (stop, stopped) = oneshot::channel::<()>();
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let shutdown = async move { drop(stopped.await) };
    let server = tokio::spawn(wembrit_web::launch(
        store.clone(),
        settings,
        listener,
        shutdown,
    ));
    let until = Instant::now() + Duration::from_secs(30);
    while !holds(store) {
        assert!(Instant::now() < until, "the work was not done");
        tokio::time::sleep(Duration::from_millis(10)).await;
    }
    stop.send(()).unwrap();
    server.await.unwrap().unwrap();
}

fn state(store: &Store) -> (SculptState, Option<String>) {
    let sculpt = store.read(sculpts::list).unwrap()[0].0.clone();
    (sculpt.state, sculpt.refusal)
}

#[rstest]
#[case::good("h_mini_a.stl", SculptState::Measured, "")]
#[case::cut_off("b_truncated.stl", SculptState::Refused, "triangles")]
#[case::text("b_text.stl", SculptState::Refused, "STL")]
#[tokio::test(flavor = "multi_thread")]
async fn a_file_is_measured_or_refused_with_one_line(
    #[case] name: &str,
    #[case] end: SculptState,
    #[case] words: &str,
) {
    let app = TestApp::empty();
    app.store
        .write(|c| sculpts::take_in(c, name, &file(name), NOW))
        .unwrap();
    served_until(&app.store, |s| state(s).0 != SculptState::Waiting).await;
    let (state, refusal) = state(&app.store);
    assert_eq!(state, end);
    let refusal = refusal.unwrap_or_default();
    assert!(
        refusal.contains(words) && !refusal.contains('\n'),
        "{refusal}"
    );
    app.get("/sculpts")
        .await
        .is(200)
        .says(name.trim_end_matches(".stl").replace('_', " ").as_str());
}

#[rstest]
#[case::once(1, TaskState::Done)]
#[case::twice(2, TaskState::Done)]
#[case::three_times(3, TaskState::Parked)]
#[tokio::test(flavor = "multi_thread")]
async fn work_that_died_is_taken_up_again_twice(#[case] deaths: i64, #[case] end: TaskState) {
    let app = TestApp::empty();
    app.store
        .write(|c| sculpts::take_in(c, "p_box.stl", &file("p_box.stl"), NOW))
        .unwrap();
    for attempt in 1..=deaths {
        // A death: claimed, and the program is gone before it says how it went.
        let task = app.store.write(|c| tasks::claim(c, NOW)).unwrap().unwrap();
        assert_eq!(task.attempts, attempt);
        if attempt < deaths {
            app.store.write(|c| tasks::take_up_again(c, NOW)).unwrap();
        }
    }
    let key = sculpts::task_key(&app.store.read(sculpts::list).unwrap()[0].0);
    let task = |s: &Store| s.read(|c| tasks::find(c, TaskKind::Measure, &key)).unwrap();
    served_until(&app.store, |s| !task(s).state.is_open()).await;
    assert_eq!(task(&app.store).state, end);
    if end == TaskState::Parked {
        app.get("/sculpts")
            .await
            .says("the program stopped during each of 3 attempts");
    }
}
