//! Long work: measured off the pages, taken up again after a stop, given up after three deaths.

use std::time::Duration;

use rstest::rstest;
use tokio::net::TcpListener;
use tokio::sync::oneshot;
use wembrit_core::flow::{Lane, SculptState, Task, TaskKind, TaskState};
use wembrit_core::ids::ProjectId;
use wembrit_store::commands::sculpts::PackedFile;
use wembrit_store::queries::{plates, sculpts, tasks};
use wembrit_store::{Store, commands};
use wembrit_web::{Clock, Settings};

use crate::app::{NOW, TestApp, served_until};

fn file(name: &str) -> Vec<u8> {
    let path = format!("{}/../core/tests/data/{name}", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(path).expect("the test file is part of the repository")
}

fn packed(name: &str) -> PackedFile {
    PackedFile::new(&file(name)).expect("it is packed")
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
        .write(|c| commands::sculpts::take_in(c, name, &packed(name), NOW))
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
        .write(|c| commands::sculpts::take_in(c, "p_box.stl", &packed("p_box.stl"), NOW))
        .unwrap();
    for attempt in 1..=deaths {
        // A death: claimed, and the program is gone before it says how it went.
        let task = app
            .store
            .write(|c| commands::tasks::claim(c, Lane::Quick, NOW))
            .unwrap()
            .unwrap();
        assert_eq!(task.attempts, attempt);
        if attempt < deaths {
            app.store
                .write(|c| commands::tasks::take_up_again(c, NOW))
                .unwrap();
        }
    }
    let key = sculpts::task_key(&app.store.read(sculpts::list).unwrap()[0].0);
    let task = |s: &Store| {
        s.read(|c| tasks::find(c, TaskKind::Measure, &key))
            .unwrap()
            .unwrap()
    };
    served_until(&app.store, |s| !task(s).state.is_open()).await;
    assert_eq!(task(&app.store).state, end);
    if end == TaskState::Parked {
        app.get("/sculpts")
            .await
            .says("the program stopped during each of 3 attempts");
        // Its page says so, waits for nothing, and asks for it once more.
        let page = app.get("/sculpts/1").await;
        page.says("Measuring the file was given up")
            .says("Try again");
        assert!(!page.body.contains("It is being measured"));
        app.post("/sculpts/1/again", "").await.is(303);
        app.get("/sculpts/1").await.says("It is being measured");
        served_until(&app.store, |s| !task(s).state.is_open()).await;
        assert_eq!(task(&app.store).state, TaskState::Done);
        let page = app.get("/sculpts/1").await;
        assert!(!page.body.contains("was given up"));
    }
}

/// How far a task is stands beside what pages keep, and is told all the same.
#[tokio::test]
async fn pages_tell_how_far_a_task_is() {
    let app = TestApp::demo();
    app.post("/projects/1/plan", "").await.is(303);
    app.get("/projects/1/plates").await.says("value=\"0\"");
    let aside = |share: f64| {
        let plan = |t: &Task| t.kind == TaskKind::Plan;
        let told = app.store.write_aside(|c| {
            commands::tasks::claim(c, Lane::Plan, NOW)?;
            let task = tasks::list(c, TaskState::Running)?.into_iter().find(plan);
            commands::tasks::report(c, &task.expect("it runs"), share)
        });
        told.unwrap();
    };
    for (share, says) in [(0.25, "value=\"25\""), (0.5, "value=\"50\"")] {
        aside(share);
        app.get("/projects/1/plates").await.says(says);
    }
    // The same on the sheet of how parts hang: what is asked for is being measured until it is over.
    app.post("/projects/1/setups/look", "").await.is(303);
    app.get("/projects/1/setups").await.says("being measured");
    let over = app.store.write_aside(|c| {
        for task in tasks::open_in(c, TaskKind::Prepare.lane())? {
            let ended = (TaskState::Done, "");
            commands::tasks::end_asked(c, task.kind, &task.input_key, ended, NOW)?;
        }
        Ok(())
    });
    over.unwrap();
    let page = app.get("/projects/1/setups").await;
    assert!(!page.body.contains("being measured"));
}

/// The plates' page waits for parts that are being measured, and knows when they are.
#[tokio::test(flavor = "multi_thread")]
async fn plates_wait_for_what_is_being_measured() {
    let app = TestApp::empty();
    let start = "width_mm=130&depth_mm=80&height_mm=150&price_per_kg=25&layer_mm=0.05";
    app.post("/start", start).await.is(303);
    let take = |c: &mut _| commands::sculpts::take_in(c, "p_box.stl", &packed("p_box.stl"), NOW);
    app.store.write(take).unwrap();
    for (path, form) in [
        ("/projects/new", "name=Fen"),
        ("/projects/1/units/new", "name=Casks&priority=1"),
        ("/units/1/models/new", "name=Cask&quantity=3&base=25"),
        (
            "/models/1/parts/new",
            "name=Cask&count=1&spares=0&sculpt=1&scale_percent=100&resin=1&layer_mm=0.05",
        ),
        (
            "/models/1/parts/new",
            "name=Hoop&count=1&spares=0&scale_percent=100&resin=1&layer_mm=0.05",
        ),
    ] {
        app.post(path, form).await.is(303);
    }
    app.get("/projects/1/plates")
        .await
        .says("data-live=\"/projects/1/left-out\"")
        .says("data-live=\"/projects/1/plan\" data-topic=\"plates sculpts\"")
        .says("1 wanted part is being measured first")
        .says("1 wanted part has");
    app.get("/projects/1/left-out").await.says("data-open");
    served_until(&app.store, |s| state(s).0 == SculptState::Measured).await;
    let after = app.get("/projects/1/left-out").await;
    assert!(!after.body.contains("data-open"), "{}", after.body);
    app.get("/projects/1/plates")
        .await
        .says("3 copies are wanted");
}

/// Everything a sculpt's page shows is worked off by itself: figures, prepared facts of the scale
/// its part is printed at, pictures, hollows.
#[tokio::test(flavor = "multi_thread")]
async fn the_rest_is_measured_when_nobody_waits() {
    use wembrit_core::sculpt::picture::Side;
    use wembrit_store::queries::{hollows, layer_facts};
    let app = TestApp::empty();
    app.post(
        "/start",
        "width_mm=130&depth_mm=80&height_mm=150&price_per_kg=25&layer_mm=0.05",
    )
    .await
    .is(303);
    app.store
        .write(|c| {
            commands::sculpts::take_in(
                c,
                "h_hollow_sealed.stl",
                &packed("h_hollow_sealed.stl"),
                NOW,
            )
        })
        .unwrap();
    app.post("/projects/new", "name=Fen").await.is(303);
    app.post("/projects/1/units/new", "name=Casks&priority=1")
        .await
        .is(303);
    app.post("/units/1/models/new", "name=Cask&quantity=3&base=25")
        .await
        .is(303);
    let part = "name=Cask&count=1&spares=0&sculpt=1&scale_percent=50&resin=1&layer_mm=0.05";
    app.post("/models/1/parts/new", part).await.is(303);
    let id = wembrit_core::ids::SculptId(1);
    let known = |s: &Store| {
        s.read(|c| {
            let scales: Vec<f64> = layer_facts::of_sculpt(c, id)?
                .iter()
                .map(|p| p.scale)
                .collect();
            Ok((
                scales,
                hollows::of_sculpt(c, id)?,
                hollows::has_pictures(c, id)?,
            ))
        })
        .unwrap()
    };
    served_until(&app.store, |s| {
        let (scales, hollow, pictured) = known(s);
        scales == [0.5, 1.0] && hollow.is_some() && pictured
    })
    .await;
    let hollow = known(&app.store).1.unwrap().hollows;
    assert_eq!((hollow.len(), hollow[0].ways_out.len()), (1, 0));
    let png = app
        .store
        .read(|c| hollows::picture(c, id, Side::Left))
        .unwrap();
    assert_eq!(&png[..8], b"\x89PNG\r\n\x1a\n");
    // Half of 5.1852 ml in every direction is an eighth.
    let half = app
        .store
        .read(|c| layer_facts::of_sculpt(c, id))
        .unwrap()
        .remove(0);
    assert!((half.volume_mm3 - 5185.2 / 8.0).abs() < 12.0, "{half:?}");
    // Nothing is left to do.
    for state in [
        TaskState::Waiting,
        TaskState::Running,
        TaskState::Failed,
        TaskState::Parked,
    ] {
        assert!(
            app.store
                .read(|c| tasks::list(c, state))
                .unwrap()
                .is_empty(),
            "{state}"
        );
    }
    // One hollow, one figure: cubes tell that it is sealed, layers how much it holds.
    app.get("/sculpts/1")
        .await
        .says("A hollow of 8.93 ml has no way out")
        .says("The file is hollow: 8.93 ml, sealed")
        .says("8.93 ml of air are sealed in")
        .says("/sculpts/1/side/front")
        .says("<td class=\"n\">50</td>");
}

/// Orientations that were asked for earlier take minutes; a plan is there before them.
#[tokio::test(flavor = "multi_thread")]
async fn a_plan_does_not_wait_for_orientations() {
    let app = TestApp::demo();
    let ask = commands::ask_plan::PlanAsk::default();
    let plan = app
        .store
        .write(|c| commands::ask_plan::ask(c, ProjectId(1), &ask, NOW))
        .unwrap();
    let plates = |s: &Store| s.read(|c| plates::of_plan(c, plan)).unwrap().len();
    served_until(&app.store, |s| plates(s) > 0).await;
    let mut open = Vec::new();
    for state in [TaskState::Waiting, TaskState::Running] {
        open.extend(app.store.read(|c| tasks::list(c, state)).unwrap());
    }
    assert!(open.iter().any(|t| t.kind == TaskKind::Poses), "{open:?}");
}

/// The stream of news says hello, tells of work, and ends when the server is asked to stop.
#[tokio::test(flavor = "multi_thread")]
async fn news_is_told_and_ends_with_the_server() {
    use tokio::io::{AsyncReadExt, AsyncWriteExt};
    let app = TestApp::empty();
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let (stop, stopped) = oneshot::channel::<()>();
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let server = tokio::spawn(wembrit_web::launch(
        app.store.clone(),
        settings,
        listener,
        async move { drop(stopped.await) },
    ));
    let mut stream = tokio::net::TcpStream::connect(address).await.unwrap();
    let ask = format!(
        "GET /events HTTP/1.1\r\nHost: localhost:{}\r\n\r\n",
        address.port()
    );
    stream.write_all(ask.as_bytes()).await.unwrap();
    let mut heard = String::new();
    let mut buffer = [0; 1024];
    let mut uploaded = false;
    while !heard.contains("data: sculpts") {
        let many = tokio::time::timeout(Duration::from_secs(20), stream.read(&mut buffer))
            .await
            .unwrap()
            .unwrap();
        assert!(many > 0, "the stream ended early: {heard}");
        heard.push_str(&String::from_utf8_lossy(&buffer[..many]));
        if heard.contains("data: hello") && !uploaded {
            uploaded = true;
            app.store
                .write(|c| commands::sculpts::take_in(c, "p_box.stl", &packed("p_box.stl"), NOW))
                .unwrap();
        }
    }
    assert!(heard.contains("text/event-stream"), "{heard}");
    stop.send(()).unwrap();
    // An open stream does not hold the door.
    tokio::time::timeout(Duration::from_secs(8), server)
        .await
        .unwrap()
        .unwrap()
        .unwrap();
}
