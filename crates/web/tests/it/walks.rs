//! Walks over every page there is: with nothing, with an army and no files, with five thousand of
//! something, and after every form was sent nonsense.

use std::collections::{BTreeSet, VecDeque};
use std::fmt::Write as _;

use rstest::rstest;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{ModelId, ProjectId};
use wembrit_store::queries::{army, muster, plates, settings, trials};

use crate::app::TestApp;
use crate::two_pages::links;

/// Follows every link from a page on; what was seen, each with what it answered.
async fn walk(app: &TestApp, from: &[&str]) -> Vec<(String, String)> {
    let mut next: VecDeque<String> = from.iter().map(|p| (*p).to_owned()).collect();
    let mut seen: BTreeSet<String> = next.iter().cloned().collect();
    let mut pages = Vec::new();
    while let Some(path) = next.pop_front() {
        let page = app.get(&path).await;
        let to = page.location().to_owned();
        assert!(
            page.status.is_success() || page.status.is_redirection(),
            "{path}: {} {}",
            page.status,
            page.body
        );
        let mut further = links(&page.body);
        further.extend((!to.is_empty()).then_some(to));
        for link in further {
            if !link.starts_with("/assets")
                && !link.starts_with("/events")
                && seen.insert(link.clone())
            {
                next.push_back(link);
            }
        }
        let kind = page.headers.get("content-type");
        if kind.is_some_and(|k| k.to_str().is_ok_and(|k| k.contains("html"))) {
            // What is drawn anew needs the script that does it.
            let live = page.body.contains("data-live=") && page.body.contains("<html");
            assert!(!live || page.body.contains("js/live.js"), "{path}");
            // What changes something is carried out once, however often it is sent.
            let many = |words: &str| page.body.matches(words).count();
            let keys = many("name=\"once\"") + many("?once=") + many("&amp;once=");
            assert_eq!(many("method=\"post\""), keys, "{path}");
            pages.push((path, page.body));
        }
    }
    pages
}

/// What a page says to a person, without its tags.
fn text(page: &str) -> String {
    let parts = page.split('<').filter_map(|p| p.split_once('>'));
    parts.map(|(_, words)| words).collect::<Vec<_>>().join(" ")
}

/// Words that a computation leaves on a page when it was asked for something it does not know.
fn no_slips(pages: &[(String, String)]) {
    for (path, page) in pages {
        let text = text(page);
        for slip in [
            "NaN", "inf ", "-0.0 ", "Some(", "None)", "Err(", "panicked", " -0 ",
        ] {
            assert!(!text.contains(slip), "'{slip}' on {path}: {text}");
        }
    }
}

const TABS: [&str; 6] = [
    "/",
    "/muster",
    "/plates",
    "/sculpts",
    "/ledger",
    "/workshop",
];

#[tokio::test]
async fn every_page_of_an_empty_workshop_answers() {
    let app = TestApp::empty();
    let pages = walk(&app, &TABS).await;
    assert!(pages.len() >= 8, "{}", pages.len());
    no_slips(&pages);
    for (path, page) in pages
        .iter()
        .filter(|(_, page)| page.starts_with("<!doctype"))
    {
        assert!(page.contains("<h1"), "{path} has no heading");
    }
}

/// An army from a list, before there is a printer, a resin or a file.
#[tokio::test]
async fn every_page_of_an_army_without_files_answers() {
    let app = TestApp::empty();
    app.post("/projects/new", "name=Fen+watch").await.is(303);
    let mut list = String::from("Wardens of the sluice\n");
    for (quantity, name) in [(10, "Sluice warden"), (3, "Mud heron"), (1, "Great eel")] {
        let _ = writeln!(list, "{quantity}x {name}");
    }
    app.multipart("/projects/1/roster", &[("text", None, list.as_bytes())])
        .await
        .is(200)
        .says("Sluice warden")
        .says("Great eel");
    app.post("/projects/1/units/new", "name=Wardens&priority=1")
        .await
        .is(303);
    app.post(
        "/units/1/models/new",
        "name=Sluice+warden&quantity=10&base=25",
    )
    .await
    .is(303);
    let pages = walk(&app, &TABS).await;
    no_slips(&pages);
    let plates = pages.iter().find(|(path, _)| path == "/projects/1/plates");
    assert!(plates.is_some(), "the plates of the project are linked");
}

/// As many as a form takes of a model, and as many units as an army ever has.
#[tokio::test]
async fn an_army_of_five_thousand_is_shown_and_counted() {
    let app = TestApp::demo();
    for n in 1..=60 {
        let form = format!("name=Picket+{n}&priority={n}");
        app.post("/projects/1/units/new", &form).await.is(303);
    }
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let last = army.units.last().expect("a unit").unit.id;
    app.post(
        &format!("/units/{last}/models/new"),
        "name=Reed+folk&quantity=5000&base=25",
    )
    .await
    .is(303);
    let page = app.get("/projects/1/muster").await;
    page.is(200)
        .says("Reed folk")
        .says("5000")
        .says("Picket 60");
    for tab in TABS {
        let answer = app.get(tab).await;
        let at = answer.location().to_owned();
        if !at.is_empty() {
            app.get(&at).await.is(200);
        }
    }
    app.get("/").await.is(200);
}

/// Every address that takes a form, of things the demo has.
fn addresses(app: &TestApp) -> Vec<String> {
    let all = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let plate = |state| all.iter().find(|p| p.state == state).map(|p| p.id.0);
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let part = army.parts().next().expect("a part").2.part.id;
    let sculpt = army
        .parts()
        .find_map(|(_, _, p)| p.part.sculpt)
        .expect("a sculpt");
    let setting = app.store.read(settings::list).unwrap()[0].id;
    let trial = (1..9).find(|id| {
        let load = app
            .store
            .read(|c| trials::load(c, wembrit_core::ids::TrialId(*id)));
        load.is_ok()
    });
    let mut paths: Vec<String> = [
        "/projects/new",
        "/projects/1",
        "/projects/1/units/new",
        "/units/1",
        "/units/1/models/new",
        "/models/1/edit",
        "/models/1/parts/new",
        "/projects/1/roster",
        "/projects/1/roster/take",
        "/projects/1/match",
        "/units/1/duplicate",
        "/units/1/up",
        "/units/1/down",
        "/units/1/split",
        "/units/2/merge",
        "/models/1/choices/new",
        "/models/1/pieces/new",
        "/models/1/kit",
        "/projects/1/plan",
        "/projects/1/practice",
        "/workshop/practice",
        "/workshop/figures",
        "/printers/new",
        "/printers/1",
        "/resins/new",
        "/resins/1",
        "/projects/1/first-copies",
        "/start",
    ]
    .map(str::to_owned)
    .to_vec();
    paths.push(format!("/settings/{setting}"));
    let doings = [
        "change", "start", "done", "log", "judge", "rejudge", "lost", "put-back",
    ];
    for id in [PlateState::Planned, PlateState::Running, PlateState::Done]
        .into_iter()
        .filter_map(plate)
    {
        paths.extend(doings.map(|doing| format!("/plates/{id}/{doing}")));
    }
    let doings = [
        "pose",
        "supports",
        "sanded",
        "poses",
        "zones/front",
        "scale",
        "unify",
        "lock",
        "joints",
        "tried",
        "trial",
        "pick",
    ];
    paths.extend(doings.map(|doing| format!("/parts/{part}/{doing}")));
    let doings = ["price", "dismiss", "undismiss", "wall", "unit"];
    paths.extend(doings.map(|doing| format!("/sculpts/{sculpt}/{doing}")));
    if let Some(trial) = trial {
        let doings = [
            "variants", "criteria", "plan", "grades", "winner", "confirm",
        ];
        paths.extend(doings.map(|doing| format!("/trials/{trial}/{doing}")));
    }
    paths
}

/// Every field that any form has.
const FIELDS: &[&str] = &[
    "name",
    "quantity",
    "priority",
    "base",
    "count",
    "spares",
    "sculpt",
    "scale_percent",
    "resin",
    "layer_mm",
    "layer",
    "text",
    "carries",
    "carrier",
    "option",
    "source",
    "at_hand",
    "cost_each",
    "minutes_each",
    "price_per_kg",
    "density_g_per_ml",
    "viscosity",
    "nature",
    "wash_solvent",
    "safe_mm",
    "fuses_mm",
    "kind",
    "width_mm",
    "depth_mm",
    "height_mm",
    "margin_mm",
    "startup_s",
    "pixel_um",
    "removal_mm",
    "part_pull",
    "plate_pull",
    "currency",
    "time_zone",
    "clearance_mm",
    "waste_percent",
    "hands_on_minutes",
    "hands_on_per_hour",
    "copy_minutes",
    "contact_minutes",
    "kwh",
    "watts",
    "life_h",
    "all",
    "forget",
    "exposure_s",
    "bottom_exposure_s",
    "bottom_layers",
    "rest_s",
    "lift_mm",
    "light_off_s",
    "transition_layers",
    "second_lift_mm",
    "second_lift_mm_per_min",
    "last_retract_mm",
    "last_retract_mm_per_min",
    "bottom_lift_mm",
    "bottom_lift_mm_per_min",
    "lift_mm_per_min",
    "retract_mm_per_min",
    "tilt_cycle_s",
    "beam_mm2_per_s",
    "beam_mm_per_s",
    "row_version",
    "cause",
    "outcome",
    "started",
    "ended",
    "pose",
    "tip_mm",
    "spacing_mm",
    "sanded",
    "radius_mm",
    "at.x",
    "at.y",
    "factor",
    "gap_mm",
    "reason",
    "printer",
    "exposure",
    "criteria",
    "winner",
    "price",
    "finding",
    "wall_mm",
    "unit_mm",
    "do",
    "part",
    "n",
    "key",
    "x",
    "y",
    "turn",
    "copies",
    "into",
    "until_h",
    "effort",
    "order",
];

/// Nonsense in every field of every form: refused in words or taken, never an error of ours, and
/// never a page that runs it.
#[rstest]
#[case::empty("")]
#[case::below_zero("-1")]
#[case::no_number("NaN")]
#[case::endless("1e999")]
#[case::larger_than_any_integer("99999999999999999999999")]
#[case::half("0.5")]
#[case::markup("<script>alert(1)</script>\"'&")]
#[case::other_alphabets("\u{202e}Ω\u{0}\u{1f9f9}\u{301}")]
#[tokio::test]
async fn nonsense_in_every_form_is_answered(#[case] value: &str) {
    let app = TestApp::demo();
    let mut form = form_urlencoded::Serializer::new(String::new());
    for field in FIELDS {
        form.append_pair(field, value);
    }
    let form = form.finish();
    for path in addresses(&app) {
        let answer = app.post(&path, &form).await;
        assert!(
            !answer.status.is_server_error(),
            "{path} with {value:?}: {}",
            answer.body
        );
        assert!(!answer.body.contains("<script>alert"), "{path}");
    }
    // What was taken of it is shown as text, and no page is broken by it.
    let pages = [
        "/",
        "/projects/1/muster",
        "/projects/1/plates",
        "/models/1",
        "/parts/1/recipe",
    ];
    for path in pages
        .iter()
        .chain(&["/sculpts", "/workshop", "/workshop/practice"])
    {
        let page = app.get(path).await;
        page.is(200);
        assert!(!page.body.contains("<script>alert"), "{path}");
    }
}

/// A form that says it was filled in from a version nobody counts to is told that it is stale.
#[rstest]
#[case("/sculpts/1", "name=Heron")]
#[case("/units/1", "name=Herons&priority=1&carrier=")]
#[tokio::test]
async fn a_version_that_nobody_counts_to_is_stale(#[case] path: &str, #[case] form: &str) {
    let app = TestApp::demo();
    for version in [i64::MAX, i64::MIN] {
        let answer = app
            .post(path, &format!("row_version={version}&{form}"))
            .await;
        answer.is(409);
    }
}

/// Text as long as a book is refused or cut, and the thing keeps its name.
#[tokio::test]
async fn a_name_as_long_as_a_book_is_refused() {
    let app = TestApp::demo();
    let before = app.store.read(|c| muster::model(c, ModelId(1))).unwrap();
    let form = format!(
        "row_version={}&quantity=2&base=25&name={}",
        before.row_version,
        "x".repeat(200_000)
    );
    let answer = app.post("/models/1/edit", &form).await;
    assert!(answer.status.is_client_error(), "{}", answer.status);
    let after = app.store.read(|c| muster::model(c, ModelId(1))).unwrap();
    assert_eq!(after, before);
}

/// What a form names and is not there is named in the answer, on every form that names something.
#[rstest]
#[case("/parts/1/pick", "sculpt=900&reason=better", "sculpt")]
#[case("/units/1/merge", "into=900", "unit")]
#[case("/parts/900/scale", "factor=1.2", "part")]
#[case("/trials/900/grades", "m1_0=3", "trial")]
#[case("/plates/900/start", "", "plate")]
#[case("/plates/900/judge", "", "plate")]
#[case("/plans/900/accept", "", "plan")]
#[case("/projects/900/units/new", "name=Bog+folk&priority=1", "project")]
#[case("/units/900/duplicate", "", "unit")]
#[case(
    "/models/900/parts/new",
    "name=Arm&count=1&spares=0&scale_percent=100&resin=1&layer_mm=0.05",
    "model"
)]
#[case("/trials/900/plan", "", "trial")]
#[case("/parts/900/lock", "reason=it+mates", "part")]
#[case("/trials/900/give-up", "", "trial")]
#[case("/parts/900/sanded", "sanded=0.1", "part")]
#[tokio::test]
async fn what_a_form_names_and_is_not_there_is_said(
    #[case] path: &str,
    #[case] form: &str,
    #[case] what: &str,
) {
    let answer = TestApp::demo().post(path, form).await;
    answer.is(404).says(&format!("There is no such {what}"));
}
