//! What a source file names: every path in it, tests apart.

use std::collections::BTreeMap;
use std::path::Path;

use syn::visit::{self, Visit};
use syn::{Attribute, Item, UseTree};

/// A source file of a crate.
#[derive(Debug)]
pub(crate) struct Source {
    /// Its path under `src`, with slashes.
    pub(crate) file: String,
    /// The module it is, from the root of its crate.
    pub(crate) module: Vec<String>,
    /// Paths it names, with `crate`, `super` and `self` resolved to `crate`.
    pub(crate) paths: Vec<Vec<String>>,
    /// Names it hands on from elsewhere, and from where: what `pub use` says.
    pub(crate) handed_on: BTreeMap<String, Vec<String>>,
}

impl Source {
    /// Reads one.
    pub(crate) fn read(file: &str, text: &str) -> Result<Self, String> {
        let parsed = syn::parse_file(text).map_err(|why| format!("{file}: {why}"))?;
        let mut reader = Reader {
            module: module_of(file),
            paths: Vec::new(),
            handed_on: BTreeMap::new(),
        };
        reader.visit_file(&parsed);
        Ok(Source {
            file: file.to_owned(),
            module: module_of(file),
            paths: reader.paths,
            handed_on: reader.handed_on,
        })
    }
}

/// All sources of a crate, tests apart.
pub(crate) fn of_crate(src: &Path) -> Result<Vec<Source>, String> {
    let mut all = Vec::new();
    let mut folders = vec![src.to_path_buf()];
    while let Some(folder) = folders.pop() {
        let entries = std::fs::read_dir(&folder).map_err(|why| format!("{folder:?}: {why}"))?;
        for entry in entries {
            let path = entry.map_err(|why| why.to_string())?.path();
            if path.is_dir() {
                folders.push(path);
                continue;
            }
            let name = path.strip_prefix(src).unwrap_or(&path);
            let file = name.to_string_lossy().replace('\\', "/");
            if !file.ends_with(".rs") || file.ends_with("tests.rs") {
                continue;
            }
            let text = std::fs::read_to_string(&path).map_err(|why| why.to_string())?;
            all.push(Source::read(&file, &text)?);
        }
    }
    all.sort_by(|a, b| a.file.cmp(&b.file));
    Ok(all)
}

fn module_of(file: &str) -> Vec<String> {
    let mut module: Vec<String> = file
        .trim_end_matches(".rs")
        .split('/')
        .map(str::to_owned)
        .collect();
    if module
        .last()
        .is_some_and(|l| l == "mod" || l == "lib" || l == "main")
    {
        module.pop();
    }
    module
}

struct Reader {
    module: Vec<String>,
    paths: Vec<Vec<String>>,
    handed_on: BTreeMap<String, Vec<String>>,
}

impl Reader {
    /// From the crate's root, where it begins there or near by; else as written.
    fn resolved(&self, path: &[String]) -> Vec<String> {
        let mut from = self.module.clone();
        let mut rest = path;
        match path.first().map(String::as_str) {
            Some("crate") => return path.to_vec(),
            Some("self") => rest = &path[1..],
            Some("super") => {
                while rest.first().is_some_and(|s| s == "super") {
                    from.pop();
                    rest = &rest[1..];
                }
            }
            _ => return path.to_vec(),
        }
        let root = std::iter::once("crate".to_owned());
        root.chain(from).chain(rest.iter().cloned()).collect()
    }

    fn flatten(&self, before: &[String], tree: &UseTree, into: &mut Vec<(String, Vec<String>)>) {
        let longer = |last: &str| [before, &[last.to_owned()]].concat();
        match tree {
            UseTree::Path(path) => {
                self.flatten(&longer(&path.ident.to_string()), &path.tree, into);
            }
            UseTree::Name(name) if name.ident == "self" => {
                let named = before.last().cloned().unwrap_or_default();
                into.push((named, before.to_vec()));
            }
            UseTree::Name(name) => {
                let named = name.ident.to_string();
                into.push((named.clone(), longer(&named)));
            }
            UseTree::Rename(to) if to.ident == "self" => {
                into.push((to.rename.to_string(), before.to_vec()));
            }
            UseTree::Rename(to) => {
                into.push((to.rename.to_string(), longer(&to.ident.to_string())));
            }
            UseTree::Glob(_) => into.push(("*".into(), before.to_vec())),
            UseTree::Group(group) => {
                for tree in &group.items {
                    self.flatten(before, tree, into);
                }
            }
        }
    }
}

fn is_test(attributes: &[Attribute]) -> bool {
    let test = |a: &Attribute| {
        let mut named = false;
        let list = a.path().is_ident("cfg").then(|| {
            a.parse_nested_meta(|meta| {
                named |= meta.path.is_ident("test");
                Ok(())
            })
        });
        list.is_some() && named
    };
    attributes.iter().any(test)
}

impl<'ast> Visit<'ast> for Reader {
    fn visit_item(&mut self, item: &'ast Item) {
        match item {
            Item::Mod(inner) if is_test(&inner.attrs) => {}
            Item::Use(used) if is_test(&used.attrs) => {}
            Item::Fn(function) if is_test(&function.attrs) => {}
            Item::Impl(block) if is_test(&block.attrs) => {}
            Item::Use(used) => {
                let mut named = Vec::new();
                self.flatten(&[], &used.tree, &mut named);
                for (name, path) in named {
                    let child = self.module.len() + 1;
                    let path = match path.first().map(String::as_str) {
                        // In a file that is a room's door, a child is named without more.
                        Some("crate" | "self" | "super") => self.resolved(&path),
                        _ => path,
                    };
                    if matches!(used.vis, syn::Visibility::Inherited) || path.len() < child {
                        self.paths.push(path);
                    } else {
                        self.handed_on.insert(name, path);
                    }
                }
            }
            _ => visit::visit_item(self, item),
        }
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let segments = path.segments.iter().map(|s| s.ident.to_string());
        let named: Vec<String> = segments.collect();
        if named.len() > 1 {
            self.paths.push(self.resolved(&named));
        }
        visit::visit_path(self, path);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_are_read_from_the_root_of_the_crate_and_tests_are_not_read() {
        let text = "
            use super::score::{Score, self as s};
            pub use self::search::find as look;
            use wembrit_core::units::*;
            fn f(x: crate::ids::PartId) { super::super::words::tell(x) }
            #[cfg(test)]
            mod tests { use crate::mesh::Solid; }
        ";
        let source = Source::read("recipe/orient/schools.rs", text).unwrap();
        let all: Vec<String> = source.paths.iter().map(|p| p.join("::")).collect();
        assert_eq!(
            all,
            [
                "crate::recipe::orient::score::Score",
                "crate::recipe::orient::score",
                "wembrit_core::units",
                "crate::ids::PartId",
                "crate::recipe::words::tell",
            ]
        );
        assert_eq!(
            source.handed_on["look"].join("::"),
            "crate::recipe::orient::schools::search::find"
        );
    }
}
