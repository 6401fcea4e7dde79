//! Bottles and vats on their page, beside a plan, and on Today.

use rstest::rstest;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PrinterId, ProjectId, ResinId};
use wembrit_core::stores::{OnScale, Place, Volume, reckoned_g};
use wembrit_core::units::Money;
use wembrit_core::workshop::print_time::MachineKind;
use wembrit_store::commands;
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::stores::Said;
use wembrit_store::queries::{plans, plates, stores};

use crate::app::{NOW, TestApp, served_until};

const DAY: i64 = 86_400_000;

/// A bottle runs low: the page, and the plan where it is decided about, say for which plates it lasts.
#[tokio::test]
async fn a_bottle_runs_low() {
    let app = TestApp::demo();
    app.get("/stores")
        .await
        .is(200)
        .says("Enough for 3 plates that wait")
        // 390 of 500 ml that were paid with 19.50.
        .says("15.21");
    app.post("/stores/count", "place=bottle+1&ml=40")
        .await
        .is(303);
    app.get("/stores")
        .await
        .says("up to plate 5; plate 6 is")
        .says("To order:");
    app.post("/projects/1/plan", "").await.is(303);
    let open = app.store.read(|c| plans::open_plan(c, ProjectId(1)));
    let plan = open.unwrap().unwrap().id;
    served_until(&app.store, |s| {
        !s.read(|c| plates::of_plan(c, plan)).unwrap().is_empty()
    })
    .await;
    app.piece(&format!("/plans/{plan}/ends"))
        .await
        .is(200)
        .says("data-figure=\"plan resin lasts\"")
        .says("ml short");
    let litres = "resin=1&bottles=3&size_ml=1000&price=31.50&good=2027-05-01";
    app.post("/stores/buy", litres).await.is(303);
    app.get("/stores")
        .await
        .says("Enough for 3 plates")
        .says("2027-05-01");
}

/// What has stood in a vat for days is strained back from Today, and is no line there any more.
#[tokio::test]
async fn a_vat_is_strained_back_from_today() {
    let app = TestApp::demo();
    let printer = PrinterChange {
        name: "Sandpiper".into(),
        kind: MachineKind::Screen,
        width_mm: 120.0,
        depth_mm: 70.0,
        height_mm: 150.0,
        margin_mm: 3.0,
        startup_s: 60.0,
        pixel_um: 35,
        removal_mm: 0.0,
        part_pull: None,
        plate_pull: None,
        change_minutes: 25.0,
        change_ml: 15.0,
        watts: 50.0,
        price: Money(0),
        life_h: 4000.0,
        assumed: String::new(),
    };
    app.store
        .write(|c| commands::printers::add(c, &printer))
        .unwrap();
    let said = Said {
        resin: Some(ResinId(1)),
        ..Said::default()
    };
    let vat = Place::Vat(PrinterId(4));
    let count = |c: &mut _| {
        let held = Volume(150_000);
        commands::stores::count(c, vat, held, &said, NOW - 6 * DAY)
    };
    app.store.write(count).unwrap();
    app.get("/")
        .await
        .says("Strain the vat of Sandpiper back")
        .says("6 days without a run")
        .says("/printers/4/vat");
    app.get("/printers/4/vat")
        .await
        .says("Strain 150.0 ml back into its bottle");
    app.get("/stores").await.says("in the vat for 6 days");
    app.post("/stores/vats/4", "do=strain").await.is(303);
    let books = app.store.read(stores::books).unwrap();
    assert_eq!((books.held(vat), books.sum()), (Volume(0), Volume(0)));
    assert!(!app.get("/").await.body.contains("Sandpiper back"));
    app.post("/stores/vats/4", "do=strain")
        .await
        .is(422)
        .says("know of nothing in this vat");
}

/// What cannot be is said, and nothing is moved.
#[rstest]
#[case("move", "from=bottle+1&to=vat+1&ml=900", "390.0 ml only")]
#[case("move", "from=bottle+3&to=vat+1&ml=900", "it takes")]
#[case("move", "from=bottle+1&to=bottle+1&ml=9", "moves nothing")]
#[case("move", "from=cellar+1&to=vat+1&ml=9", "not there")]
#[case("move", "from=bottle+1&to=vat+1&ml=x", "how many millilitres")]
#[case("move", "from=bottle+1&to=vat+1&ml=1e99", "0 to 100000")]
#[case("move", "from=bottle+1&to=spilt+0&ml=-4&unit=g", "0 to 100000")]
#[case("move", "from=vat+2&to=spilt+0&ml=4&unit=g", "know of nothing")]
#[case("count", "place=vat+1&ml=5000", "it takes")]
#[case("count", "place=bottle+1&ml=5000", "it takes")]
#[case("count", "place=spilt+0&ml=3", "only bottles and vats")]
#[case("count", "place=vat+2&ml=100", "which resin")]
#[case("buy", "resin=1&bottles=0&size_ml=500", "1 to 100 bottles")]
#[case("buy", "resin=1&bottles=1&size_ml=500&good=soon", "no day")]
#[case("vats/1", "least_ml=80&most_ml=20", "at least")]
#[case("vats/1", "do=sheet&sheet_mm=90", "0.05 to 5 mm")]
#[case("vats/1", "do=off&cause=+", "why it is written off")]
#[case("vats/2", "do=off&cause=torn", "know of nothing")]
#[case("weigh", "bottle=1&grams=400", "weighs empty: it is not known")]
#[case("weigh", "bottle=1&grams=90&empty_g=100", "write what it weighs")]
#[case("weigh", "bottle=99&grams=400&empty_g=100", "bottle")]
#[case("weigh", "bottle=1&grams=lots&empty_g=100", "no figure")]
#[case("wear", "kind=film&printer=&do=replace", "of which printer")]
#[case("wear", "kind=socks&do=replace", "does not wear")]
#[case("wear", "kind=film&printer=1&life=-3&do=life", "layers and prints")]
#[tokio::test]
async fn what_cannot_be_is_said(#[case] to: &str, #[case] form: &str, #[case] why: &str) {
    let app = TestApp::demo();
    let before = app.store.read(stores::books).unwrap();
    let answer = app.post(&format!("/stores/{to}"), form).await;
    answer.is(422).says(why);
    assert_eq!(app.store.read(stores::books).unwrap(), before);
}

/// What a plate weighed is expected of those that wait, wherever their resin stands; a hollow part that is too
/// heavy is said to hold liquid, and teaches nothing.
#[tokio::test]
async fn a_weighed_plate_changes_what_is_expected() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let printed = |p: &&Plate| matches!(p.state, PlateState::Printed | PlateState::Done);
    let off = all.iter().rfind(printed).expect("a plate came off");
    let waits = |p: &&Plate| p.state == PlateState::Planned && p.resin == off.resin;
    let next = all.iter().find(waits).expect("another waits").clone();
    let scale = format!("/plates/{}/scale", off.id);
    app.get(&format!("/plates/{}", off.id)).await.says(&scale);
    let load = |c: &mut _| wembrit_store::queries::pages::weighing::load(c, off.id);
    let page = app.store.read(load).unwrap();
    let body = page.on_it.body(None, 1).expect("what stands on it");
    let grams = reckoned_g(&body, OnScale::Washed, &page.resin.facts) * 1.12;
    let form = format!("what=all&state=washed%2C+with+supports&grams={grams:.2}");
    for _ in 0..4 {
        app.post(&scale, &form).await.is(303);
    }
    let after = app.store.read(|c| plates::load(c, next.id)).unwrap();
    let cured = after.goes.cured_ml() / next.goes.cured_ml();
    assert!(cured > 1.04 && cured < 1.12, "{cured}");
    let ml = format!("{:.1}", after.resin_ml);
    assert_ne!(ml, format!("{:.1}", next.resin_ml));
    let sheet = format!("/plates/{}", next.id);
    for page in [sheet.as_str(), "/stores", &format!("{sheet}/run")] {
        app.get(page).await.says(&ml);
    }
    app.get(&sheet).await.says("drained").says("supports");
    app.get(&scale).await.says("by 6 weights");
    // A slip of the finger is asked about, with what was typed, and teaches nothing before somebody looked again.
    let slip = format!(
        "what=all&state=washed%2C+with+supports&grams={:.2}",
        grams * 10.0
    );
    app.post(&scale, &slip)
        .await
        .is(422)
        .says("times what is expected")
        .says(&format!("value=\"{:.2}\"", grams * 10.0))
        .says("I looked again");
    app.get(&scale).await.says("by 6 weights");
    let far = format!("what=all&state=dripped+off&grams={:.2}&sure=1", grams * 1.3);
    app.post(&scale, &far).await.is(303);
    app.get(&scale).await.says("by 7 weights");
    let wrong = page.on_it.0[0].part;
    for (form, why) in [
        (
            "what=all&state=washed%2C+with+supports&grams=".to_owned(),
            "what it weighs",
        ),
        ("what=all&state=wet&grams=4".into(), "how far"),
        (
            format!("what=part+{wrong}&state=supports+off&copies=9999&grams=4"),
            "copies of that part",
        ),
        (
            "what=part+9999&state=supports+off&grams=4".into(),
            "0 copies of that part",
        ),
    ] {
        app.post(&scale, &form).await.is(422).says(why);
    }
    let waiting = format!("{sheet}/scale");
    app.get(&waiting).await.says("once it was printed");
    app.post(&waiting, "what=all&state=dripped+off&grams=5")
        .await
        .is(422)
        .says("printed to its end");
}

/// A film that is due is said on its page, on Today, before a start and beside a plan; a new one ends that, and
/// its exposures are due.
#[tokio::test]
async fn a_film_that_is_due_is_told_where_it_is_decided() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let waits = |p: &&Plate| p.state == PlateState::Planned && p.printer == PrinterId(3);
    let next = all.iter().find(waits).expect("a plate waits").id;
    let short = "kind=film&printer=3&life=100&second=60&do=life";
    app.post("/stores/wear", short).await.is(303);
    app.get("/stores/wear").await.says("due: put in a new film");
    app.get("/").await.says("Crane: put in a new film");
    app.get("/stores").await.says("film of Crane due");
    app.get(&format!("/plates/{next}/run"))
        .await
        .says("against the light, and have a new one at hand");
    app.post("/stores/wear", "kind=film&printer=3&do=replace")
        .await
        .is(303);
    app.get("/stores/wear").await.says("0 of 100 layers");
    // It is new, and wears out with the next plate still.
    let today = app.get("/").await;
    assert!(today.body.contains("Crane: put in a new film"));
    app.post("/stores/wear", "kind=film&printer=3&life=60000&do=life")
        .await
        .is(303);
    assert!(!app.get("/").await.body.contains("Crane: put in a new film"));
    let changes =
        |c: &mut _| wembrit_store::queries::exposures::changes(c, PrinterId(3), ResinId(1));
    assert_eq!(app.store.read(changes).unwrap(), [Some(NOW), None, None]);
}

/// Another resin in the vat: what its change loses stands on the plate, and in the plates' turn; a vat that is too
/// small for a plate is filled up on the way.
#[tokio::test]
async fn a_change_of_resin_is_counted() {
    let app = TestApp::demo();
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let on_crane = |p: &&Plate| p.state == PlateState::Planned && p.printer == PrinterId(3);
    let plate = all.iter().find(on_crane).expect("a plate waits").clone();
    let sheet = format!("/plates/{}", plate.id);
    assert!(!app.get(&sheet).await.body.contains("a change of resin"));
    for form in ["place=vat+3&ml=0", "place=vat+3&ml=280&resin=1"] {
        app.post("/stores/count", form).await.is(303);
    }
    app.get(&sheet).await.says("a change of resin 15.0");
    // What is over its date is said where it is poured from.
    let old = "resin=2&bottles=1&size_ml=2000&price=9&good=2026-01-01";
    app.post("/stores/buy", old).await.is(303);
    for bottle in [2, 3] {
        app.post("/stores/count", &format!("place=bottle+{bottle}&ml=120"))
            .await
            .is(303);
    }
    app.get(&format!("{sheet}/run"))
        .await
        .says("of bottle 6, over its date: test it");
    app.get("/stores")
        .await
        .says("15.0 ml of the other resin stay in vat and strainer");
    let small = "do=limits&least_ml=10&most_ml=20";
    app.post("/stores/vats/3", small).await.is(303);
    app.get("/stores").await.says("fill up after");
    // What is mixed says what it weighs and costs: 280 of Slate at 1.12 and 41.50, 100 of Peat at 1.10 and 18.90.
    app.post("/stores/vats/3", "do=limits&least_ml=10&most_ml=900")
        .await
        .is(303);
    let pour = "from=bottle+2&to=vat+3&ml=100";
    app.post("/stores/move", pour).await.is(303);
    app.get("/stores")
        .await
        .says("1.115 g/ml, 35.63 a kg")
        .says("opened ");
    // By mass: 55 g of 1.1 g/ml are 50 ml.
    let bottle = |app: &TestApp| {
        let books = app.store.read(stores::books).unwrap();
        books.held(Place::Bottle(3))
    };
    let before = bottle(&app);
    let grams = "from=bottle+3&to=spilt+0&ml=55&unit=g&note=knocked+over";
    app.post("/stores/move", grams).await.is(303);
    assert_eq!(before - bottle(&app), Volume(50_000));
    app.get("/stores").await.says("55 g knocked over");
    app.post("/stores/vats/3", "do=off&cause=mixed+with+another+resin")
        .await
        .is(303);
    app.get("/stores")
        .await
        .says("mixed with another resin, 380.0 ml")
        .says("written off");
}
