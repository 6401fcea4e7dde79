//! The pages around a recipe: scale, orientation, supports; what they refuse, and why.

use rstest::rstest;
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::{PartId, SculptId};
use wembrit_core::mesh::read_mesh;
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::orient::{
    Candidate, OrientRequest, PoseTiming, Subject, find_poses, settle_poses,
};
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::recipe::{RecipeVersion, Setup};
use wembrit_core::stores::{OnScale, reckoned_g};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::first_fit;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::poses::{self, PoseQuestion};
use wembrit_store::queries::{
    army, hollows, muster, pages, recipes, scales, sculpts, tasks, zones,
};
use wembrit_store::{Store, commands};

use crate::app::{NOW, TestApp, prepared, served_until, worked_off};
use crate::two_pages::figures;

/// The part of this model and name.
fn part(app: &TestApp, model: &str, name: &str) -> PartId {
    let project = app.store.read(muster::projects).unwrap()[0].id;
    let army = app.store.read(|c| army::load(c, project)).unwrap();
    let mut all = army.parts();
    all.find(|(_, m, p)| m.model.name == model && p.part.name == name)
        .expect("a part of the demo")
        .2
        .part
        .id
}

fn recipe(app: &TestApp, id: PartId) -> RecipeVersion {
    let read = app.store.read(|c| {
        let recipe = muster::part(c, id)?.recipe;
        recipes::newest(c, recipe)
    });
    read.unwrap()
}

fn sculpt(app: &TestApp, id: PartId) -> SculptId {
    let part = app.store.read(|c| muster::part(c, id)).unwrap();
    part.sculpt.expect("a sculpt")
}

/// The division is shown with both figures, for every way of asking.
#[rstest]
#[case::a_base("to=base&base=50&stands=base", "50.00 ÷ 24.", "of 50 mm")]
#[case::an_oval("to=base&base=60x35&stands=base", "35.00 ÷ 24.", "60x35")]
#[case::feet("to=base&base=32&stands=feet", "30.00 ÷ 24.", "a rim")]
#[case::to_the_top("to=top&height=7", "7.00 ÷ ", "Foot to top")]
#[case::to_the_eye("to=eye&height=3&eye=1.5", "3.00 ÷ 1.50 = 200.0 %", "Foot to eye")]
#[case::a_percentage("to=percent&percent=82,5", "82.5 %", "By percentage")]
#[case::two_points(
    "a=0,0,0&b=3,4,0&to=picked&should=7.3&clearance=0.2",
    "7.50 ÷ 5.00 = 150.0 %",
    "one dimension"
)]
#[tokio::test]
async fn every_scale_is_one_division(
    #[case] asked: &str,
    #[case] division: &str,
    #[case] heading: &str,
) {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    let page = app.get(&format!("/parts/{id}/scale?{asked}")).await;
    page.is(200).says(division).says(heading).says("Use ");
}

#[rstest]
#[case("to=top&height=0", "makes no scale")]
#[case("to=top&height=abc", "makes no scale")]
#[case("to=base&base=tree", "write a diameter")]
#[case("to=percent&percent=9000", "from 1 to 2000")]
#[tokio::test]
async fn what_makes_no_scale_is_told(#[case] asked: &str, #[case] says: &str) {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    let page = app.get(&format!("/parts/{id}/scale?{asked}")).await;
    page.is(200).says(says);
    assert!(!page.body.contains("Use "), "nothing to use");
}

#[tokio::test]
async fn parts_of_a_model_are_unified_but_locked_ones_stay() {
    let app = TestApp::demo();
    let (body, sack, base) = (
        part(&app, "Bog slinger", "Body"),
        part(&app, "Bog slinger", "Stone sack"),
        part(&app, "Bog slinger", "Base"),
    );
    let page = app.get(&format!("/parts/{body}/scale")).await;
    page.says("They do not share one scale")
        .says("35 %")
        .says("100 %");
    app.post(&format!("/parts/{base}/lock"), "reason=")
        .await
        .is(400)
        .says("Say why");
    app.post(
        &format!("/parts/{base}/lock"),
        "reason=must+mate+with+a+bought+rim",
    )
    .await
    .is(303);
    app.post(&format!("/parts/{base}/scale"), "factor=1.5&fit=1")
        .await
        .says("never scaled to fit");
    app.post(&format!("/parts/{body}/scale"), "factor=0.9&all=1")
        .await
        .is(303);
    let scales = [body, sack, base].map(|id| recipe(&app, id).scale);
    assert_eq!(scales, [0.9, 0.9, 1.0]);
    app.get(&format!("/parts/{base}/scale"))
        .await
        .says("must mate with a bought rim");
    app.post(&format!("/parts/{body}/scale"), "factor=NaN")
        .await
        .is(400);
    // Together on one plate: never with a locked part, else in words.
    let together = format!("/parts/{body}/scale?printer=1&set{body}=1&set{sack}=1");
    app.get(&together).await.says("fits Dunlin together up to");
    app.get(&format!("{together}&set{base}=1"))
        .await
        .says("is never scaled to fit");
}

#[tokio::test]
async fn joints_and_attempts_limit_the_scale() {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Body");
    app.post(&format!("/parts/{id}/joints"), "name=elbow&gap_mm=0.25")
        .await
        .is(303);
    app.post(&format!("/parts/{id}/joints"), "name=&gap_mm=wide")
        .await
        .is(400);
    let page = app
        .get(&format!("/parts/{id}/scale?to=percent&percent=70"))
        .await;
    page.says("The gap of elbow is 0.17 mm")
        .says("fuses up to 0.20 mm");
    app.get(&format!("/parts/{id}/recipe"))
        .await
        .says("choose the setting by a trial of exposures");
    app.post(&format!("/parts/{id}/tried"), "printer=1&outcome=worked")
        .await
        .is(303);
    app.post(&format!("/parts/{id}/scale"), "factor=0.5")
        .await
        .is(303);
    app.post(&format!("/parts/{id}/tried"), "printer=1&outcome=fused")
        .await
        .is(303);
    app.post(&format!("/parts/{id}/tried"), "printer=1&outcome=melted")
        .await
        .is(400);
    app.post(&format!("/parts/{id}/scale"), "factor=0.75")
        .await
        .is(303);
    app.get(&format!("/parts/{id}/scale"))
        .await
        .says("it fused at 50 %, the smallest that worked is 100 %");
    let known = app
        .store
        .read(|c| scales::joints_of(c, sculpt(&app, id)))
        .unwrap();
    app.post(&format!("/parts/{id}/joints/{}/remove", known[0].0), "")
        .await
        .is(303);
    assert!(
        !app.get(&format!("/parts/{id}/scale"))
            .await
            .body
            .contains("elbow:")
    );
}

/// Clicks on pictures are points of the mesh: two make a distance, one a fine zone.
#[tokio::test]
async fn clicks_on_pictures_find_the_mesh() {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    // The base is 24.4 mm wide, its picture 230 px: two clicks 115 px apart are 12.2 mm.
    let first = app
        .get(&format!("/parts/{id}/point/front?at.x=57&at.y=50"))
        .await;
    first.is(303);
    let with_first = first.location().to_owned();
    let a = with_first.split("a=").nth(1).expect("a point");
    let second = app
        .get(&format!("/parts/{id}/point/front?a={a}&at.x=172&at.y=50"))
        .await;
    let page = app.get(second.location()).await;
    page.says("The two points are");
    let apart: f64 = page
        .body
        .split("class=\"mono\">")
        .find_map(|rest| rest.split(" mm</strong> apart").next()?.parse().ok())
        .expect("a distance");
    assert!((apart - 12.2).abs() < 0.6, "{apart}");

    app.post(
        &format!("/parts/{id}/zones/front"),
        "radius_mm=3&at.x=95&at.y=40",
    )
    .await
    .is(303);
    let marked = app
        .store
        .read(|c| zones::of_sculpt(c, sculpt(&app, id)))
        .unwrap();
    assert_eq!(marked.len(), 1);
    assert!(marked[0].1.at_mm[0].abs() < 0.5, "{marked:?}");
    app.get(&format!("/parts/{id}/poses"))
        .await
        .says("3.0 mm around");
    app.post(
        &format!("/parts/{id}/zones/front"),
        "radius_mm=3&at.x=900&at.y=900",
    )
    .await
    .is(400)
    .says("click on it");
    app.post(&format!("/parts/{id}/zones/{}/remove", marked[0].0), "")
        .await
        .is(303);
    app.get(&format!("/parts/{id}/poses"))
        .await
        .says("none marked");
}

/// Looks for poses as the task does, timed by the first printer that fits the recipe.
fn found(app: &TestApp, id: PartId) {
    let sculpt = app
        .store
        .read(|c| sculpts::load(c, sculpt(app, id)))
        .unwrap();
    let bytes = app.store.read(|c| sculpts::bytes(c, sculpt.id)).unwrap();
    let mesh = read_mesh(&bytes, "a.stl").unwrap();
    let solid = wembrit_core::mesh::Solid::new(&mesh);
    let now = recipe(app, id);
    let workshop = app.store.read(pages::workshop::load).unwrap();
    let first = first_fit(&workshop.printers, &workshop.settings, now.resin, now.layer);
    let request = OrientRequest {
        layer: now.layer,
        style: SupportStyle::USUAL,
        timing: PoseTiming::of(first, now.layer),
        zones: Vec::new(),
    };
    let all = find_poses(&Subject::new(&solid, &request), &Unwatched).expect("nobody stops it");
    // Only the one that is looked at here is measured: all of them would take a while.
    let asked = |c: &Candidate| c.pose == Pose::new(45.0, 90.0) || c.on_plate();
    let (asked, others): (Vec<_>, Vec<_>) = all.into_iter().partition(asked);
    let mut all = settle_poses(&mesh, asked, &request, &Unwatched).expect("nobody stops it");
    all.extend(others);
    let drawn: Vec<_> = all.into_iter().map(|c| (c, b"png".to_vec())).collect();
    let asking = PoseQuestion {
        scale: now.scale,
        layer: now.layer,
        resin: now.resin,
        base_mm: 25.0,
        style: SupportStyle::USUAL,
    };
    app.store
        .write(|c| {
            let key = poses::key(c, &sculpt, &asking)?;
            commands::poses::set(c, sculpt.id, &key, &drawn)
        })
        .unwrap();
}

#[tokio::test]
async fn a_pose_is_chosen_from_the_sheet_and_nothing_before() {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    let before = recipe(&app, id);
    found(&app, id);
    let page = app.get(&format!("/parts/{id}/poses")).await;
    page.says("unbeaten")
        .says("flat on the plate")
        .says("45° back");
    assert_eq!(recipe(&app, id).id, before.id, "looking changes nothing");
    app.post(&format!("/parts/{id}/pose"), "pose=tilt+45+toward+90")
        .await
        .is(303);
    let now = recipe(&app, id);
    assert_eq!(now.setup.pose, Pose::new(45.0, 90.0));
    assert_eq!(now.setup.supports, Supports::Planned(SupportStyle::USUAL));
    app.post(&format!("/parts/{id}/pose"), "pose=as+imported&on_plate=1")
        .await
        .is(303);
    assert_eq!(recipe(&app, id).setup.supports, Supports::None);
    app.post(&format!("/parts/{id}/pose"), "pose=sideways")
        .await
        .is(400);
    app.post(
        &format!("/parts/{id}/supports"),
        "source=planned&tip_mm=0.3&spacing_mm=2&lift_mm=6",
    )
    .await
    .is(303);
    assert_eq!(
        recipe(&app, id).setup.supports.to_string(),
        "planned 0.3 2 6"
    );
    app.post(
        &format!("/parts/{id}/supports"),
        "source=planned&tip_mm=9&spacing_mm=2&lift_mm=6",
    )
    .await
    .is(400)
    .says("tips of 0.1 to 3 mm");
    // Another scale makes the sheet stale, and says so.
    app.post(&format!("/parts/{id}/scale"), "factor=0.7")
        .await
        .is(303);
    app.get(&format!("/parts/{id}/poses"))
        .await
        .says("compare again");
}

/// Figures of this name on a page.
fn shown(page: &crate::app::Answer, name: &str) -> Vec<String> {
    let all = figures(&page.body).into_iter();
    all.filter(|(n, _)| *n == name)
        .map(|(_, f)| f.to_owned())
        .collect()
}

/// The sheet and the recipe's own layers tell the same hours of an orientation, and the same of its
/// tips: both ask the first printer that fits the recipe, and both count what the supports lift.
#[rstest]
#[case::on_the_plate("pose=as+imported&on_plate=1", &["hours"])]
#[case::leaning("pose=tilt+45+toward+90", &["hours", "holding"])]
#[tokio::test]
async fn an_orientation_has_the_same_figures_on_its_sheet_and_on_its_recipe(
    #[case] chosen: &str,
    #[case] names: &[&str],
) {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    found(&app, id);
    app.post(&format!("/parts/{id}/pose"), chosen).await.is(303);
    worked_off(&app.store, &[TaskKind::Prepare]).await;
    let sheet = app.get(&format!("/parts/{id}/poses")).await;
    let recipe = app.get(&format!("/parts/{id}/recipe")).await;
    for name in names {
        let name = format!("part {id} {name}");
        let on = [shown(&sheet, &name), shown(&recipe, &name)];
        assert_eq!(on[0].len(), 1, "{name}: {on:?}");
        assert_eq!(on[0], on[1]);
    }
}

/// A hull that leans far back holds on the tips planned for it, however thin they are asked for, since they
/// stand as close as it pulls; along the film it pulls harder than any tips hold. Both pages say so.
#[tokio::test]
async fn a_part_that_pulls_too_hard_is_told() {
    let app = TestApp::demo();
    let id = part(&app, "Siege punt", "Hull");
    let hung = async |degrees: f64, tip_mm: f64| {
        let style = SupportStyle {
            tip_mm,
            ..SupportStyle::USUAL
        };
        let setup = Setup {
            pose: Pose::new(degrees, BACK_DEG),
            supports: Supports::Planned(style),
        };
        let version = recipe(&app, id);
        let to = RecipeChange {
            setup: Some(setup),
            ..RecipeChange::of(&version)
        };
        app.store
            .write(|c| commands::recipes::change(c, version.recipe, &to, NOW))
            .unwrap();
        prepared(&app, id).await;
        let recipe = app.get(&format!("/parts/{id}/recipe")).await;
        let muster = app.get("/projects/1/muster").await;
        let told = recipe.body.contains("may tear off its supports");
        assert_eq!(told, muster.body.contains("held by few or thin tips"));
        recipe
    };
    for tip_mm in [1.0, 0.5, 0.35] {
        let page = hung(60.0, tip_mm).await;
        assert!(!page.body.contains("may tear off"), "{tip_mm}");
        page.says(" times what usually holds");
    }
    hung(0.0, 0.5)
        .await
        .says("no number of tips is sure to hold");
}

/// What a copy weighs with its supports off is one figure: by the density of cured resin, as it would lie on
/// the scale.
#[tokio::test]
async fn a_print_weighs_what_lies_on_the_scale() {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Body");
    prepared(&app, id).await;
    let page = app.get(&format!("/parts/{id}/recipe")).await;
    let of = app
        .store
        .read(|c| pages::recipes::page(c, id, None))
        .unwrap();
    let resin = of.resin.facts;
    let grams = reckoned_g(&of.kept.unwrap().part.body(), OnScale::Bare, &resin);
    assert!((resin.cured_g_per_ml / resin.density_g_per_ml - 1.0).abs() > 0.02);
    assert_eq!(
        shown(&page, &format!("part {id} grams")),
        [format!("{grams:.1}")]
    );
}

/// Points and zones are picked on pictures of the sides; until these are drawn the page says so, and
/// has nothing to click that would not be seen.
#[tokio::test]
async fn sides_that_are_not_drawn_yet_are_not_shown() {
    let app = TestApp::demo();
    let id = part(&app, "Bog slinger", "Base");
    for page in ["scale", "poses"] {
        let path = format!("/parts/{id}/{page}");
        let answer = app.get(&path).await;
        answer.is(200).says("Its sides are being drawn");
        assert!(!answer.body.contains("type=\"image\""), "{page}");
    }
    let drawn = sculpt(&app, id);
    let there = |s: &Store| s.read(|c| hollows::has_pictures(c, drawn)).unwrap();
    served_until(&app.store, there).await;
    for page in ["scale", "poses"] {
        let answer = app.get(&format!("/parts/{id}/{page}")).await;
        answer.says("type=\"image\"");
        assert!(!answer.body.contains("are being drawn"), "{page}");
    }
}

/// The search can be stopped while it waits or runs, and asked for again.
#[tokio::test]
async fn looking_for_poses_can_be_stopped() {
    let app = TestApp::demo();
    let id = part(&app, "Levy captain", "Captain");
    app.post(&format!("/parts/{id}/poses"), "").await.is(303);
    app.get(&format!("/parts/{id}/poses"))
        .await
        .says("Stop looking");
    app.post(&format!("/parts/{id}/poses/stop"), "")
        .await
        .is(303);
    app.get(&format!("/parts/{id}/poses"))
        .await
        .says("Stopped by the maker.")
        .says("Compare orientations");
    let waiting = app
        .store
        .read(|c| tasks::list(c, TaskState::Waiting))
        .unwrap();
    let mine = app
        .store
        .read(|c| sculpts::load(c, sculpt(&app, id)))
        .unwrap()
        .uid;
    assert!(
        !waiting
            .iter()
            .any(|t| t.kind == TaskKind::Poses && t.input_key.starts_with(&mine))
    );
    app.post(&format!("/parts/{id}/poses"), "").await.is(303);
    app.get(&format!("/parts/{id}/poses/state"))
        .await
        .says("data-open");
}

/// Every address answers for parts without a sculpt and for parts that are not there.
#[tokio::test]
async fn parts_without_a_sculpt_are_told_what_to_do() {
    let app = TestApp::demo();
    for path in ["recipe", "scale", "poses"] {
        app.get(&format!("/parts/9999/{path}")).await.is(404);
    }
    app.get("/trials/9999").await.is(404);
    app.get("/poses/9999/picture").await.is(404);
    let model = app
        .store
        .read(|c| muster::part(c, part(&app, "Bog slinger", "Base")))
        .unwrap()
        .model;
    let form = "name=Torch&count=1&spares=0&sculpt=&scale_percent=100&resin=1&layer_mm=0.05";
    app.post(&format!("/models/{model}/parts/new"), form)
        .await
        .is(303);
    let id = part(&app, "Bog slinger", "Torch");
    app.get(&format!("/parts/{id}/recipe"))
        .await
        .is(200)
        .says("Give this part its sculpt first");
    for path in ["scale", "poses"] {
        app.get(&format!("/parts/{id}/{path}"))
            .await
            .says("sculpt first");
    }
    app.post(&format!("/parts/{id}/trial"), "")
        .await
        .says("sculpt first");
}
