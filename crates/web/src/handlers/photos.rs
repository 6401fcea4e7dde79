//! Photographs of copies, taken at the bench.

use axum::extract::{Multipart, Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use wembrit_core::ids::PlateId;
use wembrit_store::{commands, queries};

use super::{Id, go};
use crate::error::WebError;
use crate::photo::keep_beside;
use crate::state::App;

/// Takes a photograph in; it goes back to the plate's sheet.
pub(crate) async fn add(
    State(app): State<App>,
    Id(plate): Id<PlateId>,
    mut form: Multipart,
) -> Result<Response, WebError> {
    let refused = |why: &str| WebError::BadRequest(why.to_owned());
    let (mut mark, mut bytes) = (None, None);
    let broken =
        |_| refused("the photograph did not arrive whole, or is over 12 MB: send it again");
    while let Some(field) = form.next_field().await.map_err(broken)? {
        match field.name() {
            Some("mark") => mark = field.text().await.map_err(broken)?.trim().parse().ok(),
            Some("photo") => bytes = Some(field.bytes().await.map_err(broken)?),
            _ => {}
        }
    }
    let mark = mark.ok_or_else(|| {
        refused(
            "say which copy is on the photograph, by its mark: a number as on the sorting sheet",
        )
    })?;
    let bytes = bytes.filter(|b| !b.is_empty());
    let bytes = bytes.ok_or_else(|| refused("choose a photograph, or take one"))?;
    let kept = keep_beside(bytes).await?;
    let now = app.now_ms();
    let of = app
        .write(move |c| {
            let copy = queries::plates::copy_with_mark(c, plate, mark)?;
            commands::photos::add(c, copy, &kept, now)
        })
        .await?;
    Ok(go(format!("/plates/{of}#photos")))
}

pub(crate) async fn show(
    State(app): State<App>,
    Path(id): Path<i64>,
) -> Result<Response, WebError> {
    let jpeg = app.read(move |c| queries::photos::load(c, id)).await?;
    let headers = [
        (header::CONTENT_TYPE, "image/jpeg"),
        (
            header::CACHE_CONTROL,
            "private, max-age=31536000, immutable",
        ),
    ];
    Ok((headers, jpeg).into_response())
}
