//! What each address does: parse, call store and core, render. One file for each page.

pub(crate) mod advice;
pub(crate) mod archive;
pub(crate) mod attendance;
pub(crate) mod bin;
pub(crate) mod compare;
pub(crate) mod concerns;
pub(crate) mod door;
pub(crate) mod events;
pub(crate) mod exposure;
pub(crate) mod finishing;
pub(crate) mod hands;
mod id;
pub(crate) mod kits;
pub(crate) mod ledger;
pub(crate) mod links;
pub(crate) mod matching;
pub(crate) mod miniatures;
pub(crate) mod muster;
pub(crate) mod paces;
pub(crate) mod photos;
pub(crate) mod plan_files;
pub(crate) mod plans;
pub(crate) mod plate_files;
pub(crate) mod plate_steps;
pub(crate) mod plates;
pub(crate) mod practice;
pub(crate) mod progress;
pub(crate) mod projects;
pub(crate) mod recipes;
pub(crate) mod rosters;
pub(crate) mod runs;
pub(crate) mod schedule;
pub(crate) mod sculpts;
pub(crate) mod search;
pub(crate) mod setups;
pub(crate) mod start;
pub(crate) mod stores;
pub(crate) mod today;
pub(crate) mod trials;
pub(crate) mod unit_moves;
pub(crate) mod wears;
pub(crate) mod weighing;
pub(crate) mod workshop;

use std::collections::BTreeMap;

use axum::extract::Query;
use axum::http::header;
use axum::response::{IntoResponse, Redirect, Response};
use wembrit_core::flow::Lane;
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::muster as asked;
use wembrit_store::queries::pages::frame;
use wembrit_store::queries::tasks;
use wembrit_store::{Conn, StoreError};

pub(crate) use id::Id;

use crate::error::WebError;
use crate::forms::{Faults, Input};
use crate::state::App;
use crate::views::{FormView, Notice, Page, Tab};

/// What a page is told by its address.
pub(crate) type Fields = Query<BTreeMap<String, String>>;

/// What a person hears after taking something away: the name travels in no address, so the
/// sentence only says what kind of thing it was.
fn notice(asked: &Fields) -> Option<Notice> {
    let removed = asked.get("removed")?;
    let (kind, id) = removed.split_once('-')?;
    let id: i64 = id.parse().ok()?;
    let (what, path) = match kind {
        "project" => ("project", "projects"),
        "unit" => ("unit", "units"),
        "model" => ("model", "models"),
        "part" => ("part", "parts"),
        "choice" => ("choice", "choices"),
        "piece" => ("piece", "pieces"),
        "printer" => ("printer", "printers"),
        "resin" => ("resin", "resins"),
        "sculpt" => ("sculpt", "sculpts"),
        _ => return None,
    };
    Some(Notice {
        text: format!("The {what} was taken away."),
        undo: Some(format!("/{path}/{id}/restore")),
    })
}

/// What is around a page, read with it; without a project named the one looked at last is meant.
pub(crate) fn page(
    c: &mut Conn,
    app: &App,
    tab: Tab,
    title: &str,
    project: Option<ProjectId>,
) -> Result<Page, StoreError> {
    let frame = frame::load(c, project, app.last_project())?;
    if let Some(project) = project {
        app.look_at(project);
    }
    Ok(Page::new(app, tab, title, frame))
}

/// How long it takes until everything that is measured now is measured, s; nothing where nobody
/// knows.
fn wait_s(c: &mut Conn, app: &App) -> Result<Option<f64>, StoreError> {
    Ok(app.pace.take(&tasks::open_in(c, Lane::Quick)?))
}

/// The first unit of a leaf of a page, as its address says.
fn leaf_asked(asked: &Fields) -> usize {
    asked.get("from").and_then(|n| n.parse().ok()).unwrap_or(0)
}

/// A script asks for a piece of a page; a link for the page.
fn is_fragment(headers: &axum::http::HeaderMap) -> bool {
    headers.contains_key("x-fragment")
}

/// A file to be kept, under a name of letters, digits and a few marks: a header takes no others.
fn sent(kind: &str, file: &str, bytes: impl Into<axum::body::Body>) -> Response {
    let plain = |c: char| {
        if c.is_ascii_alphanumeric() || "._-".contains(c) {
            c
        } else {
            '_'
        }
    };
    let file: String = file.chars().map(plain).collect();
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{file}\""),
        ),
    ];
    (headers, bytes.into()).into_response()
}

/// A path that begins as some of our own pages do, where an address named it: no page of somebody else's gets a
/// person sent on from here.
fn own_path<'a>(path: &'a str, pages: &[&str]) -> Option<&'a str> {
    let plain = |b: u8| b.is_ascii_alphanumeric() || b"/-".contains(&b);
    let ours = path.starts_with('/') && !path.starts_with("//") && path.bytes().all(plain);
    let known = ours && pages.iter().any(|page| path.starts_with(page));
    known.then_some(path)
}

/// Onward after something was done.
fn go(to: impl AsRef<str>) -> Response {
    Redirect::to(to.as_ref()).into_response()
}

/// To a page of the project looked at last, or the newest; without one, to the form that makes it.
async fn newest(app: &App, page: &str) -> Result<Response, WebError> {
    let projects = app.read(asked::projects).await?;
    let last = projects.iter().find(|p| Some(p.id) == app.last_project());
    Ok(match last.or(projects.last()) {
        Some(project) => go(format!("/projects/{}/{page}", project.id)),
        None => go("/projects/new"),
    })
}

/// Saves what a form says: onward when it is saved, the form again when it cannot be taken or
/// somebody else saved first.
async fn save<T, W: Future<Output = Result<String, WebError>>>(
    view: FormView,
    input: &Input,
    read: Result<T, Faults>,
    write: impl FnOnce(T) -> W,
) -> Result<Response, WebError> {
    match read {
        Err(faults) => view.refused(input, &faults),
        Ok(change) => match write(change).await {
            Ok(to) => Ok(go(to)),
            Err(WebError::Store(StoreError::Conflict { .. })) => view.conflicted(input),
            Err(error) => Err(error),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::ours("/projects/3/muster", true)]
    #[case::no_page_of_these("/workshop", false)]
    #[case::another_host("//evil.example/projects/", false)]
    #[case::a_whole_address("http://evil.example/projects/", false)]
    #[case::an_old_trick("/\\evil.example", false)]
    #[case::up_and_out("/projects/../..//evil.example", false)]
    #[case::a_line_more("/projects/3\r\nSet-Cookie: x", false)]
    #[case::nothing("", false)]
    fn a_person_is_sent_on_to_our_own_pages_only(#[case] path: &str, #[case] goes: bool) {
        assert_eq!(own_path(path, &["/projects/", "/plates/"]).is_some(), goes);
    }
}
