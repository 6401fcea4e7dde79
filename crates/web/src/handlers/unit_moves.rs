//! Units duplicated, reordered, split and merged; many models changed at once.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::{ModelId, ProjectId, UnitId};
use wembrit_store::queries::{army, muster, resins};
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::{Input, many, refill};
use crate::state::App;
use crate::views::muster::ManyView;
use crate::views::{Tab, html};

/// Does something with a unit, then shows the muster of its project.
async fn with_unit(
    app: App,
    id: UnitId,
    work: impl FnOnce(&mut Conn, i64) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let project = app
        .write(move |c| {
            let project = muster::unit(c, id)?.project;
            work(c, now)?;
            Ok(project)
        })
        .await?;
    Ok(go(format!("/projects/{project}/muster#u{id}")))
}

pub(crate) async fn duplicate(
    State(app): State<App>,
    Id(id): Id<UnitId>,
) -> Result<Response, WebError> {
    with_unit(app, id, move |c, now| {
        commands::unit_moves::duplicate(c, id, now).map(drop)
    })
    .await
}

pub(crate) async fn up(State(app): State<App>, Id(id): Id<UnitId>) -> Result<Response, WebError> {
    with_unit(app, id, move |c, _| {
        commands::unit_moves::reorder(c, id, true)
    })
    .await
}

pub(crate) async fn down(State(app): State<App>, Id(id): Id<UnitId>) -> Result<Response, WebError> {
    with_unit(app, id, move |c, _| {
        commands::unit_moves::reorder(c, id, false)
    })
    .await
}

pub(crate) async fn split(
    State(app): State<App>,
    Id(id): Id<UnitId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let name = input.get("name").to_owned();
    if name.is_empty() || name.chars().count() > 120 {
        return Err(WebError::BadRequest("give the new unit a name".into()));
    }
    let mut moved = Vec::new();
    for model in input.all("model") {
        let many = input.get(&format!("move_{model}"));
        let many = if many.is_empty() {
            Ok(0)
        } else {
            many.parse::<u32>()
        };
        match (model.parse::<ModelId>(), many) {
            (Ok(model), Ok(many)) => moved.push((model, many)),
            _ => {
                return Err(WebError::BadRequest(
                    "write whole numbers of models to move".into(),
                ));
            }
        }
    }
    with_unit(app, id, move |c, now| {
        commands::unit_moves::split(c, id, &name, &moved, now).map(drop)
    })
    .await
}

pub(crate) async fn merge(
    State(app): State<App>,
    Id(id): Id<UnitId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let into: UnitId = Input::parse(&body)
        .get("into")
        .parse()
        .map_err(|_| WebError::BadRequest("choose the unit to merge into".into()))?;
    with_unit(app, id, move |c, now| {
        commands::unit_moves::merge(c, id, into, now)
    })
    .await
}

async fn many_view(app: &App, id: ProjectId) -> Result<ManyView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Muster, "Change many models", Some(id))?;
        let army = army::load(c, id)?;
        let resins = resins::list(c)?;
        Ok(ManyView::new(page, &army, &resins))
    })
    .await
}

pub(crate) async fn ask_many(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    html(&many_view(&app, id).await?)
}

pub(crate) async fn change_many(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    match many::read(&input) {
        Ok((models, change)) => {
            app.write(move |c| commands::unit_moves::change_many(c, &models, &change, now))
                .await?;
            Ok(go(format!("/projects/{id}/muster")))
        }
        Err(faults) => {
            let mut view = many_view(&app, id).await?;
            view.fields = refill(view.fields, &input, &faults);
            view.tick(input.all("model"));
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
    }
}
