//! Bottles and vats on their page, beside a plan, and on Today.

use rstest::rstest;
use wembrit_core::ids::{PrinterId, ProjectId, ResinId};
use wembrit_core::stores::{Place, Volume};
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
#[case("count", "place=spilt+0&ml=3", "only bottles and vats")]
#[case("count", "place=vat+2&ml=100", "which resin")]
#[case("buy", "resin=1&bottles=0&size_ml=500", "1 to 100 bottles")]
#[case("buy", "resin=1&bottles=1&size_ml=500&good=soon", "no day")]
#[case("vats/1", "least_ml=80&most_ml=20", "at least")]
#[tokio::test]
async fn what_cannot_be_is_said(#[case] to: &str, #[case] form: &str, #[case] why: &str) {
    let app = TestApp::demo();
    let before = app.store.read(stores::books).unwrap();
    let answer = app.post(&format!("/stores/{to}"), form).await;
    answer.is(422).says(why);
    assert_eq!(app.store.read(stores::books).unwrap(), before);
}
