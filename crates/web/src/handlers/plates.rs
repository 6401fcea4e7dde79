//! One plate: its sheet, and the steps of its run.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::FailureCause;
use wembrit_core::ids::{CopyId, PlateId};
use wembrit_store::StoreError;
use wembrit_store::queries::plates::{self, Loss};

use super::{Id, go};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::plates::PlateView;
use crate::views::{Page, Tab, html, show};

async fn view(app: &App, id: PlateId) -> Result<PlateView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let plate = plates::load(c, id)?;
        let title = format!("Plate {}", plate.number);
        let page = Page::load(c, app, Tab::Plates, &title, Some(plate.project_id))?;
        PlateView::load(c, page, id, now)
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id).await?)
}

/// Takes a step, then shows the sheet again.
async fn step(
    app: App,
    id: PlateId,
    work: impl FnOnce(&mut wembrit_store::Conn, i64) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| work(c, now)).await?;
    Ok(go(format!("/plates/{id}")))
}

pub(crate) async fn start(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::start(c, id, now)).await
}

pub(crate) async fn done(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::finish(c, id, now, now)).await
}

pub(crate) async fn rejudge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::rejudge(c, id, now)).await
}

pub(crate) async fn release(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::release(c, id, now)).await
}

/// The sheet again, with what was typed and what is wrong with it.
fn refused(mut view: PlateView, fault: String) -> Result<Response, WebError> {
    view.fault = fault;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

pub(crate) async fn log(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut view = view(&app, id).await?;
    let read = |name| show::read_field(input.get(name), &view.page.zone);
    let Some((started, ended)) = read("started").zip(read("ended")) else {
        view.started_field = input.get("started").to_owned();
        view.ended_field = input.get("ended").to_owned();
        return refused(
            view,
            "Not logged: give both times, such as 2026-11-24T16:20.".into(),
        );
    };
    match step(app, id, move |c, now| {
        plates::log_run(c, id, started, ended, now)
    })
    .await
    {
        Err(WebError::Store(StoreError::Refused(why))) => {
            view.started_field = input.get("started").to_owned();
            view.ended_field = input.get("ended").to_owned();
            refused(view, format!("Not logged: {why}."))
        }
        other => other,
    }
}

pub(crate) async fn judge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    match read_losses(&input) {
        Ok(lost) => step(app, id, move |c, now| plates::judge(c, id, &lost, now)).await,
        Err(fault) => {
            let mut view = view(&app, id).await?;
            view.cause = input.get("cause").to_owned();
            for judged in &mut view.judged {
                judged.lost = input.all("lost").any(|key| key == judged.key);
                judged.cause = input.get(&format!("cause_{}", judged.key)).to_owned();
                judged.note = input.get(&format!("note_{}", judged.key)).to_owned();
            }
            refused(view, fault)
        }
    }
}

/// The marked copies, each with its own cause or the one for all.
fn read_losses(input: &Input) -> Result<Vec<Loss>, String> {
    let shared = input.get("cause");
    let loss = |key: &str| {
        let copy: CopyId = key
            .parse()
            .map_err(|_| "Not judged: one mark names no copy; load the page again.".to_owned())?;
        let own = input.get(&format!("cause_{key}"));
        let word = if own.is_empty() { shared } else { own };
        let cause: FailureCause = word
            .parse()
            .map_err(|_| "Not judged: choose the cause of what was lost.".to_owned())?;
        Ok(Loss {
            copy,
            cause,
            note: input.get(&format!("note_{key}")).to_owned(),
        })
    };
    input.all("lost").map(loss).collect()
}
