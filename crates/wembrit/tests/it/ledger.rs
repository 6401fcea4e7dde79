//! A failure is judged: what a good model costs, the odds, the spares and their reason follow it.

use crate::browser::{Browser, Served};

async fn amount(b: &Browser, css: &str) -> f64 {
    let text = b.read(css, ".").await;
    text.trim().parse().expect("an amount")
}

/// Four figures on a plate, one of which fails: the good ones cost more, the odds fall, spares are advised with a
/// reason, written, and wanted; every figure is opened down to what it is reckoned from.
#[tokio::test(flavor = "multi_thread")]
async fn a_failure_changes_what_a_good_model_costs() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().expect("a path")]);
    let b = Browser::open(&served.base).await;
    b.a_plate_of(4).await;
    let each = "[data-figure='model 1 each']";
    b.goto("/ledger").await;
    b.read("main", "Nothing has come off a printer yet").await;
    b.goto("/models/1/cost").await;
    let before = amount(&b, each).await;
    b.read("main", "none of it judged yet").await;
    let advised = b.read("[data-figure='part 1 advised']", "4 wanted").await;
    b.goto("/plates/1").await;
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.see(".is-judging .plan [data-copy]")
        .await
        .click()
        .await
        .expect("a copy");
    b.read("[data-failed-count]", "1").await;
    b.fill("cause", "torn off its supports").await;
    b.press("Judge").await;
    b.read("main", "torn off its supports").await;

    // Three pay for four.
    b.goto("/models/1").await;
    let after = amount(&b, each).await;
    assert!(
        (after / before - 4.0 / 3.0).abs() < 0.02,
        "{before} {after}"
    );
    b.follow("Its cost and spares").await;
    assert_eq!(amount(&b, each).await, after);
    b.read("main", "FAILED COPIES").await;
    b.read("[data-figure='part 1 came out']", "3 of 4").await;
    b.read("[data-figure='part 1 advised']", "1 wanted").await;
    assert_ne!(b.text("[data-figure='part 1 advised']").await, advised);
    let reason = b
        .read("[data-figure='part 1 reason']", "3 of 4 came out")
        .await;
    b.press("Write these spares").await;
    b.read("main", "Written:").await;
    b.goto("/models/1").await;
    let why = b.see("[data-figure='part 1 spares']").await;
    let why = why
        .attr("title")
        .await
        .expect("an attribute")
        .unwrap_or_default();
    assert!(
        reason.contains(&why) && !why.is_empty(),
        "{why} for {reason}"
    );

    // Opened: the model by part and component, its plate by millilitres, hours and minutes.
    b.goto("/ledger").await;
    b.read("[data-figure='ledger failed']", ".").await;
    assert_eq!(amount(&b, each).await, after);
    b.press("Every plate, and what of it was written down")
        .await;
    b.goto("/plates/1").await;
    b.press("is made of").await;
    b.read(".opened", "min for the plate ×").await;
    b.read(".opened", "ml ×").await;
    b.goto("/ledger/odds").await;
    b.read("[data-figure='odds came out']", "3 of 4").await;
    b.read("[data-figure='failed at printing']", "1").await;
    b.goto("/models/1/cost").await;
    b.fill("ready", "0.02").await;
    b.fill("margin", "forty").await;
    b.press("Tell me").await;
    b.read("[role=alert]", "a margin is a percentage").await;
    b.fill("margin", "40").await;
    b.press("Tell me").await;
    b.read("main", "making never pays").await;
    b.read("main", "a mark-up of as much").await;
    b.close().await;
}
