//! A way out and in: archives and copies.

use askama::Template;
use wembrit_core::ids::ProjectId;
use wembrit_store::archive::Manifest;

use super::Page;
use super::show::{self, size};

/// What can be taken out.
#[derive(Template)]
#[template(path = "archive/show.html")]
pub(crate) struct ArchiveView {
    pub(crate) page: Page,
    pub(crate) projects: Vec<(ProjectId, String)>,
    /// Names of all tables, each to be had by itself.
    pub(crate) tables: Vec<(String, String)>,
    pub(crate) fault: String,
}

impl ArchiveView {
    pub(crate) fn new(page: Page, tables: Vec<String>, fault: String) -> Self {
        let projects = page.projects.iter().map(|p| (p.id, p.name.clone()));
        Self {
            projects: projects.collect(),
            tables: tables
                .into_iter()
                .map(|t| (t.replace('_', " "), t))
                .collect(),
            fault,
            page,
        }
    }
}

/// What an archive holds, before anything is written.
#[derive(Template)]
#[template(path = "archive/look.html")]
pub(crate) struct LookView {
    pub(crate) page: Page,
    pub(crate) kept: String,
    pub(crate) what: String,
    pub(crate) name: String,
    pub(crate) written: String,
    pub(crate) bytes: String,
    /// Table and rows of what a maker knows by name.
    pub(crate) rows: Vec<(&'static str, u64)>,
}

/// Tables a maker knows by name.
const TOLD: [(&str, &str); 12] = [
    ("projects", "projects"),
    ("units", "units"),
    ("models", "models"),
    ("parts", "parts"),
    ("sculpts", "sculpts"),
    ("recipes", "recipes"),
    ("plates", "plates"),
    ("copies", "copies"),
    ("runs", "runs"),
    ("miniatures", "miniatures"),
    ("printers", "printers"),
    ("resins", "resins"),
];

impl LookView {
    pub(crate) fn new(page: Page, kept: String, of: &Manifest) -> Self {
        let bytes: u64 = of.files.iter().map(|f| f.bytes).sum();
        let rows = TOLD.iter().filter_map(|(table, name)| {
            let many = of.rows.get(*table).copied().unwrap_or(0);
            (many > 0).then_some((*name, many))
        });
        Self {
            kept,
            what: of.what.clone(),
            name: of.name.clone(),
            written: show::when(of.written_at_ms, &page.zone),
            bytes: size(i64::try_from(bytes).unwrap_or(i64::MAX)),
            rows: rows.collect(),
            page,
        }
    }
}
