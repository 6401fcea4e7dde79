//! The bin: what was taken away, to be put back.

use axum::extract::State;
use axum::response::Html;
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::pages::bin;

use super::{Id, page};
use crate::error::WebError;
use crate::state::App;
use crate::views::bin::BinView;
use crate::views::{Tab, html};

pub(crate) async fn of_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    view(app, Some(id)).await
}

pub(crate) async fn of_workshop(State(app): State<App>) -> Result<Html<String>, WebError> {
    view(app, None).await
}

async fn view(app: App, project: Option<ProjectId>) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let tab = if project.is_some() {
                Tab::Muster
            } else {
                Tab::Workshop
            };
            let page = page(c, app, tab, "Taken away", project)?;
            let of_project = match project {
                Some(id) => bin::of_project(c, id)?,
                None => Vec::new(),
            };
            Ok(BinView::new(page, &of_project, &bin::of_workshop(c)?))
        })
        .await?;
    html(&view)
}
