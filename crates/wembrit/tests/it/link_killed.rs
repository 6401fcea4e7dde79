//! Wembrit or the printer killed at seeded moments while a plate is sent, started, held, stopped and taken off:
//! afterwards both agree, nothing is run twice, and what was answered is there once by the client's own log.

use std::collections::HashMap;
use std::io::{Read as _, Write as _};
use std::net::TcpStream;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use rstest::rstest;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PlateId, PrinterId, ProjectId};
use wembrit_core::link::{CommandKind, CommandState};
use wembrit_store::queries::{links, plates};
use wembrit_store::{Store, commands};

use crate::browser::{Served, demo_file};

/// Moments of one life of a data file; twenty lives are 200.
const MOMENTS: usize = 10;
const TICKED: &str = "room_c=21&tick=exposure&tick=levelled&tick=film&tick=shaken&tick=gloves+and+air&tick=lid&tick=somebody+there";
const PATIENCE: Duration = Duration::from_secs(60);

/// Sends a form; whether it was answered with yes, or with no.
fn post(base: &str, path: &str, body: &str) -> Option<bool> {
    let host = base.strip_prefix("http://")?;
    let mut stream = TcpStream::connect(host).ok()?;
    stream
        .set_read_timeout(Some(Duration::from_secs(20)))
        .ok()?;
    let length = body.len();
    write!(
        stream,
        "POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {length}\r\nConnection: close\r\n\r\n{body}"
    )
    .ok()?;
    let mut answer = String::new();
    stream.read_to_string(&mut answer).ok()?;
    answer
        .starts_with("HTTP/1.1")
        .then(|| answer.starts_with("HTTP/1.1 303"))
}

/// Plate and request: how often it was asked for, and how often it was told yes.
type Asked = HashMap<(i64, &'static str), (usize, usize)>;

/// What a client asked for.
#[derive(Default, Clone)]
struct Log(Arc<Mutex<Asked>>);

impl Log {
    fn asks(&self, base: &str, plate: PlateId, what: &'static str, body: &str) -> bool {
        let of = (plate.0, what);
        self.0.lock().unwrap().entry(of).or_default().0 += 1;
        let answer = post(base, &format!("/plates/{plate}/{what}"), body);
        if answer == Some(false) {
            // It heard, and will not: nothing was written.
            self.0.lock().unwrap().entry(of).or_default().0 -= 1;
        }
        let yes = answer == Some(true);
        if yes {
            self.0.lock().unwrap().entry(of).or_default().1 += 1;
        }
        yes
    }

    /// How often anything was told yes.
    fn yes(&self) -> usize {
        self.0.lock().unwrap().values().map(|(_, yes)| yes).sum()
    }

    fn of(&self, plate: PlateId, what: &'static str) -> (usize, usize) {
        let log = self.0.lock().unwrap();
        log.get(&(plate.0, what)).copied().unwrap_or_default()
    }
}

/// Sends, starts, holds and puts back a plate several times, then stops it and takes it off; each step until it is
/// answered with yes, or long enough.
fn work(base: &str, printer: PrinterId, all: &[PlateId], log: &Log, stop: &AtomicBool) {
    const AGAIN: [&str; 5] = ["send", "start", "pause", "resume", "put-back"];
    const LAST: [&str; 4] = ["send", "start", "stop", "done"];
    let steps: Vec<&'static str> = [&AGAIN[..]; 5].concat().into_iter().chain(LAST).collect();
    for plate in all {
        for what in &steps {
            for _ in 0..12 {
                if stop.load(Ordering::Relaxed) {
                    return;
                }
                if *what == "send" {
                    post(base, &format!("/printers/{printer}/vat"), "found=nothing");
                }
                let body = if *what == "start" { TICKED } else { "" };
                if log.asks(base, *plate, what, body) {
                    break;
                }
                std::thread::sleep(Duration::from_millis(25));
            }
        }
    }
}

fn sim(folder: &Path, at: &str) -> Served {
    let folder = folder.to_str().unwrap();
    // Fast enough that a run ends within a life, slow enough that it is met while it prints.
    let args = [
        "sim", "--data", folder, "--vat", "100000", "--travel", "400", "--speed", "2000",
    ];
    Served::start_on(at, &args)
}

fn says(base: &str) -> Option<serde_json::Value> {
    let host = base.strip_prefix("http://")?;
    let mut stream = TcpStream::connect(host).ok()?;
    write!(
        stream,
        "GET /v1/status HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n"
    )
    .ok()?;
    let mut answer = String::new();
    stream.read_to_string(&mut answer).ok()?;
    serde_json::from_str(answer.split_once("\r\n\r\n")?.1).ok()
}

/// Nothing waits for an answer, and the books say of the machine what it says of itself.
fn agree(store: &Store, printer: PrinterId, base: &str) -> bool {
    let (open, run) = store
        .read(|c| Ok((links::open(c, printer)?, links::last_run(c, printer)?)))
        .unwrap();
    let Some(says) = says(base) else {
        return false;
    };
    let number = says["job"]["number"].as_u64();
    let is_same = match (run, number) {
        (None, number) => number.is_none(),
        (Some(run), None) => run.is_over,
        // What is over in the books is told to be free: it is not yet.
        (Some(run), Some(number)) => {
            run.job.number == number && !run.is_over && says["state"] == run.state.as_str()
        }
    };
    open.is_none() && is_same
}

#[rstest]
fn both_agree_after_a_kill_at_any_moment(
    #[values(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20)] seed: u64,
) {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("shop.sqlite");
    std::fs::write(&file, demo_file()).unwrap();
    let mut printer_there = sim(&folder.path().join("sim"), "127.0.0.1:0");
    let sim_at = printer_there.base.trim_start_matches("http://").to_owned();
    let (printer, all) = {
        let store = Store::open(&file).unwrap();
        let all = store.read(|c| plates::accepted(c, ProjectId(1))).unwrap();
        let runs = |p: &Plate| p.state == PlateState::Running;
        let busy: Vec<PrinterId> = all.iter().filter(|p| runs(p)).map(|p| p.printer).collect();
        let waits = |p: &&Plate| p.state == PlateState::Planned && !busy.contains(&p.printer);
        let printer = all.iter().find(waits).unwrap().printer;
        let of = all.iter().filter(waits).filter(|p| p.printer == printer);
        let of: Vec<PlateId> = of.map(|p| p.id).collect();
        let at = format!("http://{sim_at}");
        store
            .write(|c| commands::links::connect(c, printer, &at))
            .unwrap();
        (printer, of)
    };
    let path = file.to_str().unwrap();
    let mut served = Served::start(&["serve", "--data", path]);
    let at = served.base.trim_start_matches("http://").to_owned();
    let log = Log::default();
    let stop = Arc::new(AtomicBool::new(false));
    let client = {
        let (base, all, log, stop) = (served.base.clone(), all.clone(), log.clone(), stop.clone());
        std::thread::spawn(move || {
            // One plate after another, then from the start again: what was put on is not put on twice.
            while !stop.load(Ordering::Relaxed) {
                work(&base, printer, &all, &log, &stop);
            }
        })
    };
    let mut state = seed;
    // Knuth's linear congruential numbers (MMIX, from memory): the same moments for the same seed.
    let mut below = |many: u64| {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) % many
    };
    // However slow the machine is, something has happened before the first moment.
    let until = Instant::now() + PATIENCE;
    while log.yes() == 0 {
        assert!(Instant::now() < until, "nothing was answered");
        std::thread::sleep(Duration::from_millis(5));
    }
    for moment in 0..MOMENTS {
        std::thread::sleep(Duration::from_millis(10 + below(150)));
        if below(2) == 0 {
            served.kill();
            served = Served::start_on(&at, &["serve", "--data", path]);
        } else {
            printer_there.kill();
            printer_there = sim(&folder.path().join("sim"), &sim_at);
        }
        let store = Store::beside(&file).unwrap();
        // Each goes on under load; whenever nothing is under way they agree. At the end that is waited for.
        if moment + 1 == MOMENTS {
            stop.store(true, Ordering::Relaxed);
            let until = Instant::now() + PATIENCE;
            while !agree(&store, printer, &printer_there.base) {
                assert!(
                    Instant::now() < until,
                    "they do not agree: {:?}",
                    says(&printer_there.base)
                );
                std::thread::sleep(Duration::from_millis(50));
            }
        }
    }
    client.join().unwrap();
    let base = printer_there.base.clone();
    let store = Store::beside(&file).unwrap();
    let until = Instant::now() + PATIENCE;
    while !agree(&store, printer, &base) {
        assert!(
            Instant::now() < until,
            "they do not agree: {:?}",
            says(&base)
        );
        std::thread::sleep(Duration::from_millis(50));
    }
    served.kill();
    check(&store, printer, &all, &log, &says(&base).unwrap());
}

/// Every job of the machine is one run of the books, and every request that was answered is there once.
fn check(store: &Store, printer: PrinterId, all: &[PlateId], log: &Log, says: &serde_json::Value) {
    let runs = store.read(|c| links::runs_of(c, printer)).unwrap();
    let sent: usize = all.iter().map(|p| log.of(*p, "send").1).sum();
    assert!(sent > 0, "a life in which nothing happens shows nothing");
    let mut numbers: Vec<u64> = runs.iter().map(|r| r.job.number).collect();
    numbers.sort_unstable();
    let counted: Vec<u64> = (1..=numbers.len() as u64).collect();
    assert_eq!(numbers, counted, "each job is one run: {says}");
    if let Some(number) = says["job"]["number"].as_u64() {
        assert_eq!(
            number,
            numbers.len() as u64,
            "nothing was begun that is no run"
        );
    }
    for plate in all {
        let told = store.read(|c| links::told(c, *plate)).unwrap();
        let of = |kind: CommandKind| {
            let of = told.iter().filter(|t| t.kind == kind);
            of.filter(|t| t.state != CommandState::Withdrawn).count()
        };
        for (kind, what) in [
            (CommandKind::Send, "send"),
            (CommandKind::Start, "start"),
            (CommandKind::Pause, "pause"),
            (CommandKind::Resume, "resume"),
        ] {
            let (asked, yes) = log.of(*plate, what);
            let there = of(kind);
            assert!(
                yes <= there && there <= asked,
                "{plate} {what}: {yes} {there} {asked}"
            );
        }
        // One start that was done is one run, and there is no other.
        let done = |t: &&wembrit_core::link::Command| {
            t.kind == CommandKind::Start && t.state == CommandState::Done
        };
        let runs = runs.iter().filter(|r| r.plate == *plate);
        let ended = runs.clone().filter(|r| r.is_over).count();
        assert_eq!(told.iter().filter(done).count(), runs.count());
        let (off, back) = (log.of(*plate, "done"), log.of(*plate, "put-back"));
        let (asked, yes) = (off.0 + back.0, off.1 + back.1);
        assert!(
            yes <= ended && ended <= asked,
            "{plate} over: {yes} {ended} {asked}"
        );
    }
}
