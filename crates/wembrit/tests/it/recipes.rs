//! A recipe from its scale to its proof, in the real interface; and a mesh that comes back from
//! another program.

use std::path::PathBuf;

use wembrit_core::mesh::{Mesh, read_mesh, write_stl};
use wembrit_core::recipe::supports::{SupportStyle, plan_supports};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::browser::{Browser, Served};

fn data(name: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR"))
        .join("../core/tests/data")
        .join(name)
        .canonicalize()
        .unwrap()
}

/// A workshop with one figure that is wanted three times.
async fn one_figure(b: &Browser) {
    b.three_answers("25").await;
    b.press("Begin").await;
    b.goto("/sculpts").await;
    b.choose_files(&[data("h_mini_a.stl")]).await;
    b.press("Upload and measure").await;
    b.read("[data-live]", "3,304").await;
    b.goto("/muster").await;
    b.an_army(3).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn scale_orientation_trial_and_winner() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    one_figure(&b).await;
    b.follow("v1").await;
    b.read(".standing", "untried").await;
    b.goto_until("/parts/1/recipe", "layers").await;

    // To a base: its own is 25 mm wide in the file, so 20 mm are four fifths.
    b.press("Scale").await;
    b.fill("base", "20").await;
    b.press("Work out the scale").await;
    b.read(".division", "20.00 ÷ 25.00 = 80.0 %").await;
    b.press("Use 80.0 %").await;
    b.read(".heading", "now 80 %").await;

    // Orientations side by side; the maker picks one, nothing is picked before.
    b.goto("/parts/1/poses").await;
    b.press("Compare orientations").await;
    b.goto_until("/parts/1/poses", "unbeaten").await;
    assert!(b.count(".poses > li").await >= 12);
    assert_eq!(b.count(".poses img").await, b.count(".poses > li").await);
    let first = b.text(".poses > li h2").await;
    b.read("main", "10° back").await;
    // What matters more orders the sheet.
    b.goto("/parts/1/poses?w0=4&w1=0&w2=0&w3=0&w4=0&w5=0&w6=0&w7=0&w8=0&w9=0&w10=0")
        .await;
    assert_ne!(b.text(".poses > li h2").await, first);
    b.see("form:has([value='tilt 10 toward 90']) button")
        .await
        .click()
        .await
        .unwrap();
    b.read(".standing", "recipe v3").await;
    b.goto_until("/parts/1/recipe", "contacts").await;
    b.read("main", "10° back").await;
    b.read("table", "scale 100.0 → 80.0 %").await;
    b.see("svg .column").await;
    b.check().await;

    // A trial: far back against almost upright, one plate.
    b.press("Begin a trial").await;
    b.fill("name", "far back").await;
    b.fill("pose", "45° back").await;
    b.press("Add the variant").await;
    b.goto_until("/trials/1", "plan its plate").await;
    b.press("Plan its plate").await;
    b.read(".variants", "Plate 1").await;
    b.follow("Plate 1").await;
    assert_eq!(b.count(".plan [data-copy]").await, 2);
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.read("main", "Judge").await;
    // Both are off the plate; which is better is marked in the trial.
    b.goto("/trials/1").await;
    for (field, mark) in [("m1_0", "3"), ("m2_0", "5"), ("m1_1", "4"), ("m2_1", "5")] {
        b.fill(field, mark).await;
    }
    b.press("Save the grades").await;
    b.read(".sum", "5.0 · 1.").await;
    b.fill("reason", "no marks on the face").await;
    b.press("It wins").await;
    b.read(".notice", "Version 4 of the recipe took the winner over")
        .await;
    b.read(".notice", "no marks on the face").await;
    b.check().await;

    // One confirmation print makes it proven.
    b.press("Plan the confirmation print").await;
    b.see("li:has(.is-planned) a.picture")
        .await
        .click()
        .await
        .unwrap();
    b.press("It was printed already").await;
    b.press("Log this run").await;
    b.press("Judge").await;
    b.goto("/parts/1/recipe").await;
    b.read(".heading .standing", "recipe v4, proven").await;
    b.read("table", "hangs 10° back → 45° back").await;
    b.read("table", "1 good on").await;
    // What is wanted by the dozen is proven now: no warning.
    b.goto("/parts/1").await;
    b.fill("spares", "9").await;
    b.press("Save").await;
    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.read("main", "Accept this plan").await;
    // One plate as short as can be: nothing better is looked for.
    b.read("main", "Look further").await;
    assert!(!b.text("main").await.contains("untried"));
    // A change after proving is a new, untried version, and the plan says so.
    b.goto("/parts/1/scale?to=percent&percent=90").await;
    b.press("Use 90.0 %").await;
    b.goto("/parts/1/recipe").await;
    b.read(".heading .standing", "recipe v5, untried").await;
    b.goto("/plates").await;
    b.press("Take the change in").await;
    b.read("main", "One recipe is untried").await;
    b.press("Plan one of each first").await;
    b.read("main", "waits for its run").await;
    b.close().await;
}

/// A part whose file is measured while a plan is open appears on the page of plates by itself, with
/// the way to take it in, while what one is at stays where it is.
#[tokio::test(flavor = "multi_thread")]
async fn a_part_that_gets_measured_appears_beside_the_open_plan() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    one_figure(&b).await;
    b.goto("/models/1/parts/new").await;
    b.fill("name", "Shield").await;
    b.press("Add the part").await;
    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.read("main", "Look further").await;
    let opened = b.client.execute("return performance.timeOrigin", vec![]);
    let opened = opened.await.unwrap();
    // In another tab, or on the phone: the file comes and the part gets it.
    let bytes = std::fs::read(data("p_box.stl")).unwrap();
    let from_elsewhere = "const [bytes, done] = arguments;
        const file = new FormData();
        file.append('files', new File([new Uint8Array(bytes)], 'shield.stl'));
        const part = new URLSearchParams({ row_version: 1, name: 'Shield', count: 1, spares: 0,
            scale_percent: 100, resin: 1, layer_mm: 0.05, sculpt: 2 });
        fetch('/sculpts', { method: 'POST', body: file })
            .then(() => fetch('/parts/2', { method: 'POST', body: part }))
            .then((answer) => done(answer.url));";
    let part = b.client.execute_async(from_elsewhere, vec![bytes.into()]);
    assert_eq!(part.await.unwrap(), format!("{}/models/1", served.base));
    b.read("#plan", "since this plan was made: 3 more of Piker, shield")
        .await;
    let still = b.client.execute("return performance.timeOrigin", vec![]);
    assert_eq!(still.await.unwrap(), opened, "the page was loaded anew");
    b.press("Take the change in").await;
    b.read("#plan", "6 copies").await;
    b.close().await;
}

/// As another program would: supports put in, all of it moved and turned, and a percent larger.
fn supported(exported: &Mesh, scale: f64) -> Vec<u8> {
    let plan = plan_supports(
        exported,
        LayerHeight::USUAL,
        &SupportStyle::USUAL,
        &Unwatched,
    )
    .expect("nobody stops it");
    let low = exported.bounds().0[2];
    let lifted = exported.shifted([0.0, 0.0, plan.lifted_mm - low]);
    let whole = lifted.with(&plan.mesh);
    let (sin, cos) = 0.6f64.sin_cos();
    let moved = whole.faces().map(|face| {
        face.map(|[x, y, z]| {
            [
                (scale * (x * cos - y * sin) + 40.0) as f32,
                (scale * (x * sin + y * cos) - 15.0) as f32,
                (scale * z) as f32,
            ]
        })
    });
    write_stl(&Mesh::weld(moved))
}

#[tokio::test(flavor = "multi_thread")]
async fn a_mesh_supported_elsewhere_comes_back() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let b = Browser::open(&served.base).await;
    one_figure(&b).await;
    b.goto("/parts/1/recipe").await;
    b.read("main", "Export 3MF").await;
    let fetched = b.client.execute_async(
        "const done = arguments[0]; fetch('/parts/1/design/stl').then((a) => a.arrayBuffer()).then((b) => done(Array.from(new Uint8Array(b))));",
        vec![],
    );
    let numbers = fetched.await.unwrap();
    let numbers = numbers.as_array().expect("the bytes of the file");
    let bytes: Vec<u8> = numbers
        .iter()
        .filter_map(|n| n.as_u64().map(|n| n as u8))
        .collect();
    let exported = read_mesh(&bytes, "design.stl").expect("it reads");

    // A percent larger: reported, and not used behind the maker's back.
    let larger = folder.path().join("larger.stl");
    std::fs::write(&larger, supported(&exported, 1.01)).unwrap();
    b.choose_files(&[larger]).await;
    b.press("Measure it").await;
    b.goto_until("/parts/1/recipe", "it does not match").await;
    b.read("main", "101.00 % of the size").await;
    b.read("main", "turned by 34.4°").await;
    b.read("aside", "supports planned").await;

    // As it should be: used from then on, with its own resin and contacts.
    let right = folder.path().join("right.stl");
    std::fs::write(&right, supported(&exported, 1.0)).unwrap();
    b.choose_files(&[right]).await;
    b.press("Measure it").await;
    b.goto_until("/parts/1/recipe", "right.stl, in use").await;
    b.goto_until("/parts/1/recipe", "contacts").await;
    b.read("aside", "supports measured on the print mesh").await;
    // Another part is refused with a sentence.
    b.choose_files(&[data("p_torus.obj")]).await;
    b.press("Measure it").await;
    b.goto_until("/parts/1/recipe", "drop it back unchanged")
        .await;
    // Neither is a sculpt to choose from.
    b.goto("/sculpts").await;
    assert_eq!(b.count("[data-live] tbody tr").await, 1);
    b.close().await;
}
