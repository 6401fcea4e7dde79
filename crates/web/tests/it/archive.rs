//! Archives and copies through the browser's doors, and one box over everything.

use rstest::rstest;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::ProjectId;
use wembrit_store::Conn;
use wembrit_store::commands::by_practice::set_up_sculpt;
use wembrit_store::queries::{army, muster, plates};

use crate::app::{Answer, NOW, TestApp};

async fn look_at(app: &TestApp, bytes: &[u8]) -> Answer {
    app.multipart("/workshop/archive", &[("archive", Some("a.zip"), bytes)])
        .await
}

/// What a page that shows an archive would take in.
fn kept(page: &Answer) -> String {
    let after = page.body.split("name=\"kept\" value=\"").nth(1);
    let kept = after.and_then(|t| t.split('"').next()).expect("it waits");
    format!("kept={kept}")
}

/// A project is fetched from one workshop, looked at in another, brought in there, and found there.
#[tokio::test(flavor = "multi_thread")]
async fn a_project_goes_from_one_workshop_to_another() {
    let app = TestApp::demo();
    app.get("/workshop/archive").await.says("Brackwater Levy");
    let archive = app.download("/projects/1/archive.zip").await.1;
    let whole = app.download("/workshop/archive/all.zip").await.1;
    assert!(archive.starts_with(b"PK") && whole.starts_with(b"PK"));
    let copy = app.download("/workshop/archive/copy.sqlite").await.1;
    assert!(copy.starts_with(b"SQLite format 3"));
    app.get("/projects/99/archive.zip").await.is(404);

    let other = TestApp::empty();
    let seen = look_at(&other, &archive).await;
    seen.is(200)
        .says("one project")
        .says("Bring it in")
        .says("data-figure=\"archive copies\">98");
    assert_eq!(
        other.store.read(muster::projects).unwrap(),
        vec![],
        "nothing is written yet"
    );
    let form = kept(&seen);
    let taken = other.post("/workshop/archive/take", &form).await;
    assert_eq!(taken.location(), "/projects/1/muster");
    other.get("/projects/1/muster").await.says("Reed-pikers");
    let all = other
        .store
        .read(|c| plates::accepted(c, ProjectId(1)))
        .unwrap();
    let done = all.iter().filter(|p| p.state == PlateState::Done).count();
    assert_eq!(done, 3);
    // It waits no more; a second time it is refused before anything is written.
    other
        .post("/workshop/archive/take", &form)
        .await
        .is(422)
        .says("choose it again");
    let seen = look_at(&other, &archive).await;
    let form = kept(&seen);
    other
        .post("/workshop/archive/take", &form)
        .await
        .is(422)
        .says("here already");
    other
        .post("/workshop/archive/take", "kept=../../etc/passwd")
        .await
        .is(422);
    let seen = look_at(&other, &whole).await;
    let form = kept(&seen);
    other
        .post("/workshop/archive/take", &form)
        .await
        .is(422)
        .says("goes into an empty one");
}

#[rstest]
#[case(b"", "hoose an archive")]
#[case(b"PK\x03\x04 nothing", "no archive of Wembrit")]
#[tokio::test]
async fn what_is_no_archive_is_said(#[case] bytes: &[u8], #[case] why: &str) {
    let app = TestApp::empty();
    look_at(&app, bytes).await.is(422).says(why);
}

/// Names by any part, copies by their mark, plates by their number, causes and notes by a word.
#[rstest]
#[case("heron", "Heron rider")]
#[case("HERON", "Heron riders")]
#[case("mark", "Nothing is called so")]
#[case("100%", "Nothing is called so")]
#[case("dunlin", "")]
#[case("", "A name, a copy")]
#[case("6", "Plate 6")]
#[case("#6", "mark 6")]
#[tokio::test]
async fn one_box_finds(#[case] words: &str, #[case] says: &str) {
    let app = TestApp::demo();
    let words = words.replace('%', "%25").replace('#', "%23");
    let page = app.get(&format!("/search?q={words}")).await;
    if says.is_empty() {
        assert_eq!(
            page.location(),
            "/printers/1",
            "the only one is shown at once"
        );
    } else {
        page.is(200).says(says);
    }
}

#[tokio::test]
async fn a_cause_leads_to_the_copies() {
    let app = TestApp::demo();
    let on = app
        .store
        .read(|c| plates::copies_on(c, &[wembrit_core::ids::PlateId(1)]))
        .unwrap();
    let failed = on
        .values()
        .flatten()
        .find_map(|c| c.copy.as_ref()?.cause.clone());
    let cause = failed.expect("the demo has a failure");
    let page = app
        .get(&format!("/search?q={}", cause.replace(' ', "+")))
        .await;
    page.is(200).says("/plates/1").says(&cause);
}

/// Sculpts are measured again in another workshop, or by a newer version: parts of which something was printed hang as
/// they did; those nobody has printed hang as the practice says.
#[tokio::test]
async fn measured_again_changes_no_recipe_of_what_was_printed() {
    let app = TestApp::demo();
    let load = || app.store.read(|c| army::load(c, ProjectId(1))).unwrap();
    let before = load();
    for (_, _, part) in before.parts() {
        if let Some(sculpt) = part.part.sculpt {
            let again = |c: &mut Conn| set_up_sculpt(c, sculpt, NOW);
            app.store.write(again).unwrap();
        }
    }
    let after = load();
    let mut changed = 0;
    for ((_, _, old), (_, _, new)) in before.parts().zip(after.parts()) {
        if old.counts.alive() > 0 {
            assert_eq!(new.recipe, old.recipe, "{}", old.part.name);
        }
        changed += usize::from(new.recipe != old.recipe);
    }
    assert!(changed > 0);
}

/// Every table that goes out can be had by itself, with as many rows as the archive says it has.
#[tokio::test]
async fn any_table_goes_out_by_itself() {
    let app = TestApp::demo();
    let page = app.get("/workshop/archive").await;
    let links: Vec<&str> = page
        .body
        .split("/workshop/archive/tables/")
        .skip(1)
        .collect();
    let names: Vec<&str> = links
        .iter()
        .filter_map(|l| l.split(".csv").next())
        .collect();
    assert!(names.len() > 50, "{names:?}");
    let whole = app.download("/workshop/archive/all.zip").await.1;
    let told = wembrit_store::archive::look(std::io::Cursor::new(whole)).unwrap();
    for name in names {
        let answer = app
            .get(&format!("/workshop/archive/tables/{name}.csv"))
            .await;
        let mut read = csv::Reader::from_reader(answer.is(200).body.as_bytes());
        let rows: Result<Vec<_>, _> = read.records().collect();
        let rows = rows.expect("rows").len() as u64;
        assert_eq!(
            rows,
            told.manifest.rows.get(name).copied().unwrap_or(0),
            "{name}"
        );
    }
    for odd in [
        "sqlite_master.csv",
        "tasks.csv",
        "copies",
        "..%2Fcopies.csv",
    ] {
        app.get(&format!("/workshop/archive/tables/{odd}"))
            .await
            .is(404);
    }
}

/// Two archives are looked at in two windows, and both can be brought in. They wait beside the data file, for its
/// owner alone, and not for ever.
#[tokio::test(flavor = "multi_thread")]
async fn two_archives_wait_beside_each_other() {
    use std::os::unix::fs::PermissionsExt;
    let app = TestApp::demo();
    let archive = app.download("/projects/1/archive.zip").await.1;
    let other = TestApp::empty();
    let [first, second] = [
        look_at(&other, &archive).await,
        look_at(&other, &archive).await,
    ];
    let folder = format!("{}.waiting", other.store.path().display());
    let files = || std::fs::read_dir(&folder).unwrap().map(|f| f.unwrap());
    for file in files() {
        assert_eq!(file.metadata().unwrap().permissions().mode() & 0o777, 0o600);
    }
    assert_eq!(files().count(), 2);
    for _ in 0..4 {
        look_at(&other, &archive).await.is(200);
    }
    assert_eq!(files().count(), 4);
    let [first, second] = [kept(&first), kept(&second)];
    let gone = other.post("/workshop/archive/take", &first).await;
    gone.is(422).says("choose it again");
    let gone = other.post("/workshop/archive/take", &second).await;
    gone.is(422);
    let last = kept(&look_at(&other, &archive).await);
    let taken = other.post("/workshop/archive/take", &last).await;
    assert_eq!(taken.location(), "/projects/1/muster");
}

/// Words that a data file cannot hold are named, and lead to the form that mends them.
#[tokio::test]
async fn bad_working_hours_can_be_corrected() {
    let app = TestApp::demo();
    let copy = app.download("/workshop/archive/copy.sqlite").await.1;
    let week = b"08:00-22:00; 08:00-22:00;";
    let at = copy.windows(week.len()).position(|w| w == week);
    let mut bad = copy;
    bad[at.expect("the week of the demo")] = b'x';
    let app = TestApp::of_file(&bad);
    app.get("/")
        .await
        .is(500)
        .says("attendance: ")
        .says("x8:00-22:00")
        .says("href=\"/attendance\"");
    let form = app.get("/attendance").await;
    form.is(200).says("08:00-22:00");
    let version = form.body.split("name=\"row_version\" value=\"").nth(1);
    let version = version.and_then(|t| t.split('"').next()).unwrap();
    let hours = "mon=18:00-22:00&tue=&wed=18:00-22:00&thu=&fri=&sat=08:00-22:00&sun=";
    let hands = "load_minutes=10&unload_minutes=10&look_minutes=10";
    let sent = format!("row_version={version}&{hours}&{hands}&otherwise=&quiet=");
    app.post("/attendance", &sent).await.is(303);
    app.get("/").await.is(200);
}
