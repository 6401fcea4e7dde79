//! The simulated printer as a process of its own: its line from outside, and its power cut at any moment.

use std::io::{Read as _, Write as _};
use std::net::TcpStream;
use std::process::Command;
use std::time::Duration;

use serde_json::{Value, json};

use crate::browser::Served;

/// Two hundred layers of a second each.
const FILE: &str = r#"{"format":1,"name":"plate-1-0a1b2c","layer_mm":0.05,"lift_mm":7.0,"startup_s":1.0,
    "stretches":[{"layers":200,"seconds":1.0}],"resin_ml":10.0,"areas_mm2":[]}"#;

fn send(base: &str, method: &str, path: &str, body: &str) -> TcpStream {
    let host = base.strip_prefix("http://").unwrap();
    let mut stream = TcpStream::connect(host).unwrap();
    let head = format!(
        "{method} {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nConnection: close"
    );
    write!(
        stream,
        "{head}\r\nContent-Length: {}\r\n\r\n{body}",
        body.len()
    )
    .unwrap();
    stream
}

pub(crate) fn ask(base: &str, method: &str, path: &str, body: &str) -> Value {
    let mut answer = String::new();
    send(base, method, path, body)
        .read_to_string(&mut answer)
        .unwrap();
    let body = answer.split_once("\r\n\r\n").map_or("", |(_, body)| body);
    serde_json::from_str(body).unwrap_or(Value::Null)
}

fn tell(base: &str, command: &Value) -> Value {
    ask(base, "POST", "/v1/commands", &command.to_string())
}

/// An order in the protocol's words about the job that the machine would begin next, or about what hangs in it.
fn order(says: &Value, id: &str, what: &str, checksum: &Value) -> Value {
    let (boot, number) = match &says["job"] {
        Value::Null => (&says["boot"], says["jobs"].as_u64().unwrap() + 1),
        job => (&job["boot"], job["number"].as_u64().unwrap()),
    };
    json!({
        "id": id, "do": what, "machine": says["machine"], "boot": boot, "number": number,
        "file": "plate-1", "checksum": checksum,
    })
}

/// Its power is cut while it is told to start, at one moment after another: whatever was answered holds afterwards,
/// nothing is begun twice, and it never goes on by itself. A start that did not arrive before begins nothing after, as
/// it was switched off meanwhile.
#[test]
fn a_power_cut_at_any_moment_loses_no_answer() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().to_str().unwrap();
    let on = || Served::start(&["sim", "--data", path, "--speed", "20"]);
    let mut sim = on();
    let kept = ask(&sim.base, "PUT", "/v1/files/plate-1", FILE);
    let checksum = &kept["checksum"];
    for (round, after_us) in [0, 200, 500, 800, 1200, 2000, 4000, 30_000]
        .into_iter()
        .enumerate()
    {
        let says = |sim: &Served| ask(&sim.base, "GET", "/v1/status", "");
        let start = order(&says(&sim), &format!("start {round}"), "start", checksum);
        let mut line = send(&sim.base, "POST", "/v1/commands", &start.to_string());
        std::thread::sleep(Duration::from_micros(after_us));
        sim.kill();
        let mut heard = String::new();
        let answered = line.read_to_string(&mut heard).is_ok() && heard.contains(r#""done":true"#);
        sim = on();
        let now = says(&sim);
        if answered || now["state"] != "idle" {
            assert_eq!(
                (&now["state"], &now["trouble"]),
                (&json!("halted"), &json!("power-cut")),
                "{after_us}"
            );
        }
        let mut begun = tell(&sim.base, &start);
        if begun["done"] == json!(false) {
            assert!(!answered && now["state"] == "idle", "{after_us}: {begun}");
            assert!(begun["why"].as_str().unwrap().contains("switched off"));
            let anew = order(&now, &format!("anew {round}"), "start", checksum);
            begun = tell(&sim.base, &anew);
        }
        let begins =
            json!({ "done": true, "why": "", "number": round + 1, "layer": begun["layer"] });
        assert_eq!(begun, begins, "either way there is one job more");
        let now = says(&sim);
        tell(
            &sim.base,
            &order(&now, &format!("stop {round}"), "stop", checksum),
        );
        let clear = tell(
            &sim.base,
            &order(&now, &format!("clear {round}"), "clear", checksum),
        );
        assert_eq!(
            (&clear["done"], &clear["number"]),
            (&json!(true), &json!(round + 1))
        );
    }
}

/// It asks nobody who they are: it is not to be reached from elsewhere.
#[test]
fn it_answers_on_this_machine_alone() {
    let out = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(["sim", "--listen", "0.0.0.0:0"])
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{said}");
    assert!(said.contains("on 127.0.0.1 alone"), "{said}");
}
