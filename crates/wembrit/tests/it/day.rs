//! A whole day at the printers, on a phone that came in with the passphrase: plates end, one is lost,
//! one has failures and a piece missing; washed, cured, judged in part, mended, and planned again.

use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Duration;

use crate::bench::fits_the_hand;
use crate::browser::{Browser, NOW, Served, demo_file};

const WORDS: &str = "heron over the fen";

fn passphrase(file: &Path, words: &str) -> std::process::Output {
    let mut set = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args(["passphrase", "--data", file.to_str().unwrap()])
        .stdin(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    writeln!(set.stdin.take().unwrap(), "{words}").unwrap();
    set.wait_with_output().unwrap()
}

/// The demo, for all machines of the network, at a time of the day.
fn serve(file: &Path, now: &str) -> (Served, String) {
    let args = [
        "demo",
        "--by-hand",
        "--data",
        file.to_str().unwrap(),
        "--now",
        now,
    ];
    let served = Served::start_on("0.0.0.0:0", &args);
    let port = served.base.rsplit_once(':').unwrap().1.to_owned();
    // As a phone would reach it; a machine without a network is reached by itself.
    let mut own = if_addrs::get_if_addrs().unwrap_or_default().into_iter();
    let own = own.find(|i| !i.is_loopback() && i.ip().is_ipv4());
    let host = own.map_or("127.0.0.1".to_owned(), |i| i.ip().to_string());
    (served, format!("http://{host}:{port}"))
}

fn refused(base: &str, headers: &str) -> String {
    let address = base.strip_prefix("http://").unwrap();
    let mut stream = TcpStream::connect(address).unwrap();
    write!(
        stream,
        "GET /enter HTTP/1.1\r\n{headers}\r\nConnection: close\r\n\r\n"
    )
    .unwrap();
    let mut answer = String::new();
    stream.read_to_string(&mut answer).unwrap();
    answer
}

async fn plate(b: &Browser, number: u32) -> String {
    b.goto("/plates").await;
    let find = format!(
        "return [...document.querySelectorAll('a')].find((a) => a.textContent.trim() === 'Plate {number}').getAttribute('href')"
    );
    let found = b.client.execute(&find, vec![]).await.expect("a plate");
    found.as_str().expect("an address").to_owned()
}

async fn mark(b: &Browser, nth: usize, becomes: &str, note: &str) {
    let script = "const [nth, becomes, note] = arguments;
        const box = document.querySelectorAll('.to-judge input[name=failed]')[nth];
        box.click();
        document.querySelector(`[name=as_${box.value}]`).value = becomes;
        document.querySelector(`[name=note_${box.value}]`).value = note;";
    let with = vec![nth.into(), becomes.into(), note.into()];
    b.client.execute(script, with).await.expect("marked");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_whole_day_on_the_phone() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("demo.sqlite");
    std::fs::write(&file, demo_file()).unwrap();
    // Beyond this machine only with a passphrase, and it says how.
    let alone = Command::new(env!("CARGO_BIN_EXE_wembrit"))
        .args([
            "serve",
            "--listen",
            "0.0.0.0:0",
            "--data",
            file.to_str().unwrap(),
        ])
        .output()
        .unwrap();
    let why = String::from_utf8_lossy(&alone.stderr).into_owned();
    assert!(
        !alone.status.success() && why.contains("wembrit passphrase"),
        "{why}"
    );
    assert!(!passphrase(&file, "heron").status.success());
    assert!(passphrase(&file, WORDS).status.success());

    let (served, base) = serve(&file, NOW);
    assert!(refused(&base, "Host: evil.example").contains("403 Forbidden"));
    let own = base.strip_prefix("http://").unwrap();
    let foreign =
        format!("Host: {own}\r\nOrigin: http://evil.example\r\nSec-Fetch-Site: cross-site");
    assert!(refused(&base, &foreign).contains("403 Forbidden"));

    let b = Browser::open(&base).await;
    b.resize(390, 844).await;
    b.goto("/muster").await;
    b.read("h1", "Sign in").await;
    b.fill("passphrase", "heron over the pond").await;
    b.press("Sign in").await;
    b.read("[role=alert]", "not the passphrase").await;
    // Right words that follow at once wait for their turn.
    b.fill("passphrase", WORDS).await;
    b.press("Sign in").await;
    b.read("h1", "Today").await;

    // One runs: looked at, taken off. Another is started, and lost at a layer. A third is logged.
    let [four, five, six] = [plate(&b, 4).await, plate(&b, 5).await, plate(&b, 6).await];
    b.goto(&format!("{four}/run")).await;
    b.press("They are on it").await;
    b.press("Take it off").await;
    b.goto(&six).await;
    b.start_the_run().await;
    b.fill("cause", "stuck to the film").await;
    b.fill("layer", "120").await;
    b.press("The plate is lost").await;
    b.read("main", "its copies are wanted again").await;
    b.goto(&five).await;
    b.press("It was printed already").await;
    // Twenty seconds to log a run of yesterday: two times, proposed already, and a button.
    let times = "details[open] form[action$='/log'] input[type=datetime-local]";
    assert_eq!(b.count(times).await, 2);
    b.press("Log this run").await;

    // Both batches drip, are removed and washed; the first dries when the server is stopped.
    b.goto("/finishing").await;
    assert_eq!(b.count(".batch").await, 2);
    for _ in 0..3 {
        let tick = "for (const box of document.querySelectorAll('.several input[name=batch]')) box.click()";
        b.client.execute(tick, vec![]).await.unwrap();
        let end = "document.querySelector('.several button[value=end]').click()";
        b.client.execute(end, vec![]).await.unwrap();
        tokio::time::sleep(Duration::from_millis(400)).await;
    }
    b.read(".batch", "Let them dry").await;
    b.press("Begin").await;
    b.see(".timer").await;
    fits_the_hand(&b, "batches on their way").await;
    b.close().await;
    drop(served);

    // Half an hour later: the closed page rang for nobody, the deadline was kept.
    let (_served, base) = serve(&file, "2026-11-24T10:20:00Z");
    let b = Browser::open(&base).await;
    b.resize(390, 844).await;
    b.goto("/").await;
    b.fill("passphrase", WORDS).await;
    b.press("Sign in").await;
    b.read(".slip", "overdue by").await;
    b.goto("/finishing").await;
    b.read(".timer.is-late", "overdue by").await;
    for _ in 0..2 {
        let end = "document.querySelector('.batch form[action$=\"/end\"] button').click()";
        b.client.execute(end, vec![]).await.unwrap();
        tokio::time::sleep(Duration::from_millis(400)).await;
        b.goto("/finishing").await;
    }
    b.check().await;

    // All good but these two: three taps from the sheet of a finished run.
    b.goto(&four).await;
    fits_the_hand(&b, "a plate to be judged").await;
    let all = b.count(".to-judge [data-copy]").await;
    assert!(all >= 8, "{all} copies");
    mark(&b, 0, "failed", "").await;
    mark(&b, 1, "missing", "").await;
    mark(&b, 2, "to mend", "glue the pike").await;
    mark(&b, 3, "not looked at", "").await;
    b.press("marked, the rest good").await;
    b.read("main", "to mend: glue the pike").await;
    assert_eq!(b.count(".to-judge [data-copy]").await, 3);

    // The sword is still in the vat: nothing is started there before somebody has looked.
    b.goto("/").await;
    b.read(".slip", "Search the vat of Dunlin").await;
    b.goto("/printers/1/vat").await;
    b.press("I looked into the vat").await;
    b.read("[role=alert]", "say what was found").await;
    b.fill("found", "the sword, under the plate").await;
    b.press("I looked into the vat").await;
    b.read("h1", "Today").await;
    b.goto(&four).await;
    mark(&b, 0, "failed", "broken").await;
    mark(&b, 1, "good", "").await;
    mark(&b, 2, "good", "").await;
    b.press("Only the marked ones").await;
    b.read("main", "Judge it again").await;

    // What failed, what was lost, is wanted again.
    b.resize(1280, 800).await;
    b.goto("/plates").await;
    b.press("Plan plates").await;
    b.read("main", "Accept this plan").await;
    b.check().await;
    b.close().await;
}
