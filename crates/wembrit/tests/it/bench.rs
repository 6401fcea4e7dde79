//! At the bench: a phone's width, wet gloves, the keyboard alone.

use serde_json::Value;

use crate::browser::{Browser, Served};
use crate::views::of_demo;

const TAB: char = '\u{e004}';
const ENTER: char = '\u{e007}';

async fn run(b: &Browser, script: &str) -> Value {
    b.client.execute(script, vec![]).await.expect("an answer")
}

/// Nothing is wider than the window.
async fn fits_the_width(b: &Browser, name: &str) {
    let wide = run(
        b,
        "if (document.documentElement.scrollWidth <= innerWidth) return [];
         const past = (e) => e.getBoundingClientRect().right > innerWidth;
         return [...document.querySelectorAll('body *')].filter(past)
           .map((e) => `${e.localName}.${e.className} ${e.getBoundingClientRect().right}`);",
    )
    .await;
    assert_eq!(wide, Value::Array(vec![]), "{name} is too wide");
}

/// Nothing is wider than the window, and everything that is pressed is at least 24 px high and
/// wide: WCAG 2.2, success criterion 2.5.8. A button of its own is 44 px high, as for gloves.
pub(crate) async fn fits_the_hand(b: &Browser, name: &str) {
    let found = run(
        b,
        "const seen = (e) => e.checkVisibility() && e.getBoundingClientRect().height > 0;
         const small = (css, least) => [...document.querySelectorAll(css)].filter(seen)
           .filter((e) => e.getBoundingClientRect().height < least)
           .map((e) => `${e.tagName} ${e.id} ${e.innerText.slice(0, 30)} ${e.getBoundingClientRect().height}`);
         return [small('main select, main summary, main input:not([type=hidden]):not([type=checkbox])', 24),
           small('main .bench button.button, main .bench a.button, main .bench summary, main .bench select, main .bench input[type=text]', 56)
             .concat(small('main button.button, main a.button', 44))];",
    )
    .await;
    let none = Value::Array(vec![]);
    assert_eq!((&found[0], &found[1]), (&none, &none), "{name}");
    fits_the_width(b, name).await;
}

/// Tabs until what has the focus says this, or has this name.
async fn tab_to(b: &Browser, words: &str) {
    let mut passed = Vec::new();
    for _ in 0..120 {
        b.key(TAB).await;
        let now = run(
            b,
            "const e = document.activeElement; return e.id || e.innerText || '';",
        )
        .await;
        let now = now.as_str().unwrap_or_default().trim().to_owned();
        if now == words {
            return;
        }
        passed.push(now);
    }
    panic!("the keyboard does not come to '{words}': {passed:?}");
}

/// The address of the plate that runs.
async fn running(b: &Browser) -> String {
    let pages = of_demo(b).await;
    let of = pages.into_iter().find(|(name, _)| *name == "plate-running");
    of.expect("it runs").1
}

async fn type_words(b: &Browser, words: &str) {
    for letter in words.chars() {
        b.key(letter).await;
    }
}

/// A run that went otherwise: put back, started again, lost at a layer, put back once more. Nobody
/// touches a pointer, and the page is as wide as a phone.
#[tokio::test(flavor = "multi_thread")]
async fn a_plate_that_went_otherwise_is_dealt_with_by_keyboard_on_a_phone() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    let running = &running(&b).await;
    b.resize(390, 800).await;
    b.goto(running).await;
    fits_the_hand(&b, "a running plate").await;

    tab_to(&b, "It went otherwise").await;
    b.key(ENTER).await;
    b.see("details[open] #lost-cause").await;
    fits_the_hand(&b, "a running plate, otherwise").await;
    tab_to(&b, "Put it back").await;
    b.key(ENTER).await;
    b.read("main", "Pre-flight").await;

    // Before the start: a look into the vat, every box ticked, all of it with the keyboard.
    tab_to(&b, "Pre-flight").await;
    b.key(ENTER).await;
    tab_to(&b, "I looked into the vat").await;
    b.key(ENTER).await;
    fits_the_hand(&b, "the checks before a start").await;
    let boxes = b.count(".checks input[type=checkbox]").await;
    assert!(boxes >= 6, "{boxes} to tick");
    tab_to(&b, "vat_ml").await;
    type_words(&b, "250").await;
    for _ in 0..60 {
        if b.count(".checks input[type=checkbox]:not(:checked)").await == 0 {
            break;
        }
        b.key('\u{e004}').await;
        if b.count(".checks input[type=checkbox]:focus").await == 1 {
            b.key(' ').await;
        }
    }
    tab_to(&b, "Start the run").await;
    b.key(ENTER).await;
    b.read("main", "Take it off").await;
    fits_the_hand(&b, "a run under way").await;
    b.goto(running).await;

    // Lost without a cause: the page asks, and nothing happened.
    tab_to(&b, "It went otherwise").await;
    b.key(ENTER).await;
    tab_to(&b, "The plate is lost").await;
    b.key(ENTER).await;
    b.read("[role=alert]", "why the plate is lost").await;
    assert_eq!(&b.path().await, &format!("{running}/lost"));

    b.goto(running).await;
    tab_to(&b, "It went otherwise").await;
    b.key(ENTER).await;
    tab_to(&b, "lost-cause").await;
    type_words(&b, "warped").await;
    tab_to(&b, "lost-layer").await;
    type_words(&b, "120").await;
    tab_to(&b, "The plate is lost").await;
    b.key(ENTER).await;
    b.see(".state.is-lost").await;
    b.read("main", "layer 120").await;
    b.read("main", "warped").await;
    fits_the_hand(&b, "a lost plate").await;
    b.close().await;
}

/// From the printer to the judgement by keys: looked at, taken off, finished, counted, judged in part
/// and then the rest.
#[tokio::test(flavor = "multi_thread")]
async fn a_day_goes_by_keys() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    let running = &running(&b).await;
    b.resize(390, 844).await;
    b.goto(&format!("{running}/run")).await;
    tab_to(&b, "They are on it").await;
    b.key(ENTER).await;
    tab_to(&b, "Take it off").await;
    b.key(ENTER).await;
    b.goto("/finishing").await;
    let mut steps = 0;
    while b.count(".batch form[action$='/end'] button").await > 0 {
        steps += 1;
        let now = b.text(".batch .now strong").await;
        b.enter(".batch form[action$='/end'] button").await;
        b.read_not(".batch .now strong", &now).await;
    }
    assert!(steps >= 5, "{steps} steps");
    b.walk_to(".batch summary").await;
    b.key(ENTER).await;
    b.walk_to(".batch input[name=lamp]").await;
    b.keys("bench lamp").await;
    b.enter(".batch a[href^='/plates/'].button").await;
    b.read("h1", "Plate").await;
    let first = "fieldset:first-of-type > label:first-of-type > input[name=failed]";
    b.walk_to(first).await;
    b.key(' ').await;
    tab_to(&b, "Only the marked ones").await;
    let all = b.count(".to-judge [data-copy]").await;
    let key = "return document.querySelector('.to-judge [data-copy]').dataset.copy";
    let key = run(&b, key).await;
    let key = key.as_str().expect("a copy");
    b.key(ENTER).await;
    b.see(&format!(".to-judge:not(:has([data-copy='{key}']))"))
        .await;
    assert_eq!(b.count(".to-judge [data-copy]").await, all - 1);
    b.enter("button[name=rest][value=good]").await;
    b.read("main", "Judge it again").await;
    b.close().await;
}

/// Every main view on a phone; those that are used with one hand at a printer also for a glove.
#[tokio::test(flavor = "multi_thread")]
async fn pages_of_the_bench_fit_a_phone_and_a_glove() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    let pages = of_demo(&b).await;
    b.resize(390, 800).await;
    let mut seen = 0;
    for (name, path) in pages {
        b.goto(&path).await;
        if name == "today" || name.starts_with("plate-") || name.starts_with("bench-") {
            fits_the_hand(&b, name).await;
            seen += 1;
        } else {
            fits_the_width(&b, name).await;
        }
    }
    assert!(seen >= 4, "{seen} pages");
    b.close().await;
}

/// An address without what stands for which one: `/models/{n}/edit`.
fn shape(path: &str) -> String {
    let word = |w: &str| {
        if w.bytes().all(|b| b.is_ascii_digit()) && !w.is_empty() {
            "{n}".to_owned()
        } else {
            w.to_owned()
        }
    };
    let path = path.split(['?', '#']).next().unwrap_or_default();
    path.split('/').map(word).collect::<Vec<_>>().join("/")
}

/// Every page that a link leads to, one of each kind, on a phone: nothing is wider than it.
#[tokio::test(flavor = "multi_thread")]
async fn every_page_that_is_linked_fits_a_phone() {
    let served = Served::demo();
    let b = Browser::open(&served.base).await;
    b.resize(390, 800).await;
    let mut open = vec!["/".to_owned()];
    let mut known = std::collections::HashSet::from(["/".to_owned()]);
    let mut wide = Vec::new();
    while let Some(path) = open.pop() {
        b.goto(&path).await;
        let found = run(
            &b,
            "const over = document.documentElement.scrollWidth - window.innerWidth;
             const links = [...document.querySelectorAll('a[href^=\"/\"]:not([download])')].map((a) => a.getAttribute('href'));
             return [over, links];",
        )
        .await;
        if found[0].as_i64().is_none_or(|over| over > 0) {
            wide.push(format!("{path}: {}", found[0]));
        }
        let links = found[1].as_array().cloned().unwrap_or_default();
        for link in links.iter().filter_map(Value::as_str) {
            // Files are no pages.
            let is_file = ["/mesh/", "/design/", "/side/", "/assets/", "/prepared/"];
            if !is_file.iter().any(|f| link.contains(f)) && known.insert(shape(link)) {
                open.push(link.to_owned());
            }
        }
    }
    assert!(known.len() > 30, "{known:?}");
    assert_eq!(wide, Vec::<String>::new());
    b.close().await;
}
