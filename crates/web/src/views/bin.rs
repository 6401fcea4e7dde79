//! The bin: what was taken away, the latest first.

use askama::Template;
use wembrit_store::queries::pages::bin::Removed;

use super::Page;
use super::show::when;

/// Something that was taken away.
pub(crate) struct BinRow {
    /// Where to post to put it back.
    pub(crate) to: String,
    /// What kind of thing it is.
    pub(crate) kind: &'static str,
    pub(crate) name: String,
    pub(crate) of: String,
    pub(crate) at: String,
}

/// The bin.
#[derive(Template)]
#[template(path = "bin.html")]
pub(crate) struct BinView {
    pub(crate) page: Page,
    /// Of the project, and of the workshop.
    pub(crate) lists: Vec<(String, Vec<BinRow>)>,
}

impl BinView {
    pub(crate) fn new(page: Page, of_project: &[Removed], of_workshop: &[Removed]) -> Self {
        let rows = |all: &[Removed]| all.iter().map(|r| row(r, &page)).collect::<Vec<_>>();
        let project = page.project.as_ref().map(|p| p.name.clone());
        let lists = [
            (project.unwrap_or_default(), rows(of_project)),
            ("The workshop".to_owned(), rows(of_workshop)),
        ];
        let lists = lists.into_iter().filter(|(_, rows)| !rows.is_empty());
        Self {
            lists: lists.collect(),
            page,
        }
    }
}

fn row(removed: &Removed, page: &Page) -> BinRow {
    let kind = match removed.kind.as_str() {
        "units" => "unit",
        "models" => "model",
        "parts" => "part",
        "choices" => "choice",
        "pieces" => "piece",
        "projects" => "project",
        "sculpts" => "sculpt",
        "printers" => "printer",
        _ => "resin",
    };
    BinRow {
        to: format!("/{}/{}/restore", removed.kind, removed.id),
        kind,
        name: removed.name.clone(),
        of: removed.of.clone(),
        at: when(removed.at_ms, &page.zone),
    }
}
