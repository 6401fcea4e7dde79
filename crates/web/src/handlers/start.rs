//! The first run: three questions, then hours and money can be computed.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::Response;
use wembrit_core::workshop::print_time::MachineKind;
use wembrit_store::queries::{printers, resins, settings, workshop};
use wembrit_store::{Conn, StoreError};

use crate::error::WebError;
use crate::forms::{Input, printers as printer_form, resins as resin_form, start as form};
use crate::state::App;
use crate::views::{FormView, Page, Tab};

/// The page of the three questions.
pub(crate) fn view(page: Page) -> FormView {
    FormView::new(page, "Three answers, and Wembrit can count", "/start")
        .lead(
            "From your plate, the price of your resin and your layer height follow hours and money for \
             every plate. All other figures are assumed for now, tinted wherever they stand, and can be \
             corrected in the workshop.",
        )
        .leads("/workshop", "Begin")
        .fields(form::fields())
}

pub(crate) async fn answer(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let now = app.now_ms();
    let page = app
        .view(move |c, app| Page::load(c, app, Tab::Today, "First run", None))
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
        .filter(|f| *f != "layer_um")
        .collect();
    let figures = workshop::WorkshopChange {
        name: known.name.clone(),
        currency: known.currency.clone(),
        time_zone: known.time_zone.clone(),
        layer: start.layer,
        clearance_mm: known.clearance_mm,
        waste_share: known.waste_share,
        hands_on_minutes: known.hands_on_minutes,
        hands_on_per_hour: known.hands_on_per_hour(),
        assumed: assumed.join(","),
    };
    workshop::change(c, known.row_version, &figures)?;
    let printer = printers::PrinterChange {
        name: "My printer".into(),
        kind: MachineKind::Screen,
        width_mm: start.width_mm,
        depth_mm: start.depth_mm,
        height_mm: start.height_mm,
        margin_mm: printer_form::MARGIN_MM,
        startup_s: printer_form::STARTUP_S,
        pixel_um: printer_form::PIXEL_UM,
        removal_mm: 0.0,
        part_pull: 0.0,
        plate_pull: 0.0,
        assumed: "name,kind,margin_mm,startup_s,removal_mm,pixel_um".into(),
    };
    printers::add(c, &printer)?;
    let resin = resins::ResinChange {
        name: "My resin".into(),
        price_per_kg: start.price_per_kg,
        density_g_per_ml: resin_form::DENSITY_G_PER_ML,
        viscosity: resin_form::VISCOSITY,
        nature: resin_form::NATURE,
        wash_agents: resin_form::WASH_AGENT.to_string(),
        safe_mm: resin_form::SAFE_MM,
        fuses_mm: resin_form::FUSES_MM,
        assumed: "name,density_g_per_ml,viscosity,nature,wash_agents,safe_mm,fuses_mm".into(),
    };
    resins::add(c, &resin)?;
    settings::ensure_all(c, now_ms)
}
