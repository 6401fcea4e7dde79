//! Finishing and the printer, as their pages take it: batches led on, judging in part, going on.

use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_store::commands;
use wembrit_store::commands::run_plate::While;
use wembrit_store::queries::{batches, plates};

use crate::app::{NOW, TestApp};

fn running(app: &TestApp) -> PlateId {
    let all = app.store.read(|c| plates::accepted(c, ProjectId(1)));
    let all = all.expect("they load");
    all.iter()
        .find(|p| p.state == PlateState::Running)
        .expect("one runs")
        .id
}

#[tokio::test]
async fn a_batch_is_led_from_the_printer_to_the_judgement() {
    let app = TestApp::demo();
    let plate = running(&app);
    app.get("/finishing")
        .await
        .is(200)
        .says("No batch is on its way");
    app.post(&format!("/plates/{plate}/done"), "").await.is(303);
    let batch = app.store.read(batches::open).expect("one")[0].clone();
    let to = |what: &str| format!("/batches/{}/{what}", batch.id);
    app.get("/finishing")
        .await
        .says("drip off")
        .says("class=\"rail\"")
        .says("Gloves");
    app.get("/").await.says("drip off");
    app.post(&to("begin"), "").await.is(303);
    app.get("/finishing")
        .await
        .says("data-ends=")
        .says("2 min more");
    let alarm = app.get(&to("alarm.ics")).await;
    alarm.is(200).says("BEGIN:VALARM").says("drip off over");
    // What cannot be is said, and nothing is lost.
    app.post(&to("begin"), "")
        .await
        .is(422)
        .says("is under way: end it first");
    app.post(&to("skip"), "reason=")
        .await
        .is(422)
        .says("Say why");
    app.post(&to("count"), "pieces=many")
        .await
        .is(422)
        .says("a number from 0");
    app.post(&to("order"), "order=cure,+wash,+remove,+judge")
        .await
        .is(422)
        .says("before");
    app.post(&to("order"), "order=boil")
        .await
        .is(422)
        .says("value=\"boil\"");
    app.post(&to("cure"), "minutes=&feel=hard")
        .await
        .is(422)
        .says("minutes under the lamp");
    app.post("/batches/several", "act=begin")
        .await
        .is(422)
        .says("No batch was picked");
    app.post("/batches/999/end", "").await.is(404);
    for _ in 0..batch.steps.len() - 1 {
        app.post(&to("end"), "").await.is(303);
    }
    app.post(&to("count"), "pieces=2").await.is(303);
    app.get("/finishing").await.says("mark what is missing");
    app.post(
        &to("cure"),
        "minutes=5&feel=tacky&kind=solid&lamp=bench+lamp",
    )
    .await
    .is(303);
    app.get("/finishing").await.says("value=\"bench lamp\"");
    app.get("/").await.says("Judge plate");
    app.post(&to("skip"), "reason=later")
        .await
        .is(422)
        .says("on their plate");
    app.post(&format!("/plates/{plate}/judge"), "rest=good")
        .await
        .is(303);
    app.get("/finishing").await.says("No batch is on its way");
}

/// Three taps: two copies marked, one button; the cause may be said later.
#[tokio::test]
async fn copies_are_judged_in_part_mended_and_missed() {
    let app = TestApp::demo();
    let plate = running(&app);
    app.post(&format!("/plates/{plate}/done"), "").await.is(303);
    let copies = || {
        let all = app
            .store
            .read(|c| plates::copies_of(c, plate))
            .expect("copies");
        all.into_iter().filter_map(|c| c.copy).collect::<Vec<_>>()
    };
    let id = |n: usize| copies()[n].id;
    let judge = format!("/plates/{plate}/judge");
    let [a, b, c, d] = [0, 1, 2, 3].map(id);
    app.post(&judge, "rest=later")
        .await
        .is(422)
        .says("nothing was marked");
    let form = format!(
        "rest=good&failed={a}&failed={b}&as_{b}=to+mend&note_{b}=glue+the+pike&minutes_{b}=4&failed={c}&as_{c}=missing&failed={d}&as_{d}=not+looked+at"
    );
    app.post(&judge, &form).await.is(303);
    let all = copies();
    let counted = |stage| all.iter().filter(|c| c.stage == stage).count();
    assert_eq!(counted(Stage::InFinishing), 3);
    assert_eq!(
        (counted(Stage::Failed), counted(Stage::Good)),
        (1, all.len() - 4)
    );
    assert_eq!(all[0].cause.as_deref(), Some("not said yet"));
    // The pieces are held against what came off, not against what is left to be judged.
    let batch = app.store.read(batches::open).expect("one")[0].clone();
    let count = format!("/batches/{}/count", batch.id);
    let counted = format!("pieces={}", all.len());
    app.post(&count, &counted).await.is(303);
    let page = app.get("/finishing").await;
    assert!(!page.body.contains("mark what is missing"), "{counted}");
    app.get(&format!("/plates/{plate}"))
        .await
        .says("to mend: glue the pike, 4 min")
        .says("missing: search the vat");
    let printer = app
        .store
        .read(|c| plates::load(c, plate))
        .expect("it")
        .printer;
    app.get("/")
        .await
        .says("Search the vat")
        .says("Mend 1 copy");
    let vat = format!("/printers/{printer}/vat");
    app.get(&vat).await.says("is missing");
    app.post(&vat, "found=")
        .await
        .is(422)
        .says("say what was found")
        .is(422);
    app.post(&vat, "found=the+sword").await.is(303);
    let rest = format!(
        "rest=later&failed={b}&as_{b}=good&failed={c}&as_{c}=good&failed={d}&cause=warped&at_{d}=cure&layer_{d}=12"
    );
    app.post(&judge, &rest).await.is(303);
    assert!(copies().iter().all(|c| c.stage != Stage::InFinishing));
    assert_eq!(copies()[3].failed_layer, Some(12));
    // A copy that was good breaks later; one that is gone already does not, nor one that never stood there.
    app.get(&format!("/plates/{plate}"))
        .await
        .says("A copy broke later");
    let break_it = format!("/plates/{plate}/broke");
    let broken = copies()[1].mark;
    let breaks = async |mark: &str| {
        let form = format!("mark={mark}&cause=something+else&note=fell");
        app.post(&break_it, &form).await
    };
    let before = copies();
    for mark in ["", "the hat"] {
        breaks(mark).await.is(422).says("say which copy failed");
    }
    // What was typed stands there again.
    breaks("900000")
        .await
        .is(422)
        .says("has mark 900000")
        .says("value=\"fell\"")
        .says("<details open");
    assert_eq!(copies(), before);
    breaks(&format!("+{broken}+")).await.is(303);
    assert_eq!((copies()[1].id, copies()[1].stage), (b, Stage::Failed));
    breaks(&broken.to_string()).await.is(409);
}

/// A run that was held for an hour ends an hour later, on its sheet, at the printer, on Today and in
/// the calendar alike.
#[tokio::test]
async fn a_run_that_was_held_ends_later_everywhere() {
    let app = TestApp::demo();
    let plate = running(&app);
    let ends = |page: &str| -> i64 {
        let rest = page.split("data-ends=\"").nth(1).expect("an end");
        rest.split('"')
            .next()
            .and_then(|ms| ms.parse().ok())
            .expect("ms")
    };
    let run = format!("/plates/{plate}/run");
    let before = ends(&app.get(&run).await.body);
    let hour = 3_600_000;
    for (what, at) in [(While::Pause, NOW - hour), (While::Resume, NOW)] {
        let write = |c: &mut _| commands::run_plate::during(c, plate, &what, at);
        app.store.write(write).expect("it runs");
    }
    let page = app.get(&run).await;
    let after = ends(&page.body);
    assert_eq!(after, before + hour);
    let at = jiff::Timestamp::from_millisecond(after).expect("a time");
    let utc = at.strftime("%H%M%S").to_string();
    app.get(&format!("/plates/{plate}/alarm.ics"))
        .await
        .says(&format!("T{utc}Z"));
    let clock = page.body.split("It should end at ").nth(1).expect("a time");
    let clock = clock.split([';', ' ']).next().expect("a time");
    app.get(&format!("/plates/{plate}"))
        .await
        .says(&format!(">{clock}<"));
    app.get("/").await.says(clock);
}

/// Trouble at the printer: held, gone on with, weighed; the figures follow what is typed.
#[tokio::test]
async fn trouble_is_weighed_at_the_printer() {
    let app = TestApp::demo();
    let plate = running(&app);
    let run = format!("/plates/{plate}/run");
    app.get(&run).await.says("Hold the run");
    app.post(&format!("/plates/{plate}/resume"), "")
        .await
        .is(422)
        .says("not held");
    app.post(&format!("/plates/{plate}/pause"), "")
        .await
        .is(303);
    app.get(&run).await.says("It goes on");
    app.post(&format!("/plates/{plate}/resume"), "")
        .await
        .is(303);
    app.post(&format!("/plates/{plate}/go-on"), "what=")
        .await
        .is(422)
        .says("what went wrong");
    app.post(&format!("/plates/{plate}/go-on"), "what=a+knock")
        .await
        .is(303);
    let weighed = app.get(&format!("{run}?lost=2&damage=13.67")).await;
    weighed
        .says("Gone on with: a knock")
        .says("Going on pays while the chance");
    let figure = |page: &str, name: &str| -> f64 {
        let rest = page
            .split(&format!("data-figure=\"{name}\">"))
            .nth(1)
            .expect(name);
        let text: String = rest
            .chars()
            .take_while(|c| c.is_ascii_digit() || *c == '.')
            .collect();
        text.parse().expect(name)
    };
    let of = |name: &str| figure(&weighed.body, name);
    // The chance at which both cost the same, from the figures on the page.
    let pays = 100.0 * (of("stop") - of("well")) / (of("badly") - of("well"));
    assert!((of("pays") - pays).abs() < 0.1, "{pays} {}", of("pays"));
    let dearer = app.get(&format!("{run}?lost=2&damage=40")).await;
    assert!(figure(&dearer.body, "pays") < of("pays"));
    app.get(&format!("/plates/{plate}/alarm.ics"))
        .await
        .is(200)
        .says("Take plate");
    app.get("/causes")
        .await
        .says("stuck to the film")
        .says("change the film");
    app.get("/cautions")
        .await
        .says("ultrasonic")
        .says("data sheet");
}

/// A failure: what it looks like, what its run says, one change to make, and later whether it held.
#[tokio::test]
async fn a_failure_leads_to_one_change() {
    let app = TestApp::demo();
    let plate = running(&app);
    app.post(&format!("/plates/{plate}/done"), "").await.is(303);
    let copies = app
        .store
        .read(|c| plates::copies_of(c, plate))
        .expect("copies");
    let first = copies[0].copy.as_ref().expect("printed").id;
    let form = format!("rest=good&failed={first}&cause=nothing+on+the+plate");
    app.post(&format!("/plates/{plate}/judge"), &form)
        .await
        .is(303);
    let sheet = app.get(&format!("/plates/{plate}")).await;
    sheet
        .says("1 × nothing on the plate")
        .says("comes up empty")
        .says("Nobody noted a look at its first layers");
    let remedy = format!("/plates/{plate}/remedy");
    app.post(&remedy, "cause=joints+fused&change=")
        .await
        .is(422);
    app.post(&remedy, "cause=joints+fused&change=a+tenth+less")
        .await
        .is(303);
    app.get(&format!("/plates/{plate}"))
        .await
        .says("a tenth less")
        .says("It held");
    app.post("/remedies/1", "held=no").await.is(303);
    app.get(&format!("/plates/{plate}"))
        .await
        .says("did not hold");
    app.post("/remedies/99", "held=yes").await.is(404);
}

/// A photograph is kept small; what is none is refused in words, and a copy has to be named.
#[tokio::test]
async fn a_photograph_of_a_copy_is_kept() {
    let app = TestApp::demo();
    let plate = running(&app);
    let copies = app
        .store
        .read(|c| plates::copies_of(c, plate))
        .expect("copies");
    let mark = copies[0].mark().to_string();
    let picture = image::RgbImage::from_pixel(2000, 900, image::Rgb([120, 80, 40]));
    let mut taken = std::io::Cursor::new(Vec::new());
    picture
        .write_to(&mut taken, image::ImageFormat::Jpeg)
        .expect("it is written");
    let to = format!("/plates/{plate}/photos");
    let send = |mark: &str, bytes: &[u8]| {
        let mut body = format!("--x\r\nContent-Disposition: form-data; name=\"mark\"\r\n\r\n{mark}\r\n--x\r\nContent-Disposition: form-data; name=\"photo\"; filename=\"p.jpg\"\r\n\r\n").into_bytes();
        body.extend_from_slice(bytes);
        body.extend_from_slice(b"\r\n--x--\r\n");
        let request = axum::http::Request::post(&to)
            .header("host", "localhost:7411")
            .header("content-type", "multipart/form-data; boundary=x")
            .body(axum::body::Body::from(body))
            .expect("a request");
        app.send(request)
    };
    send(&mark, b"a letter")
        .await
        .is(400)
        .says("is no JPEG or PNG");
    send(&mark, b"").await.is(400).says("Choose a photograph");
    send("", taken.get_ref())
        .await
        .is(400)
        .says("Say which copy");
    send("999", taken.get_ref())
        .await
        .is(422)
        .says("has mark 999");
    send(&mark, &vec![0; 12_500_000])
        .await
        .is(400)
        .says("12 MB");
    send(&mark, taken.get_ref()).await.is(303);
    app.get(&format!("/plates/{plate}")).await.says("/photos/1");
    let (headers, kept) = app.download("/photos/1").await;
    assert_eq!(headers["content-type"], "image/jpeg");
    let read = image::load_from_memory(&kept).expect("it reads");
    assert_eq!((read.width(), read.height()), (1280, 576));
    // By the address that the page's form has now, pressed twice: one more.
    let page = app.get(&format!("/plates/{plate}")).await;
    let (_, keyed) = page.body.split_once(&format!("action=\"{to}?")).unwrap();
    let keyed = format!("{to}?{}", keyed.split('"').next().unwrap());
    let fields = [
        ("mark", None, mark.as_bytes()),
        ("photo", Some("p.jpg"), taken.get_ref().as_slice()),
    ];
    for _ in 0..2 {
        app.multipart(&keyed, &fields).await.is(303);
    }
    let page = app.get(&format!("/plates/{plate}")).await;
    page.says("/photos/2");
    assert!(!page.body.contains("/photos/3"));
}

/// Who does it for the first time is told why; once a copy was good, nobody is.
#[tokio::test]
async fn the_first_plate_is_guided_by_todays_lines() {
    let app = TestApp::empty();
    let start = "width_mm=130&depth_mm=80&height_mm=150&price_per_kg=25&layer_mm=0.05";
    app.post("/start", start).await.is(303);
    app.post("/projects/new", "name=Fen").await.is(303);
    app.get("/").await.says("an army list can be pasted");
    let demo = TestApp::demo();
    let today = demo.get("/").await;
    assert!(!today.body.contains("a lost plate takes a night"));
}
