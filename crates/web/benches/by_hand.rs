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
use wembrit_core::ids::ProjectId;
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::layout::Change;
use wembrit_core::plan::{make_plan, plan_request};
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

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
    wembrit_demo::fill(&store, NOW).unwrap();
    // Wide enough for so many.
    for printer in store.read(printers::list).unwrap() {
        let wider = PrinterChange {
            name: printer.name,
            kind: printer.kind,
            width_mm: printer.width_mm * 1.2,
            depth_mm: printer.depth_mm * 1.2,
            height_mm: printer.height_mm,
            margin_mm: printer.margin_mm,
            startup_s: printer.startup_s,
            pixel_um: 35,
            removal_mm: 0.0,
            part_pull: None,
            plate_pull: None,
            assumed: String::new(),
        };
        store
            .write(|c| commands::printers::change(c, printer.id, printer.row_version, &wider))
            .unwrap();
    }
    let plan = store
        .write(|c| commands::ask_plan::ask(c, ProjectId(1), &PlanAsk::default(), NOW))
        .unwrap();
    let request_of = store
        .read(|c| {
            let lines = plans::demand_of(c, plan)?;
            let facts = demand::plan_facts(c, ProjectId(1), &lines)?;
            Ok(plan_request(&facts, &lines, &PlanScope::default()))
        })
        .unwrap();
    let computed = make_plan(&request_of, PackSearch::AT_ONCE, &Unwatched).unwrap();
    store
        .write(|c| commands::save_plan::set_computed(c, plan, &computed))
        .unwrap();
    // The fullest plate, filled up with spares of its smallest parts.
    let of_plan = store.read(|c| plates::of_plan(c, plan)).unwrap();
    let edit = |id| store.read(|c| edits::load(c, id, Beside::All)).unwrap();
    let many = |id| edit(id).copies.len();
    let plate = of_plan
        .iter()
        .map(|p| p.id)
        .max_by_key(|id| many(*id))
        .unwrap();
    let mut parts: Vec<_> = edit(plate).layout.parts.into_values().collect();
    parts.sort_by(|a, b| a.outline.area_mm2().total_cmp(&b.outline.area_mm2()));
    for part in parts {
        while many(plate) < COPIES {
            let before = edit(plate).with_spares(part.id, 1);
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
    let copies = many(plate);

    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .unwrap();
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

    let (mut moves, mut pages) = (Vec::new(), Vec::new());
    for step in 0..2000 {
        if moves.len() >= 60 {
            break;
        }
        let copies = edit(plate).copies;
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
    let held = moves.len();
    let (moved, page) = (median(moves), median(pages));
    println!(
        "{copies} copies: {moved:.0} ms from move to answer at the median ({held} moves that held), {:.2} times a page of {page:.0} ms",
        moved / page
    );
}
