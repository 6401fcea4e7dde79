//! A plan as a table, all plates of a project, and a plan back from its file.

use axum::extract::{Multipart, Path, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use wembrit_core::army::demand::DemandLine;
use wembrit_core::army::demand_lines;
use wembrit_core::flow::{PlanScope, Plate, PlateCopy, plate_code};
use wembrit_core::ids::{PlanId, PlateId, ProjectId};
use wembrit_core::plan::{GivenOn, GivenPlan, Plan, plan_request};
use wembrit_paper::{ListedCopy, ListedPlate, write_plates_csv, write_plates_json};
use wembrit_store::queries::{army, demand, muster, plans, plates, printers, resins};
use wembrit_store::{Conn, StoreError, commands};

use super::sculpts::broke_off;
use super::{Id, go, page, sent};
use crate::error::WebError;
use crate::state::{App, Topic};
use crate::views::plans::FileFaultsView;
use crate::views::{Tab, html};

/// Plates for a table.
fn listed(c: &mut Conn, plates: Vec<Plate>) -> Result<Vec<ListedPlate>, StoreError> {
    let ids: Vec<PlateId> = plates.iter().map(|p| p.id).collect();
    let mut copies = plates::copies_on(c, &ids)?;
    let mut all = Vec::new();
    for plate in plates {
        let on = copies.remove(&plate.id).unwrap_or_default();
        all.push(ListedPlate {
            code: plate_code(&on),
            printer: printers::load(c, plate.printer)?.name,
            resin: resins::load(c, plate.resin)?.name,
            copies: on
                .iter()
                .map(|copy| listed_copy(copy, plate.times_planned(&on)))
                .collect(),
            plate,
        });
    }
    Ok(all)
}

fn table(
    format: &str,
    file: &str,
    project: &str,
    all: &[ListedPlate],
) -> Result<Response, WebError> {
    let (kind, text) = match format {
        "csv" => ("text/csv; charset=utf-8", write_plates_csv(all)),
        "json" => ("application/json", write_plates_json(project, all)),
        _ => return Err(WebError::NoPage),
    };
    Ok(sent(kind, &format!("{file}.{format}"), text))
}

/// Every plate of a plan: `csv` or `json`.
pub(crate) async fn of_plan(
    State(app): State<App>,
    Path((plan, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let (name, number, all) = app
        .read(move |c| {
            let plan = plans::load(c, PlanId(plan))?;
            let name = muster::project(c, plan.project)?.name;
            let on = plates::of_plan(c, plan.id)?;
            Ok((name, plan.revision, listed(c, on)?))
        })
        .await?;
    table(&format, &format!("plan-{number}"), &name, &all)
}

/// A plan from a file: a draft beside the one that is shown, or every line that does not fit.
pub(crate) async fn take(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
    mut form: Multipart,
) -> Result<Response, WebError> {
    let mut bytes = Vec::new();
    while let Some(field) = form.next_field().await.map_err(broke_off)? {
        if field.name() == Some("plan") {
            bytes = field.bytes().await.map_err(broke_off)?.to_vec();
        }
    }
    let faults = match read_plan(&app, project, bytes).await? {
        Ok((lines, made)) => {
            let now = app.now_ms();
            app.write(move |c| commands::take_plan::take(c, project, &lines, &made, now))
                .await?;
            app.tell(Topic::Plates);
            return Ok(go(format!("/projects/{project}/plates")));
        }
        Err(faults) => faults,
    };
    let page = app
        .view(move |c, app| page(c, app, Tab::Plates, "Plan from a file", Some(project)))
        .await?;
    let view = FileFaultsView {
        page,
        project,
        faults,
    };
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

type Read = Result<(Vec<DemandLine>, Plan), Vec<String>>;

/// The plan of a file, with what is wanted now.
async fn read_plan(app: &App, project: ProjectId, bytes: Vec<u8>) -> Result<Read, WebError> {
    let Ok(text) = String::from_utf8(bytes) else {
        return Ok(Err(vec!["it is no text in UTF-8".into()]));
    };
    let given = match GivenPlan::read(&text) {
        Ok(given) => given,
        Err(why) => return Ok(Err(vec![why])),
    };
    let (army, lines, facts) = app
        .read(move |c| {
            let army = army::load(c, project)?;
            let lines = demand_lines(&army);
            let facts = demand::plan_facts(c, project, &lines)?;
            Ok((army, lines, facts))
        })
        .await?;
    let made = tokio::task::spawn_blocking(move || {
        let request = plan_request(&facts, &lines, &PlanScope::default());
        let resins = facts.resins.iter().map(|r| (r.id, r.name.clone()));
        let resins: Vec<_> = resins.collect();
        let made = given.on(&GivenOn {
            army: &army,
            resins: &resins,
            request: &request,
        })?;
        Ok((lines, made))
    });
    Ok(made.await?)
}

/// Every accepted plate of a project: `csv` or `json`.
pub(crate) async fn accepted(
    State(app): State<App>,
    Path((project, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let project = ProjectId(project);
    let (name, all) = app
        .read(move |c| {
            let name = muster::project(c, project)?.name;
            let on = plates::accepted(c, project)?;
            Ok((name, listed(c, on)?))
        })
        .await?;
    table(&format, "plates", &name, &all)
}

fn listed_copy(copy: &PlateCopy, times: f64) -> ListedCopy {
    ListedCopy {
        mark: copy.mark(),
        part: copy.part_name.clone(),
        model: copy.model_name.clone(),
        unit: copy.unit_name.clone(),
        at_mm: copy.placed.at_mm,
        rotation_deg: copy.placed.rotation_deg,
        resin_ml: copy.resin_ml * times,
    }
}
