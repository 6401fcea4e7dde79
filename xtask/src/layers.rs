//! The arrows between the rooms, and what core must never reach.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;

use serde_json::Value;

/// Who may depend on whom, test dependencies apart.
const ALLOWED: &[(&str, &[&str])] = &[
    ("wembrit-core", &[]),
    ("wembrit-store", &["wembrit-core"]),
    ("wembrit-paper", &["wembrit-core"]),
    ("wembrit-demo", &["wembrit-core", "wembrit-store"]),
    ("wembrit-sim", &["wembrit-core"]),
    (
        "wembrit-web",
        &["wembrit-core", "wembrit-store", "wembrit-paper"],
    ),
    (
        "wembrit",
        &[
            "wembrit-core",
            "wembrit-store",
            "wembrit-web",
            "wembrit-paper",
            "wembrit-demo",
            "wembrit-sim",
        ],
    ),
    ("xtask", &[]),
];

/// What would bring I/O, a server or a database into the rules.
const NOT_IN_CORE: &[&str] = &[
    "tokio", "axum", "diesel", "askama", "anyhow", "hyper", "tracing",
];

/// Fails on any other arrow.
pub(crate) fn check(root: &Path) -> Result<(), String> {
    let answer = Command::new(std::env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
        .args(["metadata", "--format-version", "1", "--locked"])
        .current_dir(root)
        .output()
        .map_err(|why| why.to_string())?;
    if !answer.status.success() {
        return Err(String::from_utf8_lossy(&answer.stderr).into_owned());
    }
    let all: Value = serde_json::from_slice(&answer.stdout).map_err(|why| why.to_string())?;
    let names = names(&all);
    let members = all["workspace_members"].as_array().into_iter().flatten();
    for member in members.filter_map(|id| names.get(id.as_str()?)) {
        if ALLOWED.iter().all(|(name, _)| name != member) {
            return Err(format!(
                "{member} has no place yet: say what it may depend on"
            ));
        }
    }
    for (crate_name, allowed) in ALLOWED {
        for to in arrows(&all, &names, crate_name) {
            let ours = ALLOWED.iter().any(|(name, _)| *name == to);
            if ours && !allowed.contains(&to.as_str()) {
                return Err(format!("{crate_name} must not depend on {to}"));
            }
        }
    }
    let reached = reach(&all, &names, "wembrit-core");
    match NOT_IN_CORE.iter().find(|name| reached.contains(**name)) {
        Some(name) => Err(format!("core reaches {name}")),
        None => Ok(()),
    }
}

fn names(all: &Value) -> BTreeMap<String, String> {
    let packages = all["packages"].as_array().into_iter().flatten();
    let text = |v: &Value| v.as_str().unwrap_or_default().to_owned();
    packages
        .map(|p| (text(&p["id"]), text(&p["name"])))
        .collect()
}

fn arrows(all: &Value, names: &BTreeMap<String, String>, from: &str) -> Vec<String> {
    let nodes = all["resolve"]["nodes"].as_array().into_iter().flatten();
    let ours = nodes.filter(|n| {
        n["id"]
            .as_str()
            .and_then(|id| names.get(id))
            .is_some_and(|n| n == from)
    });
    ours.flat_map(|n| n["deps"].as_array().into_iter().flatten())
        .filter(|d| {
            d["dep_kinds"]
                .as_array()
                .into_iter()
                .flatten()
                .any(|k| k["kind"].is_null())
        })
        .filter_map(|d| d["pkg"].as_str().and_then(|id| names.get(id)).cloned())
        .collect()
}

fn reach(all: &Value, names: &BTreeMap<String, String>, from: &str) -> BTreeSet<String> {
    let mut reached = BTreeSet::new();
    let mut next = vec![from.to_owned()];
    while let Some(name) = next.pop() {
        for to in arrows(all, names, &name) {
            if reached.insert(to.clone()) {
                next.push(to);
            }
        }
    }
    reached
}
