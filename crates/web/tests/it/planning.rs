//! The plan page and the plate sheet: asked for some of it, bettered and stopped, side by side,
//! changed by hand with and without scripts.

use axum::body::Body;
use axum::http::{Request, header};
use rstest::rstest;
use wembrit_core::flow::{PlanEffort, PlanState};
use wembrit_core::ids::{PlanId, PlateId, ProjectId, UnitId};
use wembrit_store::commands;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::queries::edits::{self, Beside};
use wembrit_store::queries::{plans, plates};

use crate::app::{Answer, NOW, TestApp, without_keys};
use crate::pages::{computed, draft};

fn open(app: &TestApp) -> wembrit_core::flow::PlanRevision {
    app.store
        .read(|c| plans::open_plan(c, ProjectId(1)))
        .expect("it loads")
        .expect("one is open")
}

/// Copies on each plate of a plan, the emptiest first.
fn plates_by_copies(app: &TestApp, plan: PlanId) -> Vec<(usize, PlateId)> {
    let many = |id: PlateId| app.store.read(|c| plates::copies_of(c, id)).unwrap().len();
    let all = app.store.read(|c| plates::of_plan(c, plan)).unwrap();
    let mut all: Vec<_> = all.iter().map(|p| (many(p.id), p.id)).collect();
    all.sort_unstable();
    all
}

/// The one with most to do.
fn first_plate(app: &TestApp, plan: PlanId) -> PlateId {
    plates_by_copies(app, plan).last().expect("a plate").1
}

/// As the script sends it.
async fn by_script(app: &TestApp, plate: PlateId, form: &str) -> Answer {
    let request = Request::post(format!("/plates/{plate}/change"))
        .header(header::HOST, "localhost:7411")
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .header("x-fragment", "1")
        .body(Body::from(form.to_owned()));
    app.send(request.expect("a request")).await
}

#[tokio::test]
async fn the_plan_page_tells_the_bound_and_what_was_asked() {
    let app = TestApp::demo();
    let plan = draft(&app);
    app.get("/projects/1/plates")
        .await
        .says("No plan for these copies can take less than")
        .says("% more")
        .says("Plan anew");
    // Everything ticked is no choice; one unit and no spares is one.
    app.post(
        "/projects/1/plan",
        "unit=5&printer=1&printer=2&printer=3&no_spares=1&by_hours=1&until_h=40",
    )
    .await
    .is(303);
    let asked = open(&app);
    let scope = asked.scope.clone();
    assert_eq!(scope.units, vec![UnitId(5)]);
    assert!(scope.printers.is_empty() && scope.no_spares && scope.by_hours);
    assert_eq!(scope.until_h, Some(40.0));
    assert_ne!(asked.id, plan);
    computed(&app, asked.id);
    let page = app.get("/projects/1/plates").await;
    page.says("Asked for Bog slingers; no plate ending more than 40 h from now; by hours on the printers alone; without spares");
    page.says("Beside plan");
    // Side by side, both can be accepted; what is different is said.
    app.get(&format!("/plans/{}/beside/{plan}", asked.id))
        .await
        .is(200)
        .says("Printer hours")
        .says("is-best")
        .says("is gone");
    app.piece(&format!("/plans/{}/ends/{plan}", asked.id))
        .await
        .is(200)
        .says(" sooner than plan ")
        .says(" less on the printers");
    app.get(&format!("/plans/{plan}/beside/{plan}"))
        .await
        .says("every copy stands where it stood");
    app.post("/projects/1/plan", "until_h=soon")
        .await
        .is(422)
        .says("no number of hours");
    // The choice is kept where it is not asked for again.
    app.post("/projects/1/plan", "effort=further&same=1")
        .await
        .is(303);
    let further = open(&app);
    assert_eq!(further.scope, scope);
    assert_eq!(
        (further.effort, further.from),
        (PlanEffort::Further, Some(asked.id))
    );
}

#[tokio::test]
async fn a_search_is_watched_stopped_and_accepted() {
    let app = TestApp::demo();
    let done = draft(&app);
    let asked = PlanAsk {
        effort: PlanEffort::Repair,
        ..PlanAsk::default()
    };
    let plan = app
        .store
        .write(|c| commands::ask_plan::ask(c, ProjectId(1), &asked, NOW))
        .expect("asked");
    app.get("/projects/1/plan")
        .await
        .says("laying out the plates")
        .says("data-open");
    let better = crate::pages::request_of(&app, plan);
    app.store
        .write(|c| commands::save_plan::save_better(c, plan, &better))
        .expect("saved");
    app.get("/projects/1/plan")
        .await
        .says("looking for a better one")
        .says("That will do");
    app.post(&format!("/plans/{plan}/stop"), "").await.is(303);
    assert_eq!(open(&app).state, PlanState::Draft);
    // The piece is loaded by itself, and says what the page says.
    let piece = app.get("/projects/1/plan").await;
    piece.says("Look further");
    let page = app.get("/projects/1/plates").await;
    let page = without_keys(&page.body);
    assert!(
        page.contains(without_keys(&piece.body).trim()),
        "{}",
        piece.body
    );
    // Saved too late: a plan that was stopped stays as it is.
    let before = app
        .store
        .read(|c| plates::of_plan(c, plan))
        .expect("plates");
    app.store
        .write(|c| commands::save_plan::save_better(c, plan, &better))
        .expect("nothing");
    assert_eq!(
        app.store
            .read(|c| plates::of_plan(c, plan))
            .expect("plates"),
        before
    );
    app.post(&format!("/plans/{plan}/accept"), "word=filled")
        .await
        .is(303);
    let other = app.store.read(|c| plans::load(c, done)).expect("it loads");
    assert_eq!(other.state, PlanState::Dropped);
}

#[tokio::test]
async fn a_copy_is_moved_by_script_and_by_form() {
    let app = TestApp::demo();
    let plan = draft(&app);
    // On one with room left: what was slid into a gap of a full one is not sure to find it again.
    let room = |(copies, _): &&(usize, PlateId)| *copies > 20;
    let by_copies = plates_by_copies(&app, plan);
    let plate = by_copies.iter().find(room).expect("a plate").1;
    let load = || app.store.read(|c| edits::load(c, plate, Beside::All));
    let copies = || load().expect("it loads").copies;
    let before = copies();
    let alike = |one: &wembrit_core::flow::PlacedCopy| {
        let other = before
            .iter()
            .find(|p| p.part == one.part && p.key != one.key);
        other.map(|two| (*one, *two))
    };
    let (one, two) = before.iter().find_map(alike).expect("two of a part");
    // Onto another one: words what is in the way, nothing changed.
    let form = format!(
        "do=move&key={}&x={}&y={}&turn={}",
        one.key, two.at_mm[0], two.at_mm[1], two.rotation_deg
    );
    by_script(&app, plate, &form)
        .await
        .is(422)
        .says("in the way")
        .says(&format!("\"s{}\"", two.key));
    app.post(&format!("/plates/{plate}/change"), &form)
        .await
        .is(422)
        .says("in the way")
        .says("Repack");
    assert_eq!(copies(), before);
    // Off the plate, and back from the pool.
    let remove = format!("do=remove&key={}", one.key);
    by_script(&app, plate, &remove)
        .await
        .is(200)
        .says("Pool: wanted, on no plate")
        .says("Undo");
    let add = format!("do=add&part={}", one.part);
    let answer = app.post(&format!("/plates/{plate}/change"), &add).await;
    answer.is(303);
    assert_eq!(answer.location(), format!("/plates/{plate}"));
    by_script(&app, plate, "do=undo")
        .await
        .is(200)
        .says("Do again");
    by_script(&app, plate, "do=undo").await.is(200);
    assert_eq!(copies(), before);
    // Undone on another plate: the script is sent there.
    let other = app
        .store
        .read(|c| plates::of_plan(c, plan))
        .expect("plates");
    let other = other.iter().find(|p| p.id != plate).expect("two plates").id;
    by_script(&app, plate, &remove).await.is(200);
    let sent = by_script(&app, other, "do=undo").await;
    assert_eq!(sent.headers["x-go"], format!("/plates/{plate}"));
}

/// What a plate is advised is done on it, and saves what it said. Over the plan it is not advised:
/// what is taken off takes longer on a plate of its own.
#[tokio::test]
async fn advice_on_the_plan_is_followed_with_one_click() {
    let app = TestApp::demo();
    let plan = draft(&app);
    // The page does not wait for it: it comes when it is worked out, and is there from then on.
    let address = format!("/plans/{plan}/advice");
    app.get(&address)
        .await
        .is(200)
        .says("What would shorten it")
        .says(&format!("data-live=\"{address}\""));
    app.piece(&address).await.is(200);
    let page = app.get(&address).await;
    assert!(!page.body.contains("data-open"), "{}", page.body);
    assert!(!page.body.contains("Siege punt, mast this plate takes "));
    let of_plan = app.store.read(|c| plates::of_plan(c, plan));
    let mut page = page;
    for plate in of_plan.expect("plates") {
        let address = format!("/plates/{}/advice", plate.id);
        app.piece(&address).await.is(200);
        page = app.get(&address).await;
        if page.body.contains("Siege punt, mast this plate takes ") {
            break;
        }
    }
    page.says("on a plate of their own they take");
    let words = page
        .body
        .split("Siege punt, mast this plate takes ")
        .nth(1)
        .expect("a mast");
    let words = words.split(" h less").next().expect("hours");
    let (h, m) = words.split_once(':').expect("hours and minutes");
    let saves = h.parse::<f64>().expect("hours") * 60.0 + m.parse::<f64>().expect("minutes");
    let hours = |app: &TestApp| -> f64 {
        let all = app
            .store
            .read(|c| plates::of_plan(c, plan))
            .expect("plates");
        all.iter().map(|p| p.seconds).sum::<f64>() / 60.0
    };
    let before = hours(&app);
    let form = page
        .body
        .split("<form")
        .find(|f| f.contains("Siege punt, mast this plate"));
    let form = form.expect("a form");
    let part = |name: &str, after: &str| {
        let rest = form
            .split(&format!("name=\"{name}\" value=\""))
            .nth(1)
            .expect(after);
        rest.split('"').next().expect(after).to_owned()
    };
    let action = form
        .split("action=\"")
        .nth(1)
        .and_then(|a| a.split('"').next());
    let body = format!("do={}&part={}", part("do", "what"), part("part", "which"));
    app.post(action.expect("an address"), &body).await.is(303);
    assert!(
        (before - hours(&app) - saves).abs() <= 0.51,
        "{before} {} {saves}",
        hours(&app)
    );
}

#[rstest]
#[case::nothing("do=", "nothing was asked for")]
#[case::no_copy("do=pin", "no copy was picked")]
#[case::not_there("do=remove&key=9999", "not on this plate any more")]
#[case::no_number("do=move&key=1&x=left&y=1&turn=0", "'x' is no number")]
#[case::not_in_the_pool("do=add&part=1&n=500", "the pool has not so many")]
#[case::no_undo("do=undo", "nothing to undo")]
#[tokio::test]
async fn what_cannot_be_done_is_said(#[case] form: &str, #[case] words: &str) {
    let app = TestApp::demo();
    let plan = draft(&app);
    let plate = first_plate(&app, plan);
    by_script(&app, plate, form).await.is(422).says(words);
    let page = app.post(&format!("/plates/{plate}/change"), form).await;
    let escaped = words.replace('\'', "&#39;");
    page.is(422).says(&escaped);
}

/// Nothing accepted, printed or running is moved.
#[tokio::test]
async fn an_accepted_plate_is_not_changed_by_hand() {
    let app = TestApp::demo();
    for plate in 1..=5 {
        let page = app.get(&format!("/plates/{plate}")).await;
        assert!(!page.body.contains("is-by-hand"));
        by_script(&app, PlateId(plate), "do=repack")
            .await
            .is(422)
            .says("not accepted yet");
    }
}

#[tokio::test]
async fn the_sorting_sheet_and_the_curve_of_one_copy_are_drawn() {
    let app = TestApp::demo();
    let plan = draft(&app);
    let plate = first_plate(&app, plan);
    app.get(&format!("/plates/{plate}/sorting"))
        .await
        .is(200)
        .says("silhouette")
        .says("Sorting sheet");
    let address = format!("/plates/{plate}/per-copy");
    app.get(&address).await.is(200);
    app.piece(&address).await.is(200);
    app.get(&address)
        .await
        .says("A full plate takes")
        .says("MINUTES OF ONE COPY");
    app.get(&format!("/plates/{plate}/per-copy?each=400&order=0"))
        .await
        .says("From 1 copy on a plate on");
    app.get(&format!("/plates/{plate}/per-copy?each=0.01"))
        .await
        .says("Buying stays cheaper");
    app.get(&format!("/plates/{plate}/per-copy?each=cheap"))
        .await
        .says("role=\"alert\"");
    // With its printer out of use there is nothing to draw, and that is said.
    for printer in 1..=3 {
        app.post(&format!("/printers/{printer}/remove"), "").await;
    }
    app.get(&address)
        .await
        .is(200)
        .says("Its printer or resin is out of use");
}

/// A printer's limits are typed in its form, and a limit that leaves nothing is refused.
#[tokio::test]
async fn limits_of_a_printer_are_typed_and_looked_at() {
    let app = TestApp::demo();
    let printer = app
        .store
        .read(wembrit_store::queries::printers::list)
        .expect("printers")
        .remove(0);
    let form = |removal: &str, pull: &str| {
        format!(
            "row_version={}&name={}&kind=screen&width_mm=130&depth_mm=80&height_mm=150&margin_mm=3&startup_s=120&pixel_um=35&change_minutes=25&change_ml=15&removal_mm={removal}&part_pull=0&plate_pull={pull}&watts=60&price=0&life_h=4000",
            printer.row_version, printer.name
        )
    };
    let path = format!("/printers/{}", printer.id);
    app.get(&path)
        .await
        .says("Free for removal")
        .says("Hardest pull of a plate");
    app.post(&path, &form("150", "0"))
        .await
        .is(422)
        .says("leaves no height for parts");
    app.post(&path, &form("5", "much"))
        .await
        .is(422)
        .says("write a number");
    app.post(&path, &form("5", "60")).await.is(303);
    let saved = app
        .store
        .read(|c| wembrit_store::queries::printers::load(c, printer.id))
        .expect("it loads");
    assert_eq!(
        (saved.removal_mm, saved.part_pull, saved.plate_pull),
        (5.0, None, Some(60.0))
    );
}

/// When a plan would end stands where it is accepted, with by how much that is too late; and the
/// schedule says the same once it is.
#[tokio::test]
async fn a_plan_and_its_schedule_end_at_one_time() {
    let app = TestApp::demo();
    let plan = draft(&app);
    app.post("/projects/1/deadline", "deadline=2026-11-24T10:00")
        .await
        .is(303);
    let piece = app.piece(&format!("/plans/{plan}/ends")).await;
    piece
        .is(200)
        .says("It is wanted by Tue 24 Nov 10:00")
        .says("too late");
    let would = piece.body.split("<dd>").nth(1).expect("an end");
    let would = would.split('<').next().expect("an end");
    app.post(&format!("/plans/{plan}/accept"), "word=putty")
        .await
        .is(303);
    app.piece("/schedule/ruler").await.is(200);
    app.get("/schedule")
        .await
        .says(&format!("data-figure=\"project 1 ends\">{would}<"));
}

/// A plate that ends just after somebody has gone keeps its printer until they are back: said where
/// it is decided what stands on it.
#[tokio::test]
async fn a_little_less_would_free_a_printer_much_sooner() {
    let app = TestApp::demo();
    let plan = draft(&app);
    let all = app.store.read(|c| plates::of_plan(c, plan)).unwrap();
    let longest = all.iter().map(|p| p.seconds).fold(0.0, f64::max) / 60.0;
    let advice = format!("/plans/{plan}/advice");
    let before = app.piece(&advice).await.body;
    assert!(!before.contains("would free its printer"), "{before}");
    // Twenty minutes, and again when the longest plate needs a quarter of an hour more.
    let apart = (longest + 10.0 - 15.0) as usize;
    let at = |m: usize| format!("{}:{:02}", m / 60, m % 60);
    let windows: Vec<String> = (0..1420)
        .step_by(apart)
        .map(|m| format!("{}-{}", at(m), at(m + 20)))
        .collect();
    let windows = windows.join(",");
    let days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
    let week: Vec<String> = days.iter().map(|d| format!("{d}={windows}")).collect();
    let form = format!(
        "row_version=1&{}&otherwise=&quiet=&load_minutes=10&unload_minutes=10&look_minutes=0",
        week.join("&")
    );
    app.post("/attendance", &form).await.is(303);
    app.piece(&advice)
        .await
        .is(200)
        .says("would free its printer")
        .says("on the average of the hours you are there");
}
