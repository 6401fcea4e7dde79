//! What waiting costs, and what is best done in the minutes there are, as the day sheet tells it.

use rstest::rstest;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::ProjectId;
use wembrit_store::commands;
use wembrit_store::queries::{army, muster, plates};

use crate::app::{NOW, TestApp};
use crate::pages::draft;

/// The first thing on a sheet, and whether something stands on it.
fn first(body: &str) -> &str {
    let lines = body.split("<strong>").nth(1);
    lines
        .and_then(|l| l.split("</strong>").next())
        .unwrap_or("")
}

/// The sheet tells what waiting costs; what was put on waits no more, and comes off next.
#[tokio::test]
async fn what_waits_costs_until_it_is_done() {
    let app = TestApp::demo();
    let all = app.store.read(|c| plates::accepted(c, ProjectId(1)));
    let all = all.unwrap();
    let waits = all.iter().find(|p| p.state == PlateState::Planned).unwrap();
    let line = format!("Start plate {} on", waits.number);
    app.get("/").await.is(200).says("I have").says(&line);
    let told = app.get("/today/slip").await;
    told.says("What waiting till")
        .says(&line)
        .says(" later")
        .says(" idle");
    // A look comes before all that only costs time.
    assert!(
        first(&told.body).starts_with("Look at plate"),
        "{}",
        told.body
    );
    let hour = 3_600_000;
    app.store
        .write(|c| commands::run_plate::log_run(c, waits.id, NOW - 2 * hour, NOW - hour, NOW))
        .unwrap();
    let told = app.get("/today/slip").await;
    assert!(!told.body.contains(&line));
    told.says(&format!("Plate {}: drip off", waits.number));
}

/// The plate that Today has started next on a free printer is the one that the schedule prints next there,
/// whatever their numbers.
#[tokio::test(flavor = "multi_thread")]
async fn the_next_start_is_the_schedules() {
    let app = TestApp::demo();
    let plan = draft(&app);
    let all = app.store.write(|c| {
        commands::accept_plan::accept(c, plan, NOW)?;
        plates::accepted(c, ProjectId(1))
    });
    let all = all.unwrap();
    let in_state = |state| all.iter().filter(move |p| p.state == state);
    let runs: Vec<_> = in_state(PlateState::Running).map(|p| p.printer).collect();
    let free = |p: &&Plate| !runs.contains(&p.printer);
    let first = in_state(PlateState::Planned).find(|p| {
        let on_it = in_state(PlateState::Planned).filter(|q| q.printer == p.printer);
        free(p) && on_it.count() > 1
    });
    let first = first.expect("a free printer with two plates");
    let start = format!("Start plate {} on", first.number);
    // Later it is not the next one any more, though its number stays the lowest.
    let later = NOW + 3 * 86_400_000;
    app.store
        .write(|c| commands::move_plate::move_plate(c, first.id, first.printer, Some(later)))
        .unwrap();
    app.get("/schedule/ruler").await.is(200);
    let told = app.get("/today/slip").await;
    assert!(!told.body.contains(&start), "{start}");
    let rest = in_state(PlateState::Planned).filter(|p| p.printer == first.printer);
    let starts = rest
        .filter(|p| told.body.contains(&format!("Start plate {} on", p.number)))
        .count();
    assert_eq!(starts, 1);
}

#[rstest]
#[case::best("minutes=300&till=23:00", "Best done in 300 min")]
#[case::too_short("minutes=1&till=23:00", "Nothing that can be done in 1 min")]
#[case::no_number("minutes=some&till=18:00", "how many minutes")]
#[case::none_at_all("minutes=0&till=18:00", "how many minutes")]
#[case::a_day("minutes=601&till=18:00", "how many minutes")]
#[case::no_time("minutes=40&till=25:00", "such as 18:00")]
#[case::nothing_said("minutes=40&till=", "such as 18:00")]
#[case::words("minutes=40&till=%3Cscript%3E", "such as 18:00")]
#[tokio::test]
async fn minutes_are_asked(#[case] asked: &str, #[case] says: &str) {
    let app = TestApp::demo();
    for path in ["/?", "/today/slip?"] {
        app.get(&format!("{path}{asked}")).await.is(200).says(says);
    }
}

/// A unit alone, and a model, are what they are in the whole army.
#[tokio::test]
async fn a_unit_alone_is_what_it_is_in_its_army() {
    let app = TestApp::demo();
    let whole = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    assert!(whole.units.len() > 5);
    for unit in &whole.units {
        let alone = app.store.read(|c| army::unit(c, unit.unit.id)).unwrap();
        assert_eq!(&alone, unit);
        for model in &unit.models {
            let alone = app.store.read(|c| army::model(c, model.model.id)).unwrap();
            assert_eq!((&alone.0, &alone.1), (&unit.unit, model));
        }
    }
    let models = whole.units.iter().flat_map(|u| &u.models);
    let named: Vec<_> = models
        .filter(|m| !m.parts.is_empty())
        .map(|m| (m.model.id, m.model.name.clone()))
        .collect();
    let kits = app.store.read(|c| muster::with_kits(c, ProjectId(1)));
    assert_eq!(kits.unwrap(), named);
}

/// A box for each step of each model, ticked as far as each miniature is.
#[tokio::test]
async fn a_build_sheet_has_boxes_to_tick() {
    let app = TestApp::demo();
    let whole = app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let unit = &whole.units[0];
    let path = format!("/units/{}/build", unit.unit.id);
    let ticked = |body: &str| {
        (
            body.matches(">open</span>").count(),
            body.matches(">done</span>").count(),
        )
    };
    let before = app.get(&path).await;
    before.is(200).says(&unit.models[0].model.name).says("<svg");
    let (open, done) = ticked(&before.body);
    let many: u32 = unit.models.iter().map(|m| m.model.quantity).sum();
    assert_eq!(open + done, many as usize * 4);
    let model = unit
        .models
        .iter()
        .find(|m| m.progress.complete > 1)
        .unwrap()
        .model
        .id;
    app.post(&format!("/models/{model}/miniatures"), "most=2")
        .await
        .is(303);
    let made = app.get(&format!("/models/{model}/miniatures")).await;
    let ids: Vec<&str> = made.body.split("name=\"which\" value=\"").skip(1).collect();
    let ids: Vec<String> = ids
        .iter()
        .map(|t| format!("which={}", t.split('"').next().unwrap_or("")))
        .collect();
    let form = format!("step=primed&{}", ids.join("&"));
    app.post(&format!("/models/{model}/miniatures/step"), &form)
        .await
        .is(303);
    let after = ticked(&app.get(&path).await.body);
    assert!(after.1 > done, "{after:?}");
    assert_eq!(after.0 + after.1, open + done);
    app.get("/units/9999/build").await.is(404);
}
