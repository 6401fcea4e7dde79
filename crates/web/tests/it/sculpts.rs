//! A sculpt's page: findings, hollowing, prices, candidates.

use rstest::rstest;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{PartId, SculptId};
use wembrit_core::layers::{Voxels, find_hollows, measure_hollowing};
use wembrit_core::mesh::{Mesh, Solid, read_mesh, write_stl};
use wembrit_core::sculpt::picture::Side;
use wembrit_core::workshop::practice::Question;
use wembrit_store::commands;
use wembrit_store::queries::{muster, sculpts};

use crate::app::{NOW, TestApp, worked_off};
use crate::boxes;

fn named(app: &TestApp, name: &str) -> SculptId {
    let all = app.store.read(sculpts::list).unwrap();
    all.iter().find(|(s, _)| s.file_name == name).unwrap().0.id
}

/// Measures the hollows of one sculpt, as the task would.
fn with_hollows(app: &TestApp, name: &str) -> SculptId {
    let id = named(app, name);
    let sculpt = app.store.read(|c| sculpts::load(c, id)).unwrap();
    let bytes = app.store.read(|c| sculpts::bytes(c, id)).unwrap();
    let voxels = Voxels::of(&Solid::new(&read_mesh(&bytes, "a.stl").unwrap()), 1.0);
    let (found, hollowing) = (
        find_hollows(&voxels),
        measure_hollowing(&voxels, sculpt.wall_mm),
    );
    app.store
        .write(|c| commands::hollows::set(c, &sculpt, &hollowing, &found, NOW))
        .unwrap();
    id
}

#[tokio::test]
async fn a_sealed_hollow_is_loud_until_it_is_put_aside_with_a_reason() {
    let app = TestApp::demo();
    let id = with_hollows(&app, "marsh_idol.stl");
    let page = app.get(&format!("/sculpts/{id}")).await;
    page.says("finding loud")
        .says("has no way out")
        .says("Give it two drains at least")
        .says("The file is hollow");
    let key = "sealed hollow at 1.0";
    let found = page.body.split("value=\"sealed hollow").nth(1).map(|rest| {
        format!(
            "sealed hollow{}",
            rest.split('"').next().unwrap_or_default()
        )
    });
    let key = found.unwrap_or_else(|| key.to_owned());
    let form = format!("finding={}&reason=", key.replace(' ', "+"));
    app.post(&format!("/sculpts/{id}/dismiss"), &form)
        .await
        .is(422)
        .says("Say why");
    app.post(
        &format!("/sculpts/{id}/dismiss"),
        &format!("{form}poured+full+of+plaster"),
    )
    .await
    .is(303);
    let page = app.get(&format!("/sculpts/{id}")).await;
    page.says("1 put aside").says("poured full of plaster");
    assert!(!page.body.contains("finding loud"));
    app.post(&format!("/sculpts/{id}/undismiss"), &form)
        .await
        .is(303);
    app.get(&format!("/sculpts/{id}"))
        .await
        .says("finding loud");
}

#[tokio::test]
async fn one_way_out_is_not_enough() {
    let app = TestApp::demo();
    let id = with_hollows(&app, "eel_cask.stl");
    app.get(&format!("/sculpts/{id}"))
        .await
        .says("a single way out")
        .says("with 1 way out");
}

#[rstest]
#[case::a_number("wall_mm=1.5", 303, "")]
#[case::a_comma("wall_mm=1,5", 303, "")]
#[case::too_thin("wall_mm=0.1", 400, "must be from 0.5 to 20")]
#[case::no_number("wall_mm=thick", 400, "write a number")]
#[tokio::test]
async fn another_wall_is_asked_for(#[case] form: &str, #[case] status: u16, #[case] says: &str) {
    let app = TestApp::demo();
    let id = named(&app, "war_heron.stl");
    app.post(&format!("/sculpts/{id}/wall"), form)
        .await
        .is(status)
        .says(says);
    let wall = app.store.read(|c| sculpts::load(c, id)).unwrap().wall_mm;
    assert_eq!(wall, if status == 303 { 1.5 } else { 2.0 });
}

/// The advice on hollowing follows the practice.
#[tokio::test]
async fn the_practice_of_solid_figures_turns_the_advice() {
    let app = TestApp::demo();
    let id = with_hollows(&app, "siege_punt_hull.stl");
    let page = app.get(&format!("/sculpts/{id}")).await;
    page.says("Your practice keeps small figures solid")
        .says("drains")
        .says("±");
    let school = Question::Hollow.school("hollow above a size");
    app.store
        .write(|c| commands::practices::answer(c, None, Question::Hollow, school))
        .unwrap();
    let page = app.get(&format!("/sculpts/{id}")).await;
    assert!(!page.body.contains("keeps small figures solid"));
    page.says("Without drains");
}

#[tokio::test]
async fn candidates_stand_side_by_side_at_print_scale() {
    let app = TestApp::demo();
    let (body, warden) = (
        named(&app, "reed_piker_body.stl"),
        named(&app, "lantern_warden.stl"),
    );
    app.post(&format!("/sculpts/{warden}/price"), "price=9.00")
        .await
        .is(303);
    app.post(&format!("/sculpts/{warden}/price"), "price=much")
        .await
        .is(400)
        .says("Write an amount");
    let page = app
        .get(&format!("/parts/1/compare?sculpt={body}&sculpt={warden}"))
        .await;
    // 18 pikers share the price of 9.00.
    page.says("reed piker body")
        .says("(in use)")
        .says("13.3 × 12.2 × 32.1")
        .says("21.4 × 12.9 × 42.3")
        .says("0.50");
    page.says("3 of 3 parts of the model have a file")
        .says("facets may show")
        .says("on Dunlin");
    // Never more than four, and what is not there is left out.
    let many = (1..=9)
        .map(|i| format!("sculpt={i}"))
        .collect::<Vec<_>>()
        .join("&");
    let page = app.get(&format!("/parts/1/compare?{many}")).await;
    assert_eq!(
        page.body.matches("Pick this one").count() + page.body.matches("(in use)").count(),
        4
    );
    app.get("/parts/900/compare").await.is(404);

    app.post(
        "/parts/1/pick",
        &format!("sculpt={warden}&reason=a+better+face"),
    )
    .await
    .is(303);
    let part = app.store.read(|c| muster::part(c, PartId(1))).unwrap();
    assert_eq!(part.sculpt, Some(warden));
    app.get("/parts/1/compare").await.says("a better face");
    app.post("/parts/1/pick", "sculpt=nothing").await.is(404);
}

/// A box within a box is hollow beside the same box without, before its hollows are measured on cubes:
/// 40 × 24 × 18 mm with walls of 2 mm are 7.20 ml against 17.28. What asks for a look comes first.
#[tokio::test]
async fn a_shell_is_told_from_a_solid() {
    let app = TestApp::demo();
    let solid = boxes::faces([0.0; 3], [40.0, 24.0, 18.0]);
    let inner = boxes::faces([2.0; 3], [38.0, 22.0, 16.0]);
    let turned = inner.into_iter().map(|[a, b, c]| [a, c, b]);
    let shell: Vec<_> = solid.iter().copied().chain(turned).collect();
    let [shell, solid] = [shell, solid].map(|f| write_stl(&Mesh::weld(f)));
    app.upload(&[("shell.stl", &shell), ("brick.stl", &solid)])
        .await
        .is(303);
    worked_off(&app.store, &[TaskKind::Measure]).await;
    let ids = (named(&app, "shell.stl"), named(&app, "brick.stl"));
    let address = format!("/parts/1/compare?sculpt={}&sculpt={}", ids.0, ids.1);
    // Hollows are measured on cubes later; the shell is told by its shells until then.
    app.get(&address)
        .await
        .says(">hollow<")
        .says("not measured yet")
        .says("7.20")
        .says("17.28");
    let list = app.get("/sculpts/list?find=&by=open").await.body;
    let at = |id| list.find(&format!("href=\"/sculpts/{id}\"")).unwrap();
    // Its hold is a cup that pulls; on the brick there is nothing to find, though it came last.
    assert!(at(named(&app, "siege_punt_hull.stl")) < at(ids.1));
}

#[tokio::test]
async fn pictures_are_served_once_they_are_drawn() {
    let app = TestApp::demo();
    app.get("/sculpts/1/side/front").await.is(404);
    app.get("/sculpts/1/side/below").await.is(404);
    for side in Side::ALL {
        app.store
            .write(|c| commands::hollows::set_picture(c, SculptId(1), *side, b"\x89PNG"))
            .unwrap();
    }
    let (headers, body) = app.download("/sculpts/1/side/left").await;
    assert_eq!(
        (headers["content-type"].to_str().unwrap(), body.as_slice()),
        ("image/png", b"\x89PNG".as_slice())
    );
    app.get("/sculpts/1")
        .await
        .says("/sculpts/1/side/back")
        .says("base-disc");
}

/// Findings are marked at their heights on the drawing, three at most, the rest on demand.
#[tokio::test]
async fn three_findings_are_told_and_the_rest_on_demand() {
    let app = TestApp::demo();
    let id = named(&app, "levy_captain.stl");
    let page = app.get(&format!("/sculpts/{id}")).await;
    let (named, rest) = page
        .body
        .split_once(" more</summary>")
        .expect("there are more than three");
    assert_eq!(named.matches("class=\"finding").count(), 3);
    assert!(rest.matches("class=\"finding").count() >= 1);
    assert!(
        page.body.matches("sets-hours").count() >= 1,
        "a height is marked"
    );
}

/// A finding by which nothing is lost names no amount; the others do, none of them nothing.
#[tokio::test]
async fn a_finding_names_what_is_at_stake_only_where_something_is() {
    let app = TestApp::demo();
    let id = named(&app, "reed_piker_body.stl");
    let page = app.get(&format!("/sculpts/{id}")).await;
    let findings: Vec<&str> = page.body.split("<li class=\"finding").skip(1).collect();
    let staked = |words: &str| {
        let found = findings.iter().find(|f| f.contains(words));
        found
            .unwrap_or_else(|| panic!("{words} in {}", page.body))
            .split_once("</p><p>")
            .is_some_and(|(_, rest)| rest.contains("At stake: "))
    };
    assert!(staked("starts in mid-air"));
    assert!(!staked("It stands on little"));
    assert!(!page.body.contains("At stake: 0.00"));
}

/// The list by words of a name or file, and in the order that was asked for.
#[rstest]
#[case("find=reed", &["reed pike arm", "reed piker body"])]
#[case("find=PIKER++reed&by=name", &["reed piker body"])]
#[case("find=mud_base&by=tall", &["mud base"])]
#[case("find=nothing+of+the+kind", &[])]
#[tokio::test]
async fn sculpts_are_found_by_words(#[case] asked: &str, #[case] names: &[&str]) {
    let app = TestApp::demo();
    for path in ["/sculpts", "/sculpts/list"] {
        let page = app.get(&format!("{path}?{asked}")).await;
        let rows = page.body.matches("data-figure=\"sculpt ").count() / 3;
        assert_eq!(names.is_empty(), rows == 0, "{rows} rows");
        for name in names {
            page.says(name);
        }
        assert!(!page.body.contains(">siege punt hull<"));
        if names.is_empty() {
            page.says("No sculpt has these words");
        }
    }
}

#[tokio::test]
async fn sculpts_stand_in_the_order_asked_for() {
    let app = TestApp::demo();
    let names = async |by: &str| -> Vec<String> {
        let page = app.get(&format!("/sculpts?by={by}")).await;
        let links = page.body.split("<td><a href=\"/sculpts/").skip(1);
        let name = |s: &str| {
            s.split('>')
                .nth(1)
                .unwrap()
                .split('<')
                .next()
                .unwrap()
                .to_owned()
        };
        links.map(name).collect()
    };
    let (newest, by_name, large) = (
        names("new").await,
        names("name").await,
        names("large").await,
    );
    let mut sorted = by_name.clone();
    sorted.sort_by_key(|n| n.to_lowercase());
    assert_eq!(by_name, sorted);
    assert_ne!(newest, by_name);
    assert_eq!(large[0], "siege punt hull");
}
