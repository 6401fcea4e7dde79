//! A plan watched, and a plate arranged by hand: with the pointer, and with the keyboard alone.

use std::time::Duration;

use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};
use serde_json::Value;

use crate::browser::{Browser, Served};

/// Plans the demo's army and opens the plate with a single copy: there is room around it.
async fn a_plate_with_room(b: &Browser) {
    b.goto("/projects/1/plates").await;
    b.press("Plan plates").await;
    b.read("#plan", "No plan for these copies can take less than")
        .await;
    // Good enough: what is there stands.
    if b.count("#plan form[action$='/stop']").await > 0 {
        b.press("That will do").await;
    }
    b.read("#plan", "Look further").await;
    b.client
        .execute(
            "[...document.querySelectorAll('#plan .sheets li')].find((l) => /\\b1 copy\\b/.test(l.innerText)).querySelector('a').click()",
            vec![],
        )
        .await
        .expect("a plate with one copy");
    b.see(".is-by-hand .plan [data-copy]").await;
}

/// Where the only copy stands, and how it is turned.
async fn stands(b: &Browser) -> [f64; 3] {
    let read = "const p = document.querySelector('.is-by-hand .plan [data-copy]'); return p ? [p.dataset.x, p.dataset.y, p.dataset.turn].map(Number) : [0, 0, 0];";
    let shown = b.client.execute(read, vec![]).await.expect("figures");
    let number = |i: usize| shown[i].as_f64().expect("a number");
    [number(0), number(1), number(2)]
}

/// Waits until it stands there.
async fn stands_at(b: &Browser, there: impl Fn([f64; 3]) -> bool) -> [f64; 3] {
    for _ in 0..100 {
        let now = stands(b).await;
        if there(now) {
            return now;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    panic!(
        "it stands at {:?}: {}",
        stands(b).await,
        b.text("[data-answer]").await
    );
}

async fn drag(b: &Browser, by: [f64; 2]) {
    let middle = "const r = document.querySelector('.is-by-hand .plan [data-copy]').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2];";
    let at: Value = b.client.execute(middle, vec![]).await.expect("a place");
    let at = [0, 1].map(|k| at[k].as_f64().expect("a number"));
    let to = |x: f64, y: f64| PointerAction::MoveTo {
        duration: Some(Duration::from_millis(60)),
        x,
        y,
    };
    let moves = MouseActions::new("mouse".into())
        .then(to(at[0], at[1]))
        .then(PointerAction::Down {
            button: MOUSE_BUTTON_LEFT,
        })
        .then(to(at[0] + by[0], at[1] + by[1]))
        .then(PointerAction::Up {
            button: MOUSE_BUTTON_LEFT,
        });
    b.client.perform_actions(moves).await.expect("a drag");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_plate_is_arranged_with_the_pointer() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    a_plate_with_room(&b).await;
    let [x, y, _] = stands(&b).await;
    drag(&b, [160.0, -60.0]).await;
    let [moved, up, _] = stands_at(&b, |s| s[0] > x + 5.0).await;
    // Up on the page is away from the front edge: y grows.
    assert!(up > y + 2.0, "{up} over {y}");
    // Over the edge it does not hold, and stands where it stood.
    drag(&b, [900.0, 0.0]).await;
    b.read("[data-answer]", "over the margin").await;
    assert_eq!(stands(&b).await[0], moved);
    // Picked in the plan, named in the list; its bill row is marked.
    b.see(".is-by-hand .plan .is-held").await;
    b.see(".bill tr.is-held").await;
    b.press("Pin").await;
    b.see(".plan circle.pin").await;
    b.press("Take off").await;
    b.read("[data-answer]", "it is pinned").await;
    b.press("Free").await;
    // The answer is on its way: while it is, a copy stays pinned.
    for _ in 0..200 {
        if b.count(".plan circle.pin").await == 0 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    b.press("Take off").await;
    b.read(".pool", "1 ×").await;
    b.press("Put one on").await;
    b.read("main", "The pool is empty").await;
    b.press("Undo").await;
    b.read(".pool", "1 ×").await;
    b.press("Do again").await;
    b.read("main", "The pool is empty").await;
    b.press("Repack").await;
    // The sheets behind it; copies are sorted once they have their marks.
    assert_eq!(b.count("a[href$='/sorting']").await, 0);
    b.press("One copy, by how many share the plate").await;
    b.fill("each", "4").await;
    b.press("Compare").await;
    b.read("main", "on a plate").await;
    b.goto("/plates/1").await;
    b.press("Sorting sheet").await;
    b.read("h1", "Sorting sheet").await;
    b.press("Back to the plate").await;
    b.read("h1", "Plate 1").await;
    b.close().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_plate_is_arranged_with_the_keyboard_alone() {
    const RIGHT: char = '\u{e014}';
    const UP: char = '\u{e013}';
    const DELETE: char = '\u{e017}';
    const ESCAPE: char = '\u{e00c}';
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    a_plate_with_room(&b).await;
    let [x, y, turn] = stands(&b).await;
    b.key('.').await;
    b.see(".plan .is-held").await;
    for key in [[RIGHT; 3].as_slice(), &[UP; 9]].concat() {
        b.key(key).await;
    }
    stands_at(&b, |s| {
        (s[0] - x - 3.0).abs() < 0.01 && (s[1] - y - 9.0).abs() < 0.01
    })
    .await;
    b.key('r').await;
    stands_at(&b, |s| (s[2] - turn - 15.0).rem_euclid(360.0) < 0.01).await;
    b.key('p').await;
    b.see(".plan circle.pin").await;
    b.key(RIGHT).await;
    b.read("[data-answer]", "it is pinned").await;
    b.key('p').await;
    b.key(DELETE).await;
    b.read(".pool", "1 ×").await;
    b.key('u').await;
    stands_at(&b, |s| (s[0] - x - 3.0).abs() < 0.01).await;
    b.key('.').await;
    b.key(ESCAPE).await;
    assert_eq!(b.count(".plan .is-held").await, 0);
    // The keys are told.
    b.key('?').await;
    b.read("dialog[open]", "Take it off, into the pool").await;
    b.close().await;
}
