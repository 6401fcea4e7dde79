//! Progress moves with judging; miniatures are put together and brought on by keyboard; a date is rehearsed.

use crate::browser::{Browser, Served};

/// Four figures on a plate: the board tells where they are, then that none is missing; all four are put together,
/// ticked and painted without a mouse; one is taken apart.
#[tokio::test(flavor = "multi_thread")]
async fn progress_follows_the_plate() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().expect("a path")]);
    let b = Browser::open(&served.base).await;
    b.a_plate_of(4).await;
    b.goto("/projects/1/muster").await;
    b.follow("What holds it back").await;
    b.read("main", "4 on plate 1").await;
    b.read("[data-figure='project 1 complete']", "0/4").await;
    b.read("[data-figure='project 1 then']", "4").await;
    b.follow("The chance of a date").await;
    b.read("main", "2000 rehearsals").await;
    b.read("[data-figure='chance half']", " ").await;
    b.goto("/plates/1").await;
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.press("Judge").await;
    b.goto("/projects/1/progress").await;
    b.read("[data-figure='project 1 complete']", "4/4").await;
    b.goto("/models/1/miniatures").await;
    b.press("Put 4 together").await;
    b.read("[data-figure='miniature 4 state']", "complete")
        .await;
    b.press("painted").await;
    b.read("[data-figure='model 1 painted']", "4/4").await;
    b.press("Take apart").await;
    b.read("[data-figure='model 1 painted']", "3/4").await;
    b.goto("/projects/1/progress").await;
    b.read("[data-figure='project 1 painted']", "3").await;
    // One box, by key: a mark leads to its plate.
    b.key('/').await;
    b.keys("3").await;
    b.enter("[data-find]").await;
    b.read("h1", "Plate 1").await;
    b.close().await;
}
