//! One box over everything that has a name.

use axum::extract::State;
use axum::response::{IntoResponse, Response};
use wembrit_store::queries::pages::search::search;

use super::{Fields, go, page};
use crate::error::WebError;
use crate::state::App;
use crate::views::search::SearchView;
use crate::views::{Tab, html};

/// Longer than any name.
const MOST_LETTERS: usize = 200;

pub(crate) async fn show(State(app): State<App>, asked: Fields) -> Result<Response, WebError> {
    let words: String = asked
        .get("q")
        .map_or("", |q| q.trim())
        .chars()
        .take(MOST_LETTERS)
        .collect();
    let view = app
        .view(move |c, app| {
            let hits = search(c, &words)?;
            let page = page(c, app, Tab::None, "Found", None)?;
            Ok(SearchView::new(page, &words, hits))
        })
        .await?;
    if let Some(to) = view.only() {
        return Ok(go(to));
    }
    Ok(html(&view)?.into_response())
}
