//! How long the server takes to answer, and how much it sends, with 250, 1,000 and 5,000 copies, up to 60 units,
//! 417 models and 300 sculpts: `cargo bench -p wembrit-web --bench large`. Every page should stay under 50 ms at the
//! median and under 300 kB.
//!
//! Packing the largest takes minutes: with `WEMBRIT_LARGE` set to a folder its data files are kept there, and are
//! asked again the next time. `WEMBRIT_ONLY` asks the pages alone whose address holds it.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    clippy::unwrap_used,
    reason = "a bench has a clock, prints, and stops where it cannot go on"
)]
#![allow(missing_docs, reason = "a program")]

use std::path::{Path, PathBuf};
use std::time::Instant;

use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt as _;
use tower::ServiceExt as _;
use wembrit_core::flow::{PlanScope, Plate, PlateState, SculptState, TaskKind, TaskState};
use wembrit_core::ids::{PlanId, PlateId, ProjectId, SculptId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{make_plan, plan_request};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::sculpts::{Arrival, PackedFile};
use wembrit_store::queries::{demand, plans, plates, resins, sculpts};
use wembrit_store::{Conn, Store, StoreError, commands};
use wembrit_web::{Clock, Settings};

const NOW: i64 = 1_795_500_000_000;
/// Units and models; each model has three parts, four times.
const SIZES: [(usize, usize); 3] = [(5, 21), (12, 84), (60, 417)];
const PARTS: usize = 3;
const QUANTITY: u32 = 4;
const SCULPTS: usize = 300;

/// The demo's smaller sculpts and copies of their files that differ in a byte of their heads: as many as a large
/// workshop has.
fn shelf(store: &Store) -> Vec<SculptId> {
    let all = store.read(sculpts::list).unwrap();
    let small: Vec<_> = all
        .into_iter()
        .filter(|(s, _)| s.state == SculptState::Measured)
        .filter(|(_, f)| f.as_ref().is_some_and(|f| f.volume_mm3 < 4_000.0))
        .map(|(s, _)| s.id)
        .collect();
    let mut ids = small.clone();
    for (round, id) in (1_u8..).flat_map(|round| small.iter().map(move |id| (round, *id))) {
        if ids.len() >= SCULPTS {
            break;
        }
        let mut bytes = store.read(|c| sculpts::bytes(c, id)).unwrap();
        let options = MeasureOptions::at(LayerHeight::USUAL);
        let measured = measure_file(&bytes, "a.stl", options, &Unwatched).unwrap();
        bytes[79] = round;
        let name = format!("figure {id}-{round}.stl");
        let packed = PackedFile::new(&bytes).unwrap();
        let new = store.write(|c| {
            let arrival = commands::sculpts::take_in(c, &name, &packed, NOW)?;
            let (Arrival::New(id) | Arrival::Known(id)) = arrival;
            commands::sculpts::set_measured(c, id, LayerHeight::USUAL, &measured, NOW)?;
            let key = sculpts::task_key(&sculpts::load(c, id)?);
            commands::tasks::end_asked(c, TaskKind::Measure, &key, (TaskState::Done, ""), NOW)?;
            Ok(id)
        });
        ids.push(new.unwrap());
    }
    ids
}

/// A project of that many units and models.
fn muster(store: &Store, shelf: &[SculptId], (units, models): (usize, usize)) -> ProjectId {
    let resin = store.read(resins::list).unwrap()[0].id;
    store
        .write(|c| {
            let project = commands::muster::add_project(c, "Many")?;
            for unit in 0..units {
                let change = UnitChange {
                    name: format!("Unit {unit}"),
                    priority: 1 + unit as i64 % 5,
                    carrier: None,
                };
                let unit_id = commands::muster::add_unit(c, project, &change)?;
                for model in (unit..models).step_by(units) {
                    let change = ModelChange {
                        name: format!("Model {model}"),
                        quantity: QUANTITY,
                        base_width_mm: 40.0,
                        base_depth_mm: 40.0,
                        carries: 0,
                    };
                    let model_id = commands::muster::add_model(c, unit_id, &change)?;
                    for part in 0..PARTS {
                        let change = PartChange {
                            name: format!("part {part}"),
                            count: 1,
                            spares: 0,
                            sculpt: Some(shelf[(model * PARTS + part) % shelf.len()]),
                            option: None,
                            recipe: RecipeChange {
                                scale: 1.0,
                                resin,
                                layer: LayerHeight::from_mm(0.05).unwrap(),
                                setup: None,
                            },
                        };
                        commands::muster::add_part(c, model_id, &change, NOW)?;
                    }
                }
            }
            Ok(project)
        })
        .unwrap()
}

/// A draft of everything wanted; says how long the first plan takes.
fn plan(store: &Store, project: ProjectId) -> PlanId {
    let plan = store
        .write(|c| commands::ask_plan::ask(c, project, &PlanAsk::default(), NOW))
        .unwrap();
    let (facts, lines) = store
        .read(|c| {
            let lines = plans::demand_of(c, plan)?;
            Ok((demand::plan_facts(c, project, &lines)?, lines))
        })
        .unwrap();
    let start = Instant::now();
    let request = plan_request(&facts, &lines, &PlanScope::default());
    let computed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched).unwrap();
    println!(
        "first plan: {:.1} s, {:.1} printer hours on {} plates, {} lines left out",
        start.elapsed().as_secs_f64(),
        computed
            .plates
            .iter()
            .map(|p| p.figures.seconds)
            .sum::<f64>()
            / 3600.0,
        computed.plates.len(),
        computed.left_over.len()
    );
    let start = Instant::now();
    store
        .write(|c| commands::save_plan::set_computed(c, plan, &computed))
        .unwrap();
    println!("saved: {:.2} s", start.elapsed().as_secs_f64());
    plan
}

/// Bytes of an answer, before compression.
async fn answer(router: &axum::Router, path: &str) -> usize {
    let request = Request::get(path)
        .header(header::HOST, "127.0.0.1")
        .body(Body::empty())
        .unwrap();
    let answer = router.clone().oneshot(request).await.unwrap();
    let status = answer.status();
    let body = answer.into_body().collect().await.unwrap().to_bytes();
    assert!(status.is_success(), "{path}: {status}");
    body.len()
}

/// The middle one.
fn median(mut took: Vec<f64>) -> f64 {
    took.sort_by(f64::total_cmp);
    took[took.len() / 2]
}

/// A look at a page: milliseconds and bytes.
async fn look(router: &axum::Router, path: &str) -> (f64, usize) {
    let start = Instant::now();
    let bytes = answer(router, path).await;
    (start.elapsed().as_secs_f64() * 1000.0, bytes)
}

/// Milliseconds at the median of nine looks, and of three that are each the first after something was written.
async fn page(router: &axum::Router, path: &str, write: &dyn Fn()) {
    let (mut first, mut took, mut bytes) = (Vec::new(), Vec::new(), 0);
    for _ in 0..3 {
        write();
        first.push(look(router, path).await.0);
    }
    for _ in 0..9 {
        let (ms, all) = look(router, path).await;
        took.push(ms);
        bytes = all;
    }
    let (median, first) = (median(took), median(first));
    let over = if median > 50.0 || bytes > 300_000 {
        "  OVER"
    } else {
        ""
    };
    println!(
        "{median:7.1} ms, {first:6.1} after a write {:5.0} kB  {path}{over}",
        bytes as f64 / 1000.0
    );
}

/// Every kind of page there is, for this project.
fn paths(store: &Store, project: ProjectId, [waiting, done]: [PlateId; 2]) -> Vec<String> {
    let army = store.read(|c| wembrit_store::queries::army::load(c, project));
    let army = army.unwrap();
    let unit = &army.units[0];
    let model = unit.models[0].model.id;
    let part = unit.models[0].parts[0].part.id;
    let sculpt = unit.models[0].parts[0].part.sculpt.unwrap();
    let unit = unit.unit.id;
    let of_project = [
        "muster", "match", "many", "setups", "plates", "plan", "progress", "ledger", "roster",
        "bin", "practice",
    ];
    let of_project = of_project.map(|p| format!("/projects/{project}/{p}"));
    let of_model = ["", "/edit", "/miniatures", "/cost"];
    let of_model = of_model.map(|p| format!("/models/{model}{p}"));
    let of_part = ["", "/recipe", "/compare", "/poses"].map(|p| format!("/parts/{part}{p}"));
    let of_plate = ["", "/run", "/sorting", "/per-copy"].map(|p| format!("/plates/{waiting}{p}"));
    let alone = [
        "/",
        "/today/slip",
        "/projects",
        "/sculpts",
        "/schedule",
        "/finishing",
        "/ledger/odds",
        "/workshop",
        "/stores",
        "/stores/wear",
        "/workshop/archive",
        "/workshop/hands",
        "/search?q=model",
    ];
    let alone = alone.map(str::to_owned).into_iter();
    let odd = [
        format!("/units/{unit}"),
        format!("/units/{unit}/build"),
        format!("/sculpts/{sculpt}"),
        format!("/plates/{done}"),
        format!("/plates/{done}/sorting"),
    ];
    let all = alone.chain(of_project).chain(of_model).chain(of_part);
    all.chain(of_plate).chain(odd).collect()
}

/// The addresses to ask: all, or those that hold what `WEMBRIT_ONLY` says.
fn asked(path: &str) -> bool {
    std::env::var("WEMBRIT_ONLY").map_or(true, |only| path.contains(&only))
}

fn ask(store: &Store, project: ProjectId, paths: Vec<String>) {
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .unwrap();
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let write = || {
        store
            .write(|c| commands::projects::put_away(c, project, None))
            .unwrap();
    };
    let router = wembrit_web::router(wembrit_web::App::new(store.clone(), settings));
    runtime.block_on(async {
        // The schedule is known, as it is but for the first look after a change: this waits for it.
        answer(&router, "/schedule/ruler").await;
        for path in paths.iter().filter(|p| asked(p)) {
            page(&router, path, &write).await;
        }
    });
}

/// Two data files of an army: with a draft of all of it, and with half of it done.
fn make(
    folder: &Path,
    shelf: &dyn Fn() -> (PathBuf, Vec<SculptId>),
    size: (usize, usize),
) -> [PathBuf; 2] {
    let files = ["draft", "half"].map(|state| folder.join(format!("{state}-{}.sqlite", size.1)));
    if files.iter().all(|f| f.exists()) {
        return files;
    }
    let (shelf_file, shelf) = shelf();
    let file = folder.join("making.sqlite");
    std::fs::copy(shelf_file, &file).unwrap();
    let store = Store::open(&file).unwrap();
    let project = muster(&store, &shelf, size);
    let open = plan(&store, project);
    store.copy_to(&files[0]).unwrap();
    let start = Instant::now();
    store
        .write(|c| commands::accept_plan::accept(c, open, NOW))
        .unwrap();
    println!("accepted in {:.2} s", start.elapsed().as_secs_f64());
    let accepted = store.read(|c| plates::accepted(c, project)).unwrap();
    for (at, plate) in (NOW..).zip(accepted.iter().take(accepted.len() / 2)) {
        store
            .write(|c| {
                commands::run_plate::log_run(c, plate.id, at, at + 1, at + 1)?;
                commands::judge_plate::judge(c, plate.id, &[], NOW + 2)
            })
            .unwrap();
    }
    store.copy_to(&files[1]).unwrap();
    drop(store);
    std::fs::remove_file(file).unwrap();
    files
}

/// The project the bench made.
fn many(store: &Store) -> ProjectId {
    let all = store
        .read(wembrit_store::queries::muster::projects)
        .unwrap();
    all.iter().find(|p| p.name == "Many").unwrap().id
}

fn measure([draft, half]: [PathBuf; 2], size: (usize, usize)) {
    let copies = size.1 * PARTS * QUANTITY as usize;
    println!(
        "{copies} copies, {} units, {} models: with a draft",
        size.0, size.1
    );
    let (store, _folder) = opened(&draft);
    let project = many(&store);
    let open = store
        .read(|c| plans::open_plan(c, project))
        .unwrap()
        .unwrap()
        .id;
    ask(
        &store,
        project,
        vec![
            "/".into(),
            format!("/projects/{project}/plates"),
            format!("/plans/{open}/advice"),
        ],
    );
    on_its_way(&store, project, open);
    drop(store);
    println!("half of it done");
    let (store, _folder) = opened(&half);
    let plates = fullest_of_half(&store, project);
    ask(&store, project, paths(&store, project, plates));
}

/// A data file that may be written to, thrown away with its folder.
fn opened(file: &Path) -> (Store, tempfile::TempDir) {
    let folder = tempfile::tempdir().unwrap();
    let copy = folder.path().join("copy.sqlite");
    Store::open(file).unwrap().copy_to(&copy).unwrap();
    (Store::open(&copy).unwrap(), folder)
}

/// The plate with the most copies on it.
fn fullest(store: &Store, plates: &[Plate]) -> Plate {
    let ids: Vec<PlateId> = plates.iter().map(|p| p.id).collect();
    let on = store.read(|c| plates::copies_on(c, &ids)).unwrap();
    let most = plates.iter().max_by_key(|p| on[&p.id].len()).unwrap();
    println!("plate {}: {} copies", most.id, on[&most.id].len());
    most.clone()
}

/// The fullest plate in every state.
fn on_its_way(store: &Store, project: ProjectId, open: PlanId) {
    let plate = fullest(store, &store.read(|c| plates::of_plan(c, open)).unwrap());
    let of = |pages: &[&str]| {
        pages
            .iter()
            .map(|p| format!("/plates/{}{p}", plate.id))
            .collect()
    };
    let step = |work: &dyn Fn(&mut Conn) -> Result<(), StoreError>| store.write(work).unwrap();
    ask(store, project, of(&[""]));
    step(&|c| commands::accept_plan::accept(c, open, NOW));
    step(&|c| match plates::runs_on(c, plate.printer)? {
        Some(other) => commands::run_plate::finish(c, other, NOW, NOW),
        None => Ok(()),
    });
    step(&|c| commands::run_plate::start(c, plate.id, NOW));
    ask(store, project, of(&["", "/run"]));
    step(&|c| commands::run_plate::finish(c, plate.id, NOW, NOW));
    ask(store, project, of(&["", "/sorting"]));
    step(&|c| commands::judge_plate::judge(c, plate.id, &[], NOW));
    ask(store, project, of(&[""]));
}

/// The fullest plates that wait and that are done.
fn fullest_of_half(store: &Store, project: ProjectId) -> [PlateId; 2] {
    let all = store.read(|c| plates::accepted(c, project)).unwrap();
    [PlateState::Planned, PlateState::Done].map(|state| {
        let of: Vec<Plate> = all.iter().filter(|p| p.state == state).cloned().collect();
        fullest(store, &of).id
    })
}

fn main() {
    let thrown_away = tempfile::tempdir().unwrap();
    let folder =
        std::env::var("WEMBRIT_LARGE").map_or(thrown_away.path().to_owned(), PathBuf::from);
    std::fs::create_dir_all(&folder).unwrap();
    let made = std::cell::OnceCell::new();
    let of_demo = || {
        made.get_or_init(|| {
            let file = thrown_away.path().join("demo.sqlite");
            let store = Store::open(&file).unwrap();
            wembrit_demo::fill(&store, NOW).unwrap();
            let shelf = shelf(&store);
            let copy = thrown_away.path().join("copy.sqlite");
            store.copy_to(&copy).unwrap();
            (copy, shelf)
        })
        .clone()
    };
    for size in SIZES {
        measure(make(&folder, &of_demo, size), size);
    }
}
