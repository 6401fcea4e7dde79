//! Plans: asked for, accepted, thrown away.

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::{PlanEffort, PlanState};
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::{PlanId, ProjectId};
use wembrit_store::StoreError;
use wembrit_store::queries::plans::{self, PlanAsk};
use wembrit_store::queries::{army, printers, resins, tasks};
use wembrit_store::rows::PlanScope;

use super::{Asked, Id, go, notice};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::{App, Topic};
use crate::views::plans::{BesideView, PlanPart, PlatesView, StaleView};
use crate::views::plates::PlanAdviceView;
use crate::views::{Page, Tab, html};

/// To the plates of the newest project.
pub(crate) async fn newest(State(app): State<App>) -> Result<Response, WebError> {
    super::newest(&app, "plates").await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Asked,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = Page::load(c, app, Tab::Plates, "Plates", Some(id))?.noticed(notice(&asked));
            PlatesView::load(c, page, id)
        })
        .await?;
    html(&view)
}

/// The plan alone, for a page that shows how it gets better.
pub(crate) async fn progress(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = Page::load(c, app, Tab::Plates, "Plates", Some(id))?;
            PlatesView::load(c, page, id)
        })
        .await?;
    html(&PlanPart(view))
}

/// What the form asks a plan for; everything where all or nothing of a list is ticked.
fn read_ask(input: &Input, now: &PlanScope) -> Result<PlanAsk, String> {
    let effort = input.get("effort").parse().unwrap_or(PlanEffort::Anew);
    if input.has("same") {
        return Ok(PlanAsk {
            scope: now.clone(),
            effort,
        });
    }
    let list = |name: &str| -> Vec<i64> {
        let mut chosen: Vec<i64> = input.all(name).filter_map(|v| v.parse().ok()).collect();
        chosen.sort_unstable();
        chosen
    };
    let until = input.get("until_h").replace(',', ".");
    let until_h = if until.is_empty() {
        None
    } else {
        let hours = until.parse::<f64>().ok();
        let hours = hours.filter(|h| h.is_finite() && *h > 0.0 && *h <= 10_000.0);
        Some(hours.ok_or("the cut-off is no number of hours: write one such as 48, or leave it")?)
    };
    Ok(PlanAsk {
        scope: PlanScope {
            printers: list("printer"),
            units: list("unit"),
            resins: list("resin"),
            until_h,
            no_spares: input.has("no_spares"),
        },
        effort,
    })
}

pub(crate) async fn ask(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let input = Input::parse(&body);
    app.write(move |c| {
        let open = plans::open_plan(c, id)?;
        let scope = open.map_or_else(|| Ok(PlanScope::default()), |p| p.scope())?;
        let mut asked = read_ask(&input, &scope).map_err(StoreError::Refused)?;
        // Everything ticked is no choice: what is added later is planned too.
        let all = |chosen: &mut Vec<i64>, there: Vec<i64>| {
            if there.iter().all(|id| chosen.contains(id)) {
                chosen.clear();
            }
        };
        let units = army::load(c, id)?.units;
        all(
            &mut asked.scope.units,
            units.iter().map(|u| u.unit.id.0).collect(),
        );
        let known = printers::list(c)?.iter().map(|p| p.id.0).collect();
        all(&mut asked.scope.printers, known);
        let known = resins::list(c)?.iter().map(|r| r.id.0).collect();
        all(&mut asked.scope.resins, known);
        plans::ask(c, id, &asked, now)
    })
    .await?;
    app.ring();
    Ok(go(format!("/projects/{id}/plates")))
}

/// No better plan is looked for: the best so far stands.
pub(crate) async fn stop(State(app): State<App>, Id(id): Id<PlanId>) -> Result<Response, WebError> {
    let project = end_search(&app, id).await?;
    Ok(go(format!("/projects/{project}/plates")))
}

/// Ends the search for a plan, if one runs, and leaves what was found.
async fn end_search(app: &App, id: PlanId) -> Result<ProjectId, WebError> {
    let now = app.now_ms();
    let (project, task) = app
        .write(move |c| {
            let plan = plans::load(c, id)?;
            let mut task = None;
            if plan.state == PlanState::Computing {
                let running = tasks::find(c, TaskKind::Plan, &id.to_string())?;
                tasks::end(c, running.id, TaskState::Done, "", now)?;
                plans::end_search(c, id)?;
                task = Some(running.id);
            }
            Ok((plan.project_id, task))
        })
        .await?;
    if let Some(task) = task {
        app.cancel(task);
        app.tell(Topic::Plates);
    }
    Ok(project)
}

/// What would shorten a plan, plate by plate.
pub(crate) async fn advice(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Html<String>, WebError> {
    html(&app.view(move |c, _| PlanAdviceView::load(c, id)).await?)
}

/// Two plans side by side.
pub(crate) async fn beside(
    State(app): State<App>,
    Path((one, other)): Path<(i64, i64)>,
) -> Result<Html<String>, WebError> {
    let of = [PlanId(one), PlanId(other)];
    let view = app
        .view(move |c, app| {
            let project = plans::load(c, of[0])?.project_id;
            let page = Page::load(c, app, Tab::Plates, "Two plans", Some(project))?;
            BesideView::load(c, page, project, of)
        })
        .await?;
    html(&view)
}

pub(crate) async fn accept(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let plan = app.read(move |c| plans::load(c, id)).await?;
    let project = plan.project_id;
    if plan.state == PlanState::Computing {
        end_search(&app, id).await?;
    }
    if plan.state == PlanState::Accepted {
        // A second click on the same button: it is done already.
        return Ok(go(format!("/projects/{project}/plates")));
    }
    match app.write(move |c| plans::accept(c, id, now)).await {
        Ok(()) => Ok(go(format!("/projects/{project}/plates"))),
        Err(WebError::Store(StoreError::Stale(stale))) => {
            let view = app
                .view(move |c, app| {
                    let page = Page::load(c, app, Tab::Plates, "Plan", Some(project))?;
                    StaleView::load(c, page, project, &stale)
                })
                .await?;
            Ok((StatusCode::CONFLICT, html(&view)?).into_response())
        }
        Err(error) => Err(error),
    }
}

pub(crate) async fn drop_draft(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Response, WebError> {
    let project = end_search(&app, id).await?;
    app.write(move |c| plans::drop_draft(c, id)).await?;
    Ok(go(format!("/projects/{project}/plates")))
}
