//! Sculpts: uploading, listing, naming.

use crate::currency;
use axum::body::Bytes;
use axum::extract::multipart::{Field, MultipartError};
use axum::extract::{Multipart, Path, State};
use axum::http::{HeaderMap, header};
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::ids::SculptId;
use wembrit_core::mesh::{Mesh, ReadError, check_head, read_watched, write_3mf, write_stl};
use wembrit_core::sculpt::SupportsSaid;
use wembrit_core::sculpt::picture::Side;
use wembrit_core::watch::Watch as _;
use wembrit_store::commands::sculpts::{Arrival, CHUNK_BYTES};
use wembrit_store::queries::pages::sculpts as pages;
use wembrit_store::queries::{hollows, sculpts};
use wembrit_store::{Conn, StoreError, commands};

use super::{Fields, Id, go, notice, own_path, page, sent, wait_s};
use crate::asked::asking;
use crate::error::WebError;
use crate::forms::{Input, Reader};
use crate::state::{App, Topic};
use crate::views::sculpts::{SculptList, SculptListView, SculptSearch, SculptView, SculptsView};
use crate::views::show::count;
use crate::views::waiting::Waiting;
use crate::views::{Notice, Tab, html};

pub(crate) async fn show_all(
    State(app): State<App>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let notice = notice(&asked).or_else(|| arrived(&asked));
    let search = search(&asked);
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Sculpts, "Sculpts", None)?.noticed(notice);
            let most_bytes = app.settings.max_file_bytes;
            Ok(SculptsView {
                page,
                list: sculpt_list(c, &search)?,
                search,
                most_bytes,
            })
        })
        .await?;
    html(&view)
}

fn sculpt_list(c: &mut Conn, search: &SculptSearch) -> Result<SculptList, StoreError> {
    // Findings of every file take longer than all the rest of the list.
    let facts = search
        .by_stake()
        .then(|| pages::finding_facts(c))
        .transpose()?;
    Ok(SculptList::new(&pages::list(c)?, facts.as_ref(), search))
}

/// What of the list an address asks for.
fn search(asked: &Fields) -> SculptSearch {
    let text = |name: &str| asked.get(name).map_or("", |v| v.trim()).to_owned();
    SculptSearch {
        find: text("find"),
        by: text("by"),
    }
}

/// What became of an upload, in words.
pub(super) fn arrived(asked: &Fields) -> Option<Notice> {
    let number = |name: &str| {
        asked
            .get(name)
            .and_then(|n| n.parse::<u64>().ok())
            .unwrap_or(0)
    };
    let mut words = Vec::new();
    for (name, one, many) in [
        ("new", "new file arrived", "new files arrived"),
        (
            "known",
            "file was here already and is kept once",
            "files were here already and are kept once",
        ),
        ("refused", "file was refused", "files were refused"),
    ] {
        if number(name) > 0 {
            words.push(count(number(name), one, many));
        }
    }
    (!words.is_empty()).then(|| Notice {
        text: format!("{}.", words.join("; ")),
        undo: None,
    })
}

pub(crate) async fn list(State(app): State<App>, asked: Fields) -> Result<Html<String>, WebError> {
    let search = search(&asked);
    let list = app.read(move |c| sculpt_list(c, &search)).await?;
    html(&SculptListView { list })
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<SculptId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let name = sculpts::load(c, id)?.name;
            let page = page(c, app, Tab::Sculpts, &name, None)?;
            let data = pages::page(c, id, page.project_id())?;
            Ok(SculptView::new(page, &data))
        })
        .await?;
    html(&view)
}

/// Whether a sculpt is still being measured, for its page while it waits.
pub(crate) async fn state(
    State(app): State<App>,
    Id(id): Id<SculptId>,
) -> Result<Html<String>, WebError> {
    let (open, wait) = app
        .view(move |c, app| Ok((pages::is_waiting(c, id)?, wait_s(c, app)?)))
        .await?;
    html(&Waiting::of_sculpt(open).about(wait))
}

/// Tries again what was given up.
pub(crate) async fn try_again(
    State(app): State<App>,
    Id(id): Id<SculptId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let sculpt = sculpts::load(c, id)?;
        commands::tasks::try_again(c, &sculpt, now)
    })
    .await?;
    app.ring();
    app.tell(Topic::Sculpts);
    Ok(go(format!("/sculpts/{id}")))
}

pub(crate) async fn rename(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut r = Reader::new(&input);
    let name = r.name("name");
    let name = r.done(name).map_err(|faults| {
        WebError::BadRequest(
            faults
                .into_values()
                .map(|why| format!("name: {why}"))
                .collect(),
        )
    })?;
    let version = input.row_version();
    app.write(move |c| commands::sculpts::rename(c, id, version, &name))
        .await?;
    Ok(go(format!("/sculpts/{id}")))
}

pub(crate) async fn remove(
    State(app): State<App>,
    Id(id): Id<SculptId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::sculpts::remove(c, id, now))
        .await?;
    Ok(go(format!("/sculpts?removed=sculpt-{id}")))
}

pub(crate) async fn restore(
    State(app): State<App>,
    Id(id): Id<SculptId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::sculpts::restore(c, id, now))
        .await?;
    app.ring();
    Ok(go("/sculpts"))
}

pub(crate) async fn upload(
    State(app): State<App>,
    asked: Fields,
    headers: HeaderMap,
    mut form: Multipart,
) -> Result<Response, WebError> {
    let (mut new, mut known, mut refused, mut why) = (0, 0, 0, String::new());
    while let Some(field) = form.next_field().await.map_err(broke_off)? {
        let file_name = match field.file_name() {
            Some("") => continue,
            Some(name) => base_name(name),
            // A name that is no readable text is lost on its way; the file is not.
            None if field.content_type().is_some() => "unnamed".to_owned(),
            None => continue,
        };
        match take_in(&app, &file_name, field).await? {
            Ok(Arrival::New(_)) => new += 1,
            Ok(Arrival::Known(_)) => known += 1,
            Err(words) => {
                refused += 1;
                why = words;
            }
        }
        app.ring();
        app.tell(Topic::Sculpts);
    }
    // The page's own script uploads one file at a time and counts for itself.
    if headers
        .get(header::ACCEPT)
        .is_some_and(|a| a == "application/json")
    {
        let counts =
            serde_json::json!({ "new": new, "known": known, "refused": refused, "why": why });
        return Ok(axum::Json(counts).into_response());
    }
    // Back to where the upload was begun, when that is one of our own pages.
    let then = own_path(
        asked.get("then").map_or("", String::as_str),
        &["/projects/"],
    );
    let then = then.unwrap_or("/sculpts");
    Ok(go(format!(
        "{then}?new={new}&known={known}&refused={refused}"
    )))
}

/// The last piece of a path: browsers may send whole ones.
pub(super) fn base_name(path: &str) -> String {
    let name = path.rsplit(['/', '\\']).next().unwrap_or(path);
    name.chars().filter(|c| !c.is_control()).take(200).collect()
}

pub(super) fn broke_off(error: MultipartError) -> WebError {
    let status = error.status();
    let why = if status == axum::http::StatusCode::PAYLOAD_TOO_LARGE {
        "the files are too large together; upload fewer at once".to_owned()
    } else {
        error.body_text()
    };
    WebError::Upload(why, status)
}

/// Takes one file in, a compressed chunk at a time, so that its size never stands in memory; or says
/// why it was refused.
pub(super) async fn take_in(
    app: &App,
    file_name: &str,
    mut field: Field<'_>,
) -> Result<Result<Arrival, String>, WebError> {
    let (name, now) = (file_name.to_owned(), app.now_ms());
    let id = app
        .write(move |c| commands::sculpts::begin(c, &name, now))
        .await?;
    match receive(app, id, file_name, &mut field).await {
        Ok(Received::Whole(hash, bytes)) => {
            let arrival = app
                .write(move |c| commands::sculpts::complete(c, id, &hash, bytes, now))
                .await?;
            Ok(Ok(arrival))
        }
        Ok(Received::OtherKind(why)) => {
            app.write(move |c| commands::sculpts::forget(c, id)).await?;
            Ok(Err(why))
        }
        Ok(Received::TooLarge) => {
            let limit = app.settings.max_file_bytes / 1_000_000;
            let why = format!("larger than {limit} MB: reduce the mesh first");
            let words = why.clone();
            app.write(move |c| commands::sculpts::refuse_upload(c, id, &why))
                .await?;
            Ok(Err(words))
        }
        Err(error) => {
            app.write(move |c| commands::sculpts::forget(c, id)).await?;
            Err(error)
        }
    }
}

/// What arrived.
enum Received {
    /// All of it: hash and size.
    Whole(String, i64),
    /// More than is taken; the rest was read and dropped.
    TooLarge,
    /// Plainly no mesh.
    OtherKind(String),
}

/// Receives a file.
async fn receive(
    app: &App,
    id: SculptId,
    file_name: &str,
    field: &mut Field<'_>,
) -> Result<Received, WebError> {
    let mut hasher = blake3::Hasher::new();
    let (mut bytes, mut seq, mut buffer) = (0_u64, 0, Vec::with_capacity(CHUNK_BYTES));
    while let Some(piece) = field.chunk().await.map_err(broke_off)? {
        if bytes == 0
            && let Err(why) = check_head(&piece, file_name)
        {
            return Ok(Received::OtherKind(why.to_string()));
        }
        bytes += piece.len() as u64;
        if bytes > app.settings.max_file_bytes {
            continue;
        }
        hasher.update(&piece);
        buffer.extend_from_slice(&piece);
        if buffer.len() >= CHUNK_BYTES {
            keep(app, id, seq, std::mem::take(&mut buffer)).await?;
            seq += 1;
        }
    }
    if bytes > app.settings.max_file_bytes {
        return Ok(Received::TooLarge);
    }
    if !buffer.is_empty() {
        keep(app, id, seq, buffer).await?;
    }
    let hash = hasher.finalize().to_hex().to_string();
    Ok(Received::Whole(hash, bytes as i64))
}

async fn keep(app: &App, id: SculptId, seq: i64, data: Vec<u8>) -> Result<(), WebError> {
    let packed = tokio::task::spawn_blocking(move || sculpts::compress(&data)).await??;
    app.write(move |c| commands::sculpts::add_chunk(c, id, seq, &packed))
        .await
}

/// A form of a single number.
fn one_number(
    body: &Bytes,
    name: &'static str,
    least: f64,
    most: f64,
    what: &str,
) -> Result<f64, WebError> {
    let input = Input::parse(body);
    let mut r = Reader::new(&input);
    let number = r.number(name, least, most);
    r.done(number).map_err(|faults| {
        let why: Vec<String> = faults.into_values().collect();
        WebError::BadRequest(format!("{what}: {}", why.join(", ")))
    })
}

/// The maker's answer in which unit a file was drawn.
pub(crate) async fn answer_unit(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let unit_mm = one_number(
        &body,
        "unit_mm",
        0.0001,
        10_000.0,
        "write how many mm one unit of the file is",
    )?;
    let now = app.now_ms();
    app.write(move |c| commands::sculpts::answer_unit(c, id, unit_mm, now))
        .await?;
    app.ring();
    Ok(go(format!("/sculpts/{id}")))
}

/// The mesh as an open format, in mm: `stl` or `3mf`.
pub(crate) async fn export(
    State(app): State<App>,
    Path((id, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let id = SculptId(id);
    let (sculpt, bytes) = app
        .read(move |c| Ok((sculpts::load(c, id)?, sculpts::bytes(c, id)?)))
        .await?;
    let unit_mm = sculpt.unit_mm;
    mesh_file(&app, &sculpt.file_name, bytes, format, move |mesh| {
        mesh.scaled(unit_mm)
    })
    .await
}

/// A mesh file read, changed, and sent as `stl` or `3mf` under its own name.
pub(super) async fn mesh_file(
    app: &App,
    file_name: &str,
    bytes: Vec<u8>,
    format: String,
    made: impl FnOnce(Mesh) -> Mesh + Send + 'static,
) -> Result<Response, WebError> {
    let name = file_name
        .rsplit_once('.')
        .map_or(file_name, |(stem, _)| stem)
        .to_owned();
    let file_name = file_name.to_owned();
    let (kind, file) = match format.as_str() {
        "stl" => ("model/stl", format!("{name}.stl")),
        "3mf" => ("model/3mf", format!("{name}.3mf")),
        _ => return Err(WebError::NoPage),
    };
    // One at a time: each holds a whole mesh twice. Who leaves, ends it.
    let turn = app.export_turn().await;
    let (_asking, asked) = asking();
    let written = tokio::task::spawn_blocking(move || {
        let _turn = turn;
        let mesh = read_watched(&bytes, &file_name, &asked).map_err(|e| e.to_string())?;
        drop(bytes);
        let mesh = made(mesh);
        if asked.stopped() {
            return Err(ReadError::Stopped.to_string());
        }
        if format == "stl" {
            Ok(write_stl(&mesh))
        } else {
            write_3mf(&mesh).map_err(|e| e.to_string())
        }
    })
    .await?
    .map_err(WebError::BadRequest)?;
    Ok(sent(kind, &file, written))
}

pub(crate) async fn dismiss(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let (finding, reason) = (
        input.get("finding").to_owned(),
        input.get("reason").chars().take(300).collect::<String>(),
    );
    app.write(move |c| commands::dismissals::dismiss(c, id, &finding, &reason, now))
        .await?;
    Ok(go(format!("/sculpts/{id}")))
}

pub(crate) async fn undismiss(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let finding = Input::parse(&body).get("finding").to_owned();
    app.write(move |c| commands::dismissals::take_back(c, id, &finding))
        .await?;
    Ok(go(format!("/sculpts/{id}")))
}

/// Another wall to hollow with.
pub(crate) async fn set_wall(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let wall_mm = one_number(&body, "wall_mm", 0.5, 20.0, "wall, in mm")?;
    app.write(move |c| commands::hollows::set_wall(c, id, (wall_mm * 1000.0).round() as i64))
        .await?;
    app.ring();
    Ok(go(format!("/sculpts/{id}")))
}

/// The picture of a sculpt from a side.
pub(crate) async fn picture(
    State(app): State<App>,
    Path((id, side)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let side: Side = side.parse().map_err(|_| WebError::NoPage)?;
    let png = app
        .read(move |c| hollows::picture(c, SculptId(id), side))
        .await?;
    let headers = [
        (header::CONTENT_TYPE, "image/png"),
        (header::CACHE_CONTROL, "private, max-age=3600"),
    ];
    Ok((headers, png).into_response())
}

/// Whether the file brings its supports, in the maker's words.
pub(crate) async fn say_supports(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let said = Input::parse(&body).get("supports").parse::<SupportsSaid>();
    let said = said.map_err(|_| {
        WebError::BadRequest("choose whether the file brings its own supports".into())
    })?;
    let now = app.now_ms();
    app.write(move |c| commands::by_practice::say_supports(c, id, said, now))
        .await?;
    app.ring();
    Ok(go(format!("/sculpts/{id}")))
}

/// What the file cost.
pub(crate) async fn set_price(
    State(app): State<App>,
    Id(id): Id<SculptId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let price =
        currency::read(input.get("price")).map_err(|why| WebError::BadRequest(why.to_string()))?;
    app.write(move |c| {
        commands::sculpts::set_price(c, id, price)?;
        // Without bundles there is nothing to choose.
        if input.has("bundle") {
            commands::bundles::came_with(c, id, input.get("bundle").parse().ok())?;
        }
        Ok(())
    })
    .await?;
    Ok(go(format!("/sculpts/{id}")))
}
