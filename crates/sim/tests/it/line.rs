//! The line: the protocol as `docs/printer-protocol.md` describes it, asked in its own words.

use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt as _;
use rstest::rstest;
use serde_json::{Value, json};
use tower::ServiceExt as _;
use wembrit_sim::{Sim, Spec};

use super::machine::{file, spec};

async fn ask(sim: &Sim, request: Request<Body>) -> (StatusCode, Value) {
    let mut request = request;
    let own = header::HeaderValue::from_static("127.0.0.1:7611");
    request.headers_mut().entry(header::HOST).or_insert(own);
    let answer = sim.router().oneshot(request).await.unwrap();
    let status = answer.status();
    let bytes = answer.into_body().collect().await.unwrap().to_bytes();
    (
        status,
        serde_json::from_slice(&bytes).unwrap_or(Value::Null),
    )
}

async fn post(sim: &Sim, path: &str, body: Value) -> (StatusCode, Value) {
    let request = Request::post(path).header("content-type", "application/json");
    ask(sim, request.body(Body::from(body.to_string())).unwrap()).await
}

async fn put(sim: &Sim, name: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
    let request = Request::put(format!("/v1/files/{name}"));
    ask(sim, request.body(Body::from(bytes)).unwrap()).await
}

async fn get(sim: &Sim, path: &str) -> (StatusCode, Value) {
    ask(sim, Request::get(path).body(Body::empty()).unwrap()).await
}

/// An order in the protocol's words, about the job that the machine would begin next.
async fn order(sim: &Sim, id: &str, what: &str, checksum: &str) -> Value {
    let says = get(sim, "/v1/status").await.1;
    json!({
        "id": id, "do": what, "machine": says["machine"], "boot": says["boot"],
        "number": says["jobs"].as_u64().unwrap() + 1,
        "file": "plate-1-0a1b2c", "checksum": checksum,
    })
}

#[tokio::test]
async fn a_job_is_sent_started_and_seen() {
    let folder = tempfile::tempdir().unwrap();
    let sim = Sim::open(Some(folder.path()), spec()).unwrap();
    let (status, kept) = put(&sim, "plate-1-0a1b2c", file()).await;
    assert_eq!(status, StatusCode::OK);
    let checksum = blake3::hash(&file()).to_hex().to_string();
    assert_eq!(
        kept,
        json!({ "name": "plate-1-0a1b2c", "checksum": checksum })
    );
    let start = order(&sim, "1", "start", &checksum).await;
    let told = json!({ "done": true, "why": "", "number": 1, "layer": 0 });
    for _ in 0..3 {
        assert_eq!(
            post(&sim, "/v1/commands", start.clone()).await,
            (StatusCode::OK, told.clone())
        );
    }
    assert_eq!(get(&sim, "/v1/commands/1").await, (StatusCode::OK, told));
    assert_eq!(get(&sim, "/v1/commands/2").await.0, StatusCode::NOT_FOUND);
    sim.with(|m| m.advance(1050.0)).unwrap();
    let (_, says) = get(&sim, "/v1/status").await;
    assert_eq!(
        (&says["state"], &says["layer"], &says["job"]["number"]),
        (&json!("ended"), &json!(100), &json!(1))
    );
    // Switched off and on: what was answered stays answered, what hangs in it hangs in it.
    drop(sim);
    let again = Sim::open(Some(folder.path()), spec()).unwrap();
    assert_eq!(get(&again, "/v1/status").await.1["state"], "ended");
    assert_eq!(post(&again, "/v1/commands", start).await.1["number"], 1);
    assert_eq!(again.with(|m| m.jobs()).unwrap(), 1);
    // It is as it is said to be now: a smaller vat holds no more than it takes.
    drop(again);
    let small = Spec {
        vat_ml: 8.0,
        ..spec()
    };
    let small = Sim::open(Some(folder.path()), small).unwrap();
    assert_eq!(get(&small, "/v1/status").await.1["resin_ml"], 8.0);
}

#[tokio::test]
async fn what_cannot_be_is_refused_in_words() {
    let sim = Sim::open(None, spec()).unwrap();
    let (status, why) = put(&sim, "x", b"{}".to_vec()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(
        why["why"].as_str().unwrap().contains("no file of a plate"),
        "{why}"
    );
    let (status, _) = post(&sim, "/v1/commands", json!({ "id": "1", "do": "dance" })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, _) = post(&sim, "/v1/commands", json!({ "id": "1", "do": "stop" })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "of which job?");
    let stop = order(&sim, "1", "stop", "ab").await;
    let (status, answer) = post(&sim, "/v1/commands", stop).await;
    assert_eq!(
        (status, &answer["why"]),
        (StatusCode::OK, &json!("it is idle"))
    );
}

/// While the line is lost nothing is heard; while answers are lost it is heard all the same.
#[tokio::test]
async fn a_lost_line_answers_nothing() {
    let sim = Sim::open(None, spec()).unwrap();
    put(&sim, "plate-1-0a1b2c", file()).await;
    let checksum = blake3::hash(&file()).to_hex().to_string();
    for (fault, jobs) in [("lost-link", 0), ("lost-answers", 1)] {
        let start = order(&sim, fault, "start", &checksum).await;
        let strike = json!({ "fault": fault, "seconds": 60.0 });
        assert_eq!(
            post(&sim, "/bench/fault", strike).await.0,
            StatusCode::NO_CONTENT
        );
        let asked = post(&sim, "/v1/commands", start);
        let answer = tokio::time::timeout(std::time::Duration::from_millis(50), asked).await;
        assert!(answer.is_err(), "{fault}");
        assert_eq!(sim.with(|m| m.jobs()).unwrap(), jobs, "{fault}");
        sim.with(|m| m.advance(60.0)).unwrap();
    }
    assert_eq!(get(&sim, "/v1/commands/lost-answers").await.1["number"], 1);
}

/// A page in a browser on this machine can reach the printer's port: it is asked nothing by one, and by no other name.
#[rstest]
#[case::the_server(&[("host", "127.0.0.1:7611")], 200)]
#[case::by_name(&[("host", "localhost:7611")], 200)]
#[case::version_6(&[("host", "[::1]:7611")], 200)]
#[case::a_name_that_leads_here(&[("host", "rebound.example:7611")], 403)]
#[case::two_names(&[("host", "127.0.0.1:7611"), ("host", "rebound.example")], 403)]
#[case::a_page(&[("host", "127.0.0.1:7611"), ("origin", "http://evil.example")], 403)]
#[case::our_own_page(&[("host", "127.0.0.1:7611"), ("origin", "http://127.0.0.1:7611")], 403)]
#[case::a_picture_in_a_page(&[("host", "127.0.0.1:7611"), ("sec-fetch-site", "cross-site")], 403)]
#[tokio::test]
async fn no_page_of_a_browser_asks_it(#[case] headers: &[(&str, &str)], #[case] status: u16) {
    let sim = Sim::open(None, spec()).unwrap();
    for (method, path) in [("GET", "/v1/status"), ("POST", "/bench/speed")] {
        let mut request = Request::builder().method(method).uri(path);
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        let body = if method == "GET" {
            ""
        } else {
            r#"{"speed":9}"#
        };
        let request = request.header("content-type", "application/json");
        let (told, _) = ask(&sim, request.body(Body::from(body)).unwrap()).await;
        assert_eq!(told.is_success(), status == 200, "{method} {told}");
    }
    assert_eq!(sim.with(|m| m.says().speed).unwrap() > 1.0, status == 200);
}
