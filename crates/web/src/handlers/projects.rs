//! All projects: compared, copied, put away.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::pages::projects as pages;
use wembrit_store::{StoreError, commands};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::projects::ProjectsView;
use crate::views::{Tab, html, show};

async fn view(app: &App, fault: String) -> Result<ProjectsView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Muster, "Projects", None)?;
        Ok(ProjectsView::new(page, &pages::load(c)?, fault))
    })
    .await
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, String::new()).await?)
}

async fn or_said<T>(
    app: &App,
    done: Result<T, WebError>,
    then: impl FnOnce(T) -> String,
) -> Result<Response, WebError> {
    match done {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = view(app, show::sentence(&why)).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        other => Ok(go(then(other?))),
    }
}

/// The same army once more.
pub(crate) async fn copy(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let name = input.get("name").to_owned();
    let done = app
        .write(move |c| commands::projects::copy(c, id, &name, now))
        .await;
    or_said(&app, done, |new| format!("/projects/{new}/muster")).await
}

/// Put away, or taken up again.
pub(crate) async fn put_away(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let away = Input::parse(&body).get("away") == "yes";
    let at_ms = away.then(|| app.now_ms());
    let done = app
        .write(move |c| commands::projects::put_away(c, id, at_ms))
        .await;
    or_said(&app, done, |()| "/projects".into()).await
}
