//! Ten files at once, measured while one watches; and many tabs that do not starve each other.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use crate::browser::{Browser, Served};

/// Ten files: eight good ones, one of them in inches, one twice, one broken.
fn ten(folder: &Path) -> Vec<PathBuf> {
    let data = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../core/tests/data");
    let names = [
        "h_mini_a.stl",
        "p_box.stl",
        "p_sphere.stl",
        "p_torus.obj",
        "f_components.3mf",
        "h_cup_up.stl",
        "b_inches.stl",
        "s_bunny.stl",
        "b_truncated.stl",
    ];
    let mut paths: Vec<PathBuf> = names
        .iter()
        .map(|n| data.join(n).canonicalize().unwrap())
        .collect();
    let again = folder.join("the_box_again.stl");
    std::fs::copy(data.join("p_box.stl"), &again).unwrap();
    paths.push(again);
    paths
}

#[tokio::test(flavor = "multi_thread")]
async fn ten_files_arrive_and_are_measured_live() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    b.goto("/sculpts").await;
    b.choose_files(&ten(folder.path())).await;
    b.press("Upload and measure").await;
    b.read("[data-says]", "9 arrived, 1 here already, 0 refused")
        .await;
    b.read(".uploads", "here already").await;
    // Without a reload: the figures come into the list as they are measured.
    for words in [
        "3,674",
        "46.59",
        "h cup up",
        "f components",
        "b_truncated.stl",
        "drawn in inches?",
    ] {
        b.read("[data-live]", words).await;
    }
    assert_eq!(b.count("[data-live] tbody tr").await, 9);
    b.check().await;

    // The question about the unit is answered, and the file measured anew: 24 mm tall, 7.2 ml.
    b.follow("drawn in inches?").await;
    b.read(".notice", "In inches: 24.0 mm tall").await;
    b.press("In inches: 24.0 mm tall").await;
    b.read(".titleblock", "24.0 × 24.0 × 24.0").await;
    b.read(".titleblock", "7.1").await;
    assert_eq!(
        b.count(".notice form[action$='/unit']").await,
        0,
        "it is asked once"
    );
    b.follow("Sculpts").await;
    b.follow("h cup up").await;
    b.read("main", "shuts in 314 mm²").await;
    b.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn nine_open_tabs_do_not_freeze_the_tenth() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    for _ in 0..9 {
        b.goto("/sculpts").await;
        let tab = b.client.new_window(true).await.unwrap();
        b.client.switch_to_window(tab.handle).await.unwrap();
    }
    // A browser holds six connections to a host: ten streams would leave none for a page.
    let start = Instant::now();
    b.goto("/projects/1/plates").await;
    b.read("h1", "Plates").await;
    assert!(
        start.elapsed() < Duration::from_secs(10),
        "the tenth tab waited {:?}",
        start.elapsed()
    );
    let held = b.client.execute_async(
        "const done = arguments[0]; navigator.locks.query().then((q) => done([q.held.length, q.pending.length]));",
        vec![],
    );
    let held = held.await.unwrap();
    assert_eq!(
        held[0].as_i64(),
        Some(1),
        "one tab holds the stream: {held}"
    );
    b.press("Plan plates").await;
    b.read("main", "Accept this plan").await;
    b.close().await;
}
