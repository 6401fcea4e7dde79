//! The arrows between core's rooms, circles of files, and what views and queries may name.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use crate::sources::{self, Source};

/// Files at the root of core that every room stands on, and what each of them may use.
const GROUND: &[&str] = &[
    "cases",
    "cost_parts",
    "currency",
    "geometry",
    "ids",
    "numbers",
    "pose",
    "outward",
    "rng",
    "union_find",
    "units",
    "watch",
    "words",
];

/// Which rooms of core a room may use, beside the ground. docs/ARCHITECTURE.md draws it.
const ROOMS: &[(&str, &[&str])] = &[
    ("mesh", &[]),
    ("layers", &["mesh"]),
    ("learn", &[]),
    ("workshop", &["learn"]),
    ("stores", &["flow", "learn", "workshop"]),
    ("flow", &["learn"]),
    ("pack", &[]),
    ("schedule", &["flow", "workshop"]),
    ("odds", &[]),
    ("sculpt", &["layers", "mesh", "workshop", "flow"]),
    ("recipe", &["sculpt", "layers", "mesh", "workshop"]),
    ("army", &["flow", "recipe", "layers"]),
    ("cost", &["learn", "workshop", "flow", "army"]),
    (
        "plan",
        &[
            "pack", "recipe", "sculpt", "workshop", "flow", "army", "cost", "odds",
        ],
    ),
    (
        "ledger",
        &["army", "cost", "flow", "learn", "odds", "recipe"],
    ),
    ("progress", &["army", "flow", "odds"]),
    ("exposure", &["learn", "mesh"]),
    (
        "running",
        &["exposure", "flow", "link", "stores", "workshop"],
    ),
    ("finishing", &["workshop"]),
    ("link", &["workshop"]),
    (
        "today",
        &[
            "finishing",
            "running",
            "schedule",
            "stores",
            "plan",
            "cost",
            "army",
            "flow",
            "workshop",
        ],
    ),
];

/// What a view may name of the store: data of pages, never a connection.
const VIEWS_MAY: &[&str] = &[
    "wembrit_store::queries::pages",
    "wembrit_store::archive::Manifest",
    "wembrit_store::Stale",
];

/// Functions of core a query may call: they choose what is loaded, or only word it.
const QUERIES_MAY: &[&str] = &[
    "first_copies_missing",
    "fits_in",
    "limits_pull",
    "part_name",
    "plate_code",
];

/// Fails on what the rooms do not allow, with every place.
pub(crate) fn check(root: &Path) -> Result<(), String> {
    let sources = |name: &str| sources::of_crate(&root.join("crates").join(name).join("src"));
    let (core, store, web) = (sources("core")?, sources("store")?, sources("web")?);
    let mut faults = arrows(&core);
    for (name, all) in [("core", &core), ("store", &store), ("web", &web)] {
        faults.extend(circles(all).iter().map(|c| format!("{name}: {c}")));
    }
    faults.extend(views(&web));
    faults.extend(queries(&store));
    if faults.is_empty() {
        Ok(())
    } else {
        Err(faults.join("\n"))
    }
}

/// Arrows between rooms of core that are not allowed.
fn arrows(core: &[Source]) -> Vec<String> {
    let mut faults = Vec::new();
    for source in core {
        let Some(room) = source.module.first() else {
            continue;
        };
        let allowed = ROOMS.iter().find(|(name, _)| name == room);
        let ground = GROUND.contains(&room.as_str());
        if allowed.is_none() && !ground {
            faults.push(format!("core has no room {room}: {}", source.file));
        }
        let may = |to: &str| {
            let below = allowed.is_some_and(|(_, rooms)| rooms.contains(&to));
            to == room || GROUND.contains(&to) || below
        };
        for to in source.rooms_used() {
            if !may(&to) {
                faults.push(format!("{room} must not use {to}: {}", source.file));
            }
        }
    }
    faults
}

impl Source {
    /// First words after `crate` of what it names, modules only.
    fn rooms_used(&self) -> BTreeSet<String> {
        let all = self.paths.iter().chain(self.handed_on.values());
        all.filter(|p| p[0] == "crate")
            .filter_map(|p| p.get(1).cloned())
            .filter(|to| to.chars().all(|c| c.is_lowercase() || c == '_'))
            .filter(|to| GROUND.contains(&to.as_str()) || ROOMS.iter().any(|(r, _)| r == to))
            .collect()
    }
}

/// Files that use each other in a circle, one line each. A room's door hands names on; who uses
/// such a name uses the file it comes from.
fn circles(all: &[Source]) -> Vec<String> {
    let by_module: BTreeMap<&[String], usize> = all
        .iter()
        .enumerate()
        .map(|(i, s)| (s.module.as_slice(), i))
        .collect();
    let uses: Vec<BTreeSet<usize>> = all
        .iter()
        .enumerate()
        .map(|(i, source)| {
            let files = source
                .paths
                .iter()
                .filter_map(|p| file_of(all, &by_module, p, 0));
            files.filter(|to| *to != i).collect()
        })
        .collect();
    let mut found = BTreeSet::new();
    for start in 0..all.len() {
        if let Some(mut circle) = back_to(start, &uses) {
            let least = circle.iter().min().copied();
            let at = circle.iter().position(|f| Some(*f) == least);
            circle.rotate_left(at.unwrap_or(0));
            found.insert(circle);
        }
    }
    let name = |i: &usize| all[*i].file.as_str();
    found
        .iter()
        .map(|c| {
            format!(
                "a circle of files: {}",
                c.iter().map(name).collect::<Vec<_>>().join(" → ")
            )
        })
        .collect()
}

/// The file a path leads to, through what doors hand on.
fn file_of(
    all: &[Source],
    by_module: &BTreeMap<&[String], usize>,
    path: &[String],
    depth: usize,
) -> Option<usize> {
    if path.first().is_none_or(|p| p != "crate") || depth > 8 {
        return None;
    }
    let inner = &path[1..];
    for len in (0..=inner.len()).rev() {
        let Some(&at) = by_module.get(&inner[..len]) else {
            continue;
        };
        let source = &all[at];
        let handed = inner.get(len).and_then(|name| source.handed_on.get(name));
        let Some(on) = handed else {
            // A door that only opens the room is no file of its own.
            return Some(at);
        };
        let direct = on.first().is_some_and(|f| f == "crate");
        let on = if direct {
            on.clone()
        } else {
            let root = std::iter::once("crate".to_owned());
            root.chain(source.module.iter().cloned())
                .chain(on.iter().cloned())
                .collect()
        };
        return file_of(all, by_module, &on, depth + 1);
    }
    None
}

/// The shortest way from a file back to itself.
fn back_to(start: usize, uses: &[BTreeSet<usize>]) -> Option<Vec<usize>> {
    let mut came: BTreeMap<usize, usize> = BTreeMap::new();
    let mut next = std::collections::VecDeque::from([start]);
    while let Some(at) = next.pop_front() {
        for &to in &uses[at] {
            if to == start {
                let mut way = vec![at];
                while let Some(before) = way
                    .last()
                    .filter(|l| **l != start)
                    .and_then(|l| came.get(l))
                {
                    way.push(*before);
                }
                way.reverse();
                return Some(way);
            }
            came.entry(to).or_insert_with(|| {
                next.push_back(to);
                at
            });
        }
    }
    None
}

/// Views that name more of the store than data.
fn views(web: &[Source]) -> Vec<String> {
    let mut faults = Vec::new();
    for source in web.iter().filter(|s| s.file.starts_with("views")) {
        for path in source.paths.iter().filter(|p| p[0] == "wembrit_store") {
            let path = path.join("::");
            if !VIEWS_MAY.iter().any(|may| path.starts_with(may)) {
                faults.push(format!("{} names {path}: a view gets data", source.file));
            }
        }
    }
    faults
}

/// Queries that call a rule of the job or a search: core's functions, and all of the packer.
fn queries(store: &[Source]) -> Vec<String> {
    let mut faults = Vec::new();
    for source in store.iter().filter(|s| s.file.starts_with("queries")) {
        for path in source.paths.iter().filter(|p| p[0] == "wembrit_core") {
            let last = path.last().map_or("", String::as_str);
            let in_type = path.iter().any(|s| s.starts_with(char::is_uppercase));
            let module = path.len() < 3;
            let function = !in_type && !module && !QUERIES_MAY.contains(&last);
            if function || path[1] == "pack" {
                let path = path.join("::");
                faults.push(format!("{} uses {path}: queries hold SQL", source.file));
            }
        }
    }
    faults
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sources(all: &[(&str, &str)]) -> Vec<Source> {
        let read = |(file, text): &(&str, &str)| Source::read(file, text).unwrap();
        all.iter().map(read).collect()
    }

    #[test]
    fn the_house_is_as_drawn() {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap();
        assert_eq!(check(root), Ok(()));
    }

    #[test]
    fn an_arrow_up_is_found() {
        let planted = sources(&[("mesh/weld.rs", "use crate::plan::Plan;")]);
        assert_eq!(arrows(&planted), ["mesh must not use plan: mesh/weld.rs"]);
        let by_path = sources(&[("pack/check.rs", "fn f(p: &crate::flow::Plate) {}")]);
        assert_eq!(arrows(&by_path), ["pack must not use flow: pack/check.rs"]);
        let new = sources(&[("cellar/wine.rs", "")]);
        assert_eq!(arrows(&new), ["core has no room cellar: cellar/wine.rs"]);
        let allowed = sources(&[("layers/pull.rs", "use crate::{mesh::Solid, units::Money};")]);
        assert!(arrows(&allowed).is_empty());
    }

    /// Also where the names go through the door of the room.
    #[test]
    fn a_circle_of_files_is_found() {
        let planted = sources(&[
            (
                "flow/mod.rs",
                "mod copy; mod plate; pub use copy::Copied; pub use plate::Plate;",
            ),
            ("flow/copy.rs", "use super::Plate; pub struct Copied;"),
            (
                "flow/plate.rs",
                "use crate::flow::copy::Copied; pub struct Plate;",
            ),
        ]);
        assert_eq!(
            circles(&planted),
            ["a circle of files: flow/copy.rs → flow/plate.rs"]
        );
        assert!(circles(&planted[..2]).is_empty());
    }

    #[test]
    fn a_connection_in_a_view_is_found() {
        let planted = sources(&[
            (
                "views/plates.rs",
                "use wembrit_store::{Store, queries::pages::plates::PlateSheet};",
            ),
            ("handlers/plates.rs", "use wembrit_store::Store;"),
        ]);
        assert_eq!(
            views(&planted),
            ["views/plates.rs names wembrit_store::Store: a view gets data"]
        );
    }

    #[test]
    fn a_rule_or_a_search_in_a_query_is_found() {
        let planted = sources(&[
            (
                "queries/plans.rs",
                "use wembrit_core::plan::{Plan, make_plan};",
            ),
            ("queries/edits.rs", "use wembrit_core::pack::PackSearch;"),
            ("commands/plans.rs", "use wembrit_core::plan::make_plan;"),
        ]);
        assert_eq!(
            queries(&planted),
            [
                "queries/plans.rs uses wembrit_core::plan::make_plan: queries hold SQL",
                "queries/edits.rs uses wembrit_core::pack::PackSearch: queries hold SQL"
            ]
        );
    }
}
