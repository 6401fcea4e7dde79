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

use super::{Id, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::weighing::{WeighingView, says_words};
use crate::views::{Tab, html, show};

/// The page with what was said of the last weight, or what was wrong with it.
async fn view(
    app: &App,
    id: PlateId,
    said: Result<Option<WeightSays>, String>,
) -> Result<WeighingView, WebError> {
    app.view(move |c, app| {
        let data = pages::load(c, id)?;
        let title = format!("Plate {} on the scale", data.plate.number);
        let page = page(c, app, Tab::Finishing, &title, Some(data.plate.project))?;
        let (said, fault) = match said {
            Ok(said) => (said.map_or_else(String::new, says_words), String::new()),
            Err(fault) => (String::new(), fault),
        };
        Ok(WeighingView::new(page, &data, said, fault))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, Ok(None)).await?)
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
    })
}

/// Something was weighed, or was written down wrongly.
pub(crate) async fn write(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let forget = input.get("forget").parse::<i64>().ok();
    let work = match (forget, read(&input)) {
        (Some(weight), _) => {
            let work = move |c: &mut Conn| commands::forget(c, id, weight);
            app.write(work).await.map(|()| None)
        }
        (None, Ok(what)) => {
            let work = move |c: &mut Conn| commands::weigh(c, id, &what, now);
            app.write(work).await.map(Some)
        }
        (None, Err(why)) => Err(WebError::Store(StoreError::Refused(why))),
    };
    match work {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let fault = format!("Not written down: {}", show::sentence(&why));
            let view = view(&app, id, Err(fault)).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        said => {
            let view = view(&app, id, Ok(said?)).await?;
            Ok(html(&view)?.into_response())
        }
    }
}
