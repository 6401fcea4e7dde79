//! Archives and copies: taken out, looked at, brought in.

use std::fs::File;
use std::io::{BufReader, BufWriter, Seek};
use std::path::PathBuf;

use axum::body::{Body, Bytes};
use axum::extract::{Multipart, Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Response};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;
use wembrit_core::ids::ProjectId;
use wembrit_paper::write_table_csv;
use wembrit_store::archive::{Scope, bring_in, look, table_names, whole_table, write};
use wembrit_store::{StoreError, private};

use super::{Id, go, page, sent};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::archive::{ArchiveView, LookView};
use crate::views::{Tab, html, show};

/// Bytes that are sent at once.
const PART_BYTES: usize = 1 << 16;

async fn view(app: &App, fault: String) -> Result<ArchiveView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Workshop, "Out and in", None)?;
        Ok(ArchiveView::new(page, table_names(c)?, fault))
    })
    .await
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, String::new()).await?)
}

fn other(error: &dyn std::fmt::Display) -> StoreError {
    StoreError::Other(format!("the archive: {error}"))
}

/// A file in parts, so that it is never in memory as a whole.
fn streamed(kind: &str, name: &str, file: std::fs::File) -> Response {
    let (sender, receiver) = mpsc::channel::<std::io::Result<Bytes>>(4);
    tokio::spawn(async move {
        let mut file = tokio::fs::File::from_std(file);
        loop {
            let mut part = vec![0; PART_BYTES];
            let told = match file.read(&mut part).await {
                Ok(0) => return,
                Ok(n) => {
                    part.truncate(n);
                    Ok(Bytes::from(part))
                }
                Err(error) => Err(error),
            };
            // Nobody listens any more.
            if sender.send(told).await.is_err() {
                return;
            }
        }
    });
    sent(kind, name, Body::from_stream(ReceiverStream::new(receiver)))
}

async fn archived(app: &App, scope: Scope, name: &str) -> Result<Response, WebError> {
    let now = app.now_ms();
    let file = app
        .read(move |c| {
            let mut file = tempfile::tempfile().map_err(|e| other(&e))?;
            write(c, scope, now, BufWriter::new(&mut file))?;
            file.rewind().map_err(|e| other(&e))?;
            Ok(file)
        })
        .await?;
    Ok(streamed("application/zip", name, file))
}

/// The whole workshop as an archive.
pub(crate) async fn all(State(app): State<App>) -> Result<Response, WebError> {
    archived(&app, Scope::Workshop, "workshop.zip").await
}

/// One project as an archive.
pub(crate) async fn of_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Response, WebError> {
    archived(&app, Scope::Project(id), &format!("project-{id}.zip")).await
}

/// Any table by itself.
pub(crate) async fn table(
    State(app): State<App>,
    Path(file): Path<String>,
) -> Result<Response, WebError> {
    let name = file.strip_suffix(".csv").unwrap_or_default().to_owned();
    let of = app.read(move |c| whole_table(c, &name)).await?;
    let columns: Vec<&str> = of.columns.iter().map(String::as_str).collect();
    let text = write_table_csv(&columns, &of.rows);
    Ok(sent("text/csv; charset=utf-8", &file, text))
}

/// A copy of the data file as it stands.
pub(crate) async fn copy(State(app): State<App>) -> Result<Response, WebError> {
    let store = app.store.clone();
    let file = tokio::task::spawn_blocking(move || {
        let folder = tempfile::tempdir().map_err(|e| other(&e))?;
        let path = folder.path().join("copy.sqlite");
        store.copy_to(&path)?;
        // Its name may go: who reads it has it open.
        std::fs::File::open(&path).map_err(|e| other(&e))
    })
    .await??;
    Ok(streamed("application/vnd.sqlite3", "workshop.sqlite", file))
}

/// Archives that wait at once: two windows may be open, and an upload may have been begun anew.
const MOST_WAITING: usize = 4;

/// Where an archive that was looked at waits to be brought in; nothing for a name that is none of ours.
fn kept_at(app: &App, name: &str) -> Option<PathBuf> {
    let ours = name.len() == 32 && name.chars().all(|c| c.is_ascii_hexdigit());
    ours.then(|| app.waiting().join(name))
}

/// Makes the file in which another one waits, for its owner alone; those that have waited longest make room.
fn room_for(app: &App, path: &std::path::Path) -> std::io::Result<File> {
    let folder = app.waiting();
    std::fs::create_dir_all(&folder)?;
    let mut waiting = Vec::new();
    for file in std::fs::read_dir(&folder)? {
        let file = file?;
        waiting.push((file.metadata()?.modified()?, file.path()));
    }
    waiting.sort();
    let over = (waiting.len() + 1).saturating_sub(MOST_WAITING);
    for (_, oldest) in waiting.into_iter().take(over) {
        std::fs::remove_file(oldest)?;
    }
    private(path)
}

/// An archive arrives and is looked at; nothing is written.
pub(crate) async fn arrive(
    State(app): State<App>,
    mut form: Multipart,
) -> Result<Response, WebError> {
    let broken = |_| WebError::BadRequest("the archive did not arrive whole: send it again".into());
    let name = uuid::Uuid::new_v4().simple().to_string();
    let path = kept_at(&app, &name).ok_or(WebError::NoPage)?;
    let mut bytes = 0_usize;
    while let Some(mut field) = form.next_field().await.map_err(broken)? {
        if field.name() != Some("archive") {
            continue;
        }
        let file = room_for(&app, &path).map_err(|e| other(&e))?;
        let mut file = tokio::fs::File::from_std(file);
        while let Some(part) = field.chunk().await.map_err(broken)? {
            bytes += part.len();
            file.write_all(&part).await.map_err(|e| other(&e))?;
        }
        file.flush().await.map_err(|e| other(&e))?;
    }
    let seen = path.clone();
    let looked = tokio::task::spawn_blocking(move || {
        if bytes == 0 {
            return Err(StoreError::Refused("choose an archive first".into()));
        }
        let file = std::fs::File::open(&seen).map_err(|e| other(&e))?;
        Ok(look(BufReader::new(file))?.manifest)
    })
    .await?;
    match looked {
        Ok(manifest) => {
            let view = app
                .view(move |c, app| {
                    let page = page(c, app, Tab::Workshop, "An archive", None)?;
                    Ok(LookView::new(page, name, &manifest))
                })
                .await?;
            Ok(html(&view)?.into_response())
        }
        Err(why) => {
            drop(tokio::fs::remove_file(&path).await);
            refused(&app, why).await
        }
    }
}

async fn refused(app: &App, why: StoreError) -> Result<Response, WebError> {
    let StoreError::Refused(why) = why else {
        return Err(why.into());
    };
    let view = view(app, show::sentence(&why)).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, html(&view)?).into_response())
}

/// An archive that was looked at comes in.
pub(crate) async fn take(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let path = kept_at(&app, input.get("kept")).filter(|p| p.is_file());
    let Some(path) = path else {
        let why = "that archive is not waiting any more: choose it again";
        return refused(&app, StoreError::Refused(why.into())).await;
    };
    let seen = path.clone();
    let brought = app
        .write(move |c| {
            let file = std::fs::File::open(&seen).map_err(|e| other(&e))?;
            bring_in(c, &mut look(BufReader::new(file))?, now)
        })
        .await;
    match brought {
        Ok(brought) => {
            drop(tokio::fs::remove_file(&path).await);
            app.ring();
            Ok(match brought.projects.first() {
                Some(project) => go(format!("/projects/{project}/muster")),
                None => go("/workshop"),
            })
        }
        Err(WebError::Store(why)) => refused(&app, why).await,
        Err(error) => Err(error),
    }
}
