//! The main views of the demo, by name.

use crate::browser::Browser;

/// Name and address of every main view.
pub(crate) async fn of_demo(browser: &Browser) -> Vec<(&'static str, String)> {
    browser.goto("/projects/1/plates").await;
    let state = async |class: &str| {
        let link = browser.see(&format!("li:has(.is-{class}) a.picture")).await;
        link.attr("href")
            .await
            .expect("an attribute")
            .expect("an address")
    };
    let (running, planned, done) = (
        state("running").await,
        state("planned").await,
        state("done").await,
    );
    vec![
        ("today", "/".into()),
        ("muster", "/projects/1/muster".into()),
        ("progress", "/projects/1/progress".into()),
        ("chance", "/projects/1/chance".into()),
        ("miniatures", "/models/1/miniatures".into()),
        ("search", "/search?q=heron".into()),
        ("archive", "/workshop/archive".into()),
        ("model", "/models/1".into()),
        ("unit", "/units/6".into()),
        ("files-for-parts", "/projects/1/match".into()),
        ("practice", "/workshop/practice".into()),
        ("sculpts", "/sculpts".into()),
        ("sculpt", "/sculpts/1".into()),
        (
            "compare",
            "/parts/1/compare?sculpt=1&sculpt=3&sculpt=8&sculpt=9".into(),
        ),
        ("recipe", "/parts/14/recipe".into()),
        ("orientation", "/parts/14/poses".into()),
        ("scale", "/parts/14/scale?to=top&height=32".into()),
        ("trial", "/trials/1".into()),
        ("plates", "/projects/1/plates".into()),
        ("schedule", "/schedule".into()),
        ("attendance", "/attendance".into()),
        ("bench-preflight", format!("{planned}/run")),
        ("bench-run", format!("{running}/run")),
        ("bench-finishing", "/finishing".into()),
        ("bench-vat", "/printers/1/vat".into()),
        ("bench-cautions", "/cautions".into()),
        ("bench-causes", "/causes".into()),
        ("phone", "/phone".into()),
        ("plate-planned", planned),
        ("plate-running", running),
        ("plate-done", done),
        ("workshop", "/workshop".into()),
        ("stores", "/stores".into()),
        ("ledger", "/projects/1/ledger".into()),
        ("odds", "/ledger/odds".into()),
        ("model-cost", "/models/1/cost".into()),
        ("wear", "/stores/wear".into()),
        ("bench-scale", "/plates/1/scale".into()),
        ("exposure", "/settings/2/exposure".into()),
        ("pace", "/printers/1/pace".into()),
        ("bench-hands", "/plates/1/hands".into()),
        ("hands", "/workshop/hands".into()),
    ]
}
