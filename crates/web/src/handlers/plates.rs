//! One plate: its sheet, what is changed on it by hand, and its copies judged.

use std::sync::Arc;

use axum::body::Bytes;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::{FailureCause, Judgement, PlacedCopy};
use wembrit_core::ids::{CopyId, PartId, PlanId, PlateId};
use wembrit_core::plan::PlateEdit;
use wembrit_core::plan::layout::{Blocked, Change};
use wembrit_core::plan::per_copy::CopyOf;
use wembrit_store::commands::judge_plate::Rest;
use wembrit_store::queries::edits::{self, Beside};
use wembrit_store::queries::pages::plates as pages;
use wembrit_store::queries::plates;
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, is_fragment, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::per_copy::{Looked, PerCopyAsk, PerCopyView};
use crate::views::plates::{PlateView, SheetPart};
use crate::views::sorting::SortingView;
use crate::views::{Tab, html};
use crate::worked::A_MOMENT;

pub(super) async fn view(app: &App, id: PlateId) -> Result<PlateView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let data = pages::sheet(c, id)?;
        let title = format!("Plate {}", data.plate.number);
        let page = page(c, app, Tab::Plates, &title, Some(data.plate.project))?;
        Ok(PlateView::new(page, &data, now))
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
pub(super) async fn step(
    app: App,
    id: PlateId,
    work: impl FnOnce(&mut Conn, i64) -> Result<(), StoreError> + Send + 'static,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| work(c, now)).await?;
    Ok(go(format!("/plates/{id}")))
}

/// What the maker does by hand, as the form or the script sends it.
enum PlateChange {
    Change(Change, &'static str),
    /// Takes off the copies of a part that set the hours.
    Leave(PartId),
    Spares(PartId, u64),
    /// Hangs the tallest part otherwise.
    Tilt,
    Undo,
    Redo,
}

fn read_change(input: &Input) -> Result<PlateChange, String> {
    let number = |name: &str| {
        let typed = input.decimal(name);
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
        "move" => PlateChange::Change(
            Change::Move {
                key: keys()?[0],
                at_mm: [number("x")?, number("y")?],
                rotation_deg: number("turn")?,
            },
            "a move",
        ),
        "pin" => PlateChange::Change(
            Change::Pin {
                keys: keys()?,
                pinned: true,
            },
            "a pin",
        ),
        "free" => PlateChange::Change(
            Change::Pin {
                keys: keys()?,
                pinned: false,
            },
            "a pin taken out",
        ),
        "remove" => PlateChange::Change(Change::Remove { keys: keys()? }, "copies taken off"),
        "add" => PlateChange::Change(
            Change::Add {
                part: part()?,
                copies: many()?,
            },
            "copies put on",
        ),
        "repack" => PlateChange::Change(Change::Repack, "a repacking"),
        "leave" => PlateChange::Leave(part()?),
        "spares" => PlateChange::Spares(part()?, many()?),
        "tilt" => PlateChange::Tilt,
        "undo" => PlateChange::Undo,
        "redo" => PlateChange::Redo,
        _ => return Err("nothing was asked for: load the page again".into()),
    })
}

/// What came of it: the plate it was on, or what is in the way. What a change does is worked out
/// while nobody waits for the data file; it is saved if the plate is still the same.
async fn make_change(
    app: &App,
    id: PlateId,
    change: PlateChange,
) -> Result<Result<PlateId, Blocked>, WebError> {
    let now = app.now_ms();
    match change {
        PlateChange::Change(change, words) => by_hand(app, id, change, words).await,
        PlateChange::Leave(part) => {
            let edit = app
                .read(move |c| edits::load(c, id, Beside::Nothing))
                .await?;
            by_hand(app, id, edit.leave(part), "copies taken off").await
        }
        PlateChange::Spares(part, copies) => {
            let edit = app.read(move |c| edits::load(c, id, Beside::All)).await?;
            let edit = edit.with_spares(part, copies);
            let (edit, after) = changed(edit, Change::Add { part, copies }).await?;
            let after = match after {
                Ok(after) => after,
                Err(blocked) => return Ok(Err(blocked)),
            };
            app.write(move |c| {
                let words = "spares put on";
                commands::edit_plate::save_spares(c, &edit, (part, copies), &after, words, now)
            })
            .await?;
            Ok(Ok(id))
        }
        PlateChange::Tilt => {
            let (edit, ways) = app
                .read(move |c| {
                    let edit = edits::load(c, id, Beside::All)?;
                    let placed = plates::placed_on_plan(c, edit.plate.plan)?;
                    let ways = edits::other_setups(c, &edit, &placed)?;
                    Ok((edit, ways))
                })
                .await?;
            let (edit, found) = tokio::task::spawn_blocking(move || {
                let found = ways.and_then(|(part, ways)| edit.tilt(part, &ways));
                (edit, found)
            })
            .await?;
            let nothing = "nothing is saved by that any more: load the page again";
            let found = found.ok_or_else(|| StoreError::Refused(nothing.into()))?;
            app.write(move |c| commands::edit_plate::save_tilt(c, &edit, &found, now))
                .await?;
            Ok(Ok(id))
        }
        PlateChange::Undo => along_journal(app, id, commands::edit_plate::undo).await,
        PlateChange::Redo => along_journal(app, id, commands::edit_plate::redo).await,
    }
}

/// Goes one step back or forward in the journal of a plan; the plate that is as it was.
async fn along_journal(
    app: &App,
    id: PlateId,
    step: impl FnOnce(&mut Conn, PlanId) -> Result<(PlateId, String), StoreError> + Send + 'static,
) -> Result<Result<PlateId, Blocked>, WebError> {
    let done = app
        .write(move |c| {
            let plan = edits::plan_of(c, id)?;
            step(c, plan)
        })
        .await?;
    Ok(Ok(done.0))
}

/// A change of the plate alone.
async fn by_hand(
    app: &App,
    id: PlateId,
    change: Change,
    words: &'static str,
) -> Result<Result<PlateId, Blocked>, WebError> {
    let now = app.now_ms();
    let beside = match &change {
        Change::Add { .. } => Beside::All,
        Change::Move { .. } | Change::Pin { .. } | Change::Remove { .. } | Change::Repack => {
            Beside::Nothing
        }
    };
    let edit = app.read(move |c| edits::load(c, id, beside)).await?;
    let (edit, after) = changed(edit, change).await?;
    let after = match after {
        Ok(after) => after,
        Err(blocked) => return Ok(Err(blocked)),
    };
    app.write(move |c| commands::edit_plate::save(c, &edit, &after, words, now))
        .await?;
    Ok(Ok(id))
}

/// What a change makes of a plate, off the async threads: a repacking takes a while.
async fn changed(
    edit: PlateEdit,
    change: Change,
) -> Result<(PlateEdit, Result<Vec<PlacedCopy>, Blocked>), WebError> {
    let looked = tokio::task::spawn_blocking(move || {
        let after = edit.change(&change);
        (edit, after)
    });
    Ok(looked.await?)
}

/// A change by hand. A script gets the sheet again, or what is in the way; a form the page.
pub(crate) async fn change(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    headers: HeaderMap,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let by_script = headers.contains_key("x-fragment");
    let done = match read_change(&input) {
        Ok(asked) => make_change(&app, id, asked).await,
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
        let refusal = serde_json::json!({ "words": words, "keys": keys });
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, axum::Json(refusal)).into_response());
    }
    refused(view(&app, id).await?, words)
}

/// What one copy takes, by how many share the plate.
pub(crate) async fn per_copy(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    asked: super::Fields,
    headers: HeaderMap,
) -> Result<Html<String>, WebError> {
    let text = |name: &str| asked.get(name).map_or("", |v| v.trim()).to_owned();
    let ask = PerCopyAsk {
        part: text("part").parse().ok(),
        each: text("each"),
        order: text("order"),
    };
    let data = app.read(move |c| pages::one_copy(c, id)).await?;
    let mut looked = Looked::new(&data, ask.part);
    // A script waits for the figures; the page around them does not.
    let alone = is_fragment(&headers);
    let within = (!alone).then_some(A_MOMENT);
    let curve = match looked.of.take() {
        Some(of) => {
            let kept = &app.worked.per_copy;
            kept.get(app.urgent(), of, within, CopyOf::curve).await
        }
        None => Some(Arc::default()),
    };
    if alone {
        return Ok(Html("<span>The figures are there.</span>".to_owned()));
    }
    let view = app
        .view(move |c, app| {
            let plate = &data.plate;
            let page = page(c, app, Tab::Plates, "One copy", Some(plate.project))?;
            let curve = curve.as_deref().map(Vec::as_slice);
            Ok(PerCopyView::new(page, plate, looked, curve, ask))
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
            let page = page(c, app, Tab::Plates, &title, Some(plate.project))?;
            let shown = pages::shown(c, vec![plate.clone()])?;
            Ok(SortingView::new(page, &shown, &plate))
        })
        .await?;
    html(&view)
}

/// The sheet again, with what was typed and what is wrong with it.
pub(super) fn refused(mut view: PlateView, fault: String) -> Result<Response, WebError> {
    view.fault = fault;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

pub(crate) async fn judge(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    // Without scripts: what can be said of those that are ticked, and nothing is written.
    if input.get("rest") == "say" {
        let mut view = view(&app, id).await?;
        as_typed(&mut view, &input);
        return Ok(html(&view)?.into_response());
    }
    let said = match read_judgements(&input) {
        Ok(Said { judged, rest }) => {
            let done = step(app.clone(), id, move |c, now| {
                commands::judge_plate::judge_some(c, id, &judged, &rest, now)
            });
            match done.await {
                Err(WebError::Store(StoreError::Refused(why))) => {
                    format!("Not judged: {why}.")
                }
                done => return done,
            }
        }
        Err(fault) => fault,
    };
    let mut view = view(&app, id).await?;
    as_typed(&mut view, &input);
    refused(view, said)
}

/// What was ticked and typed stands there again.
fn as_typed(view: &mut PlateView, input: &Input) {
    view.cause = input.get("cause").to_owned();
    for judged in view.judged.iter_mut().flat_map(|part| &mut part.copies) {
        let typed = |field: &str| input.get(&format!("{field}_{}", judged.key)).to_owned();
        judged.failed = input.all("failed").any(|key| key == judged.key);
        judged.becomes = typed("as");
        judged.cause = typed("cause");
        judged.at = typed("at");
        judged.layer = typed("layer");
        judged.minutes = typed("minutes");
        judged.note = typed("note");
    }
}

/// What a form says of copies.
struct Said {
    judged: Vec<(CopyId, Judgement)>,
    rest: Rest,
}

/// The marked copies, each with its own cause or the one for all; a cause nobody chose is said later.
fn read_judgements(input: &Input) -> Result<Said, String> {
    let shared = input.get("cause");
    let (mut judged, mut later) = (Vec::new(), Vec::new());
    for key in input.all("failed") {
        let copy: CopyId = key
            .parse()
            .map_err(|_| "Not judged: one mark names no copy; load the page again.".to_owned())?;
        let typed = |field: &str| input.get(&format!("{field}_{key}")).trim().to_owned();
        let layer = typed("layer");
        let as_layer = layer.parse::<i64>().ok().filter(|l| *l > 0);
        if !layer.is_empty() && as_layer.is_none() {
            return Err(format!(
                "Not judged: '{layer}' is no layer; write a number such as 412."
            ));
        }
        let own = typed("cause");
        let word = if own.is_empty() { shared } else { &own };
        let judgement = match typed("as").as_str() {
            "good" => Judgement::Good,
            "missing" => Judgement::Missing,
            "not looked at" => {
                later.push(copy);
                continue;
            }
            "to mend" => Judgement::ToMend {
                what: typed("note"),
                minutes: input
                    .decimal(&format!("minutes_{key}"))
                    .filter(|m| (0.0..=10_000.0).contains(m)),
            },
            _ => Judgement::Failed {
                cause: word.parse().unwrap_or(FailureCause::Unsaid),
                at: typed("at").parse().ok(),
                layer: as_layer,
                note: typed("note"),
            },
        };
        judged.push((copy, judgement));
    }
    let rest = if input.get("rest") == "later" {
        Rest::Later
    } else {
        Rest::Good { but: later }
    };
    Ok(Said { judged, rest })
}

/// A copy that was good fails after all.
pub(crate) async fn fail_later(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let typed = input.get("mark").trim().to_owned();
    let cause = input.get("cause").parse().unwrap_or(FailureCause::Other);
    let note = input.get("note").to_owned();
    let why = match typed.parse() {
        Ok(mark) => {
            let note = note.clone();
            let done = step(app.clone(), id, move |c, now| {
                let copy = plates::copy_with_mark(c, id, mark)?;
                commands::judge_plate::fail_later(c, copy, cause, &note, now).map(drop)
            });
            match done.await {
                Err(WebError::Store(StoreError::Refused(why))) => why,
                done => return done,
            }
        }
        Err(_) => "say which copy failed, by its mark: a number as on the sorting sheet".into(),
    };
    let mut view = view(&app, id).await?;
    view.sound.typed = typed;
    view.broke = Some((cause, note));
    refused(view, format!("Not done: {why}."))
}

/// A change is made after a failure.
pub(crate) async fn remedy(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let cause = input.get("cause").parse().unwrap_or(FailureCause::Other);
    let change = input.get("change").to_owned();
    step(app, id, move |c, now| {
        commands::remedies::make(c, id, cause, &change, now)
    })
    .await
}

/// Whether a change held.
pub(crate) async fn say_remedy(
    State(app): State<App>,
    axum::extract::Path(id): axum::extract::Path<i64>,
    body: Bytes,
) -> Result<Response, WebError> {
    let held = Input::parse(&body).get("held") == "yes";
    let plate = app
        .write(move |c| commands::remedies::say(c, id, held))
        .await?;
    Ok(go(format!("/plates/{plate}")))
}
