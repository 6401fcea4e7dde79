//! Pages: what they answer when things are missing, stale, or many.

use rstest::rstest;
use wembrit_core::cost::by_model;
use wembrit_core::currency::Currency;
use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::{PlanId, ProjectId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{Plan, make_plan, plan_request};
use wembrit_core::watch::Unwatched;
use wembrit_store::commands;
use wembrit_store::queries::{army, demand, plans, plates, sculpts};
use wembrit_web::Settings;

use crate::app::{NOW, TestApp};

#[rstest]
#[case("/nothing", "There is no such page")]
#[case("/plates/900", "There is no such plate")]
#[case("/plates/first", "There is no such page")]
#[case("/models/900", "There is no such model")]
#[case("/projects/900/muster", "There is no such project")]
#[tokio::test]
async fn what_is_not_there_is_said_on_a_page(#[case] path: &str, #[case] words: &str) {
    TestApp::demo()
        .get(path)
        .await
        .is(404)
        .says(words)
        .says("To the first page");
}

#[tokio::test]
async fn an_empty_file_asks_three_questions_and_teaches_on_every_page() {
    let app = TestApp::empty();
    app.get("/").await.is(200).says("Three answers");
    app.get("/sculpts")
        .await
        .is(200)
        .says("Upload the STL files");
    app.get("/workshop")
        .await
        .is(200)
        .says("Three answers are enough");
    assert_eq!(app.get("/muster").await.location(), "/projects/new");
    assert_eq!(app.get("/plates").await.location(), "/projects/new");
}

/// A plan of everything wanted, computed in place of the task thread.
pub(crate) fn draft(app: &TestApp) -> PlanId {
    let plan = app
        .store
        .write(|c| {
            commands::ask_plan::ask(
                c,
                ProjectId(1),
                &commands::ask_plan::PlanAsk::default(),
                NOW,
            )
        })
        .expect("a plan");
    computed(app, plan);
    plan
}

/// What a plan that was asked for becomes.
pub(crate) fn request_of(app: &TestApp, plan: PlanId) -> Plan {
    let request = app.store.read(|c| {
        let lines = plans::demand_of(c, plan)?;
        let row = plans::load(c, plan)?;
        let facts = demand::plan_facts(c, row.project, &lines)?;
        Ok(plan_request(&facts, &lines, &row.scope))
    });
    make_plan(&request.expect("a plan"), PackSearch::AT_ONCE, &Unwatched).expect("a plan")
}

/// Computes a plan that was asked for.
pub(crate) fn computed(app: &TestApp, plan: PlanId) {
    let computed = request_of(app, plan);
    app.store
        .write(|c| commands::save_plan::set_computed(c, plan, &computed))
        .expect("a plan");
}

#[tokio::test]
async fn a_stale_plan_shows_what_changed_and_is_not_accepted() {
    let app = TestApp::demo();
    let plan = draft(&app);
    app.get("/projects/1/plates").await.says("Accept this plan");
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let slingers = army
        .units
        .iter()
        .flat_map(|u| &u.models)
        .find(|m| m.model.name == "Bog slinger")
        .unwrap();
    let form = format!(
        "row_version={}&name=Bog+slinger&quantity=15&base=25",
        slingers.model.row_version
    );
    app.post(&format!("/models/{}/edit", slingers.model.id), &form)
        .await
        .is(303);
    app.get("/projects/1/plates")
        .await
        .says("The army has changed since this plan was made: 1 more of Bog slinger");
    let before = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap()
        .len();
    let answer = app.post(&format!("/plans/{plan}/accept"), "").await;
    answer
        .is(409)
        .says("Nothing was accepted")
        .says("Bog slinger")
        .says("14")
        .says("15");
    assert_eq!(
        app.store
            .read(|c| plates::accepted(c, ProjectId(1)))
            .unwrap()
            .len(),
        before
    );
}

#[tokio::test]
async fn costs_by_unit_and_model_add_up_to_the_plan() {
    let app = TestApp::demo();
    let plan = draft(&app);
    let of_plan = app.store.read(|c| plates::of_plan(c, plan)).unwrap();
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let sums = app.store.read(|c| plates::sums_of_plan(c, plan)).unwrap();
    let costs = by_model(&army, &sums);
    let total: i64 = of_plan.iter().map(|p| p.cost().0).sum();
    assert_eq!(costs.iter().map(|m| m.cost.0).sum::<i64>(), total);
    let ml: f64 = of_plan.iter().map(|p| p.resin_ml).sum();
    assert!((costs.iter().map(|m| m.ml).sum::<f64>() - ml).abs() < 1e-6);
    let slinger = costs.iter().find(|m| m.model.1 == "Bog slinger").unwrap();
    let each = slinger.each.unwrap().0 as f64;
    assert!(
        (each * 14.0 - slinger.cost.0 as f64).abs() <= 14.0,
        "{each} {slinger:?}"
    );
    app.get("/projects/1/plates")
        .await
        .says("shared by the area each copy covers")
        .says(&Currency::of("EUR").write(slinger.cost));
}

#[tokio::test]
async fn all_good_but_these_takes_a_cause_for_each() {
    let app = TestApp::demo();
    let running = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let plate = running
        .iter()
        .find(|p| p.state == PlateState::Running)
        .unwrap()
        .id;
    app.post(&format!("/plates/{plate}/done"), "").await.is(303);
    let spots = app
        .store
        .read(|c| plates::copies_on(c, &[plate]))
        .unwrap()
        .remove(&plate)
        .unwrap();
    let [a, b] = [0, 1].map(|i| spots[i].copy.as_ref().unwrap().id);
    let judge = format!("/plates/{plate}/judge");
    let answer = app
        .post(
            &judge,
            &format!("failed={a}&layer_{a}=many&note_{a}=left+foot"),
        )
        .await;
    answer
        .is(422)
        .says("is no layer")
        .says("value=\"left foot\"");
    // Without scripts a button asks what can be said of those that are ticked: nothing is written.
    let asked = format!("rest=say&failed={b}&cause=warped");
    let asked = app.post(&judge, &asked).await;
    asked.is(200).says(&format!("name=\"note_{b}\""));
    asked.says("<option value=\"warped\" selected>");
    assert!(!asked.body.contains(&format!("name=\"note_{a}\"")));
    app.post(&judge, "failed=99999&cause=warped")
        .await
        .is(422)
        .says("not on this plate");
    let form = format!("failed={a}&failed={b}&cause=warped&cause_{b}=stuck+to+the+film");
    app.post(&judge, &form).await.is(303);
    let spots = app
        .store
        .read(|c| plates::copies_on(c, &[plate]))
        .unwrap()
        .remove(&plate)
        .unwrap();
    let causes: Vec<_> = spots
        .iter()
        .filter_map(|s| s.copy.as_ref()?.cause.clone())
        .collect();
    assert_eq!(causes, ["warped", "stuck to the film"]);
    let good = spots
        .iter()
        .filter(|s| s.copy.as_ref().is_some_and(|c| c.stage == Stage::Good))
        .count();
    assert_eq!(good, spots.len() - 2);
    app.post(&judge, &form).await.is(409);
}

#[tokio::test]
async fn uploads_are_kept_once_and_too_large_ones_are_refused_alone() {
    let settings = Settings {
        max_file_bytes: 2_000_000,
        ..Settings::default()
    };
    let app = TestApp::with(settings);
    let small = vec![1; 500_000];
    let large = vec![2; 2_500_000];
    let answer = app
        .upload(&[
            ("C:\\minis\\a.stl", &small),
            ("big.stl", &large),
            ("same.stl", &small),
        ])
        .await;
    assert_eq!(answer.location(), "/sculpts?new=1&known=1&refused=1");
    let all = app.store.read(sculpts::list).unwrap();
    let names: Vec<_> = all.iter().map(|(s, _)| s.file_name.as_str()).collect();
    assert_eq!(names, ["big.stl", "a.stl"]);
    app.get("/sculpts").await.says("larger than 2 MB");
    app.get(answer.location())
        .await
        .says("1 new file arrived; 1 file was here already");
}

#[tokio::test]
async fn what_was_taken_away_can_be_put_back() {
    let app = TestApp::demo();
    let gone = app.post("/units/1/remove", "").await;
    assert_eq!(gone.location(), "/projects/1/muster?removed=unit-1");
    let page = app.get(gone.location()).await;
    page.says("The unit was taken away")
        .says("/units/1/restore");
    assert!(!page.body.contains("id=\"u1\""));
    app.post("/units/1/restore", "").await.is(303);
    app.get("/projects/1/muster").await.says("id=\"u1\"");
    // A sculpt that parts are printed from stays.
    app.post("/sculpts/1/remove", "")
        .await
        .is(422)
        .says("give that part another sculpt");
}

#[tokio::test]
async fn assets_carry_one_hash_and_are_kept_for_ever() {
    let app = TestApp::empty();
    let page = app.get("/workshop").await.body;
    let at = page.find("/assets/").unwrap();
    let path = &page[at..at + page[at..].find('"').unwrap()];
    let asset = app.get(path).await;
    asset.is(200);
    assert!(
        asset.headers["cache-control"]
            .to_str()
            .unwrap()
            .contains("immutable")
    );
    app.get("/assets/0000/../Cargo.toml").await.is(404);
}

#[tokio::test]
async fn a_sculpt_goes_out_in_open_formats_and_in_mm() {
    let app = TestApp::demo();
    app.post("/sculpts/1/unit", "unit_mm=none")
        .await
        .is(400)
        .says("Write how many mm");
    app.post("/sculpts/1/unit", "unit_mm=25,4").await.is(303);
    let id = wembrit_core::ids::SculptId(1);
    let bytes = app.store.read(|c| sculpts::bytes(c, id)).unwrap();
    let inches = wembrit_core::mesh::read_mesh(&bytes, "a.stl")
        .unwrap()
        .bounds();
    for format in ["stl", "3mf"] {
        let (headers, body) = app.download(&format!("/sculpts/1/mesh/{format}")).await;
        assert!(
            headers["content-disposition"]
                .to_str()
                .unwrap()
                .ends_with(&format!(".{format}\""))
        );
        let mm = wembrit_core::mesh::read_mesh(&body, &format!("a.{format}"))
            .unwrap()
            .bounds();
        assert!(
            (mm.1[2] - inches.1[2] * 25.4).abs() < 1e-3,
            "{format}: {mm:?}"
        );
    }
    app.get("/sculpts/1/mesh/gcode").await.is(404);
}

/// What is plainly no mesh is refused at the door and kept nowhere; a file whose name is no text is
/// kept under another.
#[tokio::test]
async fn pictures_are_refused_at_the_door_and_names_that_are_no_text_are_not() {
    let app = TestApp::empty();
    let picture = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR".to_vec();
    let letter = b"Dear heron, the files are in the folder beside this letter.".to_vec();
    let answer = app
        .upload(&[("knight.stl", &picture), ("readme.stl", &letter)])
        .await;
    assert_eq!(answer.location(), "/sculpts?new=0&known=0&refused=2");
    assert!(app.store.read(sculpts::list).unwrap().is_empty());
    let name = b"Content-Disposition: form-data; name=\"files\"; filename=\"\xe9\xff.stl\"";
    app.upload_headed(name, &[3; 600]).await.is(303);
    assert_eq!(app.store.read(sculpts::list).unwrap().len(), 1);
}

#[tokio::test]
async fn what_a_form_names_that_is_not_there_is_refused_in_words() {
    let app = TestApp::demo();
    app.post(
        "/models/1/parts/new",
        "name=Heron&count=2&spares=0&sculpt=9999",
    )
    .await
    .is(422);
    app.get("/muster?removed=%0d%0a").await.is(303);
    app.get("/muster?removed=unit-1").await.is(303);
}
