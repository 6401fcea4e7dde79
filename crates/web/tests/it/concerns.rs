//! What stands open: shown where a decision is made, answered with a word, kept with the plates.

use wembrit_core::flow::{PlanState, Stage, TaskKind};
use wembrit_core::ids::{ModelId, ProjectId, SculptId};
use wembrit_core::mesh::{Mesh, write_stl};
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::supports::Supports;
use wembrit_store::queries::{army, plans, plates, sculpts};

use crate::app::{TestApp, prepared, worked_off};
use crate::boxes::faces as block;

const MUSTER: &str = "/projects/1/muster";

/// Id of a model of the demo by its name.
fn model(app: &TestApp, name: &str) -> ModelId {
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let mut all = army.units.iter().flat_map(|u| &u.models);
    all.find(|m| m.model.name == name).unwrap().model.id
}

#[tokio::test]
async fn what_is_put_aside_takes_a_reason_and_can_be_taken_up() {
    let app = TestApp::demo();
    let page = app.get(MUSTER).await;
    page.says("Idol shuts in").says("stand open");
    let key = page.body.split("name=\"key\" value=\"hollow ").nth(1);
    let key = key.and_then(|rest| rest.split('"').next()).unwrap();
    let form = |reason: &str| format!("key=hollow+{key}&reason={reason}&then={MUSTER}");
    app.post("/projects/1/concerns/aside", &form(""))
        .await
        .is(422)
        .says("Say why");
    let answer = app
        .post("/projects/1/concerns/aside", &form("filled+with+plaster"))
        .await;
    assert_eq!(answer.location(), MUSTER);
    app.get(MUSTER).await.says("filled with plaster");
    let elsewhere = format!("key=hollow+{key}&then=//elsewhere.example");
    let answer = app.post("/projects/1/concerns/up", &elsewhere).await;
    assert_eq!(answer.location(), MUSTER, "only to pages of our own");
    assert!(!app.get(MUSTER).await.body.contains("filled with plaster"));
    app.post("/projects/1/concerns/aside", "key=nothing&reason=x")
        .await
        .is(404);
}

/// A file of another size than the model's base is told with the one division, on the muster and on
/// the model; the whole list goes as the base does.
#[tokio::test]
async fn a_foot_larger_than_its_base_is_grave() {
    let app = TestApp::demo();
    let id = model(&app, "Jetty span");
    let before = app.get(&format!("/models/{id}")).await;
    assert!(!before.body.contains("its base has"));
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let (_, span) = army.model(id).unwrap();
    let form = format!(
        "row_version={}&name=Jetty+span&quantity={}&base=20&carries=0",
        span.model.row_version, span.model.quantity
    );
    app.post(&format!("/models/{id}/edit"), &form).await.is(303);
    for page in [format!("/models/{id}"), MUSTER.to_owned()] {
        app.get(&page)
            .await
            .says("its base has 20 mm")
            .says("% it would fit")
            .says("scale?to=base&#38;base=20x20")
            .says("Set its scale");
    }
}

/// A plan with something grave in it is not accepted without a word, and the word stands on its
/// plates; nothing is lost on the way.
#[tokio::test]
async fn a_plan_with_something_grave_takes_a_word() {
    let app = TestApp::demo();
    let id = ProjectId(1);
    app.post("/projects/1/plan", "").await.is(303);
    let plan = app
        .store
        .read(|c| plans::open_plan(c, id))
        .unwrap()
        .unwrap();
    crate::app::served_until(&app.store, |s| {
        let plates = s.read(|c| plates::of_plan(c, plan.id)).unwrap();
        !plates.is_empty()
    })
    .await;
    let accept = format!("/plans/{}/accept", plan.id);
    let page = app.get("/projects/1/plates").await;
    page.says("Idol shuts in").says("Accept this plan");
    app.post(&accept, "")
        .await
        .is(422)
        .says("Accept all the same")
        .says("Idol shuts in");
    let state = || app.store.read(|c| plans::load(c, plan.id)).unwrap().state;
    assert_ne!(state(), PlanState::Accepted);
    app.post(&accept, "word=drilled+through+the+sole")
        .await
        .is(303);
    assert_eq!(state(), PlanState::Accepted);
    // A second click at once is no conflict.
    app.post(&accept, "").await.is(303);
    let idol = model(&app, "Marsh idol");
    let army = app.store.read(|c| army::load(c, id)).unwrap();
    let parts: Vec<_> = army
        .model(idol)
        .unwrap()
        .1
        .parts
        .iter()
        .filter(|p| p.part.name == "Idol")
        .map(|p| p.part.id)
        .collect();
    let of = app.store.read(|c| plates::of_plan(c, plan.id)).unwrap();
    let ids: Vec<_> = of.iter().map(|p| p.id).collect();
    let on = app.store.read(|c| plates::copies_on(c, &ids)).unwrap();
    let holds = |id| on[id].iter().any(|c| parts.contains(&c.placed.part));
    let with_idol = ids.iter().find(|id| holds(id)).unwrap();
    app.get(&format!("/plates/{with_idol}"))
        .await
        .says("drilled through the sole");
    let tasks =
        |c: &mut _| wembrit_store::queries::tasks::find(c, TaskKind::Plan, &plan.id.to_string());
    let task = app.store.read(tasks).unwrap().unwrap();
    assert!(!task.state.is_open(), "nobody works on it any more");
}

/// An army made smaller: plates that nobody has started hold more than is wanted, and say so.
#[tokio::test]
async fn plates_of_an_army_made_smaller_say_so() {
    let app = TestApp::demo();
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let planned = |m: &&wembrit_core::army::ArmyModel| {
        m.parts.iter().any(|p| p.counts.of(Stage::Planned) > 0)
    };
    let all = || army.units.iter().flat_map(|u| &u.models);
    let waiting = all().find(planned).expect("a plate of the demo waits");
    let id = waiting.model.id;
    let words = "more copies are on accepted plates than are wanted";
    let page = app.get(&format!("/models/{id}")).await;
    assert!(!page.body.contains(words));
    let form = format!(
        "row_version={}&name=Fewer&quantity=1&base=25&carries=0",
        waiting.model.row_version
    );
    app.post(&format!("/models/{id}/edit"), &form).await.is(303);
    app.get(&format!("/models/{id}"))
        .await
        .says(words)
        .says("To the plates");
}

/// Two models name one hollow sculpt: a plan with only the second takes a word all the same.
#[tokio::test]
async fn a_hollow_that_two_models_share_is_asked_of_either() {
    let app = TestApp::demo();
    let idol = model(&app, "Marsh idol");
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let unit = army.model(idol).unwrap().0.unit.id;
    app.post("/projects/1/plan", &format!("unit={unit}"))
        .await
        .is(303);
    let plan = app
        .store
        .read(|c| plans::open_plan(c, ProjectId(1)))
        .unwrap()
        .unwrap();
    app.post(&format!("/plans/{}/accept", plan.id), "")
        .await
        .is(422)
        .says("shuts in");
}

/// A figure on so many columns over a raft.
fn on_columns(columns: u8) -> Vec<u8> {
    carried(columns, block([4.0, 4.0, 8.0], [20.0, 16.0, 38.0]))
}

/// Something that begins at 8 mm, on so many columns over a raft.
fn carried(columns: u8, figure: Vec<[[f32; 3]; 3]>) -> Vec<u8> {
    let mut faces = block([-8.0, -8.0, 0.0], [32.0, 32.0, 1.2]);
    for i in 0..columns {
        let (x, y) = (5.0 + f32::from(i % 5) * 3.0, 5.0 + f32::from(i / 5) * 4.0);
        faces.extend(block([x, y, 1.0], [x + 0.8, y + 0.8, 8.2]));
    }
    faces.extend(figure);
    write_stl(&Mesh::weld(faces))
}

/// A new part of a model of the demo, printed from this file.
async fn new_part(app: &TestApp, file: &str, stl: &[u8], scale: u8) -> SculptId {
    app.upload(&[(file, stl)]).await.is(303);
    worked_off(&app.store, &[TaskKind::Measure]).await;
    let all = app.store.read(sculpts::list).unwrap();
    let sculpt = all.iter().find(|(s, _)| s.file_name == file);
    let sculpt = sculpt.expect("it arrived").0.id;
    let form = format!(
        "name=Held+body&count=1&spares=0&sculpt={sculpt}&scale_percent={scale}&resin=1&layer_mm=0.05"
    );
    app.post("/models/1/parts/new", &form).await.is(303);
    sculpt
}

/// The maker overrules what is recognised, either way and for one file: parts nobody has printed
/// follow. Those that do not use the supports of their files are set up at one press.
#[tokio::test]
async fn the_maker_says_whether_a_file_brings_supports() {
    let app = TestApp::demo();
    let sculpt = new_part(&app, "Held, pre-supported (2).stl", &on_columns(4), 50).await;
    let held = || {
        let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
        let part = army.parts().find(|(_, _, p)| p.part.name == "Held body");
        let part = part.unwrap().2;
        (part.part.id, part.recipe.setup)
    };
    let part = held().0;
    assert_eq!(held().1, Setup::IN_FILE);
    let recipe = format!("/parts/{part}/recipe");
    app.get(&recipe)
        .await
        .says("By its name this file brings its supports; its tips are 0.8")
        .says(" mm, at 50 % 0.4");
    let page = format!("/sculpts/{sculpt}");
    app.get(&page).await.says("By its name this file brings");
    let say = |what: &'static str| {
        let (app, page) = (&app, format!("{page}/supports"));
        async move {
            app.post(&page, &format!("supports={what}")).await.is(303);
        }
    };
    say("none").await;
    assert!(matches!(held().1.supports, Supports::Planned(_)));
    assert!(!app.get(&recipe).await.body.contains("brings its supports"));
    say("its own").await;
    assert_eq!(held().1, Setup::IN_FILE);
    app.get(&recipe).await.says("You said that this file");
    let setups = "/projects/1/setups";
    app.post(setups, &format!("part={part}&do=plain"))
        .await
        .is(303);
    app.get(setups)
        .await
        .says("1 part has a file with its own supports");
    app.post(setups, &format!("part={part}&do=supports"))
        .await
        .is(303);
    assert_eq!(held().1, Setup::IN_FILE);
    assert!(
        !app.get(setups)
            .await
            .body
            .contains("a file with its own supports")
    );
    app.post(&format!("{page}/supports"), "supports=perhaps")
        .await
        .is(400);
}

/// Columns of 0.8 mm are tips of 0.16 at a fifth of their size: too thin to hold, and told so.
#[tokio::test]
async fn tips_of_a_file_are_told_at_its_scale() {
    let app = TestApp::demo();
    let sculpt = new_part(&app, "held.stl", &on_columns(14), 20).await;
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let part = army.parts().find(|(_, _, p)| p.part.sculpt == Some(sculpt));
    let part = part.unwrap().2.part.id;
    prepared(&app, part).await;
    app.get(&format!("/parts/{part}/recipe"))
        .await
        .says("14 thin columns carry the part; its tips are 0.8")
        .says("The tips of its supports are only 0.1");
    let file = app.get(&format!("/sculpts/{sculpt}")).await;
    assert!(!file.body.contains("The tips of its supports are only"));
    // They are no wall of the figure.
    for page in ["scale", "recipe"] {
        let page = app.get(&format!("/parts/{part}/{page}")).await.body;
        assert!(!page.contains("thinnest feature") && !page.contains("at its thinnest"));
    }
}

/// The fresh demo has few issues, and each of them is one.
#[tokio::test]
async fn the_demo_raises_few_issues() {
    let app = TestApp::demo();
    let page = app.get(MUSTER).await.body;
    let title = page.split(" things stand open").next().unwrap();
    let many: usize = title.rsplit('>').next().unwrap().parse().unwrap();
    assert!((1..=8).contains(&many), "{many}");
    for alarm in ["held by few", "Siege punt</a>: Idol: with its base"] {
        assert!(!page.contains(alarm), "{alarm}");
    }
}

/// A figure on fourteen columns over a raft, as its file brings them: it is printed as it stands,
/// and the raft is neither its foot nor its base.
#[tokio::test]
async fn a_file_that_brings_supports_is_taken_as_it_is() {
    let app = TestApp::demo();
    new_part(&app, "held.stl", &on_columns(14), 100).await;
    let muster = app.get("/projects/1/muster").await;
    assert!(!muster.body.contains("Held body: with its base"));
    assert!(!muster.body.contains("Held body stands on"));
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let mut parts = army.parts().map(|(_, _, p)| p);
    let held = parts.find(|p| p.part.name == "Held body").unwrap();
    assert_eq!(held.recipe.setup, Setup::IN_FILE);
}

/// What begins in mid-air is told of a part on the supports of its file too, in words that fit it.
#[tokio::test]
async fn a_start_in_mid_air_is_told_whatever_the_supports() {
    let app = TestApp::demo();
    let mut figure = block([4.0, 4.0, 8.0], [20.0, 16.0, 38.0]);
    figure.extend(block([22.0, 6.0, 20.0], [26.0, 10.0, 30.0]));
    figure.extend(block([19.0, 6.0, 29.0], [24.0, 10.0, 30.0]));
    new_part(&app, "held.stl", &carried(14, figure), 100).await;
    let muster = app.get(MUSTER).await;
    muster.says("parts on which an area begins in mid-air with no support under it");
    assert!(muster.body.contains(": Held body"));
}

/// A base of its own and how wide the figure stands are seen above the columns of its file: its raft is
/// 40 mm wide, its slab 30, and the base of the demo's first model 25.
#[tokio::test]
async fn what_a_supported_file_stands_on_is_seen_above_its_columns() {
    let app = TestApp::demo();
    let mut figure = block([-4.0, -4.0, 8.0], [26.0, 26.0, 11.0]);
    figure.extend(block([7.0, 7.0, 10.5], [14.0, 13.0, 38.0]));
    let sculpt = new_part(&app, "based.stl", &carried(14, figure), 100).await;
    app.get(MUSTER)
        .await
        .says("Held body: with its base in one file")
        .says("Held body stands on 30 mm, its base has 25 mm: at 83 % it would fit");
    // The page of its scale works with the same figure.
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let part = army.parts().find(|(_, _, p)| p.part.sculpt == Some(sculpt));
    let part = part.unwrap().2.part.id;
    app.get(&format!("/parts/{part}/scale"))
        .await
        .says("measures 30.0 × 30.0 mm");
}

/// A figure whose file brings its base, for a maker who prints bases apart; not for one who joins
/// them, and not for the base itself.
#[tokio::test]
async fn a_base_in_the_file_of_a_figure_is_told() {
    let app = TestApp::demo();
    let mut faces = block([0.0, 0.0, 0.0], [25.0, 25.0, 3.0]);
    faces.extend(block([9.0, 9.0, 2.5], [16.0, 15.0, 30.0]));
    let stl = write_stl(&Mesh::weld(faces));
    app.upload(&[("based.stl", &stl)]).await.is(303);
    worked_off(&app.store, &[TaskKind::Measure]).await;
    let all = app.store.read(sculpts::list).unwrap();
    let sculpt = all.iter().find(|(s, _)| s.file_name == "based.stl");
    let sculpt = sculpt.expect("it arrived").0.id;
    for name in ["Figure", "Base of it"] {
        let form = format!(
            "name={name}&count=1&spares=0&sculpt={sculpt}&scale_percent=100&resin=1&layer_mm=0.05"
        );
        app.post("/models/1/parts/new", &form).await.is(303);
    }
    let told = "Figure: with its base in one file";
    let muster = app.get("/projects/1/muster").await;
    muster.says(told);
    assert!(!muster.body.contains("Base of it: with"));
    app.post("/projects/1/practice", "base=joined")
        .await
        .is(303);
    assert!(!app.get("/projects/1/muster").await.body.contains(told));
}
