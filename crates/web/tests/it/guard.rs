//! Who is answered: our own pages, and nobody else's.

use axum::body::Body;
use axum::http::Request;
use rstest::rstest;

use crate::app::TestApp;

#[rstest]
#[case::our_page("POST", &[("host", "localhost:7411"), ("origin", "http://localhost:7411"), ("sec-fetch-site", "same-origin")], 303)]
#[case::no_browser("POST", &[("host", "127.0.0.1:7411")], 303)]
#[case::ipv6("POST", &[("host", "[::1]:7411")], 303)]
#[case::another_name_for_loopback("GET", &[("host", "rebound.example:7411")], 403)]
#[case::no_host("GET", &[], 403)]
#[case::two_hosts("GET", &[("host", "localhost:7411"), ("host", "rebound.example")], 400)]
#[case::foreign_page("POST", &[("host", "localhost:7411"), ("origin", "http://elsewhere.example")], 403)]
#[case::foreign_port("POST", &[("host", "localhost:7411"), ("origin", "http://localhost:9000")], 403)]
#[case::origin_hidden("POST", &[("host", "localhost:7411"), ("origin", "null")], 403)]
#[case::cross_site_post("POST", &[("host", "localhost:7411"), ("sec-fetch-site", "cross-site")], 403)]
#[case::same_site_is_not_same_origin("POST", &[("host", "localhost:7411"), ("sec-fetch-site", "same-site")], 403)]
#[case::cross_site_read("GET", &[("host", "localhost:7411"), ("sec-fetch-site", "cross-site"), ("sec-fetch-mode", "no-cors")], 403)]
#[case::a_link_from_elsewhere("GET", &[("host", "localhost:7411"), ("sec-fetch-site", "cross-site"), ("sec-fetch-mode", "navigate")], 200)]
#[tokio::test]
async fn only_our_own_pages_are_answered(
    #[case] method: &str,
    #[case] headers: &[(&str, &str)],
    #[case] status: u16,
) {
    let app = TestApp::empty();
    let path = if method == "GET" {
        "/workshop"
    } else {
        "/projects/new"
    };
    let mut request = Request::builder().method(method).uri(path);
    for (name, value) in headers {
        request = request.header(*name, *value);
    }
    let answer = app
        .send(request.body(Body::from("name=Levy")).unwrap())
        .await;
    answer.is(status);
}

#[tokio::test]
async fn every_page_forbids_inline_code_and_foreign_sources() {
    let app = TestApp::demo();
    for path in [
        "/",
        "/projects/1/muster",
        "/projects/1/plates",
        "/plates/1",
        "/sculpts",
        "/sculpts/1",
        "/workshop",
        "/models/1",
        "/nothing",
    ] {
        let answer = app.get(path).await;
        let policy = answer.headers["content-security-policy"].to_str().unwrap();
        assert!(
            policy.starts_with("default-src 'none'") && !policy.contains("unsafe"),
            "{policy}"
        );
        for inline in ["style=\"", "<style", "onclick=", "<script>"] {
            assert!(!answer.body.contains(inline), "{inline} on {path}");
        }
        assert!(
            !answer.body.contains("http://")
                || path == "/nothing"
                || !answer.body.contains("src=\"http"),
            "{path}"
        );
    }
}
