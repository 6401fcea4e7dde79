//! The steps of a plate's run as they are written down on its sheet: taken off, logged afterwards, put back, lost.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::Response;
use wembrit_core::flow::{FailureCause, RunsMeet, read_hours};
use wembrit_core::ids::PlateId;
use wembrit_store::commands::print_times::Printed;
use wembrit_store::{Conn, StoreError, commands};

use super::Id;
use super::links::take_off;
use super::plates::{refused, step, view};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::runs::meet_words;
use crate::views::show;

/// For how long a plate printed; nothing where nobody says.
fn read_printed(input: &Input) -> Result<Option<Printed>, String> {
    let text = input.get("printed");
    if text.is_empty() {
        return Ok(input.has("to_its_end").then_some(Printed::ToItsEnd));
    }
    let hours = read_hours(text);
    let hours = hours.ok_or_else(|| format!("'{text}' is no time: write hours as 6:10 or 6.2"))?;
    Ok(Some(Printed::For(hours * 3600.0)))
}

/// Why a run was not written down.
enum NotWritten {
    Said(String),
    Met(RunsMeet),
}

/// A step with the time a plate printed: all of it, or the sheet again with what was typed.
async fn timed_step(
    app: App,
    id: PlateId,
    input: &Input,
    work: impl FnOnce(&mut Conn, i64) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let said = match read_printed(input) {
        Ok(printed) => {
            let done = step(app.clone(), id, move |c, now| {
                work(c, now)?;
                printed.map_or(Ok(()), |p| commands::print_times::say(c, id, p, now))
            });
            match done.await {
                Err(WebError::Store(StoreError::Refused(why))) => NotWritten::Said(why),
                Err(WebError::Store(StoreError::RunsMeet(met))) => NotWritten::Met(met),
                done => return done,
            }
        }
        Err(why) => NotWritten::Said(why),
    };
    let mut view = view(&app, id).await?;
    let said = match said {
        NotWritten::Said(why) => format!("Not written down: {why}."),
        NotWritten::Met(met) => meet_words(&met, &view.page.zone),
    };
    view.printed = input.get("printed").to_owned();
    if input.has("started") {
        view.started_field = input.get("started").to_owned();
        view.ended_field = input.get("ended").to_owned();
    }
    refused(view, said)
}

pub(crate) async fn done(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let by = app.clone();
    let answer = timed_step(app.clone(), id, &input, move |c, now| {
        take_off(c, &by, id, now)
    });
    let answer = answer.await;
    app.printers.ring();
    answer
}

/// For how long it printed, said later.
pub(crate) async fn printed(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    if input.get("printed").is_empty() {
        let why = "Not written down: say for how long it printed, such as 6:10.";
        return refused(view(&app, id).await?, why.into());
    }
    timed_step(app, id, &input, |_, _| Ok(())).await
}

pub(crate) async fn rejudge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| {
        commands::judge_plate::rejudge(c, id, now)
    })
    .await
}

pub(crate) async fn release(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| {
        commands::release_plate::release(c, id, now)
    })
    .await
}

pub(crate) async fn put_back(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| {
        commands::run_plate::put_back(c, id, now)
    })
    .await
}

/// Nothing on the plate is of use.
pub(crate) async fn lose(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let layer = input.get("layer");
    let vat_too = input.has("vat_too");
    let read = match (input.get("cause").parse::<FailureCause>(), layer.parse()) {
        (Err(_), _) => Err("Not written down: choose why the plate is lost."),
        (Ok(_), Err(_)) if !layer.is_empty() => {
            Err("Not written down: the layer is no number; write one such as 412.")
        }
        (Ok(cause), layer) => Ok((cause, layer.ok())),
    };
    match read {
        Ok((cause, layer)) => {
            step(app, id, move |c, now| {
                commands::run_plate::lose(c, id, cause, layer, now)?;
                if vat_too {
                    commands::run_plate::spoil_vat(c, id, cause, now)?;
                }
                Ok(())
            })
            .await
        }
        Err(why) => refused(view(&app, id).await?, why.into()),
    }
}

pub(crate) async fn log(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut view = view(&app, id).await?;
    let read = |name| show::read_field(input.get(name), &view.page.zone);
    let Some((started, ended)) = read("started").zip(read("ended")) else {
        view.started_field = input.get("started").to_owned();
        view.ended_field = input.get("ended").to_owned();
        return refused(
            view,
            "Not logged: give both times, such as 2026-11-24T16:20.".into(),
        );
    };
    timed_step(app, id, &input, move |c, now| {
        commands::run_plate::log_run(c, id, started, ended, now)
    })
    .await
}
