//! Parts are set up as the practice says: new ones by themselves, others many at once.

use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{PartId, ProjectId};
use wembrit_core::recipe::RecipeVersion;
use wembrit_store::commands;
use wembrit_store::queries::{army, muster, recipes, sculpts};

use crate::app::{NOW, TestApp, worked_off};

fn held(app: &TestApp, id: PartId) -> (String, RecipeVersion) {
    let read = app.store.read(|c| {
        let recipe = muster::part(c, id)?.recipe;
        recipes::newest(c, recipe)
    });
    let version = read.unwrap();
    let words = format!("{}, {}", version.setup.pose, version.setup.supports);
    (words, version)
}

/// Parts of the demo by model and name.
fn part(app: &TestApp, model: &str, name: &str) -> (PartId, i64) {
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let mut all = army.parts();
    let found = all.find(|(_, m, p)| m.model.name == model && p.part.name == name);
    let (_, model, part) = found.expect("a part of the demo");
    assert!(part.part.sculpt.is_some());
    (part.part.id, model.model.id.0)
}

const PLAIN: &str = "as imported, none";
const UPRIGHT: &str = "tilt 7.5 toward 90, planned 0.5 3 5";

/// A new part hangs by the practice, a base stands; what its maker changed stays, and a new name
/// changes nothing.
#[tokio::test]
async fn a_new_part_starts_by_the_practice() {
    let app = TestApp::demo();
    let (body, model) = part(&app, "Reed-piker", "Body");
    let (base, _) = part(&app, "Reed-piker", "Base");
    assert_eq!(held(&app, body).0, PLAIN, "what was there stays as it was");
    for (of, says) in [(body, UPRIGHT), (base, PLAIN)] {
        let sculpt = app.store.read(|c| muster::part(c, of)).unwrap().sculpt;
        let form = format!(
            "name=Another&count=1&spares=0&sculpt={}&scale_percent=100&resin=1&layer_mm=0.05",
            sculpt.unwrap()
        );
        app.post(&format!("/models/{model}/parts/new"), &form)
            .await
            .is(303);
        let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
        let newest = army.parts().map(|(_, _, p)| p.part.id).max().unwrap();
        assert_eq!(held(&app, newest).0, says);
    }
    let row = app.store.read(|c| muster::part(c, body)).unwrap();
    let form = format!(
        "row_version={}&name=Trunk&count=1&spares=0&sculpt={}&scale_percent=100&resin=1&layer_mm=0.05",
        row.row_version,
        row.sculpt.unwrap()
    );
    app.post(&format!("/parts/{body}"), &form).await.is(303);
    assert_eq!(held(&app, body).0, PLAIN);
}

/// Two parts ticked on the sheet hang by the practice then, with their pictures; and stand as their
/// files again.
#[tokio::test]
async fn many_parts_are_set_up_from_one_sheet() {
    let app = TestApp::demo();
    let (body, _) = part(&app, "Reed-piker", "Body");
    let (other, _) = part(&app, "Reed-piker", "Pike arm");
    let sheet = "/projects/1/setups";
    app.get(sheet)
        .await
        .is(200)
        .says("Draw what the practice says");
    app.post("/projects/1/setups/look", "").await.is(303);
    app.get(sheet).await.says("being measured");
    assert_eq!(held(&app, body).0, PLAIN, "a look changes nothing");
    app.post(sheet, "do=practice")
        .await
        .is(400)
        .says("Tick the parts that are to hang otherwise");
    let both = format!("do=practice&part={body}&part={other}");
    app.post(sheet, &both).await.is(303);
    assert_eq!([body, other].map(|p| held(&app, p).0), [UPRIGHT, UPRIGHT]);
    worked_off(&app.store, &[TaskKind::Prepare]).await;
    app.get(sheet)
        .await
        .says("In use: 7.5° back")
        .says(&format!("/parts/{body}/prepared/"));
    app.post(sheet, &format!("do=plain&part={body}"))
        .await
        .is(303);
    let (words, version) = held(&app, body);
    assert_eq!((words.as_str(), version.version), (PLAIN, 3));
}

/// A sculpt that is measured anew, as after an update, leaves recipes as they are: standing as the
/// file does may be meant so.
#[tokio::test]
async fn measuring_again_hangs_nothing_otherwise() {
    let app = TestApp::demo();
    let (body, _) = part(&app, "Reed-piker", "Body");
    assert_eq!(held(&app, body).0, PLAIN);
    let again = app.store.write(|c| {
        let id = muster::part(c, body)?.sculpt.expect("a sculpt");
        let sculpt = sculpts::load(c, id)?;
        let key = sculpts::task_key(&sculpt);
        commands::tasks::ask(c, TaskKind::Measure, &key, NOW)
    });
    again.unwrap();
    worked_off(&app.store, &[TaskKind::Measure]).await;
    let (words, version) = held(&app, body);
    assert_eq!((words.as_str(), version.version), (PLAIN, 1));
}
