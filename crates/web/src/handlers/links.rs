//! Connected printers: where each answers, what it is told of a plate, and what it says of its run.

use std::sync::Arc;

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode, Uri, header};
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::link::{CommandKind, Job, JobKey, NotReady};
use wembrit_core::running::Linked;
use wembrit_store::commands::links::Telling;
use wembrit_store::queries::pages::runs::{self as pages, RunSheet};
use wembrit_store::queries::{links, plates, printers, workshop};
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, is_fragment, own_path, page};
use crate::attended::day_ms;
use crate::error::WebError;
use crate::forms::Input;
use crate::printers::{LinkError, Machine};
use crate::state::App;
use crate::views::links::LinkView;
use crate::views::live::{RunLive, waits};
use crate::views::{Tab, html, show};

/// What a plate's printer says before a start, and the job it would begin; nothing where it is not connected.
pub(super) fn linked(app: &App, data: &RunSheet) -> Option<(Linked, JobKey)> {
    let link = data.link.as_ref()?;
    let printer = data.known.plate.printer;
    let heard = app.printers.heard(printer);
    let says = heard.as_ref().and_then(|h| h.says.as_ref());
    let against = |why: NotReady| Linked {
        not_ready: vec![why],
        vat_ml: says.map(|s| s.resin_ml),
        room_c: says.map(|s| s.room_c),
    };
    let Some(job) = &link.job else {
        return Some((against(NotReady::NoSetting), JobKey::default()));
    };
    let Some(machine) = app.printers.machine(printer) else {
        return Some((against(NotReady::Silent), JobKey::default()));
    };
    // What it was sent is what it has to hold, for as long as that prints what would be sent now.
    let sent = link
        .sent
        .as_ref()
        .filter(|(sent, _)| sent.bare() == job.bare());
    let checksum = match sent {
        Some((_, checksum)) => checksum.clone(),
        None => checksum_of(&*machine, job),
    };
    let file = data.known.file();
    let least_ml = data.known.least_ml;
    let of = Linked::of(job, (&file, &checksum), least_ml, says);
    let next = match says {
        Some(says) => says.next_job(&file, &checksum),
        None => JobKey::of_file(&file, &checksum),
    };
    Some((of, next))
}

fn checksum_of(machine: &dyn Machine, job: &Job) -> String {
    blake3::hash(&machine.file(job)).to_hex().to_string()
}

async fn view(app: &App, id: PrinterId) -> Result<LinkView, WebError> {
    app.view(move |c, app| {
        let printer = printers::load(c, id)?;
        let title = format!("{}: its link", printer.name);
        let page = page(c, app, Tab::Workshop, &title, None)?;
        let address = links::address(c, id)?;
        let waits = waits(links::open(c, id)?.as_ref(), &page.zone);
        let heard = app.printers.heard(id);
        Ok(LinkView::new(
            page,
            (id, printer.name),
            address,
            (heard.as_ref(), waits),
        ))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    headers: HeaderMap,
) -> Result<Html<String>, WebError> {
    let view = view(&app, id).await?;
    if is_fragment(&headers) {
        return html(&view.says());
    }
    html(&view)
}

/// Done, or the page again with what speaks against it.
async fn or_again(
    app: &App,
    id: PrinterId,
    done: Result<(), WebError>,
    typed: Option<String>,
) -> Result<Response, WebError> {
    match done {
        Err(WebError::Store(StoreError::Refused(why))) => {
            let mut view = view(app, id).await?;
            view.fault = show::sentence(&why);
            if let Some(typed) = typed {
                view.address = typed;
            }
            Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
        }
        done => {
            done?;
            app.printers.ring();
            Ok(go(format!("/printers/{id}/link")))
        }
    }
}

pub(crate) async fn connect(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let typed = Input::parse(&body).get("address").trim().to_owned();
    let address = typed.trim_end_matches('/').to_owned();
    let done = match app.settings.adapters.machine(&address) {
        Err(LinkError::Address(why)) => {
            Err(StoreError::Refused(format!("not connected: {why}")).into())
        }
        machine => match twin(&app, id, machine.ok()).await? {
            Some(other) => Err(StoreError::Refused(format!(
                "not connected: what answers at {address} is {other}, and one machine is one printer. Disconnect {other} first if they were mixed up"
            ))
            .into()),
            None => {
                let work = move |c: &mut Conn| commands::links::connect(c, id, &address);
                app.write(work).await
            }
        },
    };
    or_again(&app, id, done, Some(typed)).await
}

/// Another printer that is the machine that answers there, by its own word. One that is silent now is asked later.
async fn twin(
    app: &App,
    id: PrinterId,
    machine: Option<Arc<dyn Machine>>,
) -> Result<Option<String>, WebError> {
    let Some(machine) = machine else {
        return Ok(None);
    };
    let Ok(says) = machine.says().await else {
        return Ok(None);
    };
    let Some(other) = app.printers.twin(id, &says.machine) else {
        return Ok(None);
    };
    let name = app
        .read(move |c| Ok(printers::load(c, other)?.name))
        .await?;
    Ok(Some(name))
}

pub(crate) async fn disconnect(
    State(app): State<App>,
    Id(id): Id<PrinterId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let gone = Input::parse(&body).has("gone");
    let done = app
        .write(move |c| {
            if gone {
                commands::links::give_up(c, id)?;
            }
            commands::links::disconnect(c, id)
        })
        .await;
    or_again(&app, id, done, None).await
}

/// Sends a plate's file into its printer's memory.
pub(crate) async fn send(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let data = app
        .read(move |c| {
            let day = day_ms(c, now)?;
            pages::load(c, id, day)
        })
        .await?;
    let no = |why: String| Err(StoreError::Refused(why).into());
    let name = &data.printer.name;
    let Some(link) = &data.link else {
        return no(format!(
            "{name} is not connected: say where it answers first"
        ));
    };
    let Some(job) = &link.job else {
        return no(NotReady::NoSetting.to_string());
    };
    let Some(machine) = app.printers.machine(data.known.plate.printer) else {
        return no(NotReady::Silent.to_string());
    };
    let telling = Telling {
        plate: id,
        kind: CommandKind::Send,
        about: JobKey::of_file(&data.known.file(), &checksum_of(&*machine, job)),
        job: Some(job.clone()),
    };
    tell(&app, telling).await
}

/// Writes down what a plate's printer is told, rings, and shows the plate at its printer.
pub(super) async fn tell(app: &App, telling: Telling) -> Result<Response, WebError> {
    let now = app.now_ms();
    let id = telling.plate;
    app.write(move |c| commands::links::tell(c, &telling, now))
        .await?;
    app.printers.ring();
    Ok(go(format!("/plates/{id}/run")))
}

/// The printer is stopped: what hangs on its plate stays there.
pub(crate) async fn stop(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::links::tell_running(c, id, CommandKind::Stop, now))
        .await?;
    app.printers.ring();
    Ok(go(format!("/plates/{id}/run")))
}

/// A plate is taken off, by the word of its printer where that is connected.
pub(super) fn take_off(
    c: &mut Conn,
    app: &App,
    id: PlateId,
    now_ms: i64,
) -> Result<(), StoreError> {
    let printer = plates::load(c, id)?.printer;
    let says = app.printers.heard(printer).and_then(|h| h.says);
    commands::links::take_off(c, id, says.as_ref(), now_ms)
}

/// Takes back what has not left.
pub(crate) async fn withdraw(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    app.write(move |c| commands::links::withdraw(c, id)).await?;
    Ok(go(format!("/plates/{id}/run")))
}

/// The run as its printer tells it; nothing where it was begun by hand, or is over.
pub(super) fn live_of(
    c: &mut Conn,
    app: &App,
    id: PlateId,
    now_ms: i64,
) -> Result<Option<RunLive>, StoreError> {
    let day = day_ms(c, now_ms)?;
    let data = pages::live(c, id, day)?;
    let heard = app.printers.heard(data.sheet.known.plate.printer);
    let zone = show::zone(&workshop::load(c)?.time_zone);
    Ok(RunLive::new(&data, heard.as_ref(), &zone, now_ms))
}

/// The same as a piece of the page; nothing any more once the run is over.
pub(crate) async fn live(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let live = app.view(move |c, app| live_of(c, app, id, now)).await?;
    Ok(match live {
        Some(live) => html(&live)?.into_response(),
        None => Html(String::new()).into_response(),
    })
}

/// Time passes so many times as fast, here and in every simulated printer; of the demo alone.
pub(crate) async fn speed(
    State(app): State<App>,
    Path(times): Path<String>,
    headers: HeaderMap,
) -> Result<Response, WebError> {
    const FASTEST: f64 = 3600.0;
    let speed = times.parse().ok().filter(|s| (1.0..=FASTEST).contains(s));
    let (true, Some(speed)) = (app.settings.demo, speed) else {
        return Err(WebError::NoPage);
    };
    app.passes(speed);
    for machine in app.printers.machines() {
        // One that does not answer goes on as it went.
        drop(machine.goes(speed).await);
    }
    app.printers.ring();
    // To the page it was set on: no stranger's page gets a form through.
    let from = headers.get(header::REFERER).and_then(|r| r.to_str().ok());
    let from = from.and_then(|r| r.parse::<Uri>().ok());
    let page = from.as_ref().and_then(|page| own_path(page.path(), &["/"]));
    Ok(go(page.unwrap_or("/")))
}
