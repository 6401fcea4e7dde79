//! What one box finds.

use askama::Template;
use wembrit_store::queries::pages::search::{Found, Hit};

use super::Page;

/// A line: address, name, where it belongs.
pub(crate) struct HitRow {
    pub(crate) to: String,
    pub(crate) name: String,
    pub(crate) of: String,
}

/// The page.
#[derive(Template)]
#[template(path = "search/show.html")]
pub(crate) struct SearchView {
    pub(crate) page: Page,
    pub(crate) words: String,
    pub(crate) groups: Vec<(&'static str, Vec<HitRow>)>,
}

fn kind(of: Found) -> (&'static str, &'static str) {
    match of {
        Found::Project => ("Projects", "/projects/{}/muster"),
        Found::Unit => ("Units", "/units/{}"),
        Found::Model => ("Models", "/models/{}"),
        Found::Part => ("Parts", "/parts/{}"),
        Found::Sculpt => ("Sculpts", "/sculpts/{}"),
        Found::Plate => ("Plates", "/plates/{}"),
        Found::Copy => ("Copies", "/plates/{}"),
        Found::Came => ("Copies that came", "/models/{}/miniatures"),
        Found::Run => ("Notes on runs", "/plates/{}"),
        Found::Printer => ("Printers", "/printers/{}"),
        Found::Resin => ("Resins", "/resins/{}"),
    }
}

impl SearchView {
    pub(crate) fn new(page: Page, words: &str, hits: Vec<Hit>) -> Self {
        let mut groups: Vec<(&'static str, Vec<HitRow>)> = Vec::new();
        for hit in hits {
            let (name, to) = kind(hit.what);
            let row = HitRow {
                to: to.replace("{}", &hit.id.to_string()),
                name: hit.name,
                of: hit.of,
            };
            match groups.iter_mut().find(|g| g.0 == name) {
                Some(group) => group.1.push(row),
                None => groups.push((name, vec![row])),
            }
        }
        Self {
            words: words.to_owned(),
            groups,
            page,
        }
    }

    /// Where the only thing that was found is.
    pub(crate) fn only(&self) -> Option<&str> {
        match self.groups.as_slice() {
            [(_, rows)] if rows.len() == 1 => Some(&rows[0].to),
            _ => None,
        }
    }
}
