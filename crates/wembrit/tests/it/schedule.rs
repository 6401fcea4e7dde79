//! The schedule in the browser: a date is asked and answered, plates are moved by keys and by
//! pointer, calendar and plate go out as files.

use serde_json::Value;

use crate::browser::{Browser, Served, TAB};

async fn run(b: &Browser, script: &str) -> Value {
    b.client.execute(script, vec![]).await.expect("an answer")
}

/// How many bytes an address gives, and how they begin.
async fn fetched(b: &Browser, path: &str) -> (u64, String) {
    let script = "const done = arguments[1]; fetch(arguments[0]).then((r) => r.arrayBuffer()).then((a) => done([a.byteLength, String.fromCharCode(...new Uint8Array(a.slice(0, 15)))]));";
    let found = b.client.execute_async(script, vec![path.into()]).await;
    let found = found.expect("a file");
    let begins = found[1].as_str().unwrap_or_default().to_owned();
    (found[0].as_u64().unwrap_or(0), begins)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_date_is_asked_and_plates_are_moved() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    b.goto("/schedule").await;
    b.read("main", "Take off plate").await;
    let bars = b.count(".ruler-of-days [data-plate]").await;
    assert!(bars >= 2, "{bars} bars");

    // By a moment before anything can be done: not possible, and what would help.
    let set = "const by = document.querySelector('[name=deadline]'); by.value = '2026-11-24T11:00'; by.form.requestSubmit()";
    run(&b, set).await;
    b.read("main", "Not possible").await;
    b.read("main", "No order ends before").await;
    b.see(".ruler-of-days .wanted").await;

    // By keys: which plate, not before when.
    b.walk_to("#move-plate").await;
    let chosen = run(&b, "return document.querySelector('#move-plate').value").await;
    let chosen = chosen.as_str().expect("a plate").to_owned();
    b.walk_to("#move-from").await;
    b.keys("11262026").await;
    b.key(TAB).await;
    b.keys("0830AM").await;
    b.enter("#move button").await;
    b.see(&format!(
        "#move-plate option[value='{chosen}'][data-from^='2026-11-26T08:30']"
    ))
    .await;
    b.read("main", "Thu 26 Nov").await;

    // By pointer: the other bar along the ruler by a good piece; then up onto a printer whose plate
    // is smaller, which is refused and says why.
    let other = run(&b, "return [...document.querySelectorAll('#move-plate option')].map((o) => o.value).filter((v) => v !== arguments[0])[0] ?? arguments[0]").await;
    let other = other.as_str().map_or(chosen.clone(), str::to_owned);
    let drag = "const [plate, dx, dy] = arguments;
        const bar = document.querySelector(`.ruler-of-days [data-plate='${plate}'] .prints`);
        const r = bar.getBoundingClientRect();
        const at = { x: r.left + r.width / 2, y: r.top + r.height / 2 };
        const send = (kind, x, y) => bar.dispatchEvent(new PointerEvent(kind, { bubbles: true, pointerId: 1, clientX: x, clientY: y, isPrimary: true }));
        const ruler = document.querySelector('.ruler-of-days');
        ruler.setPointerCapture = () => {};
        send('pointerdown', at.x, at.y); send('pointermove', at.x + dx, at.y + dy); send('pointerup', at.x + dx, at.y + dy);";
    let by = |dx: i64, dy: i64| vec![other.clone().into(), dx.into(), dy.into()];
    let bar = format!(".ruler-of-days.movable [data-plate='{other}'] .prints");
    b.see(&bar).await;
    let of_other =
        "return document.querySelector(`#move-plate option[value='${arguments[0]}']`).dataset.from";
    let from = b.client.execute(of_other, vec![other.clone().into()]);
    let from = from.await.expect("a moment");
    let from = from.as_str().unwrap_or_default().to_owned();
    b.client.execute(drag, by(60, 0)).await.expect("dragged");
    b.see(&format!(
        "#move-plate option[value='{other}'][data-from^='2026-']:not([data-from='{from}'])"
    ))
    .await;
    b.see(&bar).await;
    b.client.execute(drag, by(0, -200)).await.expect("dragged");
    b.read("[role=alert]", "has a smaller plate").await;

    let (_, begins) = fetched(&b, "/schedule.ics").await;
    assert!(begins.starts_with("BEGIN:VCALENDAR"), "{begins}");
    let (bytes, begins) = fetched(&b, &format!("/plates/{chosen}/mesh/3mf")).await;
    assert!(
        bytes > 2_000 && begins.starts_with("PK"),
        "{bytes} {begins}"
    );
    b.close().await;
}
