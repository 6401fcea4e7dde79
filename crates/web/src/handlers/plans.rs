//! Plans: asked for, accepted, thrown away.

use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::PlanState;
use wembrit_core::ids::{PlanId, ProjectId};
use wembrit_store::StoreError;
use wembrit_store::queries::plans;

use super::{Asked, Id, go, notice};
use crate::error::WebError;
use crate::state::App;
use crate::views::plans::{PlatesView, ProgressView, StaleView};
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

/// How far the computation is; empty once there is a plan to show.
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
    html(&ProgressView {
        percent: view.computing(),
    })
}

pub(crate) async fn ask(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| plans::ask(c, id, now)).await?;
    app.ring();
    Ok(go(format!("/projects/{id}/plates")))
}

pub(crate) async fn accept(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let plan = app.read(move |c| plans::load(c, id)).await?;
    let project = plan.project_id;
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
    let project = app
        .write(move |c| {
            plans::drop_draft(c, id)?;
            plans::load(c, id)
        })
        .await?
        .project_id;
    Ok(go(format!("/projects/{project}/plates")))
}
