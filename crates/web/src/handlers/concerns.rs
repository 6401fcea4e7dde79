//! What stands open is put aside, or taken up again.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::Response;
use wembrit_core::ids::ProjectId;
use wembrit_core::plan::concerns::concerns;
use wembrit_store::queries::{army, concerns as stored};
use wembrit_store::{StoreError, commands};

use super::{Id, go, own_path};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;

/// Back to the page the list stood on, one of our own.
fn back(input: &Input, project: ProjectId) -> Response {
    match own_path(input.get("then"), &["/projects/", "/models/", "/plates/"]) {
        Some(then) => go(then),
        None => go(format!("/projects/{project}/muster")),
    }
}

pub(crate) async fn put_aside(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let keys: Vec<String> = input.all("key").map(str::to_owned).collect();
    let reason = input.get("reason").to_owned();
    app.write(move |c| {
        // In the words it stands in now; what stands open no more needs no reason.
        let army = army::load(c, id)?;
        let all = concerns(&army, &*stored::of_project(c, id)?);
        // One that is about several models was answered in part meanwhile: the rest is put aside.
        let found: Vec<_> = all.iter().filter(|k| keys.contains(&k.key)).collect();
        if found.is_empty() {
            return Err(StoreError::NotFound { what: "concern" });
        }
        found.into_iter().try_for_each(|concern| {
            let about = (concern.key.as_str(), concern.words.as_str());
            commands::concerns::put_aside(c, id, about, &reason, now)
        })
    })
    .await?;
    Ok(back(&input, id))
}

pub(crate) async fn take_up(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let key = input.get("key").to_owned();
    app.write(move |c| commands::concerns::take_up(c, id, &key))
        .await?;
    Ok(back(&input, id))
}
