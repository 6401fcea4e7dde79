//! What can go wrong with the data file.

use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{FlowError, RunsMeet};

/// How a demand has changed since a plan was made from it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Stale {
    /// What the plan was made for.
    pub planned: Vec<DemandLine>,
    /// What is wanted now.
    pub now: Vec<DemandLine>,
}

/// An error of the store.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// There is no such thing, or it was removed.
    #[error("there is no such {what} (any more)")]
    NotFound {
        /// What was looked for.
        what: &'static str,
    },
    /// Somebody else changed it first.
    #[error("this {what} was changed in the meantime")]
    Conflict {
        /// What was to be changed.
        what: &'static str,
    },
    /// A step that does not lead on from where a thing stands.
    #[error(transparent)]
    Flow(#[from] FlowError),
    /// The plan no longer matches the demand.
    #[error("the army has changed since this plan was made")]
    Stale(Stale),
    /// A printer prints one plate at a time.
    #[error(transparent)]
    RunsMeet(#[from] RunsMeet),
    /// A rule of the workshop forbids it; the sentence says what to do.
    #[error("{0}")]
    Refused(String),
    /// The form was sent before, and what it says was done.
    #[error("this form was sent before, and was carried out then")]
    Sent,
    /// Another program holds the data file.
    #[error("the data file is busy; try again in a moment")]
    Busy,
    /// A row that cannot be right.
    #[error("the data file holds something unreadable: {0}")]
    BadRow(String),
    /// The file is no data file of Wembrit.
    #[error("{0}")]
    NotOurs(String),
    /// Anything else SQLite says.
    #[error("the data file could not be read or written: {0}")]
    Other(String),
}

impl From<diesel::result::Error> for StoreError {
    fn from(error: diesel::result::Error) -> Self {
        use diesel::result::{DatabaseErrorKind, Error};
        match error {
            Error::NotFound => StoreError::NotFound { what: "entry" },
            Error::DeserializationError(error) => StoreError::BadRow(error.to_string()),
            Error::DatabaseError(DatabaseErrorKind::Unknown, info)
                if info.message().contains("locked") =>
            {
                StoreError::Busy
            }
            Error::DatabaseError(DatabaseErrorKind::ForeignKeyViolation, _) => StoreError::Refused(
                "what was chosen is not there (any more): load the page again and choose anew"
                    .into(),
            ),
            // Constraints are named by what they are about, such as `models.quantity`.
            Error::DatabaseError(DatabaseErrorKind::CheckViolation, info) => {
                let said = info.message().rsplit(": ").next().unwrap_or_default();
                StoreError::Refused(format!("{said} is out of its range: enter another figure"))
            }
            other => StoreError::Other(other.to_string()),
        }
    }
}

impl From<wembrit_core::words::UnknownWord> for StoreError {
    fn from(word: wembrit_core::words::UnknownWord) -> Self {
        StoreError::BadRow(word.to_string())
    }
}

impl From<diesel::r2d2::PoolError> for StoreError {
    fn from(_: diesel::r2d2::PoolError) -> Self {
        StoreError::Busy
    }
}

/// Names what was not found.
pub(crate) trait OrNotFound<T> {
    fn or_not_found(self, what: &'static str) -> Result<T, StoreError>;
}

impl<T> OrNotFound<T> for Result<T, diesel::result::Error> {
    fn or_not_found(self, what: &'static str) -> Result<T, StoreError> {
        self.map_err(|error| match error {
            diesel::result::Error::NotFound => StoreError::NotFound { what },
            other => other.into(),
        })
    }
}
