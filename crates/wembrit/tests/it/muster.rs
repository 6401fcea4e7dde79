//! The army list comes in: pasted, agreed, files dropped, matched, planned. By keyboard alone.

use std::path::PathBuf;

use crate::browser::{Browser, Served};

/// Mesh files under names that say what they are.
fn files(folder: &std::path::Path) -> Vec<PathBuf> {
    let data = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../core/tests/data");
    let named = [
        ("h_mini_a.stl", "fen_piker_body.stl"),
        ("p_box.stl", "FenPiker_Arm_L_x2.stl"),
        ("p_sphere.stl", "teapot.stl"),
    ];
    named
        .map(|(from, to)| {
            std::fs::copy(data.join(from), folder.join(to)).unwrap();
            folder.join(to)
        })
        .to_vec()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_pasted_list_becomes_plates_by_keyboard() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    b.three_answers("25").await;
    b.enter(".button.main").await;
    b.read("h1", "Project").await;
    b.fill("name", "Fen watch").await;
    b.enter(".button.main").await;

    // Paste, and read.
    b.enter("a[href$='/roster']").await;
    let list =
        "# Pikers\n6 fen pikers, 25 mm\nfen captain\n4 guards (3 spear, 2 axe)\nnonsense 12 13 x14";
    b.see("textarea").await.send_keys(list).await.unwrap();
    b.enter(".button.main").await;
    b.read("h1", "Army list").await;
    b.check().await;
    assert_eq!(b.count(".preview tbody tr").await, 4);
    b.read(".preview", "no count: say how many").await;
    b.read(".preview", "do not add up").await;

    // Nothing is written before it is agreed; what is not clear is not taken.
    b.enter(".button.main").await;
    b.read("[role=alert]", "need your word").await;
    b.fill("quantity_1", "1").await;
    // Enter in a field takes the list in as well: what is typed stays, and what is left is asked for.
    b.see("[name=quantity_1]")
        .await
        .send_keys("\u{e007}")
        .await
        .unwrap();
    b.read("[role=alert]", "need your word").await;
    b.read("h1", "Army list").await;
    let typed = b.see("[name=quantity_1]").await.prop("value").await;
    assert_eq!(typed.unwrap().as_deref(), Some("1"));
    b.fill("options_2", "3 spear, 1 axe").await;
    b.see("[name=take_3]").await.send_keys(" ").await.unwrap();
    b.enter(".button.main").await;
    b.read("h1", "Fen watch").await;
    b.check().await;
    b.read(".titleblock", "0/11").await;
    assert_eq!(b.count(".unit").await, 1);

    // Files with telling names find their places.
    b.enter("a[href$='/match']").await;
    b.read("h1", "Files for parts").await;
    b.choose_files(&files(folder.path())).await;
    b.enter(".drop .button").await;
    b.read(".notice", "3 new files arrived").await;
    b.check().await;
    let proposed = async |file: &str, field: &str| {
        let row = format!("//tr[contains(., '{file}')]//*[starts-with(@name, '{field}_')]");
        let found = b
            .client
            .find(fantoccini::Locator::XPath(&row))
            .await
            .unwrap();
        found.prop("value").await.unwrap().unwrap_or_default()
    };
    assert_eq!(proposed("fen_piker_body.stl", "name").await, "Body");
    assert_eq!(proposed("FenPiker_Arm_L_x2.stl", "name").await, "Arm left");
    assert_eq!(proposed("FenPiker_Arm_L_x2.stl", "count").await, "2");
    assert_eq!(proposed("teapot.stl", "to").await, "");
    b.enter(".button.main").await;
    b.read(".caption-line", "1 file that no part names").await;

    // Planned: six bodies and twelve arms.
    b.key('4').await;
    b.read("main", "18 copies are wanted").await;
    b.enter(".button.main").await;
    b.read("main", "Accept this plan").await;
    b.check().await;
    b.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn units_kits_and_practice_are_changed_on_their_pages() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    // The demo's sedge-pikers are two too many for the punt.
    b.goto("/projects/1/muster").await;
    b.read("main", "12 models, but 1 × 10 can be carried: 2 too many")
        .await;
    b.press("Sedge-pikers").await;
    b.press("Duplicate").await;
    b.read("main", "Sedge-pikers again").await;

    // A choice that does not add up is not saved, and says what is missing.
    b.follow("Sedge-piker").await;
    b.follow("Weapon").await;
    b.fill("options", "9 pike, 2 banner").await;
    b.press("Save").await;
    b.read(".fault", "11 of 12 models have one").await;
    b.fill("options", "9 pike, 3 banner").await;
    b.press("Save").await;
    b.read("main", "9 pike, 3 banner").await;
    b.goto("/projects/1/muster").await;
    b.follow("Siege punt").await;
    b.read("main", "Rope rigging").await;
    b.goto("/projects/1/many").await;
    b.press("Change them").await;
    b.read(".fault", "tick the models").await;

    b.goto("/workshop/practice").await;
    b.read("main", "supports").await;
    b.see("input[name=order][value='all at once']")
        .await
        .click()
        .await
        .unwrap();
    b.press("Save").await;
    b.goto("/projects/1/practice").await;
    b.read("main", "as the workshop does: all at once").await;
    for page in [
        "/projects/1/roster",
        "/projects/1/match",
        "/units/1",
        "/models/1/choices/new",
        "/models/1/pieces/new",
        "/printers/new",
        "/settings/1",
    ] {
        b.goto(page).await;
    }
    b.close().await;
}
