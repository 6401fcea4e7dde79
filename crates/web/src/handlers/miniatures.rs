//! The miniatures of a model, and copies that come from elsewhere.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::army::miniatures::{Arrived, BuildStep};
use wembrit_core::ids::{ArrivalId, MiniatureId, ModelId, PartId};
use wembrit_store::commands::{miniatures as commands, surplus};
use wembrit_store::queries::pages::miniatures as pages;
use wembrit_store::{Conn, StoreError};

use super::{Id, go, page};
use crate::currency;
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::miniatures::MiniaturesView;
use crate::views::{Tab, html, show};

async fn view(
    app: &App,
    id: ModelId,
    (typed, fault): (Input, String),
) -> Result<MiniaturesView, WebError> {
    app.view(move |c, app| {
        let data = pages::load(c, id)?;
        let title = format!("{}: miniatures", data.model.model.name);
        let page = page(c, app, Tab::Muster, &title, Some(data.unit.project))?;
        Ok(MiniaturesView::new(page, &data, &typed, fault))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ModelId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, (Input::of(&[]), String::new())).await?)
}

async fn done<T: Send + 'static>(
    app: &App,
    id: ModelId,
    input: Input,
    work: impl FnOnce(&mut Conn) -> Result<T, StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    match app.write(work).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = view(app, id, (input, show::sentence(&why))).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        other => {
            other?;
            Ok(go(format!("/models/{id}/miniatures")))
        }
    }
}

/// Pieces are given out: to miniatures that lack some, then to as many new ones as are asked for.
pub(crate) async fn put_together(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let most = match input.get("most") {
        "" => Some(u32::MAX),
        text => text.trim().parse().ok(),
    };
    let work = move |c: &mut Conn| {
        let most = most.ok_or_else(|| {
            StoreError::Refused("say how many as a whole number, or leave it empty for all".into())
        })?;
        commands::put(c, id, most, now)
    };
    done(&app, id, input, work).await
}

/// A part gets what is over elsewhere.
pub(crate) async fn take_over(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let part = input.get("part").trim().parse().ok().map(PartId);
    let work = move |c: &mut Conn| {
        let part = part.ok_or(StoreError::NotFound { what: "part" })?;
        surplus::take(c, id, part, now)
    };
    done(&app, id, input, work).await
}

/// Some of them go to a step.
pub(crate) async fn go_to(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let which: Vec<MiniatureId> = input.all("which").filter_map(|t| t.parse().ok()).collect();
    let step = input.get("step").parse::<BuildStep>();
    let work = move |c: &mut Conn| {
        if which.is_empty() {
            return Err(StoreError::Refused("tick those you mean".into()));
        }
        let step = step.map_err(|e| StoreError::Refused(e.to_string()))?;
        commands::go_to(c, id, &which, step, now)
    };
    done(&app, id, input, work).await
}

pub(crate) async fn take_apart(
    State(app): State<App>,
    Id(id): Id<MiniatureId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let model = app.write(move |c| commands::take_apart(c, id, now)).await?;
    Ok(go(format!("/models/{model}/miniatures")))
}

/// Copies that no plate printed.
pub(crate) async fn come(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let refused = |why: &str| StoreError::Refused(why.to_owned());
    let read = || -> Result<commands::Coming, StoreError> {
        let part = input.get("part").parse::<PartId>();
        let each = match input.get("each") {
            "" => Ok(wembrit_core::units::Money(0)),
            text => currency::read(text),
        };
        let note = input.get("note").to_owned();
        if note.chars().count() > 200 {
            return Err(refused("a note has up to 200 letters"));
        }
        Ok(commands::Coming {
            part: part.map_err(|_| refused("choose the part that came"))?,
            how: input
                .get("how")
                .parse::<Arrived>()
                .map_err(|_| refused("say how they came"))?,
            copies: input.get("copies").trim().parse().unwrap_or(0),
            each: each.map_err(|why| StoreError::Refused(format!("what one cost: {why}")))?,
            note,
        })
    };
    let coming = read();
    let work = move |c: &mut Conn| commands::come(c, &coming?, now);
    done(&app, id, input, work).await
}

/// A copy that came is gone again.
pub(crate) async fn leave(
    State(app): State<App>,
    Id(id): Id<ArrivalId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let model = app.write(move |c| commands::leave(c, id, now)).await?;
    Ok(go(format!("/models/{model}/miniatures")))
}
