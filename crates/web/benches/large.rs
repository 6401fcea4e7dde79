//! How long the server takes to answer, and how much it sends, with 4,800 copies in one project:
//! `cargo bench -p wembrit-web --bench large`. Every page should stay under 100 ms and 300 kB.

#![allow(
    clippy::disallowed_methods,
    clippy::print_stdout,
    clippy::unwrap_used,
    reason = "a bench has a clock, prints, and stops where it cannot go on"
)]
#![allow(missing_docs, reason = "a program")]

use std::time::Instant;

use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt as _;
use tower::ServiceExt as _;
use wembrit_core::flow::{PlanScope, PlateState, SculptState};
use wembrit_core::ids::{PlanId, ProjectId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{make_plan, plan_request};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::{demand, plans, plates, resins, sculpts};
use wembrit_store::{Store, commands};
use wembrit_web::{Clock, Settings};

const NOW: i64 = 1_795_500_000_000;
const UNITS: usize = 12;
const MODELS: usize = 5;
const PARTS: usize = 4;
const QUANTITY: u32 = 20;

/// A project of 4,800 copies in 240 parts, of the demo's smaller sculpts.
fn muster(store: &Store) -> ProjectId {
    let small = store.read(sculpts::list).unwrap();
    let small: Vec<_> = small
        .into_iter()
        .filter(|(s, _)| s.state == SculptState::Measured)
        .filter(|(_, f)| f.as_ref().is_some_and(|f| f.volume_mm3 < 4_000.0))
        .map(|(s, _)| s.id)
        .collect();
    let resin = store.read(resins::list).unwrap()[0].id;
    store
        .write(|c| {
            let project = commands::muster::add_project(c, "Many")?;
            for unit in 0..UNITS {
                let change = UnitChange {
                    name: format!("Unit {unit}"),
                    priority: 1,
                    carrier: None,
                };
                let unit_id = commands::muster::add_unit(c, project, &change)?;
                for model in 0..MODELS {
                    let change = ModelChange {
                        name: format!("Model {unit}.{model}"),
                        quantity: QUANTITY,
                        base_width_mm: 40.0,
                        base_depth_mm: 40.0,
                        carries: 0,
                    };
                    let model_id = commands::muster::add_model(c, unit_id, &change)?;
                    for part in 0..PARTS {
                        let many = (unit * MODELS + model) * PARTS + part;
                        let change = PartChange {
                            name: format!("part {part}"),
                            count: 1,
                            spares: 0,
                            sculpt: Some(small[many % small.len()]),
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

/// Milliseconds at best of five, and bytes as they are before compression.
async fn page(router: &axum::Router, path: &str) {
    let (mut best, mut bytes) = (f64::INFINITY, 0);
    for _ in 0..5 {
        let request = Request::get(path)
            .header(header::HOST, "127.0.0.1")
            .body(Body::empty())
            .unwrap();
        let start = Instant::now();
        let answer = router.clone().oneshot(request).await.unwrap();
        let status = answer.status();
        let body = answer.into_body().collect().await.unwrap().to_bytes();
        best = best.min(start.elapsed().as_secs_f64() * 1000.0);
        bytes = body.len();
        assert!(status.is_success(), "{path}: {status}");
    }
    let over = if best > 100.0 || bytes > 300_000 {
        "  OVER"
    } else {
        ""
    };
    println!(
        "{best:7.0} ms {:7.0} kB  {path}{over}",
        bytes as f64 / 1000.0
    );
}

fn main() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("w.sqlite")).unwrap();
    wembrit_demo::fill(&store, NOW).unwrap();
    let project = muster(&store);
    let open = plan(&store, project);
    let settings = Settings {
        clock: Clock::Fixed(NOW),
        ..Settings::default()
    };
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .unwrap();
    let router = wembrit_web::router(wembrit_web::App::new(store.clone(), settings));
    let plate = store.read(|c| plates::of_plan(c, open)).unwrap()[0].id;
    let model = store.read(|c| wembrit_store::queries::army::load(c, project));
    let model = model.unwrap().units[0].models[0].model.id;
    let mut paths = vec![
        "/".into(),
        format!("/projects/{project}/muster"),
        format!("/projects/{project}/match"),
        format!("/projects/{project}/many"),
        format!("/projects/{project}/plates"),
        format!("/projects/{project}/plan"),
        format!("/plans/{open}/advice"),
        format!("/plates/{plate}"),
        format!("/plates/{plate}/advice"),
        format!("/models/{model}"),
        "/sculpts".into(),
        "/workshop".into(),
        "/schedule".into(),
    ];
    println!("with a draft");
    runtime.block_on(async {
        for path in &paths {
            page(&router, path).await;
        }
    });
    let start = Instant::now();
    store
        .write(|c| commands::accept_plan::accept(c, open, NOW))
        .unwrap();
    println!("accepted in {:.2} s", start.elapsed().as_secs_f64());
    let accepted = store.read(|c| plates::accepted(c, project)).unwrap();
    for plate in accepted.iter().take(accepted.len() / 2) {
        store
            .write(|c| {
                commands::run_plate::log_run(c, plate.id, NOW, NOW + 1, NOW + 1)?;
                commands::judge_plate::judge(c, plate.id, &[], NOW + 2)
            })
            .unwrap();
    }
    println!("half of it done");
    let waiting = store.read(|c| plates::accepted(c, project)).unwrap();
    let waiting = waiting.iter().find(|p| p.state == PlateState::Planned);
    let waiting = waiting.unwrap().id;
    paths.retain(|p| !p.starts_with("/plans/") && !p.ends_with("/advice"));
    paths.push(format!("/plates/{waiting}"));
    paths.push(format!("/plates/{plate}/sorting"));
    paths.push(format!("/plates/{plate}/per-copy"));
    runtime.block_on(async {
        for path in &paths {
            page(&router, path).await;
        }
    });
}
