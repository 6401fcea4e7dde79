//! What wears: replaced, or how long it lasts.

use crate::currency;
use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::PrinterId;
use wembrit_core::stores::{Wear, WearKind};
use wembrit_store::commands::wears as commands;
use wembrit_store::queries::pages::stores as pages;
use wembrit_store::queries::wears;
use wembrit_store::{Conn, StoreError};

use super::{go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::wears::WearView;
use crate::views::{Tab, html};

async fn view(app: &App, fault: String) -> Result<WearView, WebError> {
    let order = app.worked.order();
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Wear", None)?;
        Ok(WearView::new(page, &pages::load(c)?, &order, fault))
    })
    .await
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, String::new()).await?)
}

/// What a form says of something that wears; the figures it has now where none are typed.
fn read(c: &mut Conn, input: &Input) -> Result<Wear, StoreError> {
    let refused = |why: &str| StoreError::Refused(why.to_owned());
    let kind = input.get("kind").parse::<WearKind>();
    let kind = kind.map_err(|_| refused("that does not wear: load the page again"))?;
    let printer = input.get("printer").parse::<PrinterId>().ok();
    let now = wears::now_in_use(c)?.into_iter();
    let mut of = now.filter(|w| w.kind == kind && w.printer == printer);
    let now = of.next().unwrap_or(Wear::usual(kind, printer));
    let figure = |name: &str, known: f64| match input.get(name) {
        "" => known,
        _ => input.decimal(name).unwrap_or(f64::NAN),
    };
    let price = match input.get("price") {
        "" => now.price,
        typed => currency::read(typed).map_err(|e| StoreError::Refused(e.to_string()))?,
    };
    Ok(Wear {
        price,
        life: figure("life", now.life),
        second: figure("second", now.second),
        ..now
    })
}

/// A new one is in, or one lasts longer than it was thought.
pub(crate) async fn write(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let replaced = input.get("do") == "replace";
    let work = move |c: &mut Conn| {
        let wear = read(c, &input)?;
        if replaced {
            commands::replace(c, &wear, now)
        } else {
            commands::set_life(c, &wear)
        }
    };
    match app.write(work).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = view(&app, format!("Not written down: {why}.")).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        done => {
            done?;
            Ok(go("/stores/wear"))
        }
    }
}
