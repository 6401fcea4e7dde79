//! What a person does from an empty data file to a judged plate, in the real interface.

use std::path::PathBuf;

use crate::browser::{Browser, Served};

fn data(name: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR"))
        .join("../core/tests/data")
        .join(name)
        .canonicalize()
        .unwrap()
}

async fn three_answers(b: &Browser) {
    b.three_answers("a lot").await;
    b.press("Begin").await;
    // What was typed stays, with one sentence for what cannot be taken.
    b.read(".fault", "write an amount").await;
    assert_eq!(
        b.see("[name=width_mm]")
            .await
            .prop("value")
            .await
            .unwrap()
            .as_deref(),
        Some("130")
    );
    b.fill("price_per_kg", "25").await;
    b.press("Begin").await;
}

async fn uploads(b: &Browser) {
    b.goto("/sculpts").await;
    let files = ["h_mini_a.stl", "p_box.stl", "b_truncated.stl"].map(data);
    b.choose_files(&files).await;
    b.press("Upload and measure").await;
    b.read("[data-says]", "3 arrived, 0 here already").await;
    // 3,304 triangles, 26.70 × 25.00 × 43.30 mm, 866 layers: ../shared/bench/mesh/README.md.
    b.read("main", "3,304").await;
    b.read("main", "26.7 × 25.0 × 43.3").await;
    b.read("main", "866").await;
    b.read(".warn", "b_truncated.stl").await;
    b.choose_files(&[data("p_box.stl")]).await;
    b.press("Upload and measure").await;
    b.read("[data-says]", "0 arrived, 1 here already").await;
    assert_eq!(b.count("main tbody tr").await, 3);
}

#[tokio::test(flavor = "multi_thread")]
async fn from_an_empty_file_to_a_judged_plate() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    three_answers(&b).await;
    uploads(&b).await;
    b.goto("/muster").await;
    b.an_army(4).await;

    // The rest is assumed, and is tinted so until it is corrected.
    b.goto("/workshop").await;
    let assumed = b.count(".assumed").await;
    assert!(assumed > 5, "{assumed}");
    b.press("My printer, My resin, 0.05").await;
    b.fill("exposure_s", "3").await;
    b.press("Save as a new version").await;
    b.see(".section").await;
    assert!(b.count(".assumed").await < assumed);

    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.read("main", "Accept this plan").await;
    assert_eq!(b.count("#plan .sheets > li").await, 1);
    b.read("#plan h2", "1 plate,").await;
    b.read(".titleblock", "PRINTER HOURS").await;
    b.read("[data-live$='/ends']", "IT WOULD END").await;
    b.read("main", "Piker").await;
    b.press("Accept this plan").await;
    b.see("li:has(.is-planned) a.picture")
        .await
        .click()
        .await
        .unwrap();
    b.read("main", "hardened bits").await;
    assert_eq!(b.count(".plan [data-copy]").await, 4);
    assert_eq!(b.count(".elevation [data-copy]").await, 4);
    b.start_the_run().await;
    b.press("Take it off").await;

    // All good but this one: clicked in the plan.
    b.see(".is-judging .plan [data-copy]")
        .await
        .click()
        .await
        .unwrap();
    b.read("[data-failed-count]", "1").await;
    b.fill("cause", "torn off its supports").await;
    b.press("Judge").await;
    b.read("main", "torn off its supports").await;

    // A copy that is tapped in the plan says its mark, and is named where the form asks which one broke later.
    let tap = "const copy = [...document.querySelectorAll('.plan [data-copy]:not(.is-failed)')].at(-1);
        copy.dispatchEvent(new PointerEvent('pointerover', { bubbles: true }));
        copy.dispatchEvent(new MouseEvent('click', { bubbles: true }));
        return `${copy.textContent}: ${document.querySelector('#broke').value === copy.dataset.mark}`";
    let tapped = b.client.execute(tap, vec![]).await.expect("a copy");
    let tapped = tapped.as_str().expect("words");
    assert!(
        tapped.starts_with("Piker")
            && tapped.contains(" tall, mark ")
            && tapped.ends_with(": true"),
        "{tapped}"
    );

    // The lost copy is wanted again, and the next plan takes it in; afterwards in one step.
    b.goto("/muster").await;
    b.read("main", "3 complete, 1 to print again").await;
    b.read(".titleblock", "3/4").await;
    b.goto("/plates").await;
    b.read("main", "1 copy is wanted").await;
    b.press("Plan plates").await;
    b.press("Accept this plan").await;
    b.see("li:has(.is-planned) a.picture")
        .await
        .click()
        .await
        .unwrap();
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.press("Judge").await;
    b.goto("/muster").await;
    b.read(".titleblock", "4/4").await;
    b.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_keyboard_alone_leads_through_the_pages() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    b.goto("/").await;
    let body = || async { b.see("body").await };
    body().await.send_keys("4").await.unwrap();
    b.read("h1", "Plates").await;
    body().await.send_keys("?").await.unwrap();
    b.read("dialog[open]", "This list").await;
    b.see("dialog[open] button")
        .await
        .send_keys("\u{e007}")
        .await
        .unwrap();
    body().await.send_keys("2").await.unwrap();
    b.read("h1", "Brackwater Levy").await;

    // The safelight is chosen by hand and kept on this device.
    b.see("[data-theme-switch]")
        .await
        .send_keys("\u{e007}")
        .await
        .unwrap();
    b.goto("/workshop").await;
    assert_eq!(b.count("html[data-theme=safelight]").await, 1);

    // Nothing is wider than a phone.
    b.resize(390, 800).await;
    for (name, path) in crate::views::of_demo(&b).await {
        if matches!(name, "today" | "plate-planned" | "plate-running") {
            b.goto(&path).await;
            let wide = b
                .client
                .execute("return document.documentElement.scrollWidth", vec![])
                .await
                .unwrap();
            assert!(wide.as_i64().unwrap() <= 390, "{name} is {wide} wide");
        }
    }
    b.close().await;
}
