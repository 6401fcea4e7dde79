//! Resin that runs low, a plate on the scale, a vat that is strained back.

use crate::browser::{Browser, Served};

async fn ml(b: &Browser, plate: i64) -> f64 {
    b.goto(&format!("/plates/{plate}")).await;
    let figure = format!("[data-figure='plate {plate} ml']");
    let shown = b.read(&figure, ".").await;
    shown.trim().parse().expect("millilitres")
}

/// A bottle runs low, and the plan says for which plates it lasts; a plate that is weighed changes what the next
/// is expected to take; days later the vat is strained back from Today.
#[tokio::test(flavor = "multi_thread")]
async fn resin_is_kept_account_of() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("w.sqlite");
    let data = file.to_str().expect("a path");
    let served = Served::start(&["serve", "--data", data, "--now", "2026-11-24T16:00:00Z"]);
    let b = Browser::open(&served.base).await;
    b.one_a_plate(2).await;
    b.goto("/stores").await;
    b.fill("size_ml", "18").await;
    b.fill("price", "1.95").await;
    b.press("Put them on the shelf").await;
    b.read("[data-figure='bottle 1']", "18 of 18").await;
    b.goto("/plates").await;
    // The vat keeps ten, so that one plate is covered.
    b.read(
        "[data-figure='plan resin lasts']",
        "Enough for 1 plate, up to plate 1 of this plan; plate 2 of this plan is",
    )
    .await;
    b.press("Accept this plan").await;
    b.read("main", "2 plates").await;
    b.goto("/stores").await;
    b.read("[data-figure='resin lasts']", "plate 2 is").await;
    b.read("main", "1 bottle of 18 ml, 1.95").await;

    // Poured before the start by what is said to be in the vat.
    b.goto("/plates/1/run").await;
    b.read("main", "of bottle 1").await;
    b.goto("/plates/1").await;
    b.start_with("18").await;
    b.press("Take it off").await;
    b.goto("/stores").await;
    let in_vat = b.read("[data-figure='vat 1']", ".").await;
    let left: f64 = in_vat.trim().parse().expect("millilitres");
    assert_eq!(b.count("[data-figure='bottle 1']").await, 0, "it is empty");

    let took = ml(&b, 1).await;
    assert!((left + took - 18.0).abs() < 0.11, "{left} {took}");
    let before = ml(&b, 2).await;
    b.goto("/plates/1/scale").await;
    let expected = b.read("tr.sum td:nth-child(3)", ".").await;
    let grams = expected.trim().parse::<f64>().expect("grams") * 1.12;
    b.fill("state", "washed, with supports").await;
    b.fill("grams", "a lot").await;
    b.press("Write it down").await;
    b.read("[role=alert]", "'a lot' is no figure").await;
    b.fill("state", "washed, with supports").await;
    b.fill("grams", &format!("{grams:.2}")).await;
    b.press("Write it down").await;
    b.read("main", "by 1 weight").await;
    let after = ml(&b, 2).await;
    assert!(after > before * 1.05, "{before} {after}");
    b.read("[data-figure='plate 2 goes']", "drained").await;
    b.press("Release this plate").await;
    b.press("Release it").await;
    b.close().await;
    drop(served);

    // Six days later nothing is planned.
    let served = Served::start(&["serve", "--data", data, "--now", "2026-11-30T16:00:00Z"]);
    let b = Browser::open(&served.base).await;
    b.goto("/").await;
    b.read(".slip", "Strain the vat of My printer back").await;
    b.goto("/printers/1/vat").await;
    b.press("back into its bottle").await;
    b.read("[data-figure='vat 1']", "0.0").await;
    b.goto("/").await;
    b.read_not(".slip", "Strain the vat").await;
    b.close().await;
}
