//! Coming in from another device: the passphrase, the token of a code, and the page that shows one.

use axum::body::Bytes;
use axum::extract::{Path, Request, State};
use axum::http::{StatusCode, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use tower_sessions::Session;
use wembrit_store::{commands, queries};

use super::{go, page};
use crate::door::{is_passphrase, keep_passphrase};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::door::{EnterView, PhoneView};
use crate::views::{Page, Tab, html, show};

/// The mark of a device that is in.
const IN: &str = "in";

/// What is given out to everybody: the form, and what it is drawn with.
fn is_open(path: &str) -> bool {
    path == "/enter" || path.starts_with("/enter/") || path.starts_with("/assets/")
}

/// Where the server listens beyond this machine, only devices that are in get anything.
pub(crate) async fn admit(
    State(app): State<App>,
    session: Session,
    request: Request,
    next: Next,
) -> Response {
    if !app.settings.beyond || is_open(request.uri().path()) {
        return next.run(request).await;
    }
    match session.get::<bool>(IN).await {
        Ok(Some(true)) => next.run(request).await,
        Ok(_) => {
            let fragment = request.headers().contains_key("x-fragment");
            if fragment || request.method() != axum::http::Method::GET {
                return (StatusCode::UNAUTHORIZED, "Come in first: /enter").into_response();
            }
            go("/enter")
        }
        Err(why) => WebError::BadRequest(why.to_string()).into_response(),
    }
}

pub(crate) async fn show() -> Result<Html<String>, WebError> {
    html(&EnterView::new(String::new()))
}

async fn come_in(session: &Session) -> Result<Response, WebError> {
    let kept = async {
        session.cycle_id().await?;
        session.insert(IN, true).await
    };
    kept.await
        .map_err(|why| WebError::BadRequest(why.to_string()))?;
    Ok(go("/"))
}

/// The passphrase, as it was typed; wrong ones wait longer every time.
pub(crate) async fn enter(
    State(app): State<App>,
    session: Session,
    body: Bytes,
) -> Result<Response, WebError> {
    let _turn = app.door.one_by_one.lock().await;
    let wait = app.door.wait_s(app.door.now_ms());
    if wait > 0 {
        let view = EnterView::new(format!("Not now: wait {wait} s after the last wrong one."));
        let headers = [(header::RETRY_AFTER, wait.to_string())];
        return Ok((StatusCode::TOO_MANY_REQUESTS, headers, html(&view)?).into_response());
    }
    let words = Input::parse(&body).get("passphrase").to_owned();
    let kept = app.read(queries::workshop::passphrase).await?;
    let right = tokio::task::spawn_blocking(move || is_passphrase(&words, &kept)).await?;
    if right {
        app.door.was_right();
        return come_in(&session).await;
    }
    app.door.was_wrong(app.door.now_ms());
    tracing::warn!("a wrong passphrase");
    let view = EnterView::new(
        "That is not the passphrase. The next attempt waits a little longer.".into(),
    );
    Ok((StatusCode::FORBIDDEN, html(&view)?).into_response())
}

/// A device that carries a token comes in.
pub(crate) async fn token(
    State(app): State<App>,
    session: Session,
    Path(token): Path<String>,
) -> Result<Response, WebError> {
    if app.door.takes(&token, app.door.now_ms()) {
        return come_in(&session).await;
    }
    let words =
        "This code was used already, or its five minutes are over: show a new one on Today.";
    Ok((StatusCode::FORBIDDEN, html(&EnterView::new(words.into()))?).into_response())
}

/// The device goes out again.
pub(crate) async fn leave(session: Session) -> Result<Response, WebError> {
    session
        .flush()
        .await
        .map_err(|why| WebError::BadRequest(why.to_string()))?;
    Ok(go("/enter"))
}

/// The code for the phone, or how to get there.
pub(crate) async fn phone(State(app): State<App>) -> Result<Html<String>, WebError> {
    let token = app
        .settings
        .beyond
        .then(|| app.door.token(app.door.now_ms()));
    let view = app
        .view(move |c, app| {
            let page: Page = page(c, app, Tab::Today, "The phone", None)?;
            let known = !queries::workshop::passphrase(c)?.is_empty();
            Ok(PhoneView::new(
                page,
                known,
                token.as_deref(),
                &app.settings,
                String::new(),
            ))
        })
        .await?;
    html(&view)
}

/// Sets the passphrase.
pub(crate) async fn set(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let words = Input::parse(&body).get("passphrase").to_owned();
    let kept = tokio::task::spawn_blocking(move || keep_passphrase(&words)).await?;
    let fault = match kept {
        Ok(kept) => {
            app.write(move |c| commands::workshop::set_passphrase(c, &kept))
                .await?;
            return Ok(go("/phone"));
        }
        Err(why) => show::sentence(&why.to_string()),
    };
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Today, "The phone", None)?;
            Ok(PhoneView::new(page, false, None, &app.settings, fault))
        })
        .await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}
