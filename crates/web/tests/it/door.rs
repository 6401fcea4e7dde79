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

/// What an answer has a browser keep.
fn cookies(answer: &Answer) -> Vec<String> {
    let all = answer.headers.get_all(header::SET_COOKIE).iter();
    all.map(|c| c.to_str().expect("text").to_owned()).collect()
}

/// The cookies as a browser sends them back.
fn in_cookie(answer: &Answer) -> String {
    let pairs = cookies(answer);
    let pairs = pairs.iter().filter_map(|c| c.split(';').next());
    pairs.collect::<Vec<_>>().join("; ")
}

/// A device that comes in with the words, and its cookies.
async fn come_in(app: &TestApp) -> String {
    let right = ask(app, "POST", "/enter", &[], WORDS).await;
    assert_eq!(right.location(), "/");
    in_cookie(&right)
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

    ask(&app, "POST", "/enter", &[], "passphrase=heron")
        .await
        .is(403)
        .says("not the passphrase");
    let right = ask(&app, "POST", "/enter", &[], WORDS).await;
    assert_eq!((right.status.as_u16(), right.location()), (303, "/"));
    let set = cookies(&right);
    assert_eq!(set.len(), 2);
    for cookie in &set {
        assert!(
            cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"),
            "{cookie}"
        );
        assert!(!cookie.contains("Secure"), "it came without TLS: {cookie}");
    }
    let cookie = in_cookie(&right);
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
        .says("No passphrase is set yet");
    app.post("/passphrase", "passphrase=heron")
        .await
        .is(422)
        .says("at least 10 letters");
    app.post("/passphrase", WORDS).await.is(303);
    app.get("/phone").await.says("A passphrase is set");
    // Listening to this machine alone, it asks nobody.
    app.get("/workshop").await.is(200);
}

/// Wrong words slow their own line, and never stop the right ones: these wait for their turn. A device that was in
/// before waits in a line of its own.
#[tokio::test(start_paused = true)]
async fn wrong_words_stop_nobody_who_knows_the_right_ones() {
    let app = beyond();
    let cookie = come_in(&app).await;
    let with = [("cookie", cookie.as_str())];
    ask(&app, "POST", "/leave", &with, "").await.is(303);
    let wrong = || {
        ask(
            &app,
            "POST",
            "/enter",
            &[],
            "passphrase=heron+again+and+again",
        )
    };
    for _ in 0..8 {
        wrong().await.is(403);
    }
    // As many as a line holds, the right words last; whoever comes then is turned away.
    let began = tokio::time::Instant::now();
    let (a, b, c, d, right, late) = tokio::join!(
        wrong(),
        wrong(),
        wrong(),
        wrong(),
        ask(&app, "POST", "/enter", &[], WORDS),
        async {
            tokio::task::yield_now().await;
            let late = ask(&app, "POST", "/enter", &[], WORDS).await;
            let known = ask(&app, "POST", "/enter", &with, WORDS).await;
            assert!(began.elapsed().as_secs() < 1, "it has a line of its own");
            assert_eq!(known.location(), "/");
            late
        }
    );
    for answer in [a, b, c, d] {
        answer.is(403);
    }
    assert_eq!(right.location(), "/");
    late.is(429).says("Try again in a minute");
}

/// Asking for the head of a page spends no code, and makes none.
#[tokio::test]
async fn the_head_of_a_code_is_no_entry() {
    let app = beyond();
    let cookie = come_in(&app).await;
    let with = [("cookie", cookie.as_str())];
    ask(&app, "HEAD", "/phone", &with, "").await.is(200);
    let head = ask(&app, "HEAD", "/enter/0123", &[], "").await;
    head.is(200);
    assert!(cookies(&head).is_empty());
}

/// Another passphrase asks for the one that is set, and sends all other devices out; one can be sent out by itself.
#[tokio::test(start_paused = true)]
async fn another_passphrase_sends_the_others_out() {
    let app = beyond();
    let [own, phone, third] = [
        come_in(&app).await,
        come_in(&app).await,
        come_in(&app).await,
    ];
    let gets = async |cookie: &str| {
        let answer = ask(&app, "GET", "/workshop", &[("cookie", cookie)], "").await;
        answer.status.as_u16()
    };
    let with = [("cookie", own.as_str())];
    let page = ask(&app, "GET", "/phone", &with, "").await;
    assert_eq!(page.body.matches("/sign-out\"").count(), 2);
    assert_eq!(page.body.matches("(this one)").count(), 1);
    assert_eq!(page.headers[header::CACHE_CONTROL], "no-store");
    ask(&app, "POST", "/devices/3/sign-out", &with, "")
        .await
        .is(303);
    assert_eq!((gets(&phone).await, gets(&third).await), (200, 303));

    let other = "old=heron&passphrase=bittern+under+the+reeds";
    ask(&app, "POST", "/passphrase", &with, other)
        .await
        .is(422)
        .says("Nothing was changed");
    assert_eq!(gets(&phone).await, 200);
    let other = "old=heron+over+the+fen&passphrase=bittern+under+the+reeds";
    ask(&app, "POST", "/passphrase", &with, other).await.is(303);
    assert_eq!((gets(&own).await, gets(&phone).await), (200, 303));
    ask(&app, "POST", "/enter", &[], WORDS).await.is(403);
}

/// Behind the proxy it was told of, over TLS: cookies stay there, and the code leads there. Nobody else is believed.
#[rstest]
#[case::by_the_proxy("fen.example", "https", true)]
#[case::without_tls("fen.example", "http", false)]
#[case::straight("192.168.7.20:7411", "https", false)]
#[tokio::test]
async fn what_a_proxy_forwards_is_heeded(
    #[case] host: &str,
    #[case] scheme: &str,
    #[case] secure: bool,
) {
    let app = TestApp::with(Settings {
        beyond: true,
        hosts: vec!["192.168.7.20".into()],
        proxies: vec!["fen.example".into()],
        addresses: vec!["192.168.7.20".into()],
        ..Settings::default()
    });
    let kept = keep_passphrase("heron over the fen").expect("long enough");
    let set = |c: &mut _| commands::workshop::set_passphrase(c, &kept);
    app.store.write(set).expect("it is kept");
    let by = [("host", host), ("x-forwarded-proto", scheme)];
    let right = ask(&app, "POST", "/enter", &by, WORDS).await;
    for cookie in cookies(&right) {
        assert_eq!(cookie.contains("; Secure"), secure, "{cookie}");
    }
    let cookie = in_cookie(&right);
    let with = [
        ("host", host),
        ("x-forwarded-proto", scheme),
        ("cookie", &cookie),
    ];
    let at = if host == "fen.example" {
        format!("{scheme}://fen.example/<")
    } else {
        "http://192.168.7.20:7411/<".into()
    };
    ask(&app, "GET", "/phone", &with, "").await.says(&at);
}
