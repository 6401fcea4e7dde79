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
    // Without a mouse from here on, and as narrow as a phone.
    b.resize(390, 844).await;
    b.enter("main form .button.main").await;
    b.read("[data-figure='miniature 4 state']", "complete")
        .await;
    b.check().await;
    b.enter("button[value=painted]").await;
    b.read("[data-figure='model 1 painted']", "4/4").await;
    b.enter("button[formaction='/miniatures/1/apart']").await;
    b.read("[data-figure='model 1 painted']", "3/4").await;
    b.resize(1280, 800).await;
    b.goto("/projects/1/progress").await;
    b.read("[data-figure='project 1 painted']", "3").await;
    // One box, by key: a mark leads to its plate.
    b.key('/').await;
    b.keys("3").await;
    b.enter("[data-find]").await;
    b.read("h1", "Plate 1").await;
    b.close().await;
}

/// A file, as a link of the page would fetch it.
async fn fetched(b: &Browser, path: &str) -> Vec<u8> {
    let script = "const done = arguments[1]; fetch(arguments[0]).then((r) => r.arrayBuffer()).then((a) => done([...new Uint8Array(a)]));";
    let told = b.client.execute_async(script, vec![path.into()]).await;
    let bytes = told.expect("a file").as_array().expect("bytes").clone();
    let byte = |n: &serde_json::Value| u8::try_from(n.as_u64().expect("a byte")).expect("a byte");
    bytes.iter().map(byte).collect()
}

/// The archive a link of one workshop leads to is chosen, looked at and brought in at another, and goes out of there.
#[tokio::test(flavor = "multi_thread")]
async fn a_project_moves_by_clicking() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    let served = Served::start(&["serve", "--data", at("a.sqlite").to_str().expect("a path")]);
    let b = Browser::open(&served.base).await;
    b.a_plate_of(3).await;
    b.goto("/workshop").await;
    b.follow("Out and in: archives and copies").await;
    b.check().await;
    let link = b.see("a[href='/projects/1/archive.zip']").await;
    let path = link
        .attr("href")
        .await
        .expect("it is there")
        .expect("a path");
    std::fs::write(at("project.zip"), fetched(&b, &path).await).expect("written");
    b.close().await;

    let other = Served::start(&["serve", "--data", at("b.sqlite").to_str().expect("a path")]);
    let b = Browser::open(&other.base).await;
    b.goto("/workshop/archive").await;
    b.choose_files(&[at("project.zip")]).await;
    b.press("Look at it").await;
    b.read("[data-figure='archive copies']", "3").await;
    b.read("main", "one project").await;
    b.press("Bring it in").await;
    b.read("h1", "Fen watch").await;
    b.goto("/plates/1").await;
    b.read("h1", "Plate 1").await;
    b.goto("/workshop/archive").await;
    let again = fetched(&b, "/projects/1/archive.zip").await;
    assert!(again.starts_with(b"PK"));
    b.close().await;
}

/// A plate that waits for its printer costs dates while it waits; somebody with time enough is told to put it on, and
/// once it is printed the sheet has something else.
#[tokio::test(flavor = "multi_thread")]
async fn minutes_are_spent_where_waiting_costs() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    let file = file.to_str().expect("a path");
    let served = Served::start(&["serve", "--data", file, "--now", "2026-11-24T09:00:00Z"]);
    let b = Browser::open(&served.base).await;
    b.a_plate_of(4).await;
    b.goto("/").await;
    b.read(".slip.is-told", "Start plate 1").await;
    b.read(".slip .waits", "later").await;
    b.fill("minutes", "600").await;
    b.press("What now?").await;
    b.read(".best", "Put plate 1 on").await;
    b.check().await;
    b.resize(390, 844).await;
    b.check().await;
    b.goto("/plates/1").await;
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.goto("/?minutes=600&till=23:00").await;
    b.read(".best", "Plate 1: ").await;
    b.read_not(".slip", "Start plate 1").await;
    b.close().await;
}
