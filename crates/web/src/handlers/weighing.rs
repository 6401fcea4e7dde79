//! Prints of a plate on the scale.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::{PartId, PlateId};
use wembrit_core::stores::{OnScale, WeightSays};
use wembrit_store::commands::weighings::{self as commands, OnTheScale};
use wembrit_store::queries::pages::weighing as pages;
use wembrit_store::{Conn, StoreError};

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::weighing::{TypedWeight, WeighingView, far_words};
use crate::views::{Tab, html};

async fn view(app: &App, id: PlateId, typed: TypedWeight) -> Result<WeighingView, WebError> {
    app.view(move |c, app| {
        let data = pages::load(c, id)?;
        let title = format!("Plate {} on the scale", data.plate.number);
        let page = page(c, app, Tab::Finishing, &title, Some(data.plate.project))?;
        Ok(WeighingView::new(page, &data, typed))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, TypedWeight::default()).await?)
}

/// What a form says was weighed: `all` or `part N`, with its state.
fn read(input: &Input) -> Result<OnTheScale, String> {
    let what = input.get("what");
    let part = what.strip_prefix("part ").map(str::parse::<PartId>);
    let part = part.transpose().map_err(|_| "choose what it is")?;
    let state = input.get("state").parse::<OnScale>();
    let copies = input.within("copies", 1.0, 10_000.0)?;
    let grams = input.within("grams", 0.0, 50_000.0)?;
    Ok(OnTheScale {
        part,
        copies: copies.unwrap_or(1.0) as u64,
        state: state.map_err(|_| "say how far it is finished")?,
        grams: grams.ok_or("write what it weighs")?,
        sure: input.has("sure"),
    })
}

/// Something was weighed: it is written down, or asked about again with what was typed.
async fn weigh(app: &App, id: PlateId, input: &Input) -> Result<Option<TypedWeight>, WebError> {
    let now = app.now_ms();
    let text = |name: &str| input.get(name).to_owned();
    let typed = TypedWeight {
        what: text("what"),
        state: text("state"),
        copies: text("copies"),
        grams: text("grams"),
        ..TypedWeight::default()
    };
    let why = match read(input) {
        Ok(what) => {
            let sure = what.sure;
            let work = move |c: &mut Conn| commands::weigh(c, id, &what, now);
            match app.write(work).await {
                Ok(WeightSays::Far(times)) if !sure => {
                    return Ok(Some(TypedWeight {
                        fault: far_words(times),
                        asks: true,
                        ..typed
                    }));
                }
                Err(WebError::Store(StoreError::Refused(why))) => why,
                done => return done.map(|_| None),
            }
        }
        Err(why) => why,
    };
    Ok(Some(TypedWeight {
        fault: format!("Not written down: {why}."),
        ..typed
    }))
}

/// Something was weighed, or was written down wrongly.
pub(crate) async fn write(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    if let Ok(weight) = input.get("forget").parse::<i64>() {
        app.write(move |c| commands::forget(c, id, weight)).await?;
    } else if let Some(typed) = weigh(&app, id, &input).await? {
        let view = view(&app, id, typed).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response());
    }
    Ok(go(format!("/plates/{id}/scale")))
}
