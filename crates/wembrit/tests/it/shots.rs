//! The current pictures of every main view, from the demo: `cargo x shots`.

use crate::browser::{Browser, Served};

#[tokio::test(flavor = "multi_thread")]
#[ignore = "makes the pictures of docs/screenshots; run by `cargo x shots`"]
async fn pictures_of_every_view() {
    let served = Served::demo();
    let browser = Browser::open(&served.base).await;
    let folder = std::env::var("WEMBRIT_SHOTS")
        .unwrap_or_else(|_| format!("{}/../../docs/screenshots", env!("CARGO_MANIFEST_DIR")));
    std::fs::create_dir_all(&folder).expect("a folder");
    // Pictures and hollows of the sculpts are worked off first.
    for _ in 0..240 {
        browser.goto("/sculpts/1").await;
        if browser.count("image.side").await > 0 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    }
    // Poses are looked for, and variants measured as they hang.
    for (path, ready) in [
        ("/parts/14/poses", ".poses img"),
        ("/trials/1", ".variants td:nth-child(3) img"),
        ("/parts/14/recipe", "svg.setup"),
        ("/sculpts/8", "image.side"),
        ("/sculpts/9", "image.side"),
    ] {
        for _ in 0..240 {
            browser.goto(path).await;
            if browser.count(ready).await > 0 {
                break;
            }
            tokio::time::sleep(std::time::Duration::from_millis(500)).await;
        }
    }
    for (name, path) in crate::views::of_demo(&browser).await {
        // Few enough to look at: the rest is text, or taken below.
        let rest = [
            "plates",
            "plate-done",
            "plate-planned",
            "plate-running",
            "unit",
            "phone",
            "practice",
            "schedule",
            "attendance",
            "model",
            "files-for-parts",
            "trial",
            "pace",
            "hands",
            "odds",
            "scale",
            "wear",
            "chance",
            "miniatures",
            "search",
            "archive",
            "compare",
        ];
        let text = [
            "bench-vat",
            "bench-cautions",
            "bench-causes",
            "bench-finishing",
            "bench-hands",
            "bench-scale",
        ];
        if rest.contains(&name) || text.contains(&name) {
            continue;
        }
        browser.goto(&path).await;
        std::fs::write(format!("{folder}/{name}.png"), browser.picture().await).expect("written");
    }
    // A plan as it is found, and its first plate under the maker's hands.
    browser.goto("/projects/1/plates").await;
    browser.press("Plan plates").await;
    browser.read("#plan", "No plan for these copies").await;
    browser.press("That will do").await;
    browser.read("#plan", "Look further").await;
    browser.read("#advice", "would still fit").await;
    std::fs::write(format!("{folder}/plates.png"), browser.picture().await).expect("written");
    let first = browser.see("#plan .sheets a.picture").await;
    let path = first
        .attr("href")
        .await
        .expect("an attribute")
        .expect("an address");
    for _ in 0..120 {
        browser.goto(&path).await;
        if browser.count("svg .load-peak").await > 0 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    }
    browser.key('.').await;
    browser.read("[data-advice]", "would still fit").await;
    std::fs::write(
        format!("{folder}/plate-by-hand.png"),
        browser.picture().await,
    )
    .expect("written");
    // A batch on its way: two steps are behind it.
    browser.goto("/projects/1/plates").await;
    let running = browser.see("li:has(.is-running) a.picture").await;
    let running = running.attr("href").await.expect("an attribute");
    browser.goto(&running.expect("an address")).await;
    browser.press("Take it off").await;
    browser.goto("/finishing").await;
    browser.press("Was done already").await;
    browser.press("Was done already").await;
    browser.press("Begin").await;
    browser.see(".timer").await;
    std::fs::write(
        format!("{folder}/bench-finishing.png"),
        browser.picture().await,
    )
    .expect("written");
    // The plan accepted: its plates over printers and days.
    browser.goto("/projects/1/plates").await;
    let accept = "document.querySelector('form[action$=\"/accept\"]').requestSubmit()";
    browser.client.execute(accept, vec![]).await.expect("sent");
    browser.fill("word", "filled with putty").await;
    browser.press("Accept all the same").await;
    browser.read("#plan", "Nothing is waiting").await;
    browser.goto("/schedule").await;
    browser.see(".ruler-of-days .bar").await;
    std::fs::write(format!("{folder}/schedule.png"), browser.picture().await).expect("written");
    browser.goto("/projects/1/roster").await;
    let list = "# Marsh guard\n8 guards, 25 mm (5 spear, 3 axe)\nsergeant, 28.5mm\nHeron rider x3 (40 mm base)\n\n# Boats\ntwo punts, 60x35 mm\n99999999 oars";
    browser
        .see("textarea")
        .await
        .send_keys(list)
        .await
        .expect("typed");
    browser.press("Read the list").await;
    std::fs::write(format!("{folder}/army-list.png"), browser.picture().await).expect("written");
    browser.close().await;
    // A plate at its printer, as that tells it.
    let served = Served::with_printers("1");
    let browser = Browser::open(&served.base).await;
    browser.goto("/plates/4/run").await;
    browser.read("main", "It prints").await;
    std::fs::write(format!("{folder}/bench-run.png"), browser.picture().await).expect("written");
    browser.close().await;
}
