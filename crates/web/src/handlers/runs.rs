//! A plate at its printer: the checks before the start, what happens while it runs.

use crate::currency;
use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::link::CommandKind;
use wembrit_core::running::{Answers, CheckItem};
use wembrit_core::stores::{Place, Volume};
use wembrit_store::commands::run_plate::{StartSaid, While};
use wembrit_store::queries::pages::runs as pages;
use wembrit_store::queries::stores;
use wembrit_store::{Conn, StoreError, commands};

use super::links::{linked, live_of};
use super::{Fields, Id, go, page, sent};
use crate::attended::day_ms;
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::links::Memory;
use crate::views::runs::{Asked, RunView, Typed, VatView};
use crate::views::{Tab, html, show};

async fn view(app: &App, id: PlateId, typed: Typed, asked: Asked) -> Result<RunView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let day = day_ms(c, now)?;
        let mut data = pages::load(c, id, day)?;
        let waits = data.known.plate.state == PlateState::Planned;
        let of = linked(app, &data).filter(|_| waits);
        let checksum = of
            .as_ref()
            .map_or("", |(_, job)| job.checksum.as_str())
            .to_owned();
        data.known.linked = of.map(|(linked, _)| linked);
        let plate = &data.known.plate;
        let title = format!("Plate {} at the printer", plate.number);
        let page = page(c, app, Tab::Plates, &title, Some(plate.project))?;
        let heard = app.printers.heard(plate.printer);
        let memory =
            waits.then(|| Memory::new(&data, heard.as_ref(), &checksum, (&page.zone, now)));
        let mut view = RunView::new(page, &data, &typed, &asked, now);
        view.memory = memory.flatten();
        if let Some(memory) = &mut view.memory {
            let first = view.checks.iter().filter(|c| c.kind == "stop").count() == 1;
            memory.comes_next = !memory.holds && memory.silent.is_empty() && first;
        }
        view.live = live_of(c, app, id, now)?;
        Ok(view)
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let text = |name: &str| asked.get(name).map_or("", |v| v.trim()).to_owned();
    let asked = Asked {
        lost: text("lost").parse().ok(),
        damage: currency::read(&text("damage")).ok(),
    };
    html(&view(&app, id, Typed::default(), asked).await?)
}

fn read_start(input: &Input) -> (StartSaid, String) {
    let vat = input.within("vat_ml", 0.0, 20_000.0);
    let room = input.within("room_c", -20.0, 60.0);
    let fault = [vat.as_ref().err(), room.as_ref().err()];
    let fault = fault
        .into_iter()
        .flatten()
        .next()
        .map_or_else(String::new, |why| format!("Not started: {why}."));
    let ticked = input.all("tick").filter_map(|word| word.parse().ok());
    let passed = |item: &CheckItem| {
        let why = input.get(&format!("pass {item}")).trim().to_owned();
        (!why.is_empty()).then_some((*item, why))
    };
    let answers = Answers {
        ticked: ticked.collect(),
        passed: CheckItem::ALL.iter().filter_map(passed).collect(),
    };
    let said = StartSaid {
        vat_ml: vat.unwrap_or(None),
        room_c: room.unwrap_or(None),
        answers,
    };
    (said, fault)
}

/// What a connected printer's memory holds of a plate that waits, as a piece of the page.
pub(crate) async fn memory(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let mut view = view(&app, id, Typed::default(), Asked::default()).await?;
    match &mut view.memory {
        Some(memory) => {
            memory.as_drawn = asked.get("was") == Some(&memory.state);
            html(memory)
        }
        None => Ok(Html(String::new())),
    }
}

/// Starts the run when its checks allow it; else the checks again, with what was typed.
pub(crate) async fn start(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (said, mut fault) = read_start(&Input::parse(&body));
    if fault.is_empty() {
        let now = app.now_ms();
        let say = said.clone();
        let by = app.clone();
        let work = move |c: &mut Conn| {
            let day = day_ms(c, now)?;
            let data = pages::load(c, id, day)?;
            match linked(&by, &data) {
                // Its printer is told, and the run begins when it answers.
                Some(of) => commands::links::tell_start(c, id, &say, of, (day, now)),
                None => commands::run_plate::start_checked(c, id, &say, day, now),
            }
        };
        fault = match app.write(work).await {
            Ok(()) => {
                app.printers.ring();
                return Ok(go(format!("/plates/{id}/run")));
            }
            Err(WebError::Store(StoreError::Refused(why))) => show::sentence(&why),
            Err(other) => return Err(other),
        };
    }
    let typed = Typed {
        vat_ml: said.vat_ml,
        room_c: said.room_c,
        answers: said.answers,
        fault,
    };
    let view = view(&app, id, typed, Asked::default()).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

/// What was poured, where somebody said.
fn poured(input: &Input) -> Result<Option<Volume>, WebError> {
    let ml = input.within("poured_ml", 0.0, 20_000.0);
    let ml = ml.map_err(WebError::BadRequest)?;
    let volume = ml.map(Volume::ml).transpose();
    volume.map_err(|e| WebError::BadRequest(e.to_string()))
}

/// Something that happens while it runs.
pub(crate) async fn during(
    State(app): State<App>,
    Path((id, what)): Path<(i64, String)>,
    body: Bytes,
) -> Result<Response, WebError> {
    let id = PlateId(id);
    let what = match what.as_str() {
        "looked" => While::Looked,
        "refilled" => While::Refilled(poured(&Input::parse(&body))?),
        "pause" => While::Pause,
        "resume" => While::Resume,
        "go-on" => While::GoOn(Input::parse(&body).get("what").to_owned()),
        _ => return Err(WebError::NoPage),
    };
    let now = app.now_ms();
    // What is held, or goes on, is the printer itself, where it is connected; the books follow it.
    let of_printer = match what {
        While::Pause => Some(CommandKind::Pause),
        While::Resume => Some(CommandKind::Resume),
        _ => None,
    };
    let work = move |c: &mut Conn| match of_printer {
        Some(kind) if pages::load(c, id, now)?.on_machine().is_some() => {
            commands::links::tell_running(c, id, kind, now)
        }
        _ => commands::run_plate::during(c, id, &what, now),
    };
    match app.write(work).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let typed = Typed {
                fault: show::sentence(&why),
                ..Typed::default()
            };
            let view = view(&app, id, typed, Asked::default()).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        done => {
            done?;
            app.printers.ring();
            Ok(go(format!("/plates/{id}/run")))
        }
    }
}

/// Looking into a vat, where something is missing or between two runs.
pub(crate) async fn vat_page(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
) -> Result<Html<String>, WebError> {
    html(&vat_view(&app, id, String::new()).await?)
}

async fn vat_view(app: &App, id: PrinterId, fault: String) -> Result<VatView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Finishing, "The vat", None)?;
        let (printer, to_check) = pages::vat(c, id)?;
        let books = stores::books(c)?;
        let held = books.held(Place::Vat(id)).in_ml();
        Ok(VatView {
            holds: (held > 0.0).then(|| show::tenth(held)),
            page,
            id,
            printer,
            to_check,
            fault,
        })
    })
    .await
}

/// Somebody has looked into a vat.
pub(crate) async fn vat(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    asked: Fields,
    body: Bytes,
) -> Result<Response, WebError> {
    let found = Input::parse(&body).get("found").to_owned();
    let now = app.now_ms();
    let look = move |c: &mut Conn| commands::vat_checks::look(c, id, &found, now);
    match app.write(look).await {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let view = vat_view(&app, id, show::sentence(&why)).await?;
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response());
        }
        done => done?,
    }
    Ok(
        match asked.get("plate").and_then(|p| p.parse::<i64>().ok()) {
            Some(plate) => go(format!("/plates/{plate}/run")),
            None => go("/"),
        },
    )
}

/// When a run ends, for the calendar of a phone: a closed page cannot ring.
pub(crate) async fn alarm(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let data = app.read(move |c| pages::load(c, id, now)).await?;
    let plate = &data.known.plate;
    let run = data.run.filter(|r| r.ended_at_ms.is_none());
    let Some(run) = run else {
        return Err(WebError::BadRequest(
            "this plate does not run: there is nothing to ring for".into(),
        ));
    };
    let ends = run.ends_at_ms(plate.seconds, now);
    let words = format!("Take plate {} off {}", plate.number, data.printer.name);
    Ok(calendar(&format!("run-{}", run.id), &words, ends, now))
}

/// One event with an alarm, as a file for a calendar.
pub(super) fn calendar(uid: &str, words: &str, at_ms: i64, now_ms: i64) -> Response {
    let file = wembrit_paper::write_alarm(uid, words, at_ms, now_ms);
    sent("text/calendar; charset=utf-8", "wembrit.ics", file)
}
