//! The first page: the day sheet, or the three questions while there is no printer.

use axum::extract::State;
use axum::response::{Html, IntoResponse, Response};
use wembrit_store::queries::pages::today;
use wembrit_store::queries::{muster, printers};

use super::{page, start};
use crate::error::WebError;
use crate::state::App;
use crate::views::today::TodayView;
use crate::views::{Tab, html};

pub(crate) async fn show(State(app): State<App>) -> Result<Response, WebError> {
    let (page, fresh) = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Today, "Today", None)?;
            let fresh = printers::list(c)?.is_empty() && muster::projects(c)?.is_empty();
            Ok((page, fresh))
        })
        .await?;
    if fresh {
        return Ok(html(&start::view(page))?.into_response());
    }
    let now = app.now_ms();
    let view = app
        .read(move |c| {
            let data = today::load(c, page.project_id())?;
            Ok(TodayView::new(page, &data, now))
        })
        .await?;
    let page: Html<String> = html(&view)?;
    Ok(page.into_response())
}
