//! The schedule as its page takes it: when somebody is there, by when, moving a plate, the calendar.

use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::plates;

use crate::app::{Answer, TestApp};

const WEEK: &str = "mon=8-22&tue=8-22&wed=8-22&thu=8-22&fri=8-22&sat=8-22&sun=8-22\
                    &otherwise=&quiet=&load_minutes=10&unload_minutes=10&look_minutes=10";

/// The page, once its times are worked out.
async fn schedule(app: &TestApp) -> Answer {
    app.piece("/schedule/ruler").await.is(200);
    app.get("/schedule").await
}

fn ends(page: &str) -> String {
    let at = page.split("data-figure=\"project 1 ends\">").nth(1);
    let end = at.and_then(|rest| rest.split('<').next());
    end.expect("an end").to_owned()
}

/// Days off move the end; a date is possible or not, with by how much and what would help.
#[tokio::test]
async fn a_date_is_asked_and_answered() {
    let app = TestApp::demo();
    let page = schedule(&app).await;
    page.is(200)
        .says("class=\"ruler-of-days\"")
        .says("assumed")
        .says("Take off plate")
        .says("Put on plate");
    let first = ends(&page.body);
    app.get("/attendance")
        .await
        .is(200)
        .says("value=\"08:00-22:00\"");
    app.post(
        "/attendance",
        &format!("row_version=1&{WEEK}").replace("mon=8-22", "mon=evening"),
    )
    .await
    .is(422)
    .says("is no window")
    .says("value=\"evening\"");
    app.post(
        "/attendance",
        &format!("row_version=1&{WEEK}")
            .replace("tue=8-22", "tue=20-20:30")
            .replace("&quiet=", "%0A&quiet="),
    )
    .await
    .is(303);
    let later = schedule(&app).await;
    assert_ne!(ends(&later.body), first);
    app.post("/attendance", &format!("row_version=1&{WEEK}"))
        .await
        .is(409);
    // By a date that is long enough, and by one that no order keeps.
    app.post("/projects/1/deadline", "deadline=2027-06-01T12:00")
        .await
        .is(303);
    schedule(&app).await.says("Possible: ");
    app.post("/projects/1/deadline", "deadline=2026-11-24T10:00")
        .await
        .is(303);
    schedule(&app)
        .await
        .says("Not possible: ")
        .says("No order ends before")
        .says("Somebody there at any hour");
    app.post("/projects/1/deadline", "deadline=tomorrow")
        .await
        .is(422)
        .says("no date and time");
    // Away for good: said, with what to do.
    let away = "row_version=2&load_minutes=10&unload_minutes=10&look_minutes=10";
    app.post("/attendance", away).await.is(303);
    schedule(&app).await.says("say when you are there");
}

/// Another resin in a vat takes hands and millilitres, said where it is done; not where a second vat
/// stands ready. What no order can end before counts it too.
#[tokio::test]
async fn a_change_of_resin_is_said_and_counted() {
    let app = TestApp::demo();
    let page = schedule(&app).await;
    page.says(" after a change to Slate tough")
        .says("1 change of resin: 25 min of your hands, 15 ml lost.");
    let first = ends(&page.body);
    page.says(&format!(
        "Nothing ends before</dt><dd class=\"mono\">{first}<"
    ));
    app.get("/schedule.ics").await.says("after a change to");
    let printer = "row_version=1&name=Bittern&kind=screen&width_mm=218&depth_mm=123&height_mm=250\
        &margin_mm=3&startup_s=150&removal_mm=4&part_pull=0&plate_pull=0&pixel_um=35";
    app.post(
        "/printers/2",
        &format!("{printer}&change_minutes=-5&change_ml=0&watts=60&price=0&life_h=4000"),
    )
    .await
    .is(422)
    .says("value=\"-5\"");
    app.post(
        "/printers/2",
        &format!("{printer}&change_minutes=0&change_ml=0&watts=60&price=0&life_h=4000"),
    )
    .await
    .is(303);
    let page = schedule(&app).await;
    assert!(!page.body.contains("change of resin") && !page.body.contains("after a change"));
    assert_ne!(ends(&page.body), first);
}

/// A page answers at once; what is not worked out yet comes by itself.
#[tokio::test]
async fn the_page_does_not_wait() {
    let app = TestApp::demo();
    let first = app.get("/schedule").await;
    first.is(200);
    let waits = first.body.contains("data-then=\"reload\"");
    assert!(waits || first.body.contains("ruler-of-days"));
    schedule(&app).await.says("ruler-of-days");
}

/// A plate whose printer is out of use is named, and the rest keeps its times.
#[tokio::test]
async fn a_plate_without_its_printer_is_named() {
    let app = TestApp::demo();
    let all = app.store.read(|c| plates::accepted(c, ProjectId(1)));
    let all = all.unwrap();
    let of = all
        .iter()
        .find(|p| p.state == PlateState::Planned && p.printer.0 == 2);
    app.post("/printers/2/remove", "").await.is(303);
    schedule(&app)
        .await
        .says("Not in it, since their printers are out of use")
        .says(&format!("plate {}", of.expect("one waits").number))
        .says("Take off plate");
}

/// A plate goes where it fits, and not before it is wanted; one that does not wait stays.
#[tokio::test]
async fn a_plate_is_moved_as_far_as_a_printer_takes_it() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let waits = all
        .iter()
        .find(|p| p.state == PlateState::Planned && p.printer.0 == 2)
        .unwrap();
    let runs = all.iter().find(|p| p.state == PlateState::Running).unwrap();
    let to = |plate: i64, printer: i64, from: &str| {
        format!("plate={plate}&printer={printer}&from={from}")
    };
    app.post(
        "/schedule/move",
        &to(waits.id.0, waits.printer.0, "2026-11-26T08:30"),
    )
    .await
    .is(303);
    schedule(&app)
        .await
        .says("Thu 26 Nov")
        .says("data-from=\"2026-11-26T08:30\"");
    let smaller = app.post("/schedule/move", &to(waits.id.0, 1, "")).await;
    smaller.is(422).says("has a smaller plate");
    app.post("/schedule/move", &to(runs.id.0, 2, ""))
        .await
        .is(422)
        .says("does not wait for its printer");
    app.post("/schedule/move", "plate=x").await.is(422);
    app.post("/schedule/move", &to(waits.id.0, waits.printer.0, "soon"))
        .await
        .is(422);
    // As late as never: no time is found, and it says so.
    let at = |ms: i64| format!("{}&from_ms={ms}", to(waits.id.0, waits.printer.0, ""));
    let after_all_time = app.post("/schedule/move", &at(9_007_199_254_740_991)).await;
    after_all_time.is(422).says("out of its range");
    let never = at(253_402_300_799_000);
    app.post("/schedule/move", &never).await.is(303);
    schedule(&app).await.is(200).says("finds no time");
    // Onto a larger one: with its time, and its setting.
    app.post("/schedule/move", &to(waits.id.0, 3, ""))
        .await
        .is(303);
    let moved = app.store.read(|c| plates::load(c, waits.id)).unwrap();
    assert_eq!(moved.printer.0, 3);
    assert!(moved.setting != waits.setting && moved.seconds > 0.0);
}

#[tokio::test]
async fn the_schedule_goes_out() {
    let app = TestApp::demo();
    let calendar = app.get("/schedule.ics").await;
    calendar
        .is(200)
        .says("BEGIN:VCALENDAR")
        .says("SUMMARY:Take off plate");
    let acts = app
        .get("/schedule")
        .await
        .body
        .matches("<span class=\"at\">")
        .count();
    assert_eq!(calendar.body.matches("BEGIN:VEVENT").count(), acts);
    app.get("/schedule.svg").await.is(200).says("<svg");
    app.get("/schedule/ruler")
        .await
        .is(200)
        .says("ruler-of-days");
    app.get("/").await.says("data-live=\"/schedule/ruler\"");
}

/// What the maker's own program says wins, and stands beside what is reckoned; a table that does not
/// fit is refused line by line, and nothing of it is taken.
#[tokio::test]
async fn what_was_told_wins() {
    let app = TestApp::demo();
    let plate = || {
        let all = app.store.read(|c| plates::accepted(c, ProjectId(1)));
        let all = all.unwrap();
        let waits = all.into_iter().find(|p| p.state == PlateState::Planned);
        waits.expect("one waits")
    };
    let was = plate();
    let half = format!("told={}%2C+9:30%2C+55%0A999%2C+2:00", was.number);
    app.post("/projects/1/told", &half)
        .await
        .is(422)
        .says("there is no plate 999")
        .says("999, 2:00");
    app.post("/projects/1/told", "told=1%2C+2%0Ax%2C+3")
        .await
        .is(422)
        .says("line 2");
    app.post("/projects/1/told", "told=1%2C+2")
        .await
        .is(422)
        .says("plate 1 is printed");
    assert_eq!(plate(), was);
    let good = format!("told={}%2C+9:30%2C+55", was.number);
    app.post("/projects/1/told", &good).await.is(303);
    let now = plate();
    // It counts what cures; what stays liquid in hollows comes on top.
    let takes = 55.0 + was.goes.inside_ml;
    assert_eq!((now.seconds, now.resin_ml), (9.5 * 3600.0, takes));
    assert_eq!(now.reckoned, was.reckoned);
    let grams = was.resin_g * takes / was.resin_ml;
    assert!((now.resin_g - grams).abs() < 1e-9);
    app.get(&format!("/plates/{}", was.id))
        .await
        .says(">9:30<")
        .says("Reckoned of layers and settings");
    // On another printer it was not told.
    let to = format!("plate={}&printer=3&from=", was.id);
    app.post("/schedule/move", &to).await.is(303);
    if was.printer.0 != 3 {
        assert_ne!(plate().seconds, now.seconds);
    }
}
