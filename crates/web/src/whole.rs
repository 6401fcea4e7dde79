//! Whether the data file is whole. After a start that followed no clean end it is looked through beside the requests;
//! where it is damaged every page says so, and what can still be taken out can be.

use std::thread;

use axum::extract::{Request, State};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use wembrit_store::StoreError;

use crate::error::{LaunchError, WebError};
use crate::state::App;

/// Looks it through, where it was not closed.
///
/// # Errors
/// [`LaunchError::Thread`].
pub(crate) fn look(app: &App) -> Result<(), LaunchError> {
    if app.store.was_closed() {
        return Ok(());
    }
    let app = app.clone();
    let look = move || match app.store.check() {
        Ok(()) => tracing::info!("the data file was not closed, and is whole"),
        Err(StoreError::NotOurs(why) | StoreError::Other(why)) => app.is_damaged(why),
        Err(busy) => tracing::warn!("the data file was not looked through: {busy}"),
    };
    let thread = thread::Builder::new().name("look".into()).spawn(look);
    thread.map(drop).map_err(LaunchError::Thread)
}

/// Ways out that stay open.
fn leads_out(path: &str) -> bool {
    let tables = path.starts_with("/workshop/archive/");
    path.starts_with("/assets/") || path.starts_with("/enter") || tables && !path.ends_with("take")
}

/// Shows the damage in place of pages that would be drawn from it, or write into it.
pub(crate) async fn admit(State(app): State<App>, request: Request, next: Next) -> Response {
    match app.damage() {
        Some(why) if !leads_out(request.uri().path()) => {
            WebError::Damaged(why.to_owned()).into_response()
        }
        _ => next.run(request).await,
    }
}
