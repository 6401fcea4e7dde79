//! What a person sees of an error.

use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};

use super::{ErrorView, Page, html};
use crate::error::WebError;

impl IntoResponse for WebError {
    fn into_response(self) -> Response {
        let (status, what, then) = self.sentence();
        if status.is_server_error() {
            tracing::error!(error = %self, "a request failed");
        }
        let mut first = what.chars();
        let what = first
            .next()
            .map_or_else(String::new, |c| c.to_uppercase().chain(first).collect());
        let view = ErrorView {
            page: Page::bare("Not done"),
            what,
            then: then.into(),
            way: self.way(),
        };
        match html(&view) {
            Ok(page) => (status, page).into_response(),
            Err(_) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "Something went wrong on our side.",
            )
                .into_response(),
        }
    }
}
