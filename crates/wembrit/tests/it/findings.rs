//! A sealed hollow is warned of, put aside with a reason, and the reason stands on the plate.

use std::path::PathBuf;

use crate::browser::{Browser, Served};

#[tokio::test(flavor = "multi_thread")]
async fn a_sealed_hollow_is_warned_of_and_the_reason_stands_on_the_plate() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    b.three_answers("25").await;
    b.press("Begin").await;
    b.goto("/sculpts").await;
    let data = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../core/tests/data");
    b.choose_files(
        &["h_hollow_sealed.stl", "h_t_island.stl"].map(|n| data.join(n).canonicalize().unwrap()),
    )
    .await;
    b.press("Upload and measure").await;
    // Hollows are looked for once the rest is measured: the page is asked until they are there.
    b.read("[data-live]", "4,052").await;
    b.read("[data-live]", "h t island").await;
    b.goto_until("/sculpts/1", "has no way out").await;
    b.read(".finding.loud", "A hollow of 8.9").await;
    b.read("main", "The file is hollow").await;

    // Not without a reason.
    b.press("It does not matter here").await;
    b.see(".finding.loud [name=reason]")
        .await
        .send_keys("filled with putty before gluing")
        .await
        .unwrap();
    b.press("Put it aside").await;
    b.read("main", "1 put aside").await;
    assert_eq!(b.count(".finding.loud").await, 0);

    b.goto("/projects/new").await;
    b.fill("name", "Fen watch").await;
    b.press("Save").await;
    b.press("Add a unit").await;
    b.fill("name", "Casks").await;
    b.press("Add the unit").await;
    b.fill("name", "Cask").await;
    b.press("Add the model").await;
    b.press("Add a part").await;
    b.fill("name", "Cask").await;
    b.fill("sculpt", "h hollow sealed").await;
    b.press("Add the part").await;
    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.press("Accept this plan").await;
    b.see("li:has(.is-planned) a.picture")
        .await
        .click()
        .await
        .unwrap();
    b.read("main", "filled with putty before gluing").await;
    b.read("main", "sealed hollow at 2.0").await;
    b.check().await;

    // Another wall is measured, and says what it saves; the island of the other file is told.
    b.goto("/sculpts/2").await;
    b.read(
        "main",
        "starts in mid-air at 10.00 mm and grows to 16.0 mm²",
    )
    .await;
    b.read(".specimen", "10.0").await;
    b.fill("wall_mm", "1").await;
    b.press("Try this wall").await;
    b.goto_until("/sculpts/2", "with a wall of 1 mm").await;
    b.read("main", "drains").await;
    b.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn candidates_are_compared_and_one_is_picked_with_a_reason() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    b.goto("/models/1").await;
    b.press("compare").await;
    assert_eq!(b.count(".compare th a").await, 1, "the one in use");
    b.press("lantern warden").await;
    b.press("bog slinger").await;
    b.press("Compare").await;
    assert_eq!(b.count(".compare th a").await, 3);
    b.read(".compare", "1.05").await;
    b.read(".compare", "Facets against the pixel").await;
    b.see("td form [name=reason]")
        .await
        .send_keys("a better face")
        .await
        .unwrap();
    b.press("Pick this one").await;
    b.read("main", "a better face").await;
    b.read(".compare", "IN USE").await;
    b.close().await;
}
