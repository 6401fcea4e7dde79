//! Plates that went otherwise, as the pages take them: put back, lost, released; marks on sheets.

use rstest::rstest;
use wembrit_core::flow::{PlateState, RunOutcome};
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_store::queries::plates;

use crate::app::{TICKED, TestApp};

fn plate(app: &TestApp, state: PlateState) -> PlateId {
    let all = app.store.read(|c| plates::accepted(c, ProjectId(1)));
    let all = all.expect("they load");
    let found = all.iter().find(|p| p.state == state);
    found.unwrap_or_else(|| panic!("a {state} plate")).id
}

fn now(app: &TestApp, id: PlateId) -> PlateState {
    app.store
        .read(|c| plates::load(c, id))
        .expect("it loads")
        .state
}

#[tokio::test]
async fn a_running_plate_is_put_back_and_started_again() {
    let app = TestApp::demo();
    let id = plate(&app, PlateState::Running);
    app.get(&format!("/plates/{id}"))
        .await
        .says("Take it off")
        .says("Put it back")
        .says("The plate is lost");
    app.post(&format!("/plates/{id}/put-back"), "")
        .await
        .is(303);
    assert_eq!(now(&app, id), PlateState::Planned);
    app.get("/").await.says("Start");
    let run = format!("/plates/{id}/run");
    let start = format!("/plates/{id}/start");
    // Nobody looked into its vat since.
    app.post(&start, TICKED)
        .await
        .is(422)
        .says("nobody has looked into it");
    app.get(&run).await.says("I looked into the vat");
    let printer = app
        .store
        .read(|c| plates::load(c, id))
        .expect("it loads")
        .printer;
    app.post(&format!("/printers/{printer}/vat?plate={id}"), "found=")
        .await
        .is(303);
    let open = app
        .post(&start, "vat_ml=250&tick=lid&pass+levelled=levelled+today")
        .await;
    open.is(422)
        .says("tick &#39;right plate&#39;")
        .says("value=\"250\"")
        .says("value=\"levelled today\"");
    app.post(&start, "vat_ml=much")
        .await
        .is(422)
        .says("no figure");
    assert_eq!(now(&app, id), PlateState::Planned);
    app.post(&start, TICKED).await.is(303);
    assert_eq!(now(&app, id), PlateState::Running);
    app.get(&run)
        .await
        .says("First layers done: look")
        .says("What was checked before the start");
    // Twice from two windows: the second is told.
    app.post(&format!("/plates/{id}/put-back"), "")
        .await
        .is(303);
    app.post(&format!("/plates/{id}/put-back"), "")
        .await
        .is(409)
        .says("planned");
}

#[rstest]
#[case::no_cause("cause=&layer=", 422, "why the plate is lost")]
#[case::no_such_cause("cause=moonlight&layer=", 422, "why the plate is lost")]
#[case::no_layer("cause=warped&layer=many", 422, "layer")]
#[case::above_the_plate("cause=warped&layer=99999999", 422, "The plate has")]
#[case::below_the_plate("cause=warped&layer=-3", 422, "The plate has")]
#[case::stopped("cause=warped&layer=40", 303, "")]
#[case::ran_through("cause=warped&layer=", 303, "")]
#[tokio::test]
async fn a_plate_is_lost_with_a_cause_and_a_layer(
    #[case] form: &str,
    #[case] status: u16,
    #[case] says: &str,
) {
    let app = TestApp::demo();
    let id = plate(&app, PlateState::Running);
    let answer = app.post(&format!("/plates/{id}/lost"), form).await;
    answer.is(status).says(says);
    if status != 303 {
        assert_eq!(now(&app, id), PlateState::Running, "nothing is changed");
        return;
    }
    assert_eq!(now(&app, id), PlateState::Lost);
    let run = app.store.read(|c| plates::runs_of(c, &[id])).expect("runs");
    let stopped = form.ends_with("40");
    let outcome = if stopped {
        RunOutcome::Stopped
    } else {
        RunOutcome::Lost
    };
    assert_eq!(run[&id].outcome, Some(outcome));
    assert_eq!(run[&id].stopped_at_layer, stopped.then_some(40));
    let sheet = app.get(&format!("/plates/{id}")).await;
    sheet
        .says("its copies are wanted again")
        .says("failed: warped")
        .says("Put it back");
    if stopped {
        sheet.says("layer 40");
    }
    app.get("/projects/1/plates")
        .await
        .says("copies are wanted");
}

/// The same mark on the plate's sheet and on the sorting sheet; a draft has none yet.
#[tokio::test]
async fn copies_are_known_by_their_marks() {
    let app = TestApp::demo();
    let id = plate(&app, PlateState::Done);
    let copies = app
        .store
        .read(|c| plates::copies_of(c, id))
        .expect("copies");
    let sheet = app.get(&format!("/plates/{id}")).await;
    let sorting = app.get(&format!("/plates/{id}/sorting")).await;
    for copy in &copies {
        let mark = copy.copy.as_ref().expect("an accepted plate").mark;
        sheet.says(&format!("data-mark=\"{mark}\""));
        sorting.says(&mark.to_string());
    }
    let draft = crate::pages::draft(&app);
    let of_draft = app
        .store
        .read(|c| plates::of_plan(c, draft))
        .expect("plates");
    let page = app.get(&format!("/plates/{}", of_draft[0].id)).await;
    assert!(
        !page.body.contains(", mark "),
        "a mark before there is a copy"
    );
}
