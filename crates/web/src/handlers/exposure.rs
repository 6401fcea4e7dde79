//! Tests of an exposure: judged, taken over, measured by calliper.

use axum::body::Bytes;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::exposure::{CameOut, ExposureTest, TestPiece, Tested, shelf_depth_mm};
use wembrit_core::ids::ProcessSettingId;
use wembrit_core::learn::{JudgedTest, LONGEST_S, LadderPoint, SHORTEST_S, Verdict, read_ladder};
use wembrit_core::mesh::write_stl;
use wembrit_core::stores::WearKind;
use wembrit_store::commands::exposures::{self as commands, Changed};
use wembrit_store::commands::wears;
use wembrit_store::queries::pages::exposure as pages;
use wembrit_store::queries::settings;
use wembrit_store::{Conn, StoreError};

use super::{Id, go, page, sent};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::exposure::{ExposureView, TypedTest};
use crate::views::{Tab, html};

async fn view(app: &App, id: ProcessSettingId, typed: TypedTest) -> Result<ExposureView, WebError> {
    let now = app.now_ms();
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Exposure", None)?;
        Ok(ExposureView::new(page, &pages::load(c, id, now)?, typed))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, TypedTest::default()).await?)
}

/// The page again, with what was typed and what is wrong with it.
async fn refused(app: &App, id: ProcessSettingId, typed: TypedTest) -> Result<Response, WebError> {
    let view = view(app, id, typed).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

fn exposure(input: &Input) -> Result<f64, String> {
    let typed = input.within("exposure_s", SHORTEST_S, LONGEST_S)?;
    typed.ok_or_else(|| "say how long it was exposed, in seconds".to_owned())
}

/// What came out of the piece, as it was tapped.
fn came_out(input: &Input) -> Result<CameOut, String> {
    let size = |kind: &str| match input.get(kind) {
        "" => Err(format!("tap the smallest {kind} that came out, or none")),
        "none" => Ok(None),
        text => {
            let mm = text.parse::<f64>().ok().filter(|mm| mm.is_finite());
            mm.map(Some).ok_or_else(|| format!("'{text}' is no size"))
        }
    };
    Ok(CameOut {
        pin_mm: size("pin")?,
        wall_mm: size("wall")?,
        gap_mm: size("gap")?,
    })
}

/// A judged test, and what a calliper said of its shelf, mm.
fn read_test(input: &Input, now_ms: i64) -> Result<(ExposureTest, Option<f64>), String> {
    let of = input
        .get("of")
        .parse::<Tested>()
        .map_err(|e| e.to_string())?;
    let exposure_s = exposure(input)?;
    let verdict = match input.get("verdict") {
        "tapped" => TestPiece.verdict(&came_out(input)?)?,
        word => word
            .parse::<Verdict>()
            .map_err(|_| "say how it came out: too little, right or too much".to_owned())?,
    };
    let shelf = input.within(
        "shelf_mm",
        TestPiece::SHELF_MM / 2.0,
        TestPiece::SHELF_MM * 2.0,
    )?;
    let test = ExposureTest {
        of,
        judged: JudgedTest {
            exposure_s,
            verdict,
        },
        room_c: input.within("room_c", -20.0, 60.0)?,
        at_ms: now_ms,
    };
    Ok((test, shelf))
}

/// A test was judged.
pub(crate) async fn judge(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let typed = TypedTest {
        exposure_s: input.get("exposure_s").to_owned(),
        room_c: input.get("room_c").to_owned(),
        shelf_mm: input.get("shelf_mm").to_owned(),
        note: input.get("note").to_owned(),
        fault: String::new(),
    };
    let (test, shelf) = match read_test(&input, now) {
        Ok(read) => read,
        Err(why) => {
            let fault = format!("Not written down: {why}.");
            return refused(&app, id, TypedTest { fault, ..typed }).await;
        }
    };
    let note = typed.note;
    app.write(move |c| {
        commands::judge(c, id, &test, &note)?;
        let Some(measured) = shelf else {
            return Ok(());
        };
        let layer = settings::load(c, id)?.layer.mm();
        let depth_mm = shelf_depth_mm(measured, TestPiece::SHELF_MM, layer);
        let step = LadderPoint {
            exposure_s: test.judged.exposure_s,
            depth_mm,
        };
        // A shelf that came out thinner than it was drawn says nothing of the depth.
        let steps = [step].into_iter().filter(|s| s.depth_mm > 0.0);
        commands::measure(c, id, &steps.collect::<Vec<_>>(), now)
    })
    .await?;
    Ok(go(format!("/settings/{id}/exposure")))
}

/// What came out right is used from now on.
pub(crate) async fn take(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let read = exposure(&input).and_then(|s| {
        let of = input.get("of").parse::<Tested>();
        of.map(|of| (of, s)).map_err(|e| e.to_string())
    });
    let known = input.row_version();
    let fault = match read {
        Ok((of, seconds)) => {
            let take =
                move |c: &mut Conn| commands::take_over(c, id, of, seconds, known, now).map(drop);
            match app.write(take).await {
                Err(WebError::Store(StoreError::Conflict { .. })) => {
                    "the setting was changed meanwhile: look at what it says now".to_owned()
                }
                done => {
                    done?;
                    return Ok(go(format!("/settings/{id}/exposure")));
                }
            }
        }
        Err(why) => why,
    };
    let fault = format!("Not taken over: {fault}.");
    refused(&app, id, TypedTest::wrong(fault)).await
}

/// Depths by calliper.
pub(crate) async fn ladder(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    if input.has("forget") {
        app.write(move |c| {
            let setting = settings::load(c, id)?;
            commands::forget_ladder(c, setting.printer, setting.resin)
        })
        .await?;
        return Ok(go(format!("/settings/{id}/exposure")));
    }
    match read_ladder(input.get("steps")) {
        Ok(steps) => {
            app.write(move |c| commands::measure(c, id, &steps, now))
                .await?;
            Ok(go(format!("/settings/{id}/exposure")))
        }
        Err(why) => {
            let fault = format!("Not written down: {why}.");
            refused(&app, id, TypedTest::wrong(fault)).await
        }
    }
}

/// A film or a batch of resin was changed.
pub(crate) async fn changed(
    State(app): State<App>,
    Id(id): Id<ProcessSettingId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let kind = match input.get("what") {
        "film" => Some(WearKind::Film),
        "screen" => Some(WearKind::Screen),
        "resin" => None,
        _ => {
            return Err(WebError::BadRequest(
                "say what was changed: film, screen or resin".into(),
            ));
        }
    };
    app.write(move |c| {
        let setting = settings::load(c, id)?;
        match kind {
            // A new one wears from nothing on, too.
            Some(kind) => wears::renew(c, kind, setting.printer, now),
            None => commands::changed(c, Changed::Resin(setting.resin), now),
        }
    })
    .await?;
    Ok(go(format!("/settings/{id}/exposure")))
}

/// The piece to print.
pub(crate) async fn piece() -> Response {
    sent(
        "model/stl",
        "wembrit-test-piece.stl",
        write_stl(&TestPiece.mesh()),
    )
}
