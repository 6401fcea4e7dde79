//! What holds a project back, what to print next, the chance of a date, and miniatures: pages and what they refuse.

use rstest::rstest;
use wembrit_core::army::miniatures::{BuildStep, state_of};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ModelId, PlateId, ProjectId};
use wembrit_store::commands;
use wembrit_store::commands::muster::ModelChange;
use wembrit_store::queries::pages::{miniatures, progress};
use wembrit_store::queries::{army, muster, plates, printers};

use crate::app::{NOW, TestApp};
use crate::two_pages::figures;

fn figure(body: &str, name: &str) -> String {
    let found = figures(body).into_iter().find(|f| f.0 == name);
    found
        .unwrap_or_else(|| panic!("no figure {name}"))
        .1
        .to_owned()
}

/// The board names the plate each missing copy is on; hours that are asked for change what is to be printed.
#[tokio::test]
async fn the_board_tells_what_is_missing_where() {
    let app = TestApp::demo();
    let page = app.get("/projects/1/progress").await;
    page.is(200)
        .says("2 × pike arm")
        .says("2 on plate 4")
        .says("on no plate");
    // Either the hours of plates that wait stand there, or the page comes again once they are known.
    let waits = |body: &str| body.contains("data-live=\"/schedule/ruler\"");
    let timed = |body: &str| body.contains(" on plate 5, off ");
    assert_ne!(waits(&page.body), timed(&page.body), "{}", page.body);
    app.get("/schedule/ruler").await.is(200);
    let known = app.get("/projects/1/progress").await;
    assert!(!waits(&known.body) && timed(&known.body), "{}", known.body);
    let data = app.store.read(|c| progress::load(c, ProjectId(1))).unwrap();
    assert_eq!(
        figure(&page.body, "project 1 complete"),
        format!(
            "{}/{}",
            data.army.progress.complete, data.army.progress.models
        )
    );
    let long = figure(
        &app.get("/projects/1/progress?hours=100").await.body,
        "project 1 then",
    );
    let short = figure(
        &app.get("/projects/1/progress?hours=0.2").await.body,
        "project 1 then",
    );
    let number = |text: &str| text.parse::<u64>().unwrap();
    assert!(number(&long) > number(&short), "{long} {short}");
    app.get("/projects/1/progress?hours=-3")
        .await
        .says("hours from 0.1 to 2000");
    app.get("/projects/99/progress").await.is(404);
}

/// A later date is likelier, a past one is refused; each change is told with what it adds; the same question has the
/// same answer. Without a printer there is no date.
#[tokio::test]
async fn dates_have_chances() {
    let app = TestApp::demo();
    let page = app.get("/projects/1/chance").await;
    page.says("A second printer like")
        .says("Leave out")
        .says("Layers of 0.03 mm");
    let half = figure(&page.body, "chance half");
    let by = figure(&page.body, "chance by");
    let percent = |text: &str| text.trim_end_matches(" %").parse::<u32>().unwrap();
    assert!(
        percent(&by) >= 50,
        "{by} by the end of the day half of them ended"
    );
    // What a change adds is what lies between the two that are shown.
    let rows = page.body.split("one change would do").nth(1).unwrap();
    let cells: Vec<&str> = rows.split("<td class=\"n\">").skip(1).collect();
    assert!(cells.len() >= 6);
    for row in cells.chunks(2) {
        let [then, more] = [row[0], row[1]].map(|c| c.split("</td>").next().unwrap());
        let more: i64 = more.parse().unwrap();
        assert_eq!(i64::from(percent(then)) - i64::from(percent(&by)), more);
    }
    let again = app.get("/projects/1/chance").await;
    assert_eq!(figure(&again.body, "chance half"), half);
    let late = app.get("/projects/1/chance?by=2027-06-01T20:00").await;
    assert!(percent(&figure(&late.body, "chance by")) >= percent(&by));
    app.get("/projects/1/chance?by=2020-01-01T20:00")
        .await
        .says("still to come");
    app.get("/projects/1/chance?by=soon")
        .await
        .says("still to come");
    for printer in app.store.read(printers::list).unwrap() {
        app.post(&format!("/printers/{}/remove", printer.id), "")
            .await
            .is(303);
    }
    app.get("/projects/1/chance")
        .await
        .is(200)
        .says("not within");
}

/// Put together, they are brought on all at once; the steps are counted on both pages; copies come in.
#[tokio::test]
async fn miniatures_are_built() {
    let app = TestApp::demo();
    let page = app.get("/models/1/miniatures").await;
    page.says("Put 16 together");
    app.post("/models/1/miniatures", "most=3").await.is(303);
    let load = || app.store.read(|c| miniatures::load(c, ModelId(1))).unwrap();
    let data = load();
    assert_eq!(data.standing.len(), 3);
    assert!(
        data.standing
            .iter()
            .all(|m| state_of(m, &data.model) == "complete")
    );
    let ids: Vec<String> = data
        .standing
        .iter()
        .map(|m| format!("which={}", m.id))
        .collect();
    let form = format!("{}&step=painted", ids[..2].join("&"));
    app.post("/models/1/miniatures/step", &form).await.is(303);
    let body = app.get("/models/1/miniatures").await.body;
    assert_eq!(figure(&body, "model 1 painted"), "2/18");
    assert_eq!(figure(&body, "model 1 based"), "0/18");
    let body = app.get("/projects/1/progress").await.body;
    assert_eq!(figure(&body, "project 1 painted"), "2");
    // One of the painted ones loses a piece: it counts on neither page.
    let lost = data.standing[1].keeps[0].mark;
    let on = app.store.read(|c| plates::copies_on(c, &[PlateId(1)]));
    let on = on.unwrap().remove(&PlateId(1)).unwrap();
    let mut copies = on.iter().filter_map(|c| c.copy.as_ref());
    let lost = copies.find(|c| c.mark == lost).unwrap().id;
    app.post("/plates/1/rejudge", "").await.is(303);
    let form = format!("failed={lost}&cause=warped");
    app.post("/plates/1/judge", &form).await.is(303);
    let body = app.get("/models/1/miniatures").await.body;
    assert_eq!(figure(&body, "model 1 painted"), "1/18");
    let body = app.get("/projects/1/progress").await.body;
    assert_eq!(figure(&body, "project 1 painted"), "1");
    let first = data.standing[0].id;
    app.post(&format!("/miniatures/{first}/apart"), "")
        .await
        .is(303);
    app.post(&format!("/miniatures/{first}/apart"), "")
        .await
        .is(409);
    assert_eq!(load().standing.len(), 2);
    assert_eq!(load().standing[0].step, BuildStep::Painted);
    let part = data.model.parts[0].part.id;
    let form = format!("part={part}&how=bought&copies=2&each=3.50&note=a+market");
    app.post("/models/1/came", &form).await.is(303);
    app.get("/models/1/miniatures")
        .await
        .says("a market")
        .says("3.50");
    let came = load().came;
    assert_eq!(came.len(), 2);
    let found = app.get("/search?q=market").await;
    found
        .is(200)
        .says("/models/1/miniatures")
        .says("bought, a market");
    app.post(&format!("/arrivals/{}/leave", came[0].id), "")
        .await
        .is(303);
    assert_eq!(load().came.len(), 1);
}

#[rstest]
#[case("/models/1/miniatures", "most=few", "how many as a whole number")]
#[case("/models/1/miniatures/step", "step=built", "ick those you mean")]
#[case("/models/1/miniatures/step", "which=1&step=glued", "glued")]
#[case("/models/1/came", "part=1&how=bought&copies=0&each=1", "how many came")]
#[case(
    "/models/1/came",
    "part=1&how=bought&copies=-1&each=1",
    "how many came"
)]
#[case("/models/1/came", "part=1&how=found&copies=1", "how they came")]
#[case(
    "/models/1/came",
    "part=1&how=bought&copies=1&each=dear",
    "hat one cost"
)]
#[case("/models/1/came", "how=bought&copies=1", "the part that came")]
#[tokio::test]
async fn what_cannot_be_is_refused(#[case] path: &str, #[case] form: &str, #[case] why: &str) {
    let app = TestApp::demo();
    app.post(path, form).await.is(422).says(why);
    let data = app.store.read(|c| miniatures::load(c, ModelId(1))).unwrap();
    assert!(data.standing.is_empty() && data.came.is_empty());
}

/// A project is copied with its kits and without its plates, both stand side by side; one with plates under way is not
/// put away, one without is, is in no other list then, and comes back.
#[tokio::test]
async fn projects_are_copied_and_put_away() {
    let app = TestApp::demo();
    app.get("/projects")
        .await
        .says("Brackwater Levy")
        .says("Put it away");
    app.post("/projects/1/copy", "name=")
        .await
        .is(422)
        .says("how the copy is called");
    let copied = app.post("/projects/1/copy", "name=Second+Levy").await;
    assert_eq!(copied.location(), "/projects/2/muster");
    let army = |id: i64| app.store.read(|c| army::load(c, ProjectId(id))).unwrap();
    let (old, new) = (army(1), army(2));
    let shape = |a: &wembrit_core::army::Army| -> Vec<_> {
        let parts = a.parts();
        parts
            .map(|(u, m, p)| {
                (
                    u.unit.name.clone(),
                    m.model.name.clone(),
                    m.model.quantity,
                    p.part.name.clone(),
                    p.part.sculpt,
                    p.recipe.setup,
                )
            })
            .collect()
    };
    assert_eq!(shape(&new), shape(&old));
    assert_eq!(
        (new.progress.good, new.progress.models),
        (0, old.progress.models)
    );
    let carried =
        |a: &wembrit_core::army::Army| a.units.iter().filter(|u| u.unit.carrier.is_some()).count();
    assert_eq!(carried(&new), carried(&old));
    let own = |a: &wembrit_core::army::Army| {
        let carriers = a.units.iter().filter_map(|u| u.unit.carrier);
        carriers.into_iter().all(|c| a.model(c).is_some())
    };
    assert!(own(&new) && own(&old));
    app.get("/projects").await.says("Second Levy").says("0/85");
    app.post("/projects/1/away", "away=yes")
        .await
        .is(422)
        .says("wait, run or are to be judged");
    app.post("/projects/2/away", "away=yes").await.is(303);
    let muster = app.get("/projects/1/muster").await;
    assert!(!muster.body.contains("Second Levy"));
    app.get("/projects/2/muster")
        .await
        .is(200)
        .says("Second Levy");
    app.get("/projects").await.says("put away");
    app.post("/projects/2/away", "away=no").await.is(303);
    app.get("/projects/1/muster").await.says("Second Levy");
}

/// What one project has over goes to another that wants it: told where plates are planned, taken on the model's page,
/// counted once.
#[tokio::test]
async fn surplus_goes_to_another_project() {
    let app = TestApp::demo();
    app.post("/projects/1/copy", "name=Second+levy")
        .await
        .is(303);
    let whole = |id: i64| app.store.read(|c| army::load(c, ProjectId(id))).unwrap();
    let first = whole(1);
    let model = &first.units[0].models[0];
    let good =
        |of: &wembrit_core::army::Army| of.units[0].models[0].parts[0].counts.of(Stage::Good);
    let had = good(&first);
    assert!(had > 6);
    app.store
        .write(|c| {
            let change = ModelChange {
                name: model.model.name.clone(),
                quantity: had - 6,
                base_width_mm: model.model.base_width_mm,
                base_depth_mm: model.model.base_depth_mm,
                carries: model.model.carries,
            };
            commands::muster::change_model(c, model.model.id, model.model.row_version, &change, NOW)
        })
        .unwrap();
    let projects = app.store.read(muster::projects).unwrap();
    let other = projects.last().unwrap().id;
    assert_ne!(other, ProjectId(1));
    let second = whole(other.0);
    let wants = &second.units[0].models[0];
    let (id, part) = (wants.model.id, wants.parts[0].part.id);
    assert_eq!(good(&second), 0);
    app.get(&format!("/projects/{other}/plates"))
        .await
        .says("are over elsewhere");
    app.get(&format!("/models/{id}/miniatures"))
        .await
        .says("Over elsewhere")
        .says("of Brackwater Levy");
    let take = format!("/models/{id}/over");
    app.post(&take, &format!("part={part}")).await.is(303);
    assert_eq!(good(&whole(other.0)), 6);
    assert_eq!(good(&whole(1)), had - 6);
    app.post(&take, &format!("part={part}"))
        .await
        .is(422)
        .says("over any more");
    for odd in ["part=", "part=x", "part=99999"] {
        app.post(&take, odd).await.is(404);
    }
}
