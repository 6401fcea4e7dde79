//! Plans: asked for, accepted, thrown away.

use std::collections::HashSet;

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::{PlanEffort, PlanScope, PlanState, TaskKind, TaskState};
use wembrit_core::ids::{PartId, PlanId, ProjectId};
use wembrit_core::plan::concerns::{Concern, concerns};
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::queries::pages::plans as pages;
use wembrit_store::queries::{army, concerns as stored, plans, printers, resins};
use wembrit_store::{Conn, StoreError, commands};

use super::{Fields, Id, go, notice, page, wait_s};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::{App, Topic};
use crate::views::beside::BesideView;
use crate::views::concerns::WordView;
use crate::views::plans::{LeftOut, LeftOutPart, PlanPart, PlatesView};
use crate::views::stale::StaleView;
use crate::views::{Tab, html};

/// To the plates of the newest project.
pub(crate) async fn newest(State(app): State<App>) -> Result<Response, WebError> {
    super::newest(&app, "plates").await
}

/// The leaves of its lists that an address opens.
fn leaves(asked: &Fields) -> pages::Leaves {
    let before = |name| asked.get(name).and_then(|n| n.parse().ok()).unwrap_or(0);
    pages::Leaves {
        plan: before("plan"),
        open: before("open"),
        done: before("done"),
    }
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Plates, "Plates", Some(id))?.noticed(notice(&asked));
            let data = pages::page(c, id, leaves(&asked))?;
            let task = pages::task(c, &data)?;
            Ok(PlatesView::new(page, &data, task.as_ref()))
        })
        .await?;
    html(&view)
}

/// The plan alone, for a page that shows how it gets better.
pub(crate) async fn progress(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Plates, "Plates", Some(id))?;
            let data = pages::plan_alone(c, id, leaves(&asked))?;
            let task = pages::task(c, &data)?;
            Ok(PlatesView::new(page, &data, task.as_ref()))
        })
        .await?;
    html(&PlanPart(view))
}

/// What cannot be planned yet, alone, for a page that waits for measures.
pub(crate) async fn left_out(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    let (army, wait) = app
        .view(move |c, app| Ok((army::load(c, id)?, wait_s(c, app)?)))
        .await?;
    html(&LeftOutPart {
        id,
        left_out: LeftOut::of(&army).about(wait),
    })
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
            printers: chosen(input, "printer"),
            units: chosen(input, "unit"),
            resins: chosen(input, "resin"),
            until_h,
            no_spares: input.has("no_spares"),
            by_hours: input.has("by_hours"),
        },
        effort,
    })
}

/// What is ticked of a list, in order.
fn chosen<Id: std::str::FromStr + Ord>(input: &Input, name: &str) -> Vec<Id> {
    let mut chosen: Vec<Id> = input.all(name).filter_map(|v| v.parse().ok()).collect();
    chosen.sort_unstable();
    chosen
}

/// Everything ticked is no choice: what is added later is planned too.
fn all_is_no_choice<Id: PartialEq>(chosen: &mut Vec<Id>, there: impl IntoIterator<Item = Id>) {
    if there.into_iter().all(|id| chosen.contains(&id)) {
        chosen.clear();
    }
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
        let scope = open.map_or_else(PlanScope::default, |p| p.scope);
        let mut asked = read_ask(&input, &scope).map_err(StoreError::Refused)?;
        let army = army::load(c, id)?;
        all_is_no_choice(&mut asked.scope.units, army.units.iter().map(|u| u.unit.id));
        let known = printers::list(c)?;
        all_is_no_choice(&mut asked.scope.printers, known.iter().map(|p| p.id));
        let known = resins::list(c)?;
        all_is_no_choice(&mut asked.scope.resins, known.iter().map(|r| r.id));
        commands::ask_plan::ask(c, id, &asked, now)
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
    let (project, ended) = app
        .write(move |c| {
            let plan = plans::load(c, id)?;
            let runs = plan.state == PlanState::Computing;
            if runs {
                let ended = (TaskState::Done, "");
                commands::tasks::end_asked(c, TaskKind::Plan, &id.to_string(), ended, now)?;
                commands::save_plan::end_search(c, id)?;
            }
            Ok((plan.project, runs))
        })
        .await?;
    if ended {
        app.tell(Topic::Plates);
    }
    Ok(project)
}

/// Two plans side by side.
pub(crate) async fn beside(
    State(app): State<App>,
    Path((one, other)): Path<(i64, i64)>,
) -> Result<Html<String>, WebError> {
    let of = [PlanId(one), PlanId(other)];
    let view = app
        .view(move |c, app| {
            let data = pages::two(c, of)?;
            let project = data.army.project.id;
            let page = page(c, app, Tab::Plates, "Two plans", Some(project))?;
            Ok(BesideView::new(page, &data))
        })
        .await?;
    html(&view)
}

/// What stands open about the parts of a plan that costs more than the part.
fn grave_in(c: &mut Conn, project: ProjectId, id: PlanId) -> Result<Vec<Concern>, StoreError> {
    let parts: HashSet<PartId> = plans::demand_of(c, id)?.iter().map(|l| l.part).collect();
    let army = army::load(c, project)?;
    let mut all = concerns(&army, &*stored::of_project(c, project)?);
    all.retain(|k| k.is_open_and_grave() && k.is_about(&parts));
    Ok(all)
}

pub(crate) async fn accept(
    State(app): State<App>,
    Id(id): Id<PlanId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let plan = app.read(move |c| plans::load(c, id)).await?;
    let (project, computing) = (plan.project, plan.state == PlanState::Computing);
    if plan.state == PlanState::Accepted {
        // A second click on the same button: it is done already.
        return Ok(go(format!("/projects/{project}/plates")));
    }
    let word = Input::parse(&body).get("word").to_owned();
    // What no longer fits takes no word: it is planned again.
    let grave = app
        .read(
            move |c| match commands::accept_plan::check_fresh(c, &plan) {
                Ok(()) => grave_in(c, project, id),
                Err(StoreError::Stale(_)) => Ok(Vec::new()),
                Err(error) => Err(error),
            },
        )
        .await?;
    if !grave.is_empty() && word.is_empty() {
        let view = app
            .view(move |c, app| {
                let page = page(c, app, Tab::Plates, "Accept", Some(project))?;
                Ok(WordView::new(page, project, id, &grave))
            })
            .await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response());
    }
    if computing {
        end_search(&app, id).await?;
    }
    match app
        .write(move |c| {
            for concern in &grave {
                let of = (concern.key.as_str(), concern.words.as_str());
                commands::concerns::put_aside(c, project, of, &word, now)?;
            }
            commands::accept_plan::accept(c, id, now)
        })
        .await
    {
        Ok(()) => Ok(go(format!("/projects/{project}/plates"))),
        // The second of two clicks at once.
        Err(WebError::Store(StoreError::Conflict { .. }))
            if app.read(move |c| plans::load(c, id)).await?.state == PlanState::Accepted =>
        {
            Ok(go(format!("/projects/{project}/plates")))
        }
        Err(WebError::Store(StoreError::Stale(stale))) => {
            let view = app
                .view(move |c, app| {
                    let page = page(c, app, Tab::Plates, "Plan", Some(project))?;
                    Ok(StaleView::new(page, &*army::load(c, project)?, &stale))
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
    let now = app.now_ms();
    app.write(move |c| commands::ask_plan::drop_draft(c, id, now))
        .await?;
    Ok(go(format!("/projects/{project}/plates")))
}
