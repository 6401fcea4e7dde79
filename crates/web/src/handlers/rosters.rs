//! An army list pasted or uploaded: read, looked at, agreed.

use axum::body::Bytes;
use axum::extract::{Multipart, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::army::roster::{MOST_BYTES, read_roster};
use wembrit_core::ids::ProjectId;
use wembrit_store::commands;
use wembrit_store::queries::army;

use super::sculpts::broke_off;
use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::{Input, rosters as form};
use crate::state::App;
use crate::views::rosters::{PreviewView, RosterView};
use crate::views::{Tab, html};

async fn ask_view(
    app: &App,
    id: ProjectId,
    text: String,
    fault: String,
) -> Result<RosterView, WebError> {
    let page = app
        .view(move |c, app| page(c, app, Tab::Muster, "Army list", Some(id)))
        .await?;
    Ok(RosterView {
        page,
        id,
        text,
        fault,
    })
}

pub(crate) async fn ask(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    html(&ask_view(&app, id, String::new(), String::new()).await?)
}

pub(crate) async fn read(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    mut parts: Multipart,
) -> Result<Response, WebError> {
    let mut text = String::new();
    while let Some(mut field) = parts.next_field().await.map_err(broke_off)? {
        if !matches!(field.name(), Some("text" | "file")) {
            continue;
        }
        let mut bytes = Vec::new();
        while let Some(piece) = field.chunk().await.map_err(broke_off)? {
            if bytes.len() <= MOST_BYTES {
                bytes.extend_from_slice(&piece);
            }
        }
        if !text.is_empty() && !bytes.is_empty() {
            text.push('\n');
        }
        text.push_str(&String::from_utf8_lossy(&bytes));
    }
    match read_roster(&text) {
        Ok(lines) => {
            let rows = form::preview(&lines);
            Ok(html(&preview_view(&app, id, text, rows).await?)?.into_response())
        }
        Err(error) => {
            let shown = text.chars().take(100_000).collect();
            let view = ask_view(&app, id, shown, error.to_string()).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
    }
}

async fn preview_view(
    app: &App,
    id: ProjectId,
    text: String,
    rows: Vec<form::PreviewRow>,
) -> Result<PreviewView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Muster, "Army list", Some(id))?;
        let army = army::load(c, id)?;
        Ok(PreviewView::new(page, id, text, rows, &army))
    })
    .await
}

/// The list once more, as it was pasted.
pub(crate) async fn again(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Html<String>, WebError> {
    let text = Input::parse(&body).get("list").to_owned();
    html(&ask_view(&app, id, text, String::new()).await?)
}

pub(crate) async fn take(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let (rows, agreed) = form::read(&input);
    match agreed {
        Some(agreed) => {
            app.write(move |c| commands::rosters::take_in(c, id, &agreed, now))
                .await?;
            Ok(go(format!("/projects/{id}/muster")))
        }
        None => {
            let text = input.get("list").to_owned();
            let view = preview_view(&app, id, text, rows).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
    }
}
