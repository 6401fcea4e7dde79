//! Candidate sculpts for one part: compared, and one of them picked.

use axum::body::Bytes;
use axum::extract::{RawQuery, State};
use axum::response::{Html, Response};
use wembrit_core::ids::{PartId, SculptId};
use wembrit_store::commands;
use wembrit_store::queries::muster;
use wembrit_store::queries::pages::sculpts as pages;

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::compare::{CompareView, MOST};
use crate::views::{Tab, html};

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PartId>,
    RawQuery(query): RawQuery,
) -> Result<Html<String>, WebError> {
    let input = Input::parse(&Bytes::from(query.unwrap_or_default()));
    let asked: Vec<SculptId> = input.all("sculpt").filter_map(|s| s.parse().ok()).collect();
    let view = app
        .view(move |c, app| {
            let project = muster::project_of_part(c, id)?;
            let page = page(c, app, Tab::Sculpts, "Compare", Some(project))?;
            Ok(CompareView::new(
                page,
                &pages::compare(c, id, &asked, MOST)?,
            ))
        })
        .await?;
    html(&view)
}

pub(crate) async fn pick(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let sculpt: SculptId = input.get("sculpt").parse().map_err(|_| WebError::NoPage)?;
    let reason: String = input.get("reason").chars().take(300).collect();
    app.write(move |c| commands::picks::pick(c, id, sculpt, &reason, now))
        .await?;
    app.ring();
    Ok(go(format!("/parts/{id}/compare?sculpt={sculpt}")))
}
