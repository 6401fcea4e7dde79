//! A workshop that writes down what happened, and expects something else afterwards.

use crate::browser::{Browser, Served};

/// Hours and minutes, as pages write them, in minutes.
fn minutes(text: &str) -> f64 {
    let clean = text.trim().trim_start_matches("± ");
    let (h, m) = clean
        .split_once(':')
        .unwrap_or_else(|| panic!("hours and minutes: {text:?}"));
    h.parse::<f64>().expect("hours") * 60.0 + m.parse::<f64>().expect("minutes")
}

async fn figure(b: &Browser, name: &str) -> f64 {
    let css = format!("[data-figure='{name}']");
    // A piece of a page that is drawn anew has no words for a moment.
    minutes(&b.read(&css, ":").await)
}

/// Ten runs are written down that were quicker than reckoned: plan, plate and Today expect the next one so,
/// and more surely.
#[tokio::test(flavor = "multi_thread")]
async fn ten_runs_change_what_plates_take() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().expect("a path")]);
    let b = Browser::open(&served.base).await;
    b.one_a_plate(13).await;
    let plan = figure(&b, "plan 1 hours").await;
    let around = figure(&b, "plan 1 around").await;
    b.press("Accept this plan").await;
    b.read("main", "13 plates").await;
    b.goto("/plates/13").await;
    let before = figure(&b, "plate 13 hours").await;
    let before_around = figure(&b, "plate 13 around").await;
    b.read(".titleblock", "no run of My printer was timed yet")
        .await;
    for plate in 1..=10 {
        b.goto(&format!("/plates/{plate}")).await;
        b.press("It was printed already").await;
        // A tenth less, give or take a minute.
        let took = (before * 0.9) as i64 + plate % 3 - 1;
        let typed = if plate == 1 {
            "6 parsecs".to_owned()
        } else {
            format!("{}:{:02}", took / 60, took % 60)
        };
        b.fill("printed", &typed).await;
        b.press("Log this run").await;
        if plate == 1 {
            b.read("[role=alert]", "'6 parsecs' is no time").await;
            b.press("It was printed already").await;
            b.fill("printed", "").await;
            b.press("Log this run").await;
            b.read("main", "Judge:").await;
            b.press("For how long did it print?").await;
            let took = took + 1;
            b.fill("printed", &format!("{}:{:02}", took / 60, took % 60))
                .await;
            b.press("Learn from it").await;
        }
        b.read(".titleblock", "it took this").await;
    }
    b.goto("/plates/13").await;
    let after = figure(&b, "plate 13 hours").await;
    let after_around = figure(&b, "plate 13 around").await;
    assert!((after / before - 0.9).abs() < 0.03, "{before} {after}");
    assert!(
        after_around < before_around / 2.0,
        "{before_around} {after_around}"
    );
    b.read(".titleblock", "by 10 runs of My printer").await;
    b.press("by 10 runs of My printer").await;
    b.read("h1", "What plates take on My printer").await;
    assert_eq!(b.count(".pace .run").await, 10);

    // One function: Today says what the plate says, and a plan is made of it.
    b.goto("/").await;
    let words = |m: f64| format!("{}:{:02}", m as i64 / 60, m as i64 % 60);
    let line = format!("{} ± {} h", words(after), words(after_around));
    b.read(".slip", &line).await;
    b.goto("/models/1").await;
    b.press("Change the model").await;
    b.fill("quantity", "26").await;
    b.press("Save").await;
    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.read("main", "Accept this plan").await;
    let again = figure(&b, "plan 2 hours").await;
    assert!((again / plan - 0.9).abs() < 0.03, "{plan} {again}");
    assert!(figure(&b, "plan 2 around").await < around / 2.0);
    b.close().await;
}

/// A test too little, one too much: the next is between them; it comes out right by what is tapped, is taken
/// over, and the setting has a new version that the checks before a start call tested.
#[tokio::test(flavor = "multi_thread")]
async fn an_exposure_is_tested_and_taken_over() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    b.goto("/workshop").await;
    b.follow("missing").await;
    b.read("h1", "Exposure of").await;
    let address = b.path().await;
    let version = b.text("main .caption-line").await;
    for (seconds, verdict) in [("1.5", "too little"), ("1.9", "too much")] {
        b.fill("exposure_s", seconds).await;
        b.fill("note", &format!("it was {verdict}")).await;
        b.press(verdict).await;
        b.read("main table", &format!("it was {verdict}")).await;
    }
    b.read("main", "Try 1.69 s next").await;
    b.fill("exposure_s", "1.69").await;
    b.press("Judge by these").await;
    b.read("[role=alert]", "tap the smallest pin").await;
    for (kind, size) in [("pin", "0.3"), ("wall", "0.4"), ("gap", "0.15")] {
        let radio = b.see(&format!("input[name={kind}][value='{size}']")).await;
        radio.click().await.expect("tapped");
    }
    b.press("Judge by these").await;
    b.press("Use 1.69 s from now on").await;
    b.read("main", "What is in use came out right").await;
    b.read("[data-figure$='exposure state']", "fresh").await;
    assert_ne!(b.text("main .caption-line").await, version);
    b.press("New film on").await;
    b.read("[data-figure$='exposure state']", "due").await;
    b.read("main", "No test yet").await;
    let setting = address.trim_end_matches("/exposure").to_owned();
    b.goto(&setting).await;
    let typed = b.see("[name=exposure_s]").await.prop("value").await;
    assert_eq!(typed.expect("a field").as_deref(), Some("1.69"));
    b.close().await;
}
