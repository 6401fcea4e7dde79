//! An archive goes out, comes in elsewhere, and goes out the same; what cannot be one is refused, and nothing is written.

use std::collections::BTreeMap;
use std::io::{Cursor, Read, Write};

use proptest::prelude::*;
use rstest::rstest;
use serde_json::Value;
use wembrit_core::army::miniatures::Arrived;
use wembrit_core::ids::{PrinterId, ProjectId, SculptId};
use wembrit_core::units::Money;
use wembrit_core::workshop::Printer;
use wembrit_store::archive::{Scope, bring_in, look, write};
use wembrit_store::commands::miniatures::{Coming, come, put};
use wembrit_store::commands::printers::{self, PrinterChange};
use wembrit_store::commands::{accept_plan, judge_plate, run_plate};
use wembrit_store::queries::{self, army, muster, plates, sculpts};
use wembrit_store::{Conn, Store, StoreError};
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

use crate::fresh::{Fresh, NOW, measure};

const HOUR: i64 = 3_600_000;

/// An army with a printed plate, of which two are put together, and one copy that was bought.
fn printed() -> Fresh {
    let fresh = Fresh::new(5);
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| {
            accept_plan::accept(c, plan, NOW)?;
            let plate = plates::accepted(c, fresh.project)?[0].id;
            run_plate::log_run(c, plate, NOW, NOW + HOUR, NOW + HOUR)?;
            judge_plate::judge(c, plate, &[], NOW)?;
            put(c, fresh.model, 2, NOW)?;
            let coming = Coming {
                part: fresh.part,
                how: Arrived::Bought,
                copies: 1,
                each: Money(350),
                note: "\"quoted\", and an ü".into(),
            };
            come(c, &coming, NOW).map(drop)
        })
        .unwrap();
    fresh
}

fn out(store: &Store, scope: Scope) -> Vec<u8> {
    let mut bytes = Cursor::new(Vec::new());
    store.read(|c| write(c, scope, NOW, &mut bytes)).unwrap();
    bytes.into_inner()
}

fn into(store: &Store, archive: &[u8]) -> Result<Vec<ProjectId>, String> {
    let mut contents = look(Cursor::new(archive)).map_err(|e| e.to_string())?;
    let brought = store.write(|c: &mut Conn| bring_in(c, &mut contents, NOW + HOUR));
    brought.map(|b| b.projects).map_err(|e| e.to_string())
}

fn files(archive: &[u8]) -> BTreeMap<String, Vec<u8>> {
    let mut zip = ZipArchive::new(Cursor::new(archive)).unwrap();
    (0..zip.len())
        .map(|i| {
            let mut file = zip.by_index(i).unwrap();
            let mut bytes = Vec::new();
            file.read_to_end(&mut bytes).unwrap();
            (file.name().unwrap().into_owned(), bytes)
        })
        .collect()
}

fn zipped(files: &BTreeMap<String, Vec<u8>>) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        zip.start_file(name, SimpleFileOptions::default()).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn empty() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("other.sqlite")).unwrap();
    (folder, store)
}

/// Tables of an archive; without ids where these may differ.
fn tables(archive: &[u8], ids: bool) -> BTreeMap<String, Vec<Value>> {
    let tables = files(archive)
        .into_iter()
        .filter(|(n, _)| n.starts_with("tables/"));
    tables
        .map(|(name, bytes)| {
            let mut rows: Vec<Value> = serde_json::from_slice(&bytes).unwrap();
            for row in &mut rows {
                if !ids {
                    row.as_object_mut().unwrap().remove("id");
                }
            }
            (name, rows)
        })
        .collect()
}

/// Out, into an empty workshop, measured there, and out again: equal to the last digit, numbers and all.
#[test]
fn a_workshop_moves_whole() {
    let fresh = printed();
    let first = out(&fresh.store, Scope::Workshop);
    let (_folder, other) = empty();
    into(&other, &first).unwrap();
    assert_eq!(other.read(sculpts::list).unwrap().len(), 1);
    measure(&other, SculptId(fresh.sculpt.0)).unwrap();
    let again = out(&other, Scope::Workshop);
    assert_eq!(tables(&again, true), tables(&first, true));
    let meshes = |all: &[u8]| -> Vec<Vec<u8>> {
        let meshes = files(all)
            .into_iter()
            .filter(|(n, _)| n.starts_with("meshes/"));
        meshes.map(|(_, b)| b).collect()
    };
    assert_eq!(meshes(&again), meshes(&first));
    let army = other.read(|c| army::load(c, fresh.project)).unwrap();
    assert_eq!(army.progress.complete, 5);
    assert_eq!(
        army,
        fresh.store.read(|c| army::load(c, fresh.project)).unwrap()
    );
    let why = into(&other, &first).unwrap_err();
    assert!(why.contains("goes into an empty one"), "{why}");
}

/// A project goes beside another one that shares its printer and sculpt; marks go on; twice it does not come.
#[test]
fn a_project_comes_beside_others() {
    let fresh = printed();
    let project = out(&fresh.store, Scope::Project(fresh.project));
    assert!(!files(&project).contains_key("tables/workshop.json"));
    let (_folder, other) = empty();
    let came = into(&other, &project).unwrap();
    assert_eq!(came.len(), 1);
    measure(&other, SculptId(1)).unwrap();
    let again = out(&other, Scope::Project(came[0]));
    assert_eq!(tables(&again, false), tables(&project, false));
    assert!(into(&other, &project).unwrap_err().contains("here already"));
    // Into a workshop with an army of its own: what is shared is shared, by the bytes of the sculpt.
    let host = printed();
    let came = into(&host.store, &project).unwrap();
    let army = host.store.read(|c| army::load(c, came[0])).unwrap();
    assert_eq!((army.progress.complete, army.progress.models), (5, 5));
    assert_eq!(host.store.read(sculpts::list).unwrap().len(), 1);
    assert_eq!(host.store.read(muster::projects).unwrap().len(), 2);
    let on = host.store.read(|c| {
        let plates = plates::accepted(c, came[0])?;
        plates::copies_of(c, plates[0].id)
    });
    let marks: Vec<i64> = on
        .unwrap()
        .iter()
        .filter_map(|c| Some(c.copy.as_ref()?.mark))
        .collect();
    assert_eq!(marks, [7, 8, 9, 10, 11], "six were given here before");
    assert!(matches!(
        fresh.store.read(|c| write(
            c,
            Scope::Project(ProjectId(99)),
            NOW,
            Cursor::new(Vec::new())
        )),
        Err(StoreError::NotFound { .. })
    ));
}

fn named_twice(files: &mut Files) {
    let mut manifest: Value = serde_json::from_slice(&files["wembrit.json"]).unwrap();
    let all = manifest["files"].as_array_mut().unwrap();
    all.push(all[0].clone());
    files.insert(
        "wembrit.json".into(),
        serde_json::to_vec(&manifest).unwrap(),
    );
}

type Files = BTreeMap<String, Vec<u8>>;
type Spoil = fn(&mut Files);

fn change(files: &mut BTreeMap<String, Vec<u8>>, name: &str, from: &str, to: &str) {
    let text = String::from_utf8(files[name].clone()).unwrap();
    assert!(text.contains(from), "{text}");
    files.insert(name.into(), text.replacen(from, to, 1).into_bytes());
}

/// A changed table with the hash that fits it.
fn forged(files: &mut BTreeMap<String, Vec<u8>>, table: &str, from: &str, to: &str) {
    let name = format!("tables/{table}.json");
    change(files, &name, from, to);
    rehash(files, &name);
}

/// The manifest says of a file what is in it now.
fn rehash(files: &mut Files, name: &str) {
    let mut manifest: Value = serde_json::from_slice(&files["wembrit.json"]).unwrap();
    for held in manifest["files"].as_array_mut().unwrap() {
        if held["name"] == name {
            held["bytes"] = files[name].len().into();
            held["blake3"] = blake3::hash(&files[name]).to_hex().to_string().into();
        }
    }
    files.insert(
        "wembrit.json".into(),
        serde_json::to_vec(&manifest).unwrap(),
    );
}

fn larger_than_any(files: &mut Files) {
    set(files, "models", "quantity", 5000.into());
    set(files, "parts", "count", 500.into());
}

/// A table whose first row holds another value, with the hash that fits it.
fn set(files: &mut Files, table: &str, column: &str, value: Value) {
    let name = format!("tables/{table}.json");
    let mut rows: Value = serde_json::from_slice(&files[&name]).unwrap();
    let row = rows[0].as_object_mut().unwrap();
    assert!(
        row.insert(column.into(), value).is_some(),
        "{table}.{column}"
    );
    files.insert(name.clone(), serde_json::to_vec(&rows).unwrap());
    rehash(files, &name);
}

#[rstest]
#[case::climbing(|f: &mut Files| drop(f.insert("../evil".into(), vec![1])), "'../evil'")]
#[case::absolute(|f: &mut Files| drop(f.insert("/etc/passwd".into(), vec![1])), "'/etc/passwd'")]
#[case::inflated(|f: &mut Files| drop(f.insert("tables/units.json".into(), vec![b' '; 70 << 20])), "larger than anything")]
#[case::shrunk(|f: &mut Files| drop(f.insert(format!("meshes/{}", "a".repeat(64)), vec![0; 40 << 20])), "larger than anything")]
#[case::newer(|f: &mut Files| change(f, "wembrit.json", "\"format\": 1", "\"format\": 2"), "format 2")]
#[case::other_rows(|f: &mut Files| change(f, "wembrit.json", "\"units\": 1", "\"units\": 2"), "says 2")]
#[case::other_tables(|f: &mut Files| change(f, "wembrit.json", "\"units\": 1", "\"unit\": 1"), "other tables")]
#[case::no_manifest(|f: &mut Files| drop(f.remove("wembrit.json")), "no wembrit.json")]
#[case::other_hash(|f: &mut Files| change(f, "tables/models.json", "Piker", "Hiker"), "hash is another")]
#[case::more_files(|f: &mut Files| drop(f.insert("tables/wears.json".into(), b"[]".to_vec())), "does not name")]
#[case::named_twice(named_twice, "names one twice")]
#[case::missing_mesh(|f: &mut Files| f.retain(|n, _| !n.starts_with("meshes/")), "does not name")]
#[case::unknown_column(|f: &mut Files| forged(f, "models", "\"quantity\"", "\"quantitty\""), "does not know")]
#[case::wrong_kind(|f: &mut Files| forged(f, "models", "\"quantity\":5", "\"quantity\":\"five\""), "holds what it cannot")]
#[case::unknown_word(|f: &mut Files| forged(f, "copies", "\"stage\":\"good\"", "\"stage\":\"glued\""), "cannot be")]
#[case::leads_nowhere(|f: &mut Files| forged(f, "parts", "\"sculpt_id\":\"", "\"sculpt_id\":\"x"), "points to a row")]
#[case::not_json(|f: &mut Files| forged(f, "units", "[", "{"), "cannot be read")]
#[case::the_last_mark(|f: &mut Files| set(f, "copies", "mark", i64::MAX.into()), "copies.mark holds what it cannot")]
#[case::the_last_number(|f: &mut Files| set(f, "copies", "id", i64::MAX.into()), "copies.id holds what it cannot")]
#[case::the_last_version(|f: &mut Files| set(f, "recipe_versions", "version", i64::MAX.into()), "recipe_versions.version holds")]
#[case::no_army_is_so_large(|f: &mut Files| set(f, "models", "quantity", (1_i64 << 62).into()), "models.quantity is out of its range")]
#[case::nor_any_model(|f: &mut Files| set(f, "parts", "count", (1_i64 << 62).into()), "parts.count is out of its range")]
#[case::nor_all_of_it_together(larger_than_any, "would take 2500000 copies in all")]
#[case::nor_any_printer(|f: &mut Files| set(f, "printers", "width_mm", 1e308.into()), "printers.width_mm is out of its range")]
#[case::when_somebody_is_there(|f: &mut Files| set(f, "attendance", "weekly", "x".into()), "attendance: 'x' is no window")]
#[case::a_scope_nobody_knows(|f: &mut Files| set(f, "plans", "scope", "{".into()), "cannot read")]
#[case::before_all_time(|f: &mut Files| set(f, "runs", "started_at_ms", i64::MIN.into()), "runs.started_at_ms is out of its range")]
fn what_is_no_archive_is_refused(#[case] spoil: Spoil, #[case] why: &str) {
    let fresh = printed();
    let mut all = files(&out(&fresh.store, Scope::Workshop));
    spoil(&mut all);
    let (_folder, other) = empty();
    let said = into(&other, &zipped(&all)).unwrap_err();
    assert!(said.contains(why) && !said.contains('\n'), "{said}");
    assert_eq!(other.read(muster::projects).unwrap(), vec![]);
    assert_eq!(other.read(sculpts::list).unwrap().len(), 0);
    assert!(
        into(&other, b"PK no archive")
            .unwrap_err()
            .contains("no archive of Wembrit")
    );
}

/// A copy that is made while others write opens whole, every time.
#[test]
fn copies_are_whole_under_writes() {
    let fresh = printed();
    let path = fresh.folder.path().join("w.sqlite");
    let stop = std::sync::atomic::AtomicBool::new(false);
    std::thread::scope(|threads| {
        threads.spawn(|| {
            let mut n = 0;
            while !stop.load(std::sync::atomic::Ordering::Relaxed) {
                n += 1;
                let coming = Coming {
                    part: fresh.part,
                    how: Arrived::Gifted,
                    copies: 3,
                    each: Money(n),
                    note: String::new(),
                };
                fresh.store.write(|c| come(c, &coming, NOW)).unwrap();
            }
        });
        for n in 0..30 {
            let copy = fresh.folder.path().join(format!("copy-{n}.sqlite"));
            Store::beside(&path).unwrap().copy_to(&copy).unwrap();
            let opened = Store::open(&copy).unwrap();
            opened.check().unwrap();
            let army = opened.read(|c| army::load(c, fresh.project)).unwrap();
            // Three come at once or none: five were printed, one came first.
            let came = army.units[0].models[0].parts[0].counts.came;
            assert_eq!(came % 3, 1, "{came}");
        }
        stop.store(true, std::sync::atomic::Ordering::Relaxed);
    });
    assert!(Store::beside(&fresh.folder.path().join("none.sqlite")).is_err());
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 4, ..ProptestConfig::default() })]

    /// Any number and any words go out and come in to the last bit.
    #[test]
    fn numbers_keep_every_bit(all in prop::collection::vec((any::<u64>(), "\\PC{0,40}"), 60)) {
        let fresh = Fresh::new(1);
        let mut expected = Vec::new();
        for (bits, words) in all {
            let real = f64::from_bits(bits).abs();
            if real <= 100_000.0 {
                let printer = Printer::assumed(PrinterId(1), &words, [130.0, 80.0, 160.0]);
                let change = PrinterChange { startup_s: real, ..PrinterChange::of(printer) };
                fresh.store.write(|c| printers::add(c, &change)).unwrap();
                expected.push((words, real.to_bits()));
            }
        }
        let (_folder, other) = empty();
        into(&other, &out(&fresh.store, Scope::Workshop)).unwrap();
        let came = other.read(queries::printers::list).unwrap().into_iter().skip(1);
        let came: Vec<_> = came.map(|p| (p.name, p.startup_s.to_bits())).collect();
        prop_assert_eq!(came, expected);
    }
}

/// Values that somebody may have put in place of another.
fn nasty() -> impl Strategy<Value = Value> {
    let numbers = [0, 1, -1, 255, 1 << 31, 1 << 53, 1 << 62, i64::MAX, i64::MIN];
    let reals = [0.5, -0.5, 1e-308, 1e9, 1e15, 1e308, -1e308];
    let words = [
        "",
        "x",
        "-1",
        "1e999",
        "{",
        "[]",
        "[[1e308]]",
        "\u{0}",
        "ß\u{202e}\n",
        "' OR 1",
    ];
    let texts = prop::sample::select(words.to_vec()).prop_map(Value::from);
    prop_oneof![
        prop::sample::select(numbers.to_vec()).prop_map(Value::from),
        prop::sample::select(reals.to_vec()).prop_map(Value::from),
        texts,
        (1_usize..40_000).prop_map(|n| "w".repeat(n).into()),
        Just(Value::Null),
        Just(Value::Bool(true)),
        Just(serde_json::json!([1])),
        any::<i64>().prop_map(Value::from),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// Whatever stands in whichever place of an archive: it comes in and goes out again, or is refused in one line of
    /// a sensible length and leaves nothing.
    #[test]
    fn hostile_values_come_in_whole_or_not_at_all(at in any::<prop::sample::Index>(), value in nasty()) {
        static ARCHIVE: std::sync::LazyLock<Files> =
            std::sync::LazyLock::new(|| files(&out(&printed().store, Scope::Workshop)));
        let mut places = Vec::new();
        for (name, text) in ARCHIVE.iter().filter(|(n, _)| n.starts_with("tables/")) {
            let rows: Vec<serde_json::Map<String, Value>> = serde_json::from_slice(text).unwrap();
            let table = name["tables/".len()..].trim_end_matches(".json");
            places.extend(rows[0].keys().map(|column| (table.to_owned(), column.clone())));
        }
        let (table, column) = at.get(&places);
        let mut all = ARCHIVE.clone();
        set(&mut all, table, column, value);
        let (_folder, other) = empty();
        match into(&other, &zipped(&all)) {
            Ok(_) => {
                let again = out(&other, Scope::Workshop);
                let (_folder, third) = empty();
                prop_assert!(into(&third, &again).is_ok(), "{table}.{column}");
            }
            Err(why) => {
                prop_assert!(why.len() < 50_000 && !why.contains('\n'), "{why}");
                prop_assert_eq!(other.read(muster::projects).unwrap(), vec![]);
            }
        }
    }
}
