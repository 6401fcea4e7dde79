//! When somebody is there.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_store::{commands, queries};

use super::{page, save};
use crate::error::WebError;
use crate::forms::{self, Input, still_assumed};
use crate::state::App;
use crate::views::{FormView, Tab, html};

async fn form(app: &App) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let known = queries::attendance::as_far_as_read(c)?;
        let page = page(c, app, Tab::Workshop, "When you are there", None)?;
        Ok(FormView::new(page, "When you are there", "/attendance")
            .leads("/schedule", "Save")
            .editing(known.row_version, None)
            .lead("Plates are put on and taken off in these hours. One pair of hands does one thing at a time.")
            .fields(forms::attendance::fields(&known)))
    })
    .await
}

pub(crate) async fn edit(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&form(&app).await?)
}

pub(crate) async fn change(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let view = form(&app).await?;
    let assumed = still_assumed(&view.fields, &input);
    let read = forms::attendance::read(&input, input.row_version(), assumed);
    save(view, &input, read, |to| async move {
        app.write(move |c| commands::attendance::change(c, &to))
            .await?;
        Ok("/schedule".to_owned())
    })
    .await
}
