//! What was taken away can be put back, plates that hold it say so; and the project that is open is
//! the one that was looked at.

use rstest::rstest;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::{plates, workshop};

use crate::app::TestApp;

#[tokio::test]
async fn what_was_taken_away_waits_in_the_bin() {
    let app = TestApp::demo();
    let bin = "/projects/1/bin";
    app.get(bin).await.is(200).says("Nothing was taken away");
    app.post("/parts/1/remove", "").await.is(303);
    app.get(bin).await.says("/parts/1/restore");
    // What stands in something that went comes back with it.
    app.post("/units/1/remove", "").await.is(303);
    app.post("/resins/1/remove", "").await.is(303);
    let page = app.get(bin).await;
    page.says("/units/1/restore").says("/resins/1/restore");
    assert!(!page.body.contains("/parts/1/restore"));
    assert!(!app.get("/workshop/bin").await.body.contains("/units/1/"));
    app.post("/units/1/restore", "").await.is(303);
    app.get(bin).await.says("/parts/1/restore");
    app.post("/parts/1/restore", "").await.is(303);
    assert!(!app.get(bin).await.body.contains("/parts/1/restore"));
}

/// A unit that is taken away while its copies wait on a plate: the list and the plate say so, until
/// it is back.
#[tokio::test]
async fn a_plate_with_copies_of_what_was_taken_away_says_so() {
    let app = TestApp::demo();
    let waiting = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let waiting: Vec<_> = waiting
        .iter()
        .filter(|p| p.state == PlateState::Planned)
        .map(|p| p.id)
        .collect();
    let told = async || {
        let list = app.get("/projects/1/plates").await.body;
        let mut told = Vec::new();
        for plate in &waiting {
            let sheet = app.get(&format!("/plates/{plate}")).await.body;
            if sheet.contains("of what was taken away") {
                told.push(*plate);
                assert!(list.contains(&format!("<p class=\"warn\"><a href=\"/plates/{plate}\">")));
            }
        }
        told
    };
    assert_eq!(told().await, []);
    // The lantern wardens: one of them is on a plate that waits.
    app.post("/units/2/remove", "").await.is(303);
    assert_eq!(told().await.len(), 1);
    app.post("/units/2/restore", "").await.is(303);
    assert_eq!(told().await, []);
}

/// With two projects, pages of none show the one that was looked at last; the tally counts all.
#[tokio::test]
async fn the_project_that_was_looked_at_stays_open() {
    let app = TestApp::demo();
    let made = app.post("/projects/new", "name=Second+army").await;
    assert_eq!(made.location(), "/projects/2/muster");
    app.get("/projects/2/muster")
        .await
        .is(200)
        .says("/projects/1/muster\">Brackwater Levy");
    // The plate that runs belongs to the first.
    app.get("/")
        .await
        .says("/projects/2/plates")
        .says("need a hand");
    app.get("/projects/1/plates")
        .await
        .says("/projects/2/plates\">Second army");
    app.get("/").await.says("/projects/1/plates");
    assert_eq!(app.get("/muster").await.location(), "/projects/1/muster");
    // Taken away it is shown no longer.
    app.post("/projects/1/remove", "").await.is(303);
    assert_eq!(app.get("/muster").await.location(), "/projects/2/muster");
}

/// The first run takes the time zone that the browser names, if there is one of that name.
#[rstest]
#[case("Europe/Lisbon", "Europe/Lisbon", false)]
#[case("Mars/Olympus", "UTC", true)]
#[case("", "UTC", true)]
#[tokio::test]
async fn the_time_zone_comes_from_the_browser(
    #[case] said: &str,
    #[case] kept: &str,
    #[case] assumed: bool,
) {
    let app = TestApp::empty();
    let form = format!(
        "width_mm=130&depth_mm=80&height_mm=150&price_per_kg=25&layer_mm=0.05&time_zone={said}"
    );
    app.post("/start", &form).await.is(303);
    let workshop = app.store.read(workshop::load).unwrap();
    assert_eq!(workshop.time_zone, kept);
    assert_eq!(
        workshop.assumed.split(',').any(|f| f == "time_zone"),
        assumed
    );
}
