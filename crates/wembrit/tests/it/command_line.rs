//! Errors of the command line: one line, exit code 2, never a panic.

use std::process::Command;

use rstest::rstest;

use crate::browser::Served;

#[rstest]
#[case::elsewhere(&["serve", "--data", "w.sqlite", "--listen", "0.0.0.0:0"], "passphrase")]
#[case::not_ours(&["serve", "--data", "notes.txt"], "no data file|not a data file")]
#[case::damaged(&["serve", "--data", "torn.sqlite"], "torn.sqlite is damaged; copies beside it: torn.sqlite.before-3")]
#[case::no_instance(&["pack", "notes.txt"], "no JSON")]
#[case::no_odds(&["odds", "notes.txt"], "it is no case")]
#[case::nothing_learned(&["fit", "notes.txt"], "it is no case")]
#[case::no_such_folder(&["serve", "--data", "nowhere/w.sqlite"], "nowhere/w.sqlite")]
#[case::no_archive(&["import", "notes.txt", "--data", "w.sqlite"], "no archive of Wembrit")]
#[case::nothing_to_export(&["export", "out.zip", "--data", "w.sqlite"], "is not there")]
#[case::over_a_file(&["backup", "notes.txt", "--data", "w.sqlite"], "notes.txt is there already")]
#[case::no_copy(&["restore", "notes.txt", "--data", "w.sqlite"], "not a data file")]
#[case::an_empty_copy(&["restore", "empty.sqlite", "--data", "w.sqlite"], "is an empty file")]
#[case::an_empty_copy_even_if(&["restore", "empty.sqlite", "--data", "w.sqlite", "--even-if-empty"], "is an empty file")]
#[case::no_such_copy(&["restore", "none.sqlite", "--data", "w.sqlite"], "none.sqlite")]
fn a_command_that_cannot_be_done_says_why(#[case] args: &[&str], #[case] words: &str) {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(
        folder.path().join("notes.txt"),
        "a shopping list, long enough to be a file of its own kind",
    )
    .unwrap();
    let torn = [b"SQLite format 3\0".as_slice(), &[7; 900]].concat();
    std::fs::write(folder.path().join("torn.sqlite"), torn).unwrap();
    std::fs::write(folder.path().join("torn.sqlite.before-3"), "a copy").unwrap();
    std::fs::write(folder.path().join("empty.sqlite"), "").unwrap();
    let names = || {
        let entries = std::fs::read_dir(folder.path()).unwrap();
        let mut names: Vec<_> = entries.map(|e| e.unwrap().file_name()).collect();
        names.sort();
        names
    };
    let before = names();
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(args)
        .current_dir(folder.path())
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{said}");
    assert_eq!(said.trim_end().lines().count(), 1, "{said}");
    assert!(words.split('|').any(|w| said.contains(w)), "{said}");
    if ["restore", "backup", "export"].contains(&args[0]) {
        assert_eq!(names(), before, "nothing is left behind");
    }
}

fn data(name: &str) -> String {
    format!("{}/../core/tests/data/{name}", env!("CARGO_MANIFEST_DIR"))
}

/// One case is answered by an object, several by an array.
#[test]
fn odds_are_answered() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("case.json");
    let ask = |text: String| -> serde_json::Value {
        std::fs::write(&file, text).unwrap();
        let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
            .arg("odds")
            .arg(&file)
            .output()
            .unwrap();
        serde_json::from_slice(&out.stdout).unwrap()
    };
    let case = r#"{"kind":"spares","good":6,"failed":4,"want":10,"chance":0.9}"#;
    assert_eq!(ask(case.into())["print"], 27);
    assert_eq!(ask(format!("[{case},{case}]"))[1]["print"], 27);
}

/// A workshop that is served is exported and copied meanwhile; it comes in elsewhere, and the copy goes back in the place
/// of a file, which is kept.
#[test]
fn a_workshop_goes_out_in_and_back() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let served = Served::start(&["serve", "--data", file.to_str().unwrap()]);
    let run = |args: &[&str]| {
        let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
            .args(args)
            .current_dir(folder.path())
            .output()
            .unwrap();
        let said = [out.stdout, out.stderr].concat();
        (out.status.code(), String::from_utf8(said).unwrap())
    };
    let (code, said) = run(&["export", "out.zip", "--data", "w.sqlite"]);
    assert_eq!(code, Some(0), "{said}");
    assert!(said.starts_with("workshop "), "{said}");
    assert_eq!(
        run(&["backup", "copy.sqlite", "--data", "w.sqlite"]).0,
        Some(0)
    );
    let (code, said) = run(&["restore", "copy.sqlite", "--data", "w.sqlite"]);
    assert!(
        code == Some(2) && said.contains("is served by another"),
        "{said}"
    );
    drop(served);
    let (code, said) = run(&["import", "out.zip", "--look"]);
    assert!(
        code == Some(0) && !folder.path().join("wembrit.sqlite").exists(),
        "{said}"
    );
    let (code, said) = run(&["import", "out.zip", "--data", "other.sqlite"]);
    assert!(code == Some(0) && said.contains("came in"), "{said}");
    let onto = ["restore", "copy.sqlite", "--data", "other.sqlite"];
    let (code, said) = run(&onto);
    assert!(
        code == Some(2) && said.contains("--even-if-empty"),
        "{said}"
    );
    let (code, said) = run(&[&onto[..], &["--even-if-empty"]].concat());
    assert!(
        code == Some(0) && said.contains("other.sqlite.replaced-1"),
        "{said}"
    );
    assert!(folder.path().join("other.sqlite.replaced-1").exists());
    // A copy of an older version is brought up to date, and nothing is left lying about.
    let old = format!(
        "{}/../store/tests/data/after-13.sqlite",
        env!("CARGO_MANIFEST_DIR")
    );
    let (code, said) = run(&["restore", &old, "--data", "old.sqlite"]);
    assert_eq!(code, Some(0), "{said}");
    let names = std::fs::read_dir(folder.path()).unwrap();
    let names = names.map(|e| e.unwrap().file_name().into_string().unwrap());
    let of_old: Vec<String> = names.filter(|n| n.starts_with("old.")).collect();
    assert_eq!(of_old, ["old.sqlite"]);
    // What holds somebody's work is for its owner alone.
    use std::os::unix::fs::PermissionsExt;
    for name in ["w.sqlite", "copy.sqlite", "other.sqlite", "old.sqlite"] {
        let rights = std::fs::metadata(folder.path().join(name)).unwrap();
        assert_eq!(rights.permissions().mode() & 0o777, 0o600, "{name}");
    }
    let (code, said) = run(&["export", "again.zip", "--data", "other.sqlite"]);
    assert_eq!(code, Some(0), "{said}");
    let (code, said) = run(&[
        "export",
        "no.zip",
        "--data",
        "other.sqlite",
        "--project",
        "Levy",
    ]);
    assert!(
        code == Some(2) && said.contains("no project 'Levy'"),
        "{said}"
    );
}

/// Every copy of an instance stands on a plate, and the same steps give the same answer.
#[test]
fn an_instance_is_packed_the_same_way_twice() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("squad.json");
    let parts = (1..7).map(|i| {
        let (w, d) = (6.0 + 3.0 * f64::from(i), 24.0 - 2.5 * f64::from(i));
        serde_json::json!({ "id": format!("p{i}"), "height_mm": 8.0 * f64::from(i), "copies": 4,
            "outline": [[0.0, 0.0], [w, 0.0], [w, d], [w / 2.0, d / 2.0], [0.0, d]] })
    });
    let instance = serde_json::json!({ "name": "squad", "clearance_mm": 1.5,
        "plate": { "width_mm": 110, "depth_mm": 65, "height_mm": 120, "margin_mm": 2 },
        "parts": parts.collect::<Vec<_>>() });
    std::fs::write(&file, instance.to_string()).unwrap();
    let pack = |args: &[&str]| {
        let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
            .arg("pack")
            .arg(&file)
            .args(args)
            .output()
            .unwrap();
        assert!(
            out.status.success(),
            "{}",
            String::from_utf8_lossy(&out.stderr)
        );
        serde_json::from_slice::<serde_json::Value>(&out.stdout).unwrap()
    };
    let answer = pack(&["--steps", "6", "--seed", "3"]);
    assert_eq!(answer, pack(&["--steps", "6", "--seed", "3"]));
    let plates = answer["plates"].as_array().unwrap();
    let placed = plates
        .iter()
        .map(|p| p["placements"].as_array().unwrap().len());
    assert_eq!(placed.sum::<usize>(), 24);
    let sum: f64 = plates
        .iter()
        .map(|p| p["height_mm"].as_f64().unwrap())
        .sum();
    assert!(sum >= answer["bound"]["sum_height_mm"].as_f64().unwrap() - 1e-9);
    let quick = pack(&["--seconds", "0"]);
    assert_eq!(quick["bound"], answer["bound"]);
}

/// What outside checks ask for is in the answer, and nothing else is on standard output.
#[test]
fn a_measure_is_one_json_object() {
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args([
            "measure",
            &data("h_cup_up.stl"),
            "--layer",
            "0.05",
            "--json",
        ])
        .output()
        .unwrap();
    assert!(out.status.success());
    let answer: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap();
    let number = |key: &str| answer[key].as_f64().unwrap_or(f64::NAN);
    // Figures of the file: computed with trimesh 5.2 and manifold3d 3.5.
    assert_eq!(
        (answer["triangles"].as_i64(), answer["layers"].as_i64()),
        (Some(1020), Some(500))
    );
    assert!(
        (number("volume_ml") - 4.3965).abs() < 0.005
            && (number("surface_mm2") - 4171.0).abs() < 3.0
    );
    assert_eq!(
        (answer["watertight"].as_bool(), answer["shells"].as_i64()),
        (Some(true), Some(1))
    );
    let cup = &answer["suction_cups"][0];
    assert!(
        (cup["z_from_mm"].as_f64().unwrap() - 3.0).abs() < 0.1
            && (cup["area_mm2"].as_f64().unwrap() - 314.0).abs() < 4.0
    );
    assert_eq!(answer["bounds_mm"][1].as_array().map(Vec::len), Some(3));
    assert!(answer["peak_pull"]["index"].as_f64().unwrap() > 0.5);
    for key in ["islands", "warnings"] {
        assert!(answer[key].is_array(), "{key}");
    }
}

#[rstest]
#[case::twice_the_size(&["--scale", "2"], "size       48.00 x 48.00 x 50.00 mm")]
#[case::finer_layers(&["--layer", "0.03"], "layers     834")]
#[case::in_words(&[], "watertight")]
fn a_measure_reads_its_options(#[case] options: &[&str], #[case] words: &str) {
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(["measure", &data("h_cup_up.stl")])
        .args(options)
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stdout);
    assert!(said.contains(words), "{said}");
}

#[rstest]
#[case::not_there(&["no/such/file.stl"], "No such file")]
#[case::a_folder(&["/"], "is no mesh file")]
#[case::broken(&["b_truncated.stl"], "cut off")]
#[case::layer(&["p_box.stl", "--layer", "7"], "outside 0.005 to 0.5 mm")]
#[case::scale(&["p_box.stl", "--scale", "-1"], "makes no sense|unexpected")]
fn what_cannot_be_measured_is_told_in_one_line(#[case] args: &[&str], #[case] words: &str) {
    let file = if args[0].contains('/') {
        args[0].to_owned()
    } else {
        data(args[0])
    };
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .arg("measure")
        .arg(file)
        .args(&args[1..])
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{said}");
    assert!(
        words.split('|').any(|w| said.contains(w)) && !said.contains("panicked"),
        "{said}"
    );
    assert!(out.stdout.is_empty());
}

/// Two programs on one file would take up each other's work: the second is told so, by whatever name it comes and
/// whatever lies beside the file, and the file is free again when the first is gone, however it went.
#[rstest]
#[case::by_its_name("w.sqlite")]
#[case::by_a_symlink("link.sqlite")]
#[case::by_another_name("hard.sqlite")]
fn one_program_at_a_time_serves_a_file(#[case] name: &str) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("w.sqlite");
    let args = ["serve", "--data", file.to_str().unwrap()];
    let mut first = Served::start(&args);
    let other = folder.path().join(name);
    match name {
        "link.sqlite" => std::os::unix::fs::symlink(&file, &other).unwrap(),
        "hard.sqlite" => std::fs::hard_link(&file, &other).unwrap(),
        _ => {}
    }
    let second = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(["serve", "--data", other.to_str().unwrap()])
        .args(["--listen", "127.0.0.1:0"])
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&second.stderr);
    assert_eq!(second.status.code(), Some(2), "{said}");
    assert!(said.contains("served by another Wembrit"), "{said}");
    first.kill();
    Served::start(&args);
}
