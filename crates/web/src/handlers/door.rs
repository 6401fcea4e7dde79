//! Coming in from another device: the passphrase, the token of a code, and the page that shows one.

use std::sync::Arc;

use axum::body::Bytes;
use axum::extract::{Extension, Path, Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use tower_sessions::Session;
use tower_sessions::cookie::time::Duration;
use tower_sessions::cookie::{Cookie, SameSite};
use wembrit_store::{commands, queries};

use super::{Id, go, page};
use crate::door::{Who, is_passphrase, keep_passphrase};
use crate::error::WebError;
use crate::forms::Input;
use crate::guard::Asked;
use crate::net::{Peer, Seat};
use crate::state::App;
use crate::views::door::{EnterView, PhoneView};
use crate::views::{Page, Tab, html, show};

/// Where a session keeps the number of its device.
const DEVICE: &str = "device";
/// What a device that was in before is known by.
const KNOWN: &str = "wembrit-known";

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
    let open = app.settings.beyond && is_open(request.uri().path());
    let comes_in = if app.settings.beyond {
        match session.get::<u64>(DEVICE).await {
            Ok(id) => id.is_some_and(|id| app.door.devices.is_in(id, app.now_ms())),
            Err(why) => return WebError::BadRequest(why.to_string()).into_response(),
        }
    } else {
        true
    };
    if let (true, Some(seat)) = (comes_in, request.extensions().get::<Arc<Seat>>()) {
        seat.is_let_in();
    }
    if comes_in || open {
        return next.run(request).await;
    }
    let fragment = request.headers().contains_key("x-fragment");
    if fragment || request.method() != Method::GET {
        return (StatusCode::UNAUTHORIZED, "Sign in first: /enter").into_response();
    }
    go("/enter")
}

pub(crate) async fn show() -> Result<Html<String>, WebError> {
    html(&EnterView::new(String::new()))
}

/// Whose line somebody waits in.
fn who(app: &App, peer: Option<Extension<Peer>>, headers: &HeaderMap) -> Who {
    let cookies = headers.get_all(header::COOKIE).iter();
    let cookies = cookies
        .filter_map(|c| c.to_str().ok())
        .flat_map(Cookie::split_parse);
    let known = cookies.flatten().find(|c| c.name() == KNOWN);
    let lines = &app.door.lines;
    lines.who(known.as_ref().map(Cookie::value), from(app, peer, headers))
}

/// Where a request comes from.
fn from(app: &App, peer: Option<Extension<Peer>>, headers: &HeaderMap) -> std::net::IpAddr {
    // Without a line there is nobody but this machine.
    let peer = peer.map_or(Peer(std::net::Ipv4Addr::LOCALHOST.into()), |Extension(p)| p);
    if Asked::of(headers, &app.settings).proxied {
        peer.behind(headers)
    } else {
        peer.own()
    }
}

async fn come_in(
    app: &App,
    session: &Session,
    peer: Option<Extension<Peer>>,
    headers: &HeaderMap,
) -> Result<Response, WebError> {
    let agent = headers.get(header::USER_AGENT);
    let mobile = agent.is_some_and(|a| a.to_str().is_ok_and(|a| a.contains("Mobi")));
    let address = from(app, peer, headers).to_string();
    let id = app.door.devices.comes(mobile, address, app.now_ms());
    let kept = async {
        session.cycle_id().await?;
        session.insert(DEVICE, id).await
    };
    kept.await
        .map_err(|why| WebError::BadRequest(why.to_string()))?;
    let known = Cookie::build((KNOWN, app.door.lines.know()))
        .path("/enter")
        .http_only(true)
        .same_site(SameSite::Strict)
        .max_age(Duration::days(365));
    let mut response = go("/");
    if let Ok(cookie) = HeaderValue::from_str(&known.to_string()) {
        response.headers_mut().append(header::SET_COOKIE, cookie);
    }
    Ok(response)
}

fn many_wait() -> Result<Response, WebError> {
    let words = "Several wrong passphrases came from where you are, and others are waiting to try. \
                 Try again in a minute, or scan the code on a device that is signed in.";
    let headers = [(header::RETRY_AFTER, "60")];
    let page = html(&EnterView::new(words.into()))?;
    Ok((StatusCode::TOO_MANY_REQUESTS, headers, page).into_response())
}

/// The passphrase, as it was typed; wrong ones wait longer every time.
pub(crate) async fn enter(
    State(app): State<App>,
    session: Session,
    peer: Option<Extension<Peer>>,
    headers: HeaderMap,
    body: Bytes,
) -> Result<Response, WebError> {
    let Some(turn) = app.door.lines.turn(who(&app, peer, &headers)).await else {
        return many_wait();
    };
    let words = Input::parse(&body).get("passphrase").to_owned();
    let kept = app.read(queries::workshop::passphrase).await?;
    let right = tokio::task::spawn_blocking(move || is_passphrase(&words, &kept)).await?;
    if right {
        turn.was_right();
        return come_in(&app, &session, peer, &headers).await;
    }
    turn.was_wrong();
    tracing::warn!("a wrong passphrase");
    let view = EnterView::new(
        "That is not the passphrase. The next attempt will take a little longer.".into(),
    );
    Ok((StatusCode::FORBIDDEN, html(&view)?).into_response())
}

/// A device that carries a token comes in. Asking only for the head of the page spends nothing.
pub(crate) async fn token(
    State(app): State<App>,
    method: Method,
    session: Session,
    peer: Option<Extension<Peer>>,
    headers: HeaderMap,
    Path(token): Path<String>,
) -> Result<Response, WebError> {
    if method == Method::HEAD {
        return Ok(StatusCode::OK.into_response());
    }
    if app.door.tokens.takes(&token) {
        return come_in(&app, &session, peer, &headers).await;
    }
    let words = "This code was used already, or its five minutes are over. Open The phone on a device that is signed in: it shows a new one.";
    Ok((StatusCode::FORBIDDEN, html(&EnterView::new(words.into()))?).into_response())
}

/// The device goes out again.
pub(crate) async fn leave(State(app): State<App>, session: Session) -> Result<Response, WebError> {
    if let Some(id) = own(&session).await {
        app.door.devices.goes(id);
    }
    session
        .flush()
        .await
        .map_err(|why| WebError::BadRequest(why.to_string()))?;
    Ok(go("/enter"))
}

/// Another device is sent out.
pub(crate) async fn sign_out(State(app): State<App>, Id(id): Id<i64>) -> Response {
    // One that has gone meanwhile is out as well.
    app.door.devices.goes(id.unsigned_abs());
    go("/phone")
}

/// The number of the device that asks.
async fn own(session: &Session) -> Option<u64> {
    session.get::<u64>(DEVICE).await.ok().flatten()
}

/// The page of the phone, with what was wrong.
async fn phone_page(
    app: &App,
    session: &Session,
    headers: &HeaderMap,
    method: &Method,
    fault: String,
) -> Result<Html<String>, WebError> {
    let spends = app.settings.beyond && *method == Method::GET;
    let token = spends.then(|| app.door.tokens.make());
    let (asked, own) = (Asked::of(headers, &app.settings), own(session).await);
    let devices = app.door.devices.list();
    let view = app
        .view(move |c, app| {
            let page: Page = page(c, app, Tab::Today, "The phone", None)?;
            let known = !queries::workshop::passphrase(c)?.is_empty();
            let view = PhoneView::new(page, known, token.as_deref(), &asked, app, fault);
            Ok(view.with_devices(&devices, own))
        })
        .await?;
    html(&view)
}

/// The code for the phone, or how to get there.
pub(crate) async fn phone(
    State(app): State<App>,
    method: Method,
    session: Session,
    headers: HeaderMap,
) -> Result<Html<String>, WebError> {
    phone_page(&app, &session, &headers, &method, String::new()).await
}

/// Whether somebody may set another passphrase: who knows the one that is set.
async fn may_change(app: &App, who: Who, old: String) -> Result<Result<(), String>, WebError> {
    let kept = app.read(queries::workshop::passphrase).await?;
    if kept.is_empty() {
        return Ok(Ok(()));
    }
    let Some(turn) = app.door.lines.turn(who).await else {
        let words = "Several wrong passphrases came from where you are. Try again in a minute.";
        return Ok(Err(words.into()));
    };
    if tokio::task::spawn_blocking(move || is_passphrase(&old, &kept)).await? {
        turn.was_right();
        Ok(Ok(()))
    } else {
        turn.was_wrong();
        Ok(Err(
            "That is not the passphrase that is set now. Nothing was changed. If nobody remembers it, set a new one on this machine with: wembrit passphrase".into(),
        ))
    }
}

/// Sets the passphrase; all other devices go out.
pub(crate) async fn set(
    State(app): State<App>,
    session: Session,
    peer: Option<Extension<Peer>>,
    headers: HeaderMap,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (words, old) = (
        input.get("passphrase").to_owned(),
        input.get("old").to_owned(),
    );
    let fault = match may_change(&app, who(&app, peer, &headers), old).await? {
        Err(why) => why,
        Ok(()) => match tokio::task::spawn_blocking(move || keep_passphrase(&words)).await? {
            Ok(kept) => {
                app.write(move |c| commands::workshop::set_passphrase(c, &kept))
                    .await?;
                app.door.devices.only(own(&session).await);
                app.door.tokens.forget();
                return Ok(go("/phone"));
            }
            Err(why) => show::sentence(&why.to_string()),
        },
    };
    let view = phone_page(&app, &session, &headers, &Method::POST, fault).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, view).into_response())
}
