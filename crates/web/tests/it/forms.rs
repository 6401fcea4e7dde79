//! Forms: what was typed stays, faults are all told, nobody overwrites anybody unseen.

use rstest::rstest;
use wembrit_core::ids::{ModelId, PrinterId, ProjectId};
use wembrit_store::queries::{army, muster, printers, recipes, settings, stores, workshop};

use crate::app::TestApp;

#[rstest]
#[case::no_name("/projects/new", "name=", &["give it a name"], &[])]
#[case::priority("/projects/1/units/new", "name=Bog+folk&priority=soon", &["write a whole number"], &["Bog folk", "soon"])]
#[case::every_fault_at_once("/units/1/models/new", "name=&quantity=-3&base=60x", &["give it a name", "write a whole number", "write a diameter"], &["-3", "60x"])]
#[case::too_many("/units/1/models/new", "name=Horde&quantity=90000&base=25", &["must be from 0 to 5000"], &["90000"])]
#[case::printer("/printers/new", "name=Teal&kind=screen&width_mm=40&depth_mm=30&height_mm=NaN&margin_mm=20&startup_s=1&pixel_um=35", &["leaves nothing of the plate", "must be from 10"], &["Teal"])]
#[case::resin("/resins/new", "name=Mud&price_per_kg=12.345&density_g_per_ml=1,1&viscosity=thin&nature=rigid", &["at most 2 decimals", "tick at least one"], &["12.345", "1,1"])]
#[case::foreign_word("/printers/new", "name=Teal&kind=%3Cscript%3E&width_mm=130&depth_mm=80&height_mm=150&margin_mm=3&startup_s=1&pixel_um=35", &["choose one of these"], &[])]
#[tokio::test]
async fn what_cannot_be_taken_is_told_and_stays_typed(
    #[case] path: &str,
    #[case] form: &str,
    #[case] faults: &[&str],
    #[case] typed: &[&str],
) {
    let app = TestApp::demo();
    let answer = app.post(path, form).await;
    answer.is(422).says("Not saved");
    for words in faults {
        answer.says(words);
    }
    for value in typed {
        answer.says(&format!("value=\"{value}\""));
    }
    assert!(!answer.body.contains("<script>"));
}

#[tokio::test]
async fn two_windows_do_not_overwrite_each_other_unseen() {
    let app = TestApp::demo();
    let version = app
        .store
        .read(|c| muster::model(c, ModelId(1)))
        .unwrap()
        .row_version;
    let form = |quantity, base: &str| {
        format!("row_version={version}&name=Reed-piker&quantity={quantity}&base={base}")
    };
    app.post("/models/1/edit", &form(20, "25")).await.is(303);
    let late = app.post("/models/1/edit", &form(18, "28.5")).await;
    late.is(409)
        .says("changed in another window")
        .says("value=\"18\"")
        .says("Now it says: 20")
        .says("Now it says: 25");
    // Saving again from that page is a decision, and is taken.
    let model = app.store.read(|c| muster::model(c, ModelId(1))).unwrap();
    let again = format!(
        "row_version={}&name=Reed-piker&quantity=18&base=28.5",
        model.row_version
    );
    late.says(&format!(
        "name=\"row_version\" value=\"{}\"",
        model.row_version
    ));
    app.post("/models/1/edit", &again).await.is(303);
    let model = app.store.read(|c| muster::model(c, ModelId(1))).unwrap();
    assert_eq!((model.quantity, model.base_width_mm), (18, 28.5));
}

#[tokio::test]
async fn a_changed_recipe_is_a_new_version_and_a_changed_timing_too() {
    let app = TestApp::demo();
    let project = ProjectId(1);
    let part =
        app.store.read(|c| army::load(c, project)).unwrap().units[0].models[0].parts[0].clone();
    let form = format!(
        "row_version={}&name=Body&count=1&spares=0&sculpt={}&scale_percent=104&resin={}&layer_mm=0.05",
        part.part.row_version,
        part.part.sculpt.unwrap(),
        part.recipe.resin
    );
    app.post(&format!("/parts/{}", part.part.id), &form)
        .await
        .is(303);
    let newest = app
        .store
        .read(|c| recipes::newest(c, part.part.recipe))
        .unwrap();
    assert_eq!(
        (newest.version, newest.scale),
        (part.recipe.version + 1, 1.04)
    );

    let setting = app.store.read(settings::list).unwrap()[0].clone();
    let form = format!(
        "row_version={}&exposure_s=3.5&bottom_layers=6&bottom_exposure_s=30&lift_mm=6&lift_mm_per_min=120&retract_mm_per_min=180&rest_s=1&light_off_s=0.5&transition_layers=6&second_lift_mm=0&second_lift_mm_per_min=180&last_retract_mm=2&last_retract_mm_per_min=60&bottom_lift_mm=0&bottom_lift_mm_per_min=60",
        setting.number
    );
    let far = form.replace("last_retract_mm=2", "last_retract_mm=9");
    app.post(&format!("/settings/{}", setting.id), &far)
        .await
        .is(422)
        .says("is more than the whole way back");
    app.post(&format!("/settings/{}", setting.id), &form)
        .await
        .is(303);
    let after = app.store.read(|c| settings::load(c, setting.id)).unwrap();
    assert_eq!(
        (after.number, after.timing.exposure_s),
        (setting.number + 1, 3.5)
    );
    let timing = after.timing;
    assert_eq!(
        (
            timing.light_off_s,
            timing.transition_layers,
            timing.last_retract_mm
        ),
        (0.5, 6, 2.0)
    );
    assert!(!after.assumed.split(',').any(|f| f == "exposure_s"));
    app.post(&format!("/settings/{}", setting.id), &form)
        .await
        .is(409);
}

#[tokio::test]
async fn a_corrected_figure_is_no_longer_assumed_and_the_others_stay_so() {
    let app = TestApp::empty();
    app.post(
        "/start",
        "width_mm=130&depth_mm=80&height_mm=150&price_per_kg=25&layer_mm=0.05",
    )
    .await
    .is(303);
    let printer = app.store.read(|c| printers::load(c, PrinterId(1))).unwrap();
    assert_eq!(
        printer.assumed,
        "name,kind,margin_mm,startup_s,removal_mm,pixel_um,change_minutes,change_ml,watts,life_h"
    );
    let form = "row_version=1&name=My+printer&kind=screen&width_mm=130&depth_mm=80&height_mm=150&margin_mm=5&startup_s=120&removal_mm=0&part_pull=0&plate_pull=0&pixel_um=35&change_minutes=25&change_ml=15&watts=60&price=0&life_h=4000";
    app.post("/printers/1", form).await.is(303);
    let printer = app.store.read(|c| printers::load(c, PrinterId(1))).unwrap();
    assert_eq!(
        (printer.margin_mm, printer.assumed.as_str()),
        (
            5.0,
            "name,kind,startup_s,removal_mm,change_minutes,change_ml,watts,life_h,pixel_um"
        )
    );
    let known = app.store.read(workshop::load).unwrap();
    assert!(!known.assumed.contains("layer_um") && known.assumed.contains("waste_share"));
    let form = format!(
        "row_version={}&name=Fen&currency=eur&time_zone=Europe/Amsterdam&layer_mm=0.05&clearance_mm=1&waste_percent=10&hands_on_minutes=30&hands_on_per_hour=15.00&copy_minutes=0&contact_minutes=0&kwh=0.31&confirm_all=1",
        known.row_version
    );
    app.post("/workshop/figures", &form).await.is(303);
    assert_eq!(app.store.read(workshop::load).unwrap().assumed, "");
}

/// The key that a page put into the form that is sent there.
fn key_of(page: &str, action: &str) -> String {
    let (_, form) = page.split_once(&format!("action=\"{action}\"")).unwrap();
    let (_, key) = form.split_once("name=\"once\" value=\"").unwrap();
    key.split('"').next().unwrap().to_owned()
}

/// A double click, eight presses at once, a line that broke off: bottles came once, and everybody is led on as the
/// first was. Another look at the page is another form.
#[tokio::test]
async fn a_form_is_carried_out_once() {
    let app = TestApp::demo();
    let bottles = || app.store.read(stores::bottles).unwrap().len();
    let before = bottles();
    let page = app.get("/stores").await;
    let key = key_of(&page.body, "/stores/buy");
    let form = format!("resin=1&bottles=1&size_ml=500&once={key}");
    let buy = || app.post("/stores/buy", &form);
    let (a, b, c, d) = tokio::join!(buy(), buy(), buy(), buy());
    for answer in [a, b, c, d, buy().await] {
        assert_eq!(
            (answer.status.as_u16(), answer.location()),
            (303, "/stores")
        );
    }
    assert_eq!(bottles(), before + 1);

    // What was refused was not carried out: the same form, put right, is.
    let again = key_of(&app.get("/stores").await.body, "/stores/buy");
    assert_ne!(again, key);
    let wrong = format!("resin=1&bottles=0&size_ml=500&once={again}");
    app.post("/stores/buy", &wrong).await.is(422);
    let right = format!("resin=1&bottles=2&size_ml=500&once={again}");
    app.post("/stores/buy", &right).await.is(303);
    assert_eq!(bottles(), before + 3);

    // After the server was ended in between, too: the key was spent with the bottles.
    let other = app.again();
    other
        .post("/stores/buy", &form)
        .await
        .is(409)
        .says("Nothing was done twice");
    assert_eq!(bottles(), before + 3);
}
