//! The ledger, odds, what a model costs and spares, and amounts in other currencies.

use rstest::rstest;
use wembrit_core::cost::cost_each;
use wembrit_core::cost_parts::CostParts;
use wembrit_core::currency::Currency;
use wembrit_core::geometry::Quarter;
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_core::units::Money;
use wembrit_store::queries::edits::{self, Beside};
use wembrit_store::queries::pages::ledger as pages;
use wembrit_store::queries::{army, bundles, judged, muster, plates};

use crate::app::TestApp;
use crate::pages::draft;
use crate::two_pages::figures;

fn written(amount: Money) -> String {
    Currency::of("EUR").write(amount)
}

/// Cells of a table that came as CSV, its heading left out.
fn cells(text: &str) -> Vec<Vec<String>> {
    let line = |l: &str| l.split(',').map(str::to_owned).collect();
    text.lines().skip(1).map(line).collect()
}

/// The demo's ledger: planned and actual add up over its plates, copies over plates, on the page and in its tables.
#[tokio::test]
async fn the_ledger_adds_up() {
    let app = TestApp::demo();
    let data = app.store.read(|c| pages::load(c, ProjectId(1))).unwrap();
    let ran: Vec<_> = data.plates.iter().filter(|p| p.took.is_some()).collect();
    assert!(ran.len() >= 3, "the demo has a past");
    let planned: Money = ran.iter().map(|p| p.planned.total()).sum();
    let actual: Money = ran
        .iter()
        .filter_map(|p| p.actual())
        .map(|c| c.total())
        .sum();
    let page = app.get("/projects/1/ledger").await;
    let shown = figures(&page.body);
    let of = |name: &str| shown.iter().find(|f| f.0 == name).map(|f| f.1.to_owned());
    assert_eq!(of("ledger planned"), Some(written(planned)));
    assert_eq!(of("ledger actual"), Some(written(actual)));
    page.says("a feature is missing").says("good copies");
    // Copies of a plate add up to it, component by component; what failed is charged or lost.
    for plate in &ran {
        let copies = data.copies.iter().filter(|c| c.plate.0 == plate.id);
        assert_eq!(
            copies.map(|c| c.cost).sum::<CostParts>(),
            plate.actual().expect("it ran"),
            "plate {}",
            plate.number
        );
        if let Some(basis) = plate.basis {
            assert_eq!(
                basis.cost(),
                plate.planned,
                "what it is reckoned from says the same"
            );
        }
    }
    let (_, bytes) = app.download("/projects/1/ledger/copies.csv").await;
    let table = cells(&String::from_utf8(bytes).unwrap());
    let minor = |row: &Vec<String>, at: usize| row[row.len() - at].parse::<i64>().unwrap();
    let failed = data
        .copies
        .iter()
        .filter(|c| c.failed())
        .map(|c| c.cost.total().0)
        .sum::<i64>();
    let charged: i64 = table.iter().map(|r| minor(r, 2)).sum();
    let lost: i64 = data.charges.lost.values().map(|m| m.0).sum();
    assert_eq!((table.len(), charged + lost), (data.copies.len(), failed));
    for table in ["plates", "models", "causes"] {
        let (_, bytes) = app
            .download(&format!("/projects/1/ledger/{table}.csv"))
            .await;
        assert!(
            cells(&String::from_utf8(bytes).unwrap()).len() >= 2,
            "{table}"
        );
    }
    app.get("/projects/1/ledger/secrets.csv").await.is(404);
    app.get("/ledger").await.is(303);
    let (_, bytes) = app.download("/ledger/odds.csv").await;
    let odds = String::from_utf8(bytes).unwrap();
    let of = |look: &str| {
        cells(&odds)
            .into_iter()
            .filter(|r| r[0] == look)
            .collect::<Vec<_>>()
    };
    let sum = |rows: &[Vec<String>]| -> u64 {
        rows.iter()
            .map(|r| r[2].parse::<u64>().unwrap() + r[3].parse::<u64>().unwrap())
            .sum()
    };
    // Copies by printer are all that were judged, and each of them begins at the first step.
    let all = app.store.read(judged::of_workshop).unwrap();
    assert_eq!(sum(&of("printer")), all.all());
    assert_eq!(sum(&of("step")[..1]), all.all());
    let page = app.get("/ledger/odds").await.body;
    let came = figures(&page)
        .into_iter()
        .find(|f| f.0 == "odds came out")
        .unwrap()
        .1
        .to_owned();
    assert_eq!(came, format!("{} of {}", all.good, all.all()));
}

/// One function says what a model costs, wherever it stands; it is opened by part and component, and opened further on
/// the sheet of a plate.
#[tokio::test]
async fn a_figure_opens_into_its_parts() {
    let app = TestApp::demo();
    let army = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let model = &army.units[0].models[0];
    let each = written(cost_each(model).expect("it was planned"));
    let name = format!("model {} each", model.model.id);
    for page in [
        "/projects/1/muster".to_owned(),
        format!("/models/{}", model.model.id),
        format!("/models/{}/cost", model.model.id),
        "/projects/1/ledger".to_owned(),
    ] {
        let body = app.get(&page).await.body;
        let shown: Vec<_> = figures(&body)
            .into_iter()
            .filter(|f| f.0 == name)
            .map(|f| f.1.to_owned())
            .collect();
        assert!(
            shown.iter().all(|s| *s == each),
            "{page}: {shown:?} for {each}"
        );
        assert!(!shown.is_empty() || page.ends_with("muster"), "{page}");
    }
    app.get(&format!("/models/{}/cost", model.model.id))
        .await
        .says("failed copies")
        .says("resin")
        .says("wear");
    let plate = app
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap()
        .remove(0);
    app.get(&format!("/plates/{}", plate.id))
        .await
        .says("ml × ")
        .says("kWh × ")
        .says("min for the plate × ")
        .says("of machine and screen × ");
}

/// Answers follow what is typed, and what cannot be is said.
#[rstest]
#[case("ready=50", "making pays from the first on")]
#[case("ready=0.01", "making never pays")]
#[case("service=0.01&least=1000", "making pays up to")]
#[case("margin=40", "a mark-up of as much would ask")]
#[case("ready=dear", "ready-made: write an amount")]
#[case("ready=0", "a price above nothing")]
#[case("margin=100", "a margin is a percentage")]
#[case("margin=NaN", "a margin is a percentage")]
#[case("service=1e9", "a service: write an amount")]
#[tokio::test]
async fn others_are_asked(#[case] typed: &str, #[case] answer: &str) {
    let app = TestApp::demo();
    app.get(&format!("/models/1/cost?{typed}"))
        .await
        .is(200)
        .says(answer);
}

/// Spares are written as advised, are wanted then, and say why; once written nothing more is advised.
#[tokio::test]
async fn spares_are_written_with_their_reason() {
    let app = TestApp::demo();
    let before = app.get("/models/1/cost").await.body;
    assert!(
        before.contains("came out:") && before.contains("in place of 0"),
        "{before}"
    );
    app.post("/models/1/spares", "").await.is(303);
    let model = app
        .store
        .read(|c| pages::of_model(c, wembrit_core::ids::ModelId(1)))
        .unwrap();
    let part = &model.model.parts[0].part;
    assert!(
        part.spares > 0 && part.spares_why.contains("came out"),
        "{part:?}"
    );
    app.get("/models/1/cost").await.says("Written:");
    app.get("/models/1")
        .await
        .says(&part.spares_why.replace('\'', "&#39;"));
    let after = app.get("/models/1/cost").await.body;
    assert!(!after.contains("in place of 0:"), "nothing else is advised");
    app.post("/models/99999/spares", "").await.is(404);
    let known = app.store.read(|c| muster::part(c, part.id)).unwrap();
    assert_eq!(known.spares, part.spares);
}

#[rstest]
#[case("name=&price=5", "what it is called")]
#[case("name=Marsh&price=cheap", "write an amount")]
#[case("name=Marsh&price=1.005", "at most 2 decimals")]
#[tokio::test]
async fn a_bundle_that_cannot_be_is_refused(#[case] form: &str, #[case] why: &str) {
    let app = TestApp::demo();
    app.post("/projects/1/ledger/bundles", form)
        .await
        .is(422)
        .says(why);
    app.post("/projects/1/ledger/bundles", "name=Marsh&price=12.50&all=1")
        .await
        .is(303);
    app.get("/projects/1/ledger")
        .await
        .says("Marsh")
        .says("12.50");
    app.get("/sculpts/1").await.says("or it came with");
    let with = |app: &TestApp| {
        let all = app.store.read(bundles::list).unwrap();
        all.iter().map(|b| b.sculpts).collect::<Vec<_>>()
    };
    app.post("/sculpts/1/price", "price=0&bundle=")
        .await
        .is(303);
    let before = with(&app);
    app.post("/sculpts/1/price", "price=0&bundle=1")
        .await
        .is(303);
    assert_eq!(with(&app)[0], before[0] + 1);
    app.post("/sculpts/1/price", "price=0&bundle=77")
        .await
        .is(404);
    app.post("/projects/1/ledger/bundles", "forget=1")
        .await
        .is(303);
    app.post("/projects/1/ledger/bundles", "forget=1")
        .await
        .is(404);
}

/// Amounts are written and read in the workshop's currency: without decimals, and with three.
#[tokio::test]
async fn amounts_have_the_decimals_of_their_currency() {
    let app = TestApp::demo();
    let form = |currency: &str, hour: &str, row: i64| {
        format!(
            "row_version={row}&name=Fen&currency={currency}&time_zone=UTC&layer_mm=0.05&clearance_mm=1&waste_percent=2&hands_on_minutes=30&hands_on_per_hour={hour}&copy_minutes=0.5&contact_minutes=0.1&kwh=31"
        )
    };
    let row = || {
        app.store
            .read(wembrit_store::queries::workshop::load)
            .unwrap()
            .row_version
    };
    app.post("/workshop/figures", &form("JPY", "1500", row()))
        .await
        .is(303);
    app.get("/projects/1/ledger").await.says("JPY");
    let page = app.get("/projects/1/ledger").await.body;
    let spent = figures(&page)
        .into_iter()
        .find(|f| f.0 == "ledger actual")
        .unwrap()
        .1
        .to_owned();
    assert!(!spent.contains('.'), "{spent}");
    app.post("/workshop/figures", &form("JPY", "1500.50", row()))
        .await
        .is(422)
        .says("at most 0 decimals");
    app.post("/workshop/figures", &form("KWD", "1500", row()))
        .await
        .is(303);
    let page = app.get("/projects/1/ledger").await.body;
    let spent = figures(&page)
        .into_iter()
        .find(|f| f.0 == "ledger actual")
        .unwrap()
        .1
        .to_owned();
    assert_eq!(spent.split_once('.').map(|s| s.1.len()), Some(3), "{spent}");
    app.post("/workshop/figures", &form("KWD", "1.250", row()))
        .await
        .is(303);
    let rates = app
        .store
        .read(wembrit_store::queries::workshop::load)
        .unwrap()
        .rates;
    assert_eq!(
        (
            rates.hands_on_per_hour,
            rates.copy_minutes,
            rates.contact_minutes
        ),
        (Money(1250), 0.5, 0.1)
    );
}

/// What hands were learned to take is taken over whole: for a plate, a copy and a contact, or for a plate alone.
#[tokio::test]
async fn learned_hands_are_taken_over() {
    let app = TestApp::demo();
    let rates = || {
        let w = app.store.read(wembrit_store::queries::workshop::load);
        let w = w.unwrap();
        (w.row_version, w.rates)
    };
    let page = app.get("/workshop/hands").await;
    page.says("for each contact").says("a contact</button>");
    let row = rates().0;
    let form = format!("row_version={row}&minutes=21&copy=0.6&contact=0.08");
    app.post("/workshop/hands", &form).await.is(303);
    let (row, now) = rates();
    assert_eq!(
        (now.hands_on_minutes, now.copy_minutes, now.contact_minutes),
        (21.0, 0.6, 0.08)
    );
    // By hand: 21 and 6 and 6.4.
    assert!((now.minutes([10.0, 80.0]) - 33.4).abs() < 1e-9);
    let body = app.get("/workshop/hands").await.body;
    let counted = figures(&body).into_iter().find(|f| f.0 == "hands counted");
    assert_eq!(counted.map(|f| f.1), Some("21"));
    for wrong in [
        "minutes=",
        "minutes=x&copy=1",
        "minutes=20&copy=-1",
        "minutes=20&contact=99",
    ] {
        let form = format!("row_version={row}&{wrong}");
        app.post("/workshop/hands", &form).await.is(400);
    }
    let form = format!("row_version={row}&minutes=34");
    app.post("/workshop/hands", &form).await.is(303);
    let now = rates().1;
    assert_eq!((now.hands_on_minutes, now.copy_minutes), (34.0, 0.0));
}

/// Copies fail in one quarter of a printer: the odds say so and offer to keep it clear; what is planned then says on
/// each of its sheets how many slender copies stand there all the same.
#[tokio::test]
async fn a_bad_quarter_is_kept_clear() {
    let app = TestApp::demo();
    let kept = || {
        let all = app.store.read(wembrit_store::queries::printers::list);
        all.unwrap()[0].kept_clear
    };
    let odds = app.get("/ledger/odds").await.body;
    assert!(!odds.contains("Keep it clear"));
    let on = app.store.read(|c| plates::copies_on(c, &[PlateId(1)]));
    let on = on.unwrap().remove(&PlateId(1)).unwrap();
    let dunlin = app
        .store
        .read(wembrit_store::queries::printers::list)
        .unwrap()
        .remove(0);
    let share = |at: [f64; 2]| [at[0] / dunlin.width_mm, at[1] / dunlin.depth_mm];
    let bad = on
        .iter()
        .filter(|c| Quarter::BackRight.holds(share(c.placed.at_mm)));
    let failed: Vec<String> = bad
        .map(|c| format!("failed={}", c.copy.as_ref().unwrap().id))
        .collect();
    assert!(failed.len() > 5);
    let form = format!("{}&cause=warped", failed.join("&"));
    app.post("/plates/1/rejudge", "").await.is(303);
    app.post("/plates/1/judge", &form).await.is(303);
    app.get("/ledger/odds")
        .await
        .says("back right quarter")
        .says("Keep it clear of slender parts");
    app.post("/printers/1/kept-clear", "quarter=middle")
        .await
        .is(422);
    assert_eq!(kept(), None);
    app.post("/printers/1/kept-clear", "quarter=back+right")
        .await
        .is(303);
    assert_eq!(kept(), Some(Quarter::BackRight));
    app.get("/ledger/odds")
        .await
        .says("Plans keep slender parts out of the back right quarter");
    let plan = draft(&app);
    let drafts = app.store.read(|c| plates::of_plan(c, plan)).unwrap();
    let drafts: Vec<_> = drafts.iter().filter(|p| p.printer == dunlin.id).collect();
    assert!(!drafts.is_empty());
    for plate in drafts {
        let hand = app
            .store
            .read(|c| edits::load(c, plate.id, Beside::All))
            .unwrap();
        let slender = hand.layout.in_kept_clear(&hand.copies).len();
        let sheet = app.get(&format!("/plates/{}", plate.id)).await.body;
        let told = figures(&sheet)
            .into_iter()
            .find(|f| f.0 == format!("plate {} slender", plate.id))
            .map(|f| f.1.to_owned());
        let expected = (slender > 0).then(|| slender.to_string());
        assert_eq!(told, expected, "plate {}", plate.number);
        if slender == 0 {
            assert!(sheet.contains("No slender copy stands in the back right quarter"));
        }
    }
    app.post("/printers/1/kept-clear", "quarter=").await.is(303);
    assert_eq!(kept(), None);
}
