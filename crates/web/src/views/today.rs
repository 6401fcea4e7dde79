//! The day sheet: what to do next, in the order in which it needs a hand.

use askama::Template;
use wembrit_core::flow::{PlanState, PlateState};
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::{army, demand, plans, plates, printers, resins};
use wembrit_store::rows::Plate;
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::show::{self, count, hours, tenth};

/// One line of the slip.
pub(crate) struct Job {
    pub(crate) at: String,
    pub(crate) what: String,
    pub(crate) place: String,
    pub(crate) to: String,
    pub(crate) action: &'static str,
}

/// The day sheet.
#[derive(Template)]
#[template(path = "today/show.html")]
pub(crate) struct TodayView {
    pub(crate) page: Page,
    pub(crate) now: String,
    pub(crate) jobs: Vec<Job>,
    pub(crate) units: Vec<(String, String, String)>,
    pub(crate) complete: String,
    pub(crate) good: String,
    pub(crate) spent: String,
    pub(crate) project: Option<ProjectId>,
}

impl TodayView {
    pub(crate) fn load(c: &mut Conn, page: Page, now_ms: i64) -> Result<Self, StoreError> {
        let now = show::when(now_ms, &page.zone);
        let Some(project) = page.project.as_ref().map(|p| p.id) else {
            let jobs = vec![Job {
                at: "first".into(),
                what: "Make a project".into(),
                place: "one army or collection; its units and models follow".into(),
                to: "/projects/new".into(),
                action: "Make it",
            }];
            return Ok(Self {
                page,
                now,
                jobs,
                units: Vec::new(),
                complete: String::new(),
                good: String::new(),
                spent: String::new(),
                project: None,
            });
        };
        let army = army::load(c, project)?;
        let units = army
            .units
            .iter()
            .map(|u| {
                (
                    u.unit.name.clone(),
                    format!("{}/{}", u.progress.complete, u.progress.models),
                    format!("{:.0}", u.progress.share() * 100.0),
                )
            })
            .collect();
        let mut jobs = plate_jobs(c, &page, project, now_ms)?;
        jobs.extend(plan_jobs(c, &army)?);
        Ok(Self {
            page,
            now,
            jobs,
            units,
            complete: format!("{}/{}", army.progress.complete, army.progress.models),
            good: format!("{}/{}", army.progress.good, army.progress.copies),
            spent: army.spent().to_string(),
            project: Some(project),
        })
    }
}

/// To judge first, then what comes off by time, then the next start on each idle printer.
fn plate_jobs(
    c: &mut Conn,
    page: &Page,
    project: ProjectId,
    now_ms: i64,
) -> Result<Vec<Job>, StoreError> {
    let all = plates::accepted(c, project)?;
    let resins = resins::list_all(c)?;
    let resin = |plate: &Plate| {
        resins
            .iter()
            .find(|r| r.id == plate.resin_id)
            .map_or_else(String::new, |r| r.name.clone())
    };
    let mut jobs = Vec::new();
    for plate in all.iter().filter(|p| p.state == PlateState::Printed) {
        jobs.push(Job {
            at: "now".into(),
            what: format!("Judge plate {}", plate.number),
            place: format!(
                "{}, off {}",
                resin(plate),
                printers::load(c, plate.printer_id)?.name
            ),
            to: format!("/plates/{}", plate.id),
            action: "Look at it",
        });
    }
    let mut running = Vec::new();
    for plate in all.iter().filter(|p| p.state == PlateState::Running) {
        let started = plates::run_of(c, plate.id)?.map_or(now_ms, |r| r.started_at_ms);
        running.push((started + (plate.seconds * 1000.0) as i64, plate));
    }
    running.sort_by_key(|(ends, _)| *ends);
    for (ends, plate) in &running {
        let left = (ends - now_ms).max(0) as f64 / 1000.0;
        jobs.push(Job {
            at: show::near(*ends, now_ms, &page.zone),
            what: format!(
                "Take plate {} off {}",
                plate.number,
                printers::load(c, plate.printer_id)?.name
            ),
            place: if left > 0.0 {
                format!("{}, {} h to go", resin(plate), hours(left))
            } else {
                format!("{}, it should be done", resin(plate))
            },
            to: format!("/plates/{}", plate.id),
            action: if left > 0.0 { "Show" } else { "It is done" },
        });
    }
    for printer in printers::list(c)? {
        let busy = running.iter().any(|(_, p)| p.printer_id == printer.id);
        let waiting = all
            .iter()
            .find(|p| p.state == PlateState::Planned && p.printer_id == printer.id);
        if let (false, Some(plate)) = (busy, waiting) {
            jobs.push(Job {
                at: "free".into(),
                what: format!("Start plate {} on {}", plate.number, printer.name),
                place: format!(
                    "{} h, {} ml of {}",
                    hours(plate.seconds),
                    tenth(plate.resin_ml),
                    resin(plate)
                ),
                to: format!("/plates/{}", plate.id),
                action: "Start",
            });
        }
    }
    Ok(jobs)
}

fn plan_jobs(c: &mut Conn, army: &army::Army) -> Result<Vec<Job>, StoreError> {
    let project = army.project.id;
    let mut jobs = Vec::new();
    let wanted: u64 = demand::lines(army).iter().map(|l| l.wanted).sum();
    match plans::open_plan(c, project)? {
        Some(plan) if plan.state == PlanState::Draft => {
            let of_plan = plates::of_plan(c, plan.id)?;
            jobs.push(Job {
                at: "ready".into(),
                what: format!("Look at plan {}", plan.revision),
                place: format!(
                    "{}, {} printer hours",
                    count(of_plan.len() as u64, "plate", "plates"),
                    hours(of_plan.iter().map(|p| p.seconds).sum())
                ),
                to: format!("/projects/{project}/plates"),
                action: "Accept or not",
            });
        }
        _ if wanted > 0 => jobs.push(Job {
            at: "open".into(),
            what: format!("Plan {}", count(wanted, "wanted copy", "wanted copies")),
            place: "on no plate yet".into(),
            to: format!("/projects/{project}/plates"),
            action: "Plan plates",
        }),
        _ => {}
    }
    let without = demand::without_sculpt(army).len() as u64;
    if without > 0 {
        jobs.push(Job {
            at: "open".into(),
            what: format!("Find sculpts for {}", count(without, "part", "parts")),
            place: "wanted, but nothing to print them from".into(),
            to: format!("/projects/{project}/muster"),
            action: "Show",
        });
    }
    if army.units.is_empty() {
        jobs.push(Job {
            at: "first".into(),
            what: "Add the first unit".into(),
            place: army.project.name.clone(),
            to: format!("/projects/{project}/units/new"),
            action: "Add it",
        });
    }
    Ok(jobs)
}
