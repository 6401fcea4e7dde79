//! One plate: its sheet, and the steps of its run.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::FailureCause;
use wembrit_core::ids::{CopyId, PartId, PlateId};
use wembrit_core::plan::layout::{Blocked, Change};
use wembrit_store::StoreError;
use wembrit_store::queries::edits;
use wembrit_store::queries::plates::{self, Loss};

use super::{Id, go};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::per_copy::{PerCopyAsk, PerCopyView};
use crate::views::plates::{PlanAdviceView, PlateView, SheetPart};
use crate::views::sorting::SortingView;
use crate::views::{Page, Tab, html, show};

async fn view(app: &App, id: PlateId) -> Result<PlateView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let plate = plates::load(c, id)?;
        let title = format!("Plate {}", plate.number);
        let page = Page::load(c, app, Tab::Plates, &title, Some(plate.project_id))?;
        PlateView::load(c, page, id, now)
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id).await?)
}

/// Takes a step, then shows the sheet again.
async fn step(
    app: App,
    id: PlateId,
    work: impl FnOnce(&mut wembrit_store::Conn, i64) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| work(c, now)).await?;
    Ok(go(format!("/plates/{id}")))
}

/// What the maker does by hand, as the form or the script sends it.
enum Asked {
    Change(Change, &'static str),
    /// Takes off the copies of a part that set the hours.
    Leave(PartId),
    Spares(PartId, u64),
    /// Hangs the tallest part otherwise.
    Lean,
    Undo,
    Redo,
}

fn read_asked(input: &Input) -> Result<Asked, String> {
    let number = |name: &str| {
        let typed = input.get(name).replace(',', ".").parse::<f64>().ok();
        let taken = typed.filter(|n| n.is_finite() && n.abs() < 1e5);
        taken.ok_or_else(|| format!("'{name}' is no number: write one such as 12.5"))
    };
    let keys = || -> Result<Vec<i64>, String> {
        let keys: Vec<i64> = input.all("key").filter_map(|k| k.parse().ok()).collect();
        if keys.is_empty() {
            return Err("no copy was picked: pick one in the plan first".into());
        }
        Ok(keys)
    };
    let part = || {
        let part = input.get("part").parse::<PartId>();
        part.map_err(|_| "that part is not there: load the page again".to_owned())
    };
    let many = || {
        let n = if input.has("n") { input.get("n") } else { "1" };
        let n = n.parse::<u64>().ok().filter(|n| (1..=500).contains(n));
        n.ok_or_else(|| "say how many, from 1 to 500".to_owned())
    };
    Ok(match input.get("do") {
        "move" => Asked::Change(
            Change::Move {
                key: keys()?[0],
                at_mm: [number("x")?, number("y")?],
                rotation_deg: number("turn")?,
            },
            "a move",
        ),
        "pin" => Asked::Change(
            Change::Pin {
                keys: keys()?,
                pinned: true,
            },
            "a pin",
        ),
        "free" => Asked::Change(
            Change::Pin {
                keys: keys()?,
                pinned: false,
            },
            "a pin taken out",
        ),
        "remove" => Asked::Change(Change::Remove { keys: keys()? }, "copies taken off"),
        "add" => Asked::Change(
            Change::Add {
                part: part()?,
                copies: many()?,
            },
            "copies put on",
        ),
        "repack" => Asked::Change(Change::Repack, "a repacking"),
        "leave" => Asked::Leave(part()?),
        "spares" => Asked::Spares(part()?, many()?),
        "lean" => Asked::Lean,
        "undo" => Asked::Undo,
        "redo" => Asked::Redo,
        _ => return Err("nothing was asked for: load the page again".into()),
    })
}

/// What came of it: the plate it was on, or what is in the way.
fn do_asked(
    c: &mut wembrit_store::Conn,
    id: PlateId,
    asked: &Asked,
    now: i64,
) -> Result<Result<PlateId, Blocked>, StoreError> {
    let held = match asked {
        Asked::Change(change, words) => edits::change(c, id, change, words, now)?,
        Asked::Leave(part) => {
            let on_it = edits::load(c, id)?.pieces;
            let keys = on_it.iter().filter(|p| p.part == *part).map(|p| p.key);
            let remove = Change::Remove {
                keys: keys.collect(),
            };
            edits::change(c, id, &remove, "copies taken off", now)?
        }
        Asked::Spares(part, n) => edits::print_spares(c, id, *part, *n, "spares put on", now)?,
        Asked::Lean => {
            edits::hang_leaning(c, id, now)?;
            Ok(())
        }
        Asked::Undo | Asked::Redo => {
            let plan = edits::plan_of(c, id)?;
            let (plate, _) = match asked {
                Asked::Undo => edits::undo(c, plan)?,
                _ => edits::redo(c, plan)?,
            };
            return Ok(Ok(plate));
        }
    };
    Ok(held.map(|()| id))
}

/// A change by hand. A script gets the sheet again, or what is in the way; a form the page.
pub(crate) async fn change(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    headers: HeaderMap,
    body: Bytes,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let input = Input::parse(&body);
    let by_script = headers.contains_key("x-fragment");
    let done = match read_asked(&input) {
        Ok(asked) => app.write(move |c| do_asked(c, id, &asked, now)).await,
        Err(why) => Err(WebError::Store(StoreError::Refused(why))),
    };
    let blocked = match done {
        Ok(Ok(on)) if on != id => {
            let to = format!("/plates/{on}");
            return Ok(if by_script {
                ([("x-go", to)], "").into_response()
            } else {
                go(to)
            });
        }
        Ok(Ok(_)) if by_script => {
            return Ok(html(&SheetPart(view(&app, id).await?))?.into_response());
        }
        Ok(Ok(_)) => return Ok(go(format!("/plates/{id}"))),
        Ok(Err(blocked)) => blocked,
        Err(WebError::Store(StoreError::Refused(why))) => Blocked::Limit(why),
        Err(error) => return Err(error),
    };
    let words = format!("Not done: {blocked}.");
    if by_script {
        let keys = match &blocked {
            Blocked::InTheWay(keys) => keys.iter().map(|k| format!("s{k}")).collect(),
            _ => Vec::new(),
        };
        let told = serde_json::json!({ "words": words, "keys": keys });
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, axum::Json(told)).into_response());
    }
    refused(view(&app, id).await?, words)
}

/// What would shorten one plate.
pub(crate) async fn advice(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    html(
        &app.view(move |c, _| PlanAdviceView::of_plate(c, id))
            .await?,
    )
}

/// What one copy takes, by how many share the plate.
pub(crate) async fn per_copy(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    asked: super::Asked,
) -> Result<Html<String>, WebError> {
    let text = |name: &str| asked.get(name).map_or("", |v| v.trim()).to_owned();
    let ask = PerCopyAsk {
        part: text("part").parse().ok(),
        each: text("each"),
        order: text("order"),
    };
    let view = app
        .view(move |c, app| {
            let plate = plates::load(c, id)?;
            let page = Page::load(c, app, Tab::Plates, "One copy", Some(plate.project_id))?;
            PerCopyView::load(c, page, id, ask)
        })
        .await?;
    html(&view)
}

/// Silhouettes in plate order, unit by unit, for telling parts apart after the wash.
pub(crate) async fn sorting(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let plate = plates::load(c, id)?;
            let title = format!("Sorting plate {}", plate.number);
            let page = Page::load(c, app, Tab::Plates, &title, Some(plate.project_id))?;
            SortingView::load(c, page, id)
        })
        .await?;
    html(&view)
}

pub(crate) async fn start(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::start(c, id, now)).await
}

pub(crate) async fn done(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::finish(c, id, now, now)).await
}

pub(crate) async fn rejudge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::rejudge(c, id, now)).await
}

pub(crate) async fn release(
    State(app): State<App>,
    Id(id): Id<PlateId>,
) -> Result<Response, WebError> {
    step(app, id, move |c, now| plates::release(c, id, now)).await
}

/// The sheet again, with what was typed and what is wrong with it.
fn refused(mut view: PlateView, fault: String) -> Result<Response, WebError> {
    view.fault = fault;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
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
    match step(app, id, move |c, now| {
        plates::log_run(c, id, started, ended, now)
    })
    .await
    {
        Err(WebError::Store(StoreError::Refused(why))) => {
            view.started_field = input.get("started").to_owned();
            view.ended_field = input.get("ended").to_owned();
            refused(view, format!("Not logged: {why}."))
        }
        other => other,
    }
}

pub(crate) async fn judge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    match read_losses(&input) {
        Ok(lost) => step(app, id, move |c, now| plates::judge(c, id, &lost, now)).await,
        Err(fault) => {
            let mut view = view(&app, id).await?;
            view.cause = input.get("cause").to_owned();
            for judged in &mut view.judged {
                judged.lost = input.all("lost").any(|key| key == judged.key);
                judged.cause = input.get(&format!("cause_{}", judged.key)).to_owned();
                judged.note = input.get(&format!("note_{}", judged.key)).to_owned();
            }
            refused(view, fault)
        }
    }
}

/// The marked copies, each with its own cause or the one for all.
fn read_losses(input: &Input) -> Result<Vec<Loss>, String> {
    let shared = input.get("cause");
    let loss = |key: &str| {
        let copy: CopyId = key
            .parse()
            .map_err(|_| "Not judged: one mark names no copy; load the page again.".to_owned())?;
        let own = input.get(&format!("cause_{key}"));
        let word = if own.is_empty() { shared } else { own };
        let cause: FailureCause = word
            .parse()
            .map_err(|_| "Not judged: choose the cause of what was lost.".to_owned())?;
        Ok(Loss {
            copy,
            cause,
            note: input.get(&format!("note_{key}")).to_owned(),
        })
    };
    input.all("lost").map(loss).collect()
}
