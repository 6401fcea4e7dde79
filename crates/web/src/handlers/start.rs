//! The first run: three questions, then hours and money can be computed.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::Response;
use wembrit_core::ids::{PrinterId, ResinId};
use wembrit_core::workshop::{Printer, Resin};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::resins::ResinChange;
use wembrit_store::commands::workshop::WorkshopChange;
use wembrit_store::queries::workshop;
use wembrit_store::{Conn, StoreError, commands};

use super::page;
use crate::error::WebError;
use crate::forms::{Input, start as form};
use crate::state::App;
use crate::views::{FormView, Page, Tab};

/// The page of the three questions.
pub(crate) fn view(page: Page) -> FormView {
    FormView::new(page, "Three answers, and Wembrit can count", "/start")
        .lead(
            "Hours and money for every plate follow from them. All other figures are assumed for now, \
             tinted wherever they stand, and can be corrected in the workshop.",
        )
        .leads("/workshop", "Begin")
        .first_run()
        .fields(form::fields())
}

pub(crate) async fn answer(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let now = app.now_ms();
    let page = app
        .view(move |c, app| page(c, app, Tab::Today, "First run", None))
        .await?;
    super::save(view(page), &input, form::read(&input), |start| async move {
        app.write(move |c| set_up(c, &start, now)).await?;
        Ok("/muster".to_owned())
    })
    .await
}

fn set_up(c: &mut Conn, start: &form::Start, now_ms: i64) -> Result<(), StoreError> {
    let known = workshop::load(c)?;
    let assumed: Vec<&str> = known
        .assumed
        .split(',')
        .filter(|f| *f != "layer_um" && (*f != "time_zone" || start.time_zone.is_none()))
        .collect();
    let figures = WorkshopChange {
        layer: start.layer,
        time_zone: start.time_zone.clone().unwrap_or(known.time_zone.clone()),
        assumed: assumed.join(","),
        ..WorkshopChange::of(&known)
    };
    commands::workshop::change(c, known.row_version, &figures)?;
    let size = [start.width_mm, start.depth_mm, start.height_mm];
    let printer = Printer::assumed(PrinterId(0), "My printer", size);
    commands::printers::add(c, &PrinterChange::of(printer))?;
    let resin = Resin::assumed(ResinId(0), "My resin", start.price_per_kg);
    commands::resins::add(c, &ResinChange::of(resin))?;
    commands::settings::ensure_all(c, now_ms)
}
