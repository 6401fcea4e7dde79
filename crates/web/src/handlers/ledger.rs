//! The ledger, odds, and what one model costs.

use crate::currency;
use axum::body::Bytes;
use axum::extract::{Path, RawQuery, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::geometry::Quarter;
use wembrit_core::ids::{ModelId, PrinterId, ProjectId};
use wembrit_store::commands::{bundles, printers, spares};
use wembrit_store::queries::pages::ledger as pages;
use wembrit_store::{Conn, StoreError};

use super::{Id, go, page, sent};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::ledger::{LedgerView, ledger_csv};
use crate::views::model_cost::{ModelCostView, Typed, reason};
use crate::views::odds::{OddsView, odds_csv};
use crate::views::{Tab, html};

pub(crate) async fn newest(State(app): State<App>) -> Result<Response, WebError> {
    super::newest(&app, "ledger").await
}

async fn view(app: &App, project: ProjectId, fault: String) -> Result<LedgerView, WebError> {
    app.view(move |c, app| {
        let data = pages::load(c, project)?;
        let page = page(c, app, Tab::Ledger, "Ledger", Some(project))?;
        Ok(LedgerView::new(page, &data, fault))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, String::new()).await?)
}

const CSV: &str = "text/csv; charset=utf-8";

/// A table of the ledger.
pub(crate) async fn table(
    State(app): State<App>,
    Path((id, file)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let data = app.read(move |c| pages::load(c, ProjectId(id))).await?;
    let table = file.strip_suffix(".csv").unwrap_or_default();
    let text = ledger_csv(&data, table).ok_or(StoreError::NotFound { what: "table" })?;
    Ok(sent(CSV, &format!("ledger-{table}.csv"), text))
}

pub(crate) async fn odds(State(app): State<App>) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let data = pages::odds(c)?;
            let page = page(c, app, Tab::Ledger, "Odds", None)?;
            Ok(OddsView::new(page, &data))
        })
        .await?;
    html(&view)
}

/// The odds as a table.
pub(crate) async fn odds_table(State(app): State<App>) -> Result<Response, WebError> {
    let data = app.read(pages::odds).await?;
    Ok(sent(CSV, "odds.csv", odds_csv(&data)))
}

/// Slender parts are kept out of a quarter of a printer's plate from the next plan on, or no longer.
pub(crate) async fn keep_clear(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let quarter = match input.get("quarter") {
        "" => None,
        word => Some(word.parse::<Quarter>().map_err(|e| {
            StoreError::Refused(format!("{e}: go back to the odds and choose again"))
        })?),
    };
    app.write(move |c| printers::keep_clear(c, id, quarter))
        .await?;
    Ok(go("/ledger/odds"))
}

/// A bundle was bought, or is forgotten.
pub(crate) async fn bundle(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let work = move |c: &mut Conn| {
        if let Ok(bundle) = input.get("forget").parse::<i64>() {
            return bundles::forget(c, bundle);
        }
        let price = currency::read(input.get("price"));
        let price = price.map_err(|why| StoreError::Refused(why.to_string()))?;
        bundles::buy(c, input.get("name"), price, input.has("all"), now)
    };
    match app.write(work).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = view(&app, id, format!("Not written down: {why}.")).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        done => {
            done?;
            Ok(go(format!("/projects/{id}/ledger")))
        }
    }
}

/// What one model costs, and how many to print.
pub(crate) async fn model(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    RawQuery(query): RawQuery,
) -> Result<Html<String>, WebError> {
    let typed = Typed::read(&Input::parse(&Bytes::from(query.unwrap_or_default())));
    let view = app
        .view(move |c, app| {
            let data = pages::of_model(c, id)?;
            let title = format!("What one {} costs", data.model.model.name);
            let page = page(c, app, Tab::Ledger, &title, Some(data.project))?;
            Ok(ModelCostView::new(page, &data, typed))
        })
        .await?;
    html(&view)
}

/// Spares as they are advised, with the reason.
pub(crate) async fn write_spares(
    State(app): State<App>,
    Id(id): Id<ModelId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let data = pages::of_model(c, id)?;
        for part in &data.model.parts {
            if let Some((asked, advice)) = data.facts.advised(part) {
                spares::write(
                    c,
                    part.part.id,
                    advice.spares,
                    &reason(&asked, &advice),
                    now,
                )?;
            }
        }
        Ok(())
    })
    .await?;
    Ok(go(format!("/models/{id}/cost")))
}
