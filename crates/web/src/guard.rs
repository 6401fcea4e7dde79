//! Who may ask. Loopback is no guard: any web page open in the maker's browser can send requests
//! to it. So only our own host names are answered, and nothing is changed from a foreign page.

use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

use crate::settings::Settings;
use crate::state::App;

/// No inline script or style, nothing from elsewhere.
const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob:; \
font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// Refuses what does not come from our own pages, and sets the security headers.
pub(crate) async fn guard(State(app): State<App>, request: Request, next: Next) -> Response {
    let settings = &app.settings;
    // Whoever is between may have heeded the other.
    if request.headers().get_all(header::HOST).iter().count() > 1 {
        return (StatusCode::BAD_REQUEST, "A request has one Host header.").into_response();
    }
    if let Err(why) = check(request.method(), request.headers(), settings) {
        return (StatusCode::FORBIDDEN, why).into_response();
    }
    let asked = Asked::of(request.headers(), settings);
    let mut response = next.run(request).await;
    let headers = response.headers_mut();
    if asked.secure {
        secure_cookies(headers);
    }
    let is_page = (headers.get(header::CONTENT_TYPE))
        .is_some_and(|kind| kind.as_bytes().starts_with(b"text/html"));
    if is_page {
        // Behind the back button, after somebody has left, nothing is to be read.
        headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
    }
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

/// Cookies that came over TLS go over TLS only.
fn secure_cookies(headers: &mut HeaderMap) {
    let cookies: Vec<HeaderValue> = headers
        .get_all(header::SET_COOKIE)
        .iter()
        .cloned()
        .collect();
    headers.remove(header::SET_COOKIE);
    for cookie in cookies {
        let with = [cookie.as_bytes(), b"; Secure"].concat();
        headers.append(
            header::SET_COOKIE,
            HeaderValue::from_bytes(&with).unwrap_or(cookie),
        );
    }
}

/// How a request reached this server.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Asked {
    /// By the proxy in front whose name was given at the start.
    pub(crate) proxied: bool,
    /// Over TLS as far as there.
    pub(crate) secure: bool,
    /// What stands before the path of a page, where it came by that proxy: scheme, name and port.
    pub(crate) outside: Option<String>,
}

impl Asked {
    pub(crate) fn of(headers: &HeaderMap, settings: &Settings) -> Self {
        let text = |name: &str| headers.get(name).and_then(|v| v.to_str().ok());
        let host = text("host").unwrap_or_default();
        let proxied = is_among(host, &settings.proxies);
        let secure = proxied
            && text("x-forwarded-proto").is_some_and(|scheme| scheme.eq_ignore_ascii_case("https"));
        let scheme = if secure { "https" } else { "http" };
        Self {
            proxied,
            secure,
            outside: proxied.then(|| format!("{scheme}://{host}")),
        }
    }
}

fn check(method: &Method, headers: &HeaderMap, settings: &Settings) -> Result<(), &'static str> {
    let text = |name: header::HeaderName| headers.get(name).map(|v| v.to_str().unwrap_or("?"));
    let host = text(header::HOST).ok_or("A Host header is missing.")?;
    if !is_ours(host, settings) {
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

/// The name in a Host header, without its port.
fn name_of(host: &str) -> &str {
    match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => host,
    }
}

fn is_among(host: &str, names: &[String]) -> bool {
    let name = name_of(host);
    names.iter().any(|o| o.eq_ignore_ascii_case(name))
}

fn is_ours(host: &str, settings: &Settings) -> bool {
    let name = name_of(host);
    name.eq_ignore_ascii_case("localhost")
        || matches!(name, "127.0.0.1" | "[::1]")
        || is_among(host, &settings.hosts)
        || is_among(host, &settings.proxies)
}
