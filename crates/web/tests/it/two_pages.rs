//! Figures that stand on two pages: the templates mark them, and a walk through the demo compares.

use std::collections::{BTreeMap, BTreeSet, VecDeque};

use wembrit_core::flow::TaskKind;
use wembrit_core::ids::ProjectId;
use wembrit_store::commands;
use wembrit_store::commands::ask_plan::PlanAsk;

use crate::app::{NOW, TestApp, worked_off};
use crate::pages::{computed, draft};

/// Kinds of figures the walk must meet on two pages or more.
const KINDS: &[&str] = &[
    "model complete",
    "model each",
    "part layer",
    "part scale",
    "plan cost",
    "plan hours",
    "plate copies",
    "plate cost",
    "plate hours",
    "plate ml",
    "project complete",
    "project good",
    "project spent",
    "sculpt layers",
    "sculpt surface",
    "sculpt volume",
];

/// What follows a mark in a page: the name of each figure and what is shown.
pub(crate) fn figures(page: &str) -> Vec<(&str, &str)> {
    let marks = page.split("data-figure=\"").skip(1);
    let read = |after: &'static str| move |text: &'_ str| text.find(after);
    marks
        .filter_map(|text| {
            let (name, rest) = text.split_at(read("\"")(text)?);
            let shown = &rest[read(">")(rest)? + 1..];
            Some((name, shown[..read("<")(shown)?].trim()))
        })
        .collect()
}

pub(crate) fn links(page: &str) -> Vec<String> {
    let mut all = Vec::new();
    for mark in ["href=\"/", "data-live=\"/"] {
        let found = page.split(mark).skip(1).filter_map(|t| t.split('"').next());
        all.extend(found.map(|l| format!("/{}", l.split('#').next().unwrap_or_default())));
    }
    all
}

#[tokio::test(flavor = "multi_thread")]
async fn a_figure_on_two_pages_is_the_same_on_both() {
    let app = TestApp::demo();
    // Two plans, to stand side by side.
    let one = draft(&app);
    let again = PlanAsk::default();
    let other = app
        .store
        .write(|c| commands::ask_plan::ask(c, ProjectId(1), &again, NOW))
        .expect("asked");
    computed(&app, other);
    worked_off(&app.store, &[TaskKind::Prepare, TaskKind::Measure]).await;

    let mut next = VecDeque::from(["/".to_owned(), format!("/plans/{other}/beside/{one}")]);
    let mut seen: BTreeSet<String> = next.iter().cloned().collect();
    let mut shown: BTreeMap<String, BTreeMap<String, BTreeSet<String>>> = BTreeMap::new();
    while let Some(path) = next.pop_front() {
        let page = app.get(&path).await;
        let kind = page.headers.get("content-type");
        if !kind.is_some_and(|k| k.to_str().is_ok_and(|k| k.contains("html"))) {
            continue;
        }
        page.is(200);
        for (name, value) in figures(&page.body) {
            let of = shown.entry(name.to_owned()).or_default();
            of.entry(value.to_owned()).or_default().insert(path.clone());
        }
        for link in links(&page.body) {
            let skipped = ["/assets", "/news"].iter().any(|s| link.starts_with(s));
            if !skipped && seen.insert(link.clone()) {
                next.push_back(link);
            }
        }
    }
    let differ: Vec<_> = shown
        .iter()
        .filter(|(_, values)| values.len() > 1)
        .collect();
    assert!(differ.is_empty(), "{differ:#?}");
    let twice = shown
        .iter()
        .filter(|(_, values)| values.values().map(BTreeSet::len).sum::<usize>() > 1)
        .map(|(name, _)| {
            let mut words = name.split(' ');
            let kind = words.next().unwrap_or_default();
            format!("{kind} {}", words.next_back().unwrap_or_default())
        });
    let met: BTreeSet<String> = twice.collect();
    let missing: Vec<_> = KINDS.iter().filter(|k| !met.contains(**k)).collect();
    assert!(
        missing.is_empty(),
        "never on two pages: {missing:?} of {met:?}"
    );
}
