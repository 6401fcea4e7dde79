//! The identity an address names.

use axum::extract::{FromRequestParts, Path};
use axum::http::request::Parts;

use crate::error::WebError;

/// The one number in an address, as the identity a handler asks for; anything else is no page.
pub(crate) struct Id<T>(pub(crate) T);

impl<T: From<i64>, S: Send + Sync> FromRequestParts<S> for Id<T> {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, WebError> {
        let Path(number) = Path::<i64>::from_request_parts(parts, state)
            .await
            .map_err(|_| WebError::NoPage)?;
        Ok(Self(T::from(number)))
    }
}
