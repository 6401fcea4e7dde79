//! How long the server takes to answer a move on a plate of 150 copies, on loopback: the median
//! of 60 moves, in milliseconds of this machine, and as a ratio to fetching the page without a
//! change. `cargo bench -p wembrit-web --bench by_hand`.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    clippy::unwrap_used,
    reason = "a bench has a clock, prints, and stops where it cannot go on"
)]
#![allow(missing_docs, reason = "a program")]

use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Instant;

use wembrit_core::flow::PlanScope;
use wembrit_core::ids::{PlanId, PlateId, ProjectId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::layout::Change;
use wembrit_core::plan::{PlateEdit, make_plan, plan_request};
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::queries::edits::{self, Beside};
use wembrit_store::queries::{demand, plans, plates, printers};
use wembrit_store::{Store, commands};
use wembrit_web::{Clock, Settings};

const NOW: i64 = 1_795_500_000_000;
const COPIES: usize = 150;

fn request(port: u16, method: &str, path: &str, body: &str) -> Vec<u8> {
    let mut stream = TcpStream::connect(("127.0.0.1", port)).unwrap();
    write!(
        stream,
        "{method} {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nX-Fragment: 1\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{body}",
        body.len()
    )
    .unwrap();
    let mut answer = Vec::new();
    stream.read_to_end(&mut answer).unwrap();
    answer
}

fn median(mut all: Vec<f64>) -> f64 {
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}

/// The demo's printers made wide enough for so many copies.
fn widen_printers(store: &Store) {
    for printer in store.read(printers::list).unwrap() {
        let (id, version) = (printer.id, printer.row_version);
        let mut wider = PrinterChange::of(printer);
        wider.width_mm *= 1.2;
        wider.depth_mm *= 1.2;
        wider.removal_mm = 0.0;
        wider.part_pull = None;
        wider.plate_pull = None;
        store
            .write(|c| commands::printers::change(c, id, version, &wider))
            .unwrap();
    }
}

/// A draft plan of everything wanted.
fn plan(store: &Store) -> PlanId {
    let plan = store
        .write(|c| commands::ask_plan::ask(c, ProjectId(1), &PlanAsk::default(), NOW))
        .unwrap();
    let request = store
        .read(|c| {
            let lines = plans::demand_of(c, plan)?;
            let facts = demand::plan_facts(c, ProjectId(1), &lines)?;
            Ok(plan_request(&facts, &lines, &PlanScope::default()))
        })
        .unwrap();
    let computed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).unwrap();
    store
        .write(|c| commands::save_plan::set_computed(c, plan, &computed))
        .unwrap();
    plan
}

fn edit(store: &Store, plate: PlateId) -> PlateEdit {
    store.read(|c| edits::load(c, plate, Beside::All)).unwrap()
}

/// The fullest plate of a plan, filled up with spares of its smallest parts.
fn full_plate(store: &Store, plan: PlanId) -> PlateId {
    let many = |id| edit(store, id).copies.len();
    let of_plan = store.read(|c| plates::of_plan(c, plan)).unwrap();
    let ids = of_plan.iter().map(|p| p.id);
    let plate = ids.max_by_key(|id| many(*id)).unwrap();
    let mut parts: Vec<_> = edit(store, plate).layout.parts.into_values().collect();
    parts.sort_by(|a, b| a.outline.area_mm2().total_cmp(&b.outline.area_mm2()));
    for part in parts {
        while many(plate) < COPIES {
            let before = edit(store, plate).with_spares(part.id, 1);
            let add = Change::Add {
                part: part.id,
                copies: 1,
            };
            let Ok(after) = before.change(&add) else {
                break;
            };
            let spare = (part.id, 1);
            let save = commands::edit_plate::save_spares;
            store
                .write(|c| save(c, &before, spare, &after, "spares", NOW))
                .unwrap();
        }
    }
    plate
}

/// Serves a store on loopback; its port.
fn serve(runtime: &tokio::runtime::Runtime, store: &Store) -> u16 {
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let listener = runtime
        .block_on(tokio::net::TcpListener::bind("127.0.0.1:0"))
        .unwrap();
    let port = listener.local_addr().unwrap().port();
    let app = wembrit_web::App::new(store.clone(), settings);
    runtime.spawn(async move {
        axum::serve(listener, wembrit_web::router(app))
            .await
            .unwrap();
    });
    port
}

/// Milliseconds of every move that held, and of the page after each.
fn measure(port: u16, store: &Store, plate: PlateId) -> (Vec<f64>, Vec<f64>) {
    let (mut moves, mut pages) = (Vec::new(), Vec::new());
    for step in 0..2000 {
        if moves.len() >= 60 {
            break;
        }
        let copies = edit(store, plate).copies;
        let piece = copies[step % copies.len()];
        // By a hundredth of a millimetre one way or the other: what is in the way is answered
        // sooner, and does not count.
        let angle = step as f64;
        let body = format!(
            "do=move&key={}&x={}&y={}&turn={}",
            piece.key,
            piece.at_mm[0] + 0.01 * angle.cos(),
            piece.at_mm[1] + 0.01 * angle.sin(),
            piece.rotation_deg
        );
        let start = Instant::now();
        let answer = request(port, "POST", &format!("/plates/{plate}/change"), &body);
        let taken = start.elapsed().as_secs_f64() * 1000.0;
        if !answer.starts_with(b"HTTP/1.1 200") {
            continue;
        }
        moves.push(taken);
        let start = Instant::now();
        request(port, "GET", &format!("/plates/{plate}"), "");
        pages.push(start.elapsed().as_secs_f64() * 1000.0);
    }
    (moves, pages)
}

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
    wembrit_demo::fill(&store, NOW).unwrap();
    widen_printers(&store);
    let plate = full_plate(&store, plan(&store));
    let copies = edit(&store, plate).copies.len();
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .unwrap();
    let port = serve(&runtime, &store);
    let (moves, pages) = measure(port, &store, plate);
    let held = moves.len();
    let (moved, page) = (median(moves), median(pages));
    println!(
        "{copies} copies: {moved:.0} ms from move to answer at the median ({held} moves that held), {:.2} times a page of {page:.0} ms",
        moved / page
    );
}
