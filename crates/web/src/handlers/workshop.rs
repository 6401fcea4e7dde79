//! The workshop: its figures, printers, resins and process settings.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId};
use wembrit_core::workshop::Preset;
use wembrit_store::commands;
use wembrit_store::queries::pages::workshop as pages;
use wembrit_store::queries::{printers, resins, settings, workshop};

use super::{Fields, Id, go, notice, page, save};
use crate::error::WebError;
use crate::forms::{self, Input, still_assumed};
use crate::state::App;
use crate::views::workshop::WorkshopView;
use crate::views::{FormView, Tab, html};

pub(crate) async fn show(State(app): State<App>, asked: Fields) -> Result<Html<String>, WebError> {
    let now = app.now_ms();
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Workshop, "Workshop", None)?.noticed(notice(&asked));
            let data = pages::load(c)?;
            let states = pages::exposure_states(c, &data.settings, now)?;
            Ok(WorkshopView::new(page, &data, &states))
        })
        .await?;
    html(&view)
}

async fn figures_view(app: &App) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let known = workshop::load(c)?;
        let page = page(c, app, Tab::Workshop, "Own figures", None)?;
        Ok(
            FormView::new(page, "Figures of the workshop", "/workshop/figures")
                .leads("/workshop", "Save")
                .editing(known.row_version, None)
                .fields(forms::workshop::fields(&known)),
        )
    })
    .await
}

pub(crate) async fn edit_figures(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&figures_view(&app).await?)
}

pub(crate) async fn save_figures(
    State(app): State<App>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let view = figures_view(&app).await?;
    let version = input.row_version();
    let read = forms::workshop::read(&input, still_assumed(&view.fields, &input));
    save(view, &input, read, |figures| async move {
        let currency = figures.currency.clone();
        app.write(move |c| {
            commands::workshop::change(c, version, &figures)?;
            commands::settings::ensure_all(c, now)
        })
        .await?;
        app.counts_in(&currency);
        Ok("/workshop".to_owned())
    })
    .await
}

/// The form of a printer; a new one without an identity.
async fn printer_view(app: &App, id: Option<PrinterId>) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Printer", None)?;
        let printer = id.map(|id| printers::load(c, id)).transpose()?;
        let fields = forms::printers::fields(printer.as_ref());
        Ok(match printer {
            None => FormView::new(page, "New printer", "/printers/new")
                .leads("/workshop", "Add the printer"),
            Some(p) => FormView::new(page, p.name.clone(), format!("/printers/{}", p.id))
                .leads("/workshop", "Save")
                .editing(p.row_version, Some(format!("/printers/{}/remove", p.id)))
                .about(format!("/printers/{}/pace", p.id), "What plates take on it")
                .about(format!("/printers/{}/link", p.id), "Its link"),
        }
        .fields(fields))
    })
    .await
}

pub(crate) async fn new_printer(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&printer_view(&app, None).await?)
}

pub(crate) async fn edit_printer(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
) -> Result<Html<String>, WebError> {
    html(&printer_view(&app, Some(id)).await?)
}

pub(crate) async fn add_printer(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    save_printer_as(app, None, body).await
}

pub(crate) async fn save_printer(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_printer_as(app, Some(id), body).await
}

async fn save_printer_as(
    app: App,
    id: Option<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let view = printer_view(&app, id).await?;
    let version = input.row_version();
    let read = forms::printers::read(&input, still_assumed(&view.fields, &input));
    save(view, &input, read, |printer| async move {
        app.write(move |c| {
            match id {
                Some(id) => commands::printers::change(c, id, version, &printer)?,
                None => drop(commands::printers::add(c, &printer)?),
            }
            commands::settings::ensure_all(c, now)
        })
        .await?;
        Ok("/workshop".to_owned())
    })
    .await
}

/// The form of a resin; a new one without an identity.
async fn resin_view(app: &App, id: Option<ResinId>) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Resin", None)?;
        let resin = id.map(|id| resins::load(c, id)).transpose()?;
        let fields = forms::resins::fields(resin.as_ref());
        Ok(match resin {
            None => FormView::new(page, "New resin", "/resins/new").leads("/workshop", "Add the resin"),
            Some(r) => FormView::new(page, r.name.clone(), format!("/resins/{}", r.id))
                .leads("/workshop", "Save")
                .editing(r.row_version, Some(format!("/resins/{}/remove", r.id))),
        }
        .lead("Uncured resin irritates skin and can sensitise it: its safety data sheet says how to handle it.")
        .fields(fields))
    })
    .await
}

pub(crate) async fn new_resin(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&resin_view(&app, None).await?)
}

pub(crate) async fn edit_resin(
    State(app): State<App>,
    Id(id): Id<ResinId>,
) -> Result<Html<String>, WebError> {
    html(&resin_view(&app, Some(id)).await?)
}

pub(crate) async fn add_resin(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    save_resin_as(app, None, body).await
}

pub(crate) async fn save_resin(
    State(app): State<App>,
    Id(id): Id<ResinId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_resin_as(app, Some(id), body).await
}

async fn save_resin_as(app: App, id: Option<ResinId>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let view = resin_view(&app, id).await?;
    let version = input.row_version();
    let read = forms::resins::read(&input, still_assumed(&view.fields, &input));
    save(view, &input, read, |resin| async move {
        app.write(move |c| {
            match id {
                Some(id) => commands::resins::change(c, id, version, &resin)?,
                None => drop(commands::resins::add(c, &resin)?),
            }
            commands::settings::ensure_all(c, now)
        })
        .await?;
        Ok("/workshop".to_owned())
    })
    .await
}

async fn setting_view(app: &App, id: ProcessSettingId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Process setting", None)?;
        let setting = settings::load(c, id)?;
        let printer = printers::load(c, setting.printer)?;
        let resin = resins::load(c, setting.resin)?;
        let heading = format!(
            "{} with {} at {} mm",
            printer.name, resin.name, setting.layer
        );
        let presets = Preset::of(printer.kind).iter();
        let presets = presets.map(|p| (p.as_str(), p.good_for())).collect();
        let mut view = FormView::new(page, heading, format!("/settings/{id}"))
            .lead(&format!(
                "Version {}. Plates already planned keep the version they were timed with.",
                setting.number
            ))
            .leads("/workshop", "Save as a new version")
            .editing(setting.number, None)
            .about(format!("/settings/{id}/exposure"), "Its exposure tests")
            .fields(forms::settings::fields(printer.kind, &setting));
        view.begins = Some((format!("/settings/{id}/preset"), presets));
        Ok(view)
    })
    .await
}

pub(crate) async fn edit_setting(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
) -> Result<Html<String>, WebError> {
    html(&setting_view(&app, id).await?)
}

pub(crate) async fn save_setting(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let view = setting_view(&app, id).await?;
    let (kind, known, before) = app
        .read(move |c| {
            let setting = settings::load(c, id)?;
            Ok((
                printers::load(c, setting.printer)?.kind,
                setting.timing,
                setting.assumed,
            ))
        })
        .await?;
    let read = forms::settings::read(&input, kind, &known);
    let assumed = forms::settings::still_assumed_timing(&view.fields, &input, &before);
    let version = input.row_version();
    save(view, &input, read, |timing| async move {
        app.write(move |c| commands::settings::append(c, id, version, &timing, &assumed, now))
            .await?;
        Ok("/workshop".to_owned())
    })
    .await
}

/// A new version with what such machines usually do.
pub(crate) async fn begin_from(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let preset = Input::parse(&body).get("preset").parse::<Preset>();
    let preset = preset.map_err(|e| WebError::BadRequest(e.to_string()))?;
    let now = app.now_ms();
    app.write(move |c| {
        let setting = settings::load(c, id)?;
        let (timing, assumed) = preset.in_place_of(&setting);
        commands::settings::append(c, id, setting.number, &timing, &assumed, now).map(drop)
    })
    .await?;
    Ok(go(format!("/settings/{id}")))
}

pub(crate) async fn remove_printer(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::printers::set_removed(c, id, Some(now)))
        .await?;
    Ok(go(format!("/workshop?removed=printer-{id}")))
}

pub(crate) async fn restore_printer(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
) -> Result<Response, WebError> {
    app.write(move |c| commands::printers::set_removed(c, id, None))
        .await?;
    Ok(go("/workshop"))
}

pub(crate) async fn remove_resin(
    State(app): State<App>,
    Id(id): Id<ResinId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::resins::set_removed(c, id, Some(now)))
        .await?;
    Ok(go(format!("/workshop?removed=resin-{id}")))
}

pub(crate) async fn restore_resin(
    State(app): State<App>,
    Id(id): Id<ResinId>,
) -> Result<Response, WebError> {
    app.write(move |c| commands::resins::set_removed(c, id, None))
        .await?;
    Ok(go("/workshop"))
}
