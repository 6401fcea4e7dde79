//! Batches led from step to step, and the page of cautions.

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::finishing::cautions;
use wembrit_core::finishing::cure::{Feel, Felt, UnderLamp};
use wembrit_core::finishing::{BatchAct, Step};
use wembrit_core::ids::BatchId;
use wembrit_core::workshop::resin::WashAgent;
use wembrit_store::queries::pages::finishing as pages;
use wembrit_store::queries::resins;
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::finishing::{CausesView, CautionsView, FinishingView};
use crate::views::{Tab, html, show};

async fn view(app: &App, fault: String) -> Result<FinishingView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let data = pages::open(c)?;
        let page = page(c, app, Tab::Finishing, "Finishing", None)?;
        Ok(FinishingView::new(page, &data, fault, now))
    })
    .await
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, String::new()).await?)
}

pub(crate) async fn cautions(State(app): State<App>) -> Result<Html<String>, WebError> {
    let view = app
        .view(|c, app| {
            let all = resins::list(c)?;
            Ok(CautionsView {
                page: page(c, app, Tab::Finishing, "Cautions", None)?,
                all: cautions::ALL,
                sheets: all.into_iter().map(|r| (r.name, r.data_sheet)).collect(),
            })
        })
        .await?;
    html(&view)
}

/// What each failure looks like, and what usually did it.
pub(crate) async fn causes(State(app): State<App>) -> Result<Html<String>, WebError> {
    let view = app
        .view(|c, app| {
            let page = page(c, app, Tab::Finishing, "Causes", None)?;
            Ok(CausesView::new(page))
        })
        .await?;
    html(&view)
}

/// Writes something down about batches; what cannot be done is said on the page.
async fn write(
    app: &App,
    work: impl FnOnce(&mut Conn) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    match app.write(work).await {
        Ok(()) => Ok(go("/finishing")),
        Err(WebError::Store(StoreError::Refused(why))) => refused(app, &why).await,
        Err(other) => Err(other),
    }
}

async fn refused(app: &App, why: &str) -> Result<Response, WebError> {
    refused_with(app, why, None).await
}

/// The page again with what is wrong, and the order of steps that was typed for a batch.
async fn refused_with(
    app: &App,
    why: &str,
    typed: Option<(BatchId, String)>,
) -> Result<Response, WebError> {
    let mut view = view(app, show::sentence(why)).await?;
    for card in &mut view.cards {
        if let Some((id, order)) = &typed
            && card.id == *id
        {
            card.route.clone_from(order);
        }
    }
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

fn read_act(what: &str, input: &Input) -> Result<BatchAct, WebError> {
    Ok(match what {
        "begin" => BatchAct::Begin,
        "end" => BatchAct::End,
        "back" => BatchAct::Back,
        "skip" => BatchAct::Skip {
            reason: input.get("reason").to_owned(),
        },
        "more" => BatchAct::More {
            minutes: input
                .decimal("minutes")
                .filter(|m| (-600.0..=600.0).contains(m))
                .unwrap_or(2.0),
        },
        _ => return Err(WebError::NoPage),
    })
}

/// One act on one batch.
pub(crate) async fn act(
    State(app): State<App>,
    Path((id, what)): Path<(i64, String)>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let id = BatchId(id);
    let now = app.now_ms();
    match what.as_str() {
        "count" => {
            let Ok(pieces) = input.get("pieces").trim().parse::<i64>() else {
                return refused(&app, "count the pieces: a number from 0").await;
            };
            write(&app, move |c| commands::batches::count(c, id, pieces)).await
        }
        "cure" => {
            let minutes = input
                .decimal("minutes")
                .filter(|m| (0.1..=600.0).contains(m));
            let feel = input.get("feel").parse::<Feel>().ok();
            let kind = input.get("kind").parse::<UnderLamp>().ok();
            let Some(((minutes, feel), kind)) = minutes.zip(feel).zip(kind) else {
                return refused(&app, "say the minutes under the lamp, and how they felt").await;
            };
            let lamp = input.get("lamp").trim().chars().take(60).collect();
            let felt = Felt {
                lamp,
                kind,
                minutes,
                feel,
            };
            write(&app, move |c| commands::batches::felt(c, id, &felt, now)).await
        }
        "wash" => {
            let Ok(agent) = input.get("agent").parse::<WashAgent>() else {
                return refused(&app, "choose what these copies are washed in").await;
            };
            write(&app, move |c| commands::batches::wash_in(c, id, agent)).await
        }
        "order" => {
            let words = input.get("order").split(',').map(str::trim);
            let steps: Result<Vec<Step>, _> = words.map(str::parse).collect();
            let typed = (id, input.get("order").to_owned());
            let why = match steps {
                Ok(steps) => {
                    let work = move |c: &mut Conn| commands::batches::reorder(c, id, &steps);
                    match app.write(work).await {
                        Err(WebError::Store(StoreError::Refused(why))) => why,
                        done => return done.map(|()| go("/finishing")),
                    }
                }
                Err(unknown) => unknown.to_string(),
            };
            refused_with(&app, &why, Some(typed)).await
        }
        what => {
            let act = read_act(what, &input)?;
            write(&app, move |c| commands::batches::act(c, &[id], &act, now)).await
        }
    }
}

/// One act on several batches: all of them or none.
pub(crate) async fn several(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let act = read_act(input.get("act"), &input)?;
    let of: Vec<BatchId> = input
        .all("batch")
        .filter_map(|id| id.parse().ok().map(BatchId))
        .collect();
    let now = app.now_ms();
    write(&app, move |c| commands::batches::act(c, &of, &act, now)).await
}

/// When the step under way is over, for a calendar.
pub(crate) async fn alarm(
    State(app): State<App>,
    Id(id): Id<BatchId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let data = app.read(move |c| pages::one(c, id)).await?;
    let due = data.batch.due_at_ms().zip(data.batch.current());
    let Some((due, step)) = due else {
        return Err(WebError::BadRequest(
            "no step of this batch is under way: begin one first".into(),
        ));
    };
    let words = format!("{} over: plate {}", step.step, data.plate.number);
    let uid = format!("batch-{id}-{}", step.step.as_str().replace(' ', "-"));
    Ok(super::runs::calendar(&uid, &words, due, now))
}
