//! The server beyond loopback: nothing without the passphrase, wrong ones slowed, only its own names.

use axum::body::Body;
use axum::http::{Request, header};
use rstest::rstest;
use wembrit_store::commands;
use wembrit_web::{Settings, keep_passphrase};

use crate::app::{Answer, TestApp};

const HOST: &str = "192.168.7.20:7411";
const WORDS: &str = "passphrase=heron+over+the+fen";

fn beyond() -> TestApp {
    let app = TestApp::with(Settings {
        beyond: true,
        hosts: vec!["192.168.7.20".into(), "bench.local".into()],
        addresses: vec!["192.168.7.20".into()],
        ..Settings::default()
    });
    let kept = keep_passphrase("heron over the fen").expect("long enough");
    let set = |c: &mut _| commands::workshop::set_passphrase(c, &kept);
    app.store.write(set).expect("it is kept");
    app
}

async fn ask(app: &TestApp, method: &str, path: &str, more: &[(&str, &str)], body: &str) -> Answer {
    let mut request = Request::builder().method(method).uri(path);
    let named = more.iter().any(|(name, _)| *name == "host");
    if !named {
        request = request.header(header::HOST, HOST);
    }
    for (name, value) in more {
        request = request.header(*name, *value);
    }
    app.send(
        request
            .body(Body::from(body.to_owned()))
            .expect("a request"),
    )
    .await
}

#[tokio::test]
async fn nothing_is_given_out_before_the_passphrase() {
    let app = beyond();
    let first = ask(&app, "GET", "/", &[], "").await;
    assert_eq!((first.status.as_u16(), first.location()), (303, "/enter"));
    for path in ["/muster", "/sculpts/1", "/workshop", "/events"] {
        assert_eq!(ask(&app, "GET", path, &[], "").await.location(), "/enter");
    }
    ask(&app, "POST", "/projects/new", &[], "name=Fen")
        .await
        .is(401);
    ask(&app, "GET", "/projects/1/plan", &[("x-fragment", "1")], "")
        .await
        .is(401);
    let form = ask(&app, "GET", "/enter", &[], "").await;
    form.is(200).says("passphrase");

    // Wrong: told, and the next attempt waits, even with the right words.
    ask(&app, "POST", "/enter", &[], "passphrase=heron")
        .await
        .is(403)
        .says("not the passphrase");
    let early = ask(&app, "POST", "/enter", &[], WORDS).await;
    early.is(429).says("wait 1 s");
    assert_eq!(early.headers[header::RETRY_AFTER], "1");
    tokio::time::sleep(std::time::Duration::from_millis(1100)).await;

    // Many at once: one is looked at, the others wait.
    let wrong = || {
        ask(
            &app,
            "POST",
            "/enter",
            &[],
            "passphrase=heron+again+and+again",
        )
    };
    let (a, b, c) = tokio::join!(wrong(), wrong(), wrong());
    let mut told = [a, b, c].map(|answer| answer.status.as_u16());
    told.sort_unstable();
    assert_eq!(told, [403, 429, 429]);
    tokio::time::sleep(std::time::Duration::from_millis(2100)).await;

    let right = ask(&app, "POST", "/enter", &[], WORDS).await;
    assert_eq!((right.status.as_u16(), right.location()), (303, "/"));
    let cookie = right.headers[header::SET_COOKIE]
        .to_str()
        .expect("text")
        .to_owned();
    assert!(
        cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"),
        "{cookie}"
    );
    let cookie = cookie.split(';').next().expect("a cookie").to_owned();
    let with = [("cookie", cookie.as_str())];
    ask(&app, "GET", "/", &with, "").await.is(200);
    let phone = ask(&app, "GET", "/phone", &with, "").await;
    phone
        .is(200)
        .says("<svg")
        .says("http://192.168.7.20:7411/")
        .says("TLS");
    assert!(
        !phone.body.contains("/enter/"),
        "the token stands in the code only"
    );
    ask(&app, "GET", "/enter/0123", &[], "")
        .await
        .is(403)
        .says("used already");
    ask(&app, "POST", "/leave", &with, "").await.is(303);
    assert_eq!(ask(&app, "GET", "/", &with, "").await.location(), "/enter");
}

/// Its own names and addresses, over TLS in front as well; nobody else's.
#[rstest]
#[case::its_address("192.168.7.20:7411", "http://192.168.7.20:7411", 403)]
#[case::its_name("bench.local", "https://bench.local", 403)]
#[case::loopback("localhost:7411", "http://localhost:7411", 403)]
#[case::another_name("evil.example", "http://evil.example", 0)]
#[case::another_page("192.168.7.20:7411", "http://evil.example", 0)]
#[tokio::test]
async fn only_its_own_names_are_answered(
    #[case] host: &str,
    #[case] origin: &str,
    #[case] wrong_words: u16,
) {
    let app = beyond();
    let from = [("host", host), ("origin", origin)];
    let answer = ask(&app, "POST", "/enter", &from, "passphrase=nonsense").await;
    answer.is(403);
    // A stranger does not come as far as the door.
    let at_the_door = answer.body.contains("not the passphrase");
    assert_eq!(at_the_door, wrong_words > 0, "{}", answer.body);
}

#[tokio::test]
async fn a_passphrase_is_set_on_the_page_and_short_ones_are_refused() {
    let app = TestApp::empty();
    app.get("/phone")
        .await
        .says("--listen 0.0.0.0:7411")
        .says("None is set");
    app.post("/passphrase", "passphrase=heron")
        .await
        .is(422)
        .says("at least 10 letters");
    app.post("/passphrase", WORDS).await.is(303);
    app.get("/phone").await.says("One is set");
    // Listening to this machine alone, it asks nobody.
    app.get("/workshop").await.is(200);
}
