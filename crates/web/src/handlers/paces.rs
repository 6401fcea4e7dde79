//! How long a printer takes, by its runs.

use axum::extract::State;
use axum::response::Html;
use wembrit_core::ids::PrinterId;
use wembrit_store::queries::pages::paces as pages;

use super::{Id, page};
use crate::error::WebError;
use crate::state::App;
use crate::views::paces::PaceView;
use crate::views::{Tab, html};

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let data = pages::load(c, id)?;
            let page = page(c, app, Tab::Workshop, "What plates take", None)?;
            Ok(PaceView::new(page, &data))
        })
        .await?;
    html(&view)
}
