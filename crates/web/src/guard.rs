//! Who may ask. Loopback is no guard: any web page open in the maker's browser can send requests
//! to it. So only our own host names are answered, and nothing is changed from a foreign page.

use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::state::App;

/// No inline script or style, nothing from elsewhere.
const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob:; \
font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// Refuses what does not come from our own pages, and sets the security headers.
pub(crate) async fn guard(State(app): State<App>, request: Request, next: Next) -> Response {
    let own = &app.settings.hosts;
    if let Err(why) = check(request.method(), request.headers(), own) {
        return (StatusCode::FORBIDDEN, why).into_response();
    }
    let mut response = next.run(request).await;
    let headers = response.headers_mut();
    headers.insert(
        header::CONTENT_SECURITY_POLICY,
        HeaderValue::from_static(POLICY),
    );
    headers.insert(
        header::X_CONTENT_TYPE_OPTIONS,
        HeaderValue::from_static("nosniff"),
    );
    headers.insert(
        header::REFERRER_POLICY,
        HeaderValue::from_static("same-origin"),
    );
    response
}

fn check(method: &Method, headers: &HeaderMap, own: &[String]) -> Result<(), &'static str> {
    let text = |name: header::HeaderName| headers.get(name).map(|v| v.to_str().unwrap_or("?"));
    let host = text(header::HOST).ok_or("A Host header is missing.")?;
    if !is_ours(host, own) {
        return Err("This server answers only to its own names.");
    }
    let changes = !matches!(*method, Method::GET | Method::HEAD);
    let site = headers
        .get("sec-fetch-site")
        .map(|v| v.to_str().unwrap_or("?"));
    let navigation = headers
        .get("sec-fetch-mode")
        .is_some_and(|v| v == "navigate");
    let from_here = matches!(site, None | Some("same-origin" | "none"));
    if !from_here && (changes || !navigation) {
        return Err("Refused: this request came from another site.");
    }
    if let Some(origin) = text(header::ORIGIN) {
        // Behind a proxy with TLS the page is https, and what comes here is not.
        let ours = origin
            .strip_prefix("http://")
            .or(origin.strip_prefix("https://"))
            .is_some_and(|rest| rest.eq_ignore_ascii_case(host));
        if !ours && (changes || origin != "null") {
            return Err("Refused: this request came from another site.");
        }
    }
    Ok(())
}

fn is_ours(host: &str, own: &[String]) -> bool {
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => host,
    };
    name.eq_ignore_ascii_case("localhost")
        || matches!(name, "127.0.0.1" | "[::1]")
        || own.iter().any(|o| o.eq_ignore_ascii_case(name))
}
