//! The demo's three printers at a speed-up, from a phone: sent, started, followed, taken off, with one fault of each
//! kind.

use std::collections::BTreeSet;
use std::time::Duration;

use serde_json::{Value, json};
use wembrit_core::ids::PlateId;
use wembrit_core::link::CommandKind;
use wembrit_store::queries::links;

use crate::bench::fits_the_hand;
use crate::browser::{Browser, Served};
use crate::sim::ask;

/// Plates of the demo, each on a printer of its own: one that runs, two that wait.
const RUNS: i64 = 4;
const WAITS: i64 = 6;
const SHORT: i64 = 5;

struct Shop {
    b: Browser,
    /// Where the printers of these plates answer.
    sims: Vec<(i64, String)>,
    served: Served,
}

impl Shop {
    async fn open(speed: &str) -> Self {
        let served = Served::with_printers(speed);
        let store = served.beside();
        let sims = [RUNS, WAITS, SHORT].map(|plate| {
            let of = store.read(|c| {
                let printer = wembrit_store::queries::plates::load(c, PlateId(plate))?.printer;
                links::address(c, printer)
            });
            (plate, of.unwrap().expect("it is connected"))
        });
        let b = Browser::open(&served.base).await;
        b.resize(390, 844).await;
        Self {
            b,
            sims: sims.to_vec(),
            served,
        }
    }

    fn sim(&self, plate: i64) -> &str {
        let of = self.sims.iter().find(|(p, _)| *p == plate);
        &of.expect("a printer").1
    }

    fn strike(&self, plate: i64, fault: &Value) {
        ask(self.sim(plate), "POST", "/bench/fault", &fault.to_string());
    }

    fn says(&self, plate: i64) -> Value {
        ask(self.sim(plate), "GET", "/v1/status", "")
    }

    async fn at(&self, plate: i64) {
        self.b.goto(&format!("/plates/{plate}/run")).await;
    }

    /// Looks into the vat and sends the file.
    async fn send(&self, plate: i64) {
        self.at(plate).await;
        if self.b.count("[name=found]").await > 0 {
            self.b.fill("found", "nothing").await;
            self.b.press("I looked into the vat").await;
        }
        self.b.press("Send the file to").await;
        self.b.read("main", "Send it again").await;
        self.b.read("main", "byte for byte").await;
    }

    /// Ticks what is left to tick, and starts it.
    async fn start(&self, plate: i64) {
        self.at(plate).await;
        let tick = "document.querySelectorAll('[name=tick]').forEach((t) => { t.checked = true; })";
        self.b.client.execute(tick, vec![]).await.unwrap();
        self.b.press("Start it on").await;
    }

    /// Layers that are done, as the page says.
    async fn layer(&self, plate: i64) -> u32 {
        let of = format!("[data-figure='plate {plate} layer']");
        loop {
            // The piece may be drawn anew just now.
            let text = self.b.text(&of).await;
            if let Some(Ok(layer)) = text.split('/').next().map(|n| n.trim().parse()) {
                return layer;
            }
        }
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_day_of_three_printers_passes_in_minutes() {
    let shop = Shop::open("60").await;
    let b = &shop.b;
    // What ran already hangs in its machine, and goes on.
    shop.at(RUNS).await;
    b.read("main", "It prints").await;
    fits_the_hand(b, "a plate that prints").await;
    b.check().await;
    let before = shop.layer(RUNS).await;
    for plate in [WAITS, SHORT] {
        shop.send(plate).await;
        shop.start(plate).await;
        b.read("main", "It prints").await;
    }
    shop.at(RUNS).await;
    b.read("main", "It prints").await;
    assert!(shop.layer(RUNS).await > before, "layers are counted up");
    // An hour in a second: by the switch, here and in every printer.
    b.client
        .execute("document.querySelector('.pace-switch').open = true", vec![])
        .await
        .unwrap();
    b.press("an hour in a second").await;
    assert_eq!(
        b.path().await,
        format!("/plates/{RUNS}/run"),
        "it stays on its page"
    );
    for plate in [RUNS, WAITS, SHORT] {
        shop.at(plate).await;
        b.read("main", "All layers are done").await;
        b.read("main", "Over since").await;
        assert_eq!(shop.says(plate)["speed"], json!(3600.0));
        fits_the_hand(b, "a plate that is done").await;
        b.press("Take it off").await;
        b.read("main", "marked, the rest good").await;
    }
    for plate in [RUNS, WAITS, SHORT] {
        let free = (0..200).any(|_| {
            std::thread::sleep(std::time::Duration::from_millis(50));
            shop.says(plate)["state"] == "idle"
        });
        assert!(
            free,
            "the printer of plate {plate} was told that it is free"
        );
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn one_fault_of_each_kind_is_told_at_the_printer() {
    let shop = Shop::open("60").await;
    let b = &shop.b;
    shop.at(RUNS).await;
    b.read("main", "It prints").await;
    shop.strike(RUNS, &json!({ "fault": "cold-room" }));
    b.read("main", "cold resin tears what hangs").await;
    // It is not heard, and then it is.
    shop.strike(RUNS, &json!({ "fault": "lost-link", "seconds": 8 }));
    b.read("main", "It does not answer").await;
    b.read("main", "It prints").await;
    // It holds by itself, and so do the books; it goes on once somebody has filled it up and says so.
    shop.strike(RUNS, &json!({ "fault": "resin-empty" }));
    b.read("main", "its vat is empty").await;
    ask(shop.sim(RUNS), "POST", "/bench/fill", r#"{"ml":300}"#);
    b.press("It goes on").await;
    b.read("main", "It prints").await;
    // A byte of its file turns into another: no tick helps.
    shop.send(SHORT).await;
    shop.strike(SHORT, &json!({ "fault": "wrong-file" }));
    shop.at(SHORT).await;
    b.read("main", "is another file: send it again").await;
    shop.start(SHORT).await;
    b.read("main", "Not started: what its memory holds as")
        .await;
    b.press("Send").await;
    b.read("main", "byte for byte").await;
    // The page was drawn anew; the start that was refused is not sent again with it.
    assert_eq!(shop.says(SHORT)["state"], "idle");
    // Its answers are lost: one start, told again until it is answered, is one job.
    shop.strike(SHORT, &json!({ "fault": "stuck-to-film", "layer": 1 }));
    shop.strike(SHORT, &json!({ "fault": "lost-answers", "seconds": 6 }));
    shop.start(SHORT).await;
    b.read("main", "not answered yet").await;
    b.read(
        "main",
        "nothing hangs on the plate, or it sticks to the film",
    )
    .await;
    let store = shop.served.beside();
    let told = store.read(|c| links::told(c, PlateId(SHORT))).unwrap();
    let starts = told.iter().filter(|t| t.kind == CommandKind::Start).count();
    assert_eq!((starts, &shop.says(SHORT)["job"]["number"]), (1, &json!(1)));
    b.press("Stop the printer").await;
    b.read("main", "Stopped at layer").await;
    // Nothing holds on its plate; then its power is cut, and it does not go on by itself.
    shop.send(WAITS).await;
    ask(shop.sim(WAITS), "POST", "/bench/speed", r#"{"speed":300}"#);
    shop.strike(WAITS, &json!({ "fault": "nothing-on-plate", "layer": 1 }));
    shop.start(WAITS).await;
    b.read("main", "nothing hangs on the plate").await;
    shop.strike(WAITS, &json!({ "fault": "power-cut", "seconds": 2 }));
    b.read("main", "It broke off at layer").await;
    b.read("main", "would show a line there").await;
    fits_the_hand(b, "a plate that broke off").await;
    b.check().await;
    b.press("Take it off").await;
    b.read("main", "stopped at layer").await;
}

/// At a speed-up the schedule is a minute old as soon as it is there: a page that waits for it comes again once, and
/// then stays for a while.
#[tokio::test(flavor = "multi_thread")]
async fn a_page_that_waits_does_not_come_again_and_again() {
    let served = Served::with_printers("600");
    let b = Browser::open(&served.base).await;
    b.goto("/projects/1/progress").await;
    let mut loads = BTreeSet::new();
    for _ in 0..40 {
        let begun = "return String(performance.timeOrigin)";
        if let Ok(begun) = b.client.execute(begun, vec![]).await {
            loads.insert(begun.to_string());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert!((1..=2).contains(&loads.len()), "{loads:?}");
    b.close().await;
}
