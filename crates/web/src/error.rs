//! Everything that can go wrong, with its status and the sentence a person reads.

use axum::http::StatusCode;
use wembrit_store::StoreError;

/// Why the server could not run.
#[derive(Debug, thiserror::Error)]
pub enum LaunchError {
    /// The data file.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The thread for long work.
    #[error("the task thread could not start: {0}")]
    Thread(std::io::Error),
}

/// An error on the way to a page.
#[derive(Debug, thiserror::Error)]
pub(crate) enum WebError {
    #[error("there is no such page")]
    NoPage,
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("{0}")]
    BadRequest(String),
    #[error("the upload broke off: {0}")]
    Upload(String, StatusCode),
    #[error("{0}")]
    Damaged(String),
    #[error("the page could not be drawn: {0}")]
    Template(#[from] askama::Error),
    #[error("the work was cut off: {0}")]
    Join(#[from] tokio::task::JoinError),
}

impl WebError {
    /// Where to go from here: the form that mends what cannot be read, else the first page.
    pub(crate) fn way(&self) -> (&'static str, &'static str) {
        const FORMS: [(&str, &str, &str); 4] = [
            ("attendance", "/attendance", "Correct the working hours"),
            (
                "workshop",
                "/workshop/figures",
                "Correct the workshop's figures",
            ),
            ("printer", "/workshop", "Correct the printer"),
            ("resin", "/workshop", "Correct the resin"),
        ];
        match self {
            WebError::Store(StoreError::BadRow(why)) => {
                let form = FORMS.iter().find(|(what, _, _)| why.starts_with(what));
                form.map_or(
                    ("/workshop/archive", "Open backup and export"),
                    |(_, path, words)| (path, words),
                )
            }
            _ => ("/", "To the first page"),
        }
    }

    /// Status, what happened, and what to do.
    pub(crate) fn sentence(&self) -> (StatusCode, String, &'static str) {
        let said = self.to_string();
        match self {
            WebError::NoPage => (
                StatusCode::NOT_FOUND,
                said,
                "Go on from the row of pages above.",
            ),
            WebError::Store(error) => match error {
                StoreError::NotFound { .. } => (
                    StatusCode::NOT_FOUND,
                    said,
                    "It may have been taken away in another window. Go back and load the page again.",
                ),
                StoreError::Conflict { .. } => (
                    StatusCode::CONFLICT,
                    said,
                    "Go back, load the page again and look at what stands there now.",
                ),
                StoreError::Stale(_) => (
                    StatusCode::CONFLICT,
                    said,
                    "Plan again: the new plan takes the change in.",
                ),
                StoreError::Flow(_) => (
                    StatusCode::CONFLICT,
                    said,
                    "Somebody may have taken this step already. Go back and load the page again.",
                ),
                StoreError::Refused(_) | StoreError::RunsMeet(_) => (
                    StatusCode::UNPROCESSABLE_ENTITY,
                    said,
                    "Nothing was changed.",
                ),
                StoreError::Sent => (
                    StatusCode::CONFLICT,
                    said,
                    "Nothing was done twice. Go back and load the page again.",
                ),
                StoreError::Busy => (
                    StatusCode::SERVICE_UNAVAILABLE,
                    said,
                    "Nothing was changed.",
                ),
                StoreError::BadRow(_) => (
                    StatusCode::INTERNAL_SERVER_ERROR,
                    said,
                    "Nothing was changed. The form shows what can be read, and puts the rest right when you save it.",
                ),
                StoreError::NotOurs(_) | StoreError::Other(_) => (
                    StatusCode::INTERNAL_SERVER_ERROR,
                    "the data file could not be read or written".into(),
                    "Nothing was changed. Is the disk full or the file read-only? The server's log has the details.",
                ),
            },
            WebError::Damaged(_) => (
                StatusCode::SERVICE_UNAVAILABLE,
                said,
                "Nothing more is written to it. Keep the file, stop the server, and put a copy in its place with: wembrit restore COPY. What can still be read can be taken out first as tables at /workshop/archive/tables/copies.csv, for example.",
            ),
            WebError::BadRequest(_) => (
                StatusCode::BAD_REQUEST,
                said,
                "Nothing was changed. Go back and try it again.",
            ),
            WebError::Upload(_, status) => (
                *status,
                said,
                "Files that had arrived whole are kept; upload the others again.",
            ),
            WebError::Template(_) | WebError::Join(_) => (
                StatusCode::INTERNAL_SERVER_ERROR,
                "something went wrong on our side".into(),
                "Your data is safe. Load the page again; if it stays, the server's log has the details.",
            ),
        }
    }
}
