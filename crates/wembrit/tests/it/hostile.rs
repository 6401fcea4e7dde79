//! Files that attack, at the command line and on a server that goes on with good ones.

use std::io::Write as _;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Duration;

use wembrit_core::flow::SculptState;
use wembrit_core::sculpt::measure::MeasureOptions;
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::{Unwatched, Watch};
use wembrit_store::commands::sculpts::PackedFile;
use wembrit_store::queries::sculpts;
use wembrit_store::{Store, commands};
use wembrit_web::apart::{ApartError, MEASURE_APART, measure_apart};

use crate::browser::Served;
use crate::hostile_files::all;

const PROGRAM: &str = env!("CARGO_BIN_EXE_wembrit");

fn good() -> Vec<u8> {
    let path = format!(
        "{}/../core/tests/data/h_cup_up.stl",
        env!("CARGO_MANIFEST_DIR")
    );
    std::fs::read(path).unwrap()
}

/// None dies of a signal, none panics: each is answered in one line.
#[test]
fn hostile_files_end_in_one_line_at_the_command_line() {
    let folder = tempfile::tempdir().unwrap();
    for file in all() {
        let path = folder.path().join(file.name);
        std::fs::write(&path, &file.bytes).unwrap();
        let out = Command::new(PROGRAM)
            .arg("measure")
            .arg(&path)
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&out.stderr);
        let code = out.status.code();
        assert!(
            code == Some(2) || !file.refused && code == Some(0),
            "{}: {code:?} {said}",
            file.what
        );
        let lines = said.trim_end().lines().count();
        assert!(
            lines == usize::from(code == Some(2)) && !said.contains("panicked"),
            "{}: {said}",
            file.what
        );
    }
}

/// Every hostile file stands before a good one in the same workshop: the good one is measured, and
/// the server still answers.
#[test]
fn a_server_goes_on_measuring_beside_hostile_files() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("w.sqlite");
    let store = Store::open(&path).unwrap();
    let mut now = 1_790_000_000_000;
    let mut take_in = |name: &str, bytes: &[u8]| {
        now += 1;
        let packed = PackedFile::new(bytes).unwrap();
        store
            .write(|c| commands::sculpts::take_in(c, name, &packed, now))
            .unwrap();
    };
    for file in all() {
        take_in(file.name, &file.bytes);
    }
    take_in("good.stl", &good());
    let mut served = Served::start(&["serve", "--data", path.to_str().unwrap()]);
    let ended = |state| matches!(state, SculptState::Measured | SculptState::Refused);
    let sculpts = loop {
        let listed = store.read(sculpts::list).unwrap();
        if listed.iter().all(|(s, _)| ended(s.state)) {
            break listed;
        }
        std::thread::sleep(Duration::from_millis(50));
    };
    assert!(std::net::TcpStream::connect(served.base.trim_start_matches("http://")).is_ok());
    served.kill();
    for (sculpt, _) in sculpts {
        let refusal = sculpt.refusal.clone().unwrap_or_default();
        if sculpt.file_name == "good.stl" {
            assert_eq!(sculpt.state, SculptState::Measured);
        } else if sculpt.state == SculptState::Refused {
            assert!(!refusal.is_empty() && !refusal.contains('\n'), "{refusal}");
        }
    }
}

/// What no bound foresees is ended by the process's own limits: it dies alone.
#[test]
fn a_process_that_takes_more_than_it_may_is_ended() {
    let bytes = good();
    let mut child = Command::new(PROGRAM)
        .arg(MEASURE_APART)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut input = child.stdin.take().unwrap();
    let question = serde_json::json!({ "file_name": "a.stl", "layer_um": 50, "scale": 1.0,
        "bytes": bytes.len(), "allowance": { "cpu_s": 4, "memory": 20_000_000 } });
    let _ = writeln!(input, "{question}").and_then(|()| input.write_all(&bytes));
    drop(input);
    let out = child.wait_with_output().unwrap();
    assert!(!out.status.success());
    let said = String::from_utf8_lossy(&out.stdout);
    assert!(!said.contains("Measured"), "{said}");
}

/// Stops at once.
struct Stopped;

impl Watch for Stopped {
    fn stopped(&self) -> bool {
        true
    }
    fn report(&self, _share: f64) {}
}

#[test]
fn measuring_apart_is_measuring_and_ends_when_it_is_stopped() {
    let options = MeasureOptions::at(LayerHeight::USUAL);
    let apart =
        |watch: &dyn Watch| measure_apart(Path::new(PROGRAM), &good(), "a.stl", options, watch);
    let here =
        wembrit_core::sculpt::measure::measure_file(&good(), "a.stl", options, &Unwatched).unwrap();
    assert_eq!(apart(&Unwatched).unwrap(), here, "to the last digit");
    assert!(matches!(apart(&Stopped), Err(ApartError::Stopped)));
    // Another program than ours answers nonsense, or nothing.
    let other = measure_apart(
        Path::new("/bin/false"),
        &good(),
        "a.stl",
        options,
        &Unwatched,
    );
    assert!(other.is_err());
}
