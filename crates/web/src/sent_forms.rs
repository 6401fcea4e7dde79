//! The layer that carries each form out once, by its key.

use axum::body::{Body, to_bytes};
use axum::extract::{Request, State};
use axum::http::{Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::state::App;
use crate::{currency, once};

/// Bytes of a form at most, as the handlers take them.
const MOST_BYTES: usize = 2 << 20;

/// Carries out what was not carried out yet.
pub(crate) async fn carry_out_once(
    State(app): State<App>,
    request: Request,
    next: Next,
) -> Response {
    // Scripts change one plate a step at a time and draw it anew after each, and send one form's files one by one.
    let headers = request.headers();
    let by_script = headers.contains_key("x-fragment")
        || headers
            .get(header::ACCEPT)
            .is_some_and(|kind| kind == "application/json");
    if request.method() != Method::POST || by_script {
        return next.run(request).await;
    }
    let (key, request) = match key_of(request).await {
        Ok((Some(key), request)) => (key, request),
        Ok((None, request)) => return next.run(request).await,
        Err(refused) => return refused,
    };
    let led = app.sent.of(&key);
    let work = async move {
        let mut led = led.lock_owned().await;
        if let Some(to) = &*led {
            return (StatusCode::SEE_OTHER, [(header::LOCATION, to.clone())]).into_response();
        }
        let answer = once::within(key, next.run(request)).await;
        if answer.status() == StatusCode::SEE_OTHER {
            *led = answer.headers().get(header::LOCATION).cloned();
        }
        answer
    };
    // By itself: a second click ends the line of the first, and not what is under way.
    match tokio::spawn(currency::within(app.currency(), work)).await {
        Ok(answer) => answer,
        Err(error) => std::panic::resume_unwind(error.into_panic()),
    }
}

/// The key in a form, or in the address where the form holds files.
async fn key_of(request: Request) -> Result<(Option<String>, Request), Response> {
    let kind = request.headers().get(header::CONTENT_TYPE);
    let plain = kind.is_some_and(|k| {
        k.as_bytes()
            .starts_with(b"application/x-www-form-urlencoded")
    });
    if !plain {
        let key = request.uri().query().and_then(|q| once::find(q.as_bytes()));
        return Ok((key, request));
    }
    let (head, body) = request.into_parts();
    let Ok(bytes) = to_bytes(body, MOST_BYTES).await else {
        let words = "The form is too large, or did not arrive whole. Nothing was changed.";
        return Err((StatusCode::PAYLOAD_TOO_LARGE, words).into_response());
    };
    let key = once::find(&bytes);
    Ok((key, Request::from_parts(head, Body::from(bytes))))
}
