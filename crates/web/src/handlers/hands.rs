//! Hands on a plate, and what they take on all plates.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::PlateId;
use wembrit_store::queries::pages::hands as pages;
use wembrit_store::queries::workshop;
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::hands::{HandsView, PlateHandsView};
use crate::views::{Tab, html, show};

async fn view(app: &App, id: PlateId, fault: String) -> Result<PlateHandsView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let data = pages::of_plate(c, id)?;
        let title = format!("Your hands on plate {}", data.plate.number);
        let page = page(c, app, Tab::Finishing, &title, Some(data.plate.project))?;
        Ok(PlateHandsView::new(page, &data, now, fault))
    })
    .await
}

pub(crate) async fn of_plate(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, String::new()).await?)
}

/// They begin, stop, or took so long.
pub(crate) async fn time(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let minutes = input.decimal("minutes").unwrap_or(f64::NAN);
    let what = input.get("do").to_owned();
    let work = move |c: &mut Conn| match what.as_str() {
        "begin" => commands::hands::begin(c, id, now),
        "stop" => commands::hands::stop(c, id, now),
        "forget" => commands::hands::forget(c, id),
        _ => commands::hands::say(c, id, minutes, now),
    };
    match app.write(work).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = view(&app, id, show::sentence(&why)).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        done => {
            done?;
            Ok(go(format!("/plates/{id}/hands")))
        }
    }
}

pub(crate) async fn all(State(app): State<App>) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Workshop, "What your hands take", None)?;
            Ok(HandsView::new(page, &pages::all(c)?))
        })
        .await?;
    html(&view)
}

/// Plans count so many minutes from now on.
pub(crate) async fn take(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let version = input.row_version();
    // What is counted for the plate as a whole counts nothing for copies and contacts besides.
    let read = |name: &str, most: f64| match input.get(name) {
        "" => Some(0.0),
        _ => input.decimal(name).filter(|m| (0.0..=most).contains(m)),
    };
    let plate = input.decimal("minutes").and(read("minutes", 600.0));
    let all = plate.zip(read("copy", 120.0)).zip(read("contact", 30.0));
    let ((plate, copy), contact) =
        all.ok_or_else(|| WebError::BadRequest("say how many minutes".into()))?;
    app.write(move |c| {
        let known = workshop::load(c)?;
        commands::workshop::count_hands(c, &known, version, [plate, copy, contact])
    })
    .await?;
    Ok(go("/workshop/hands"))
}
