//! A plate as a file: for the maker's own program, or for the wall beside the printer.

use axum::extract::{Path, State};
use axum::response::Response;
use wembrit_core::flow::{PlateCopy, plate_code};
use wembrit_core::ids::PlateId;
use wembrit_core::mesh::{Arranged, ArrangedCopy};
use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::prepare::print_mesh;
use wembrit_core::watch::Watch;
use wembrit_paper::write_pdf;
use wembrit_store::queries::pages::plates as pages;
use wembrit_store::queries::{plates, recipes, sculpts};

use super::sent;
use crate::asked::asking;
use crate::error::WebError;
use crate::part_files::PartFiles;
use crate::state::App;
use crate::views::pages_out::plate_page;

/// A plate with every copy where it stands: `stl` or `3mf`.
pub(crate) async fn plate(
    State(app): State<App>,
    Path((id, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let id = PlateId(id);
    let kind = match format.as_str() {
        "stl" => "model/stl",
        "3mf" => "model/3mf",
        _ => return Err(WebError::NoPage),
    };
    let (plate, copies, setups) = app
        .read(move |c| {
            let plate = plates::load(c, id)?;
            let copies = plates::copies_of(c, id)?;
            let mut setups: Vec<PartSetup> = Vec::new();
            for copy in &copies {
                let sculpt = sculpts::load(c, copy.sculpt)?;
                let version = recipes::version(c, copy.recipe_version)?;
                setups.push(PartSetup::of(&sculpt, &version));
            }
            Ok((plate, copies, setups))
        })
        .await?;
    let name = format!("plate-{}-{}", plate.number, plate_code(&copies));
    let title = name.clone();
    // One at a time: a plate may hold many meshes. Who leaves, ends it.
    let turn = app.export_turn().await;
    let (_asking, asked) = asking();
    let store = app.store.clone();
    let written = tokio::task::spawn_blocking(move || {
        let _turn = turn;
        let mut all = Arranged::default();
        let mut known: Vec<PartSetup> = Vec::new();
        for (copy, setup) in copies.iter().zip(setups) {
            let mesh = match known.iter().position(|k| *k == setup) {
                Some(at) => at,
                None => {
                    let files = store
                        .read(|c| PartFiles::load(c, &setup))
                        .map_err(|e| e.to_string())?;
                    let made = files.with(&asked, |mesh, how| print_mesh(mesh, how, &asked));
                    let part = &copy.part_name;
                    all.meshes
                        .push(made.map_err(|why| format!("{part}: {why}"))?);
                    known.push(setup);
                    known.len() - 1
                }
            };
            all.copies.push(arranged(copy, mesh));
        }
        if asked.stopped() {
            return Err("nobody waits for it any more".to_owned());
        }
        let written = if format == "stl" {
            all.write_stl()
        } else {
            all.write_3mf(&title)
        };
        written
            .map(|bytes| (bytes, format))
            .map_err(|e| e.to_string())
    })
    .await?;
    let (bytes, format) = written.map_err(WebError::BadRequest)?;
    Ok(sent(kind, &format!("{name}.{format}"), bytes))
}

/// A plate on a page of paper, for the wall beside the printer: `svg` or `pdf`.
pub(crate) async fn page(
    State(app): State<App>,
    Path((id, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let id = PlateId(id);
    let (name, drawing) = app
        .read(move |c| {
            let data = pages::sheet(c, id)?;
            let code = plate_code(data.shown.on(id));
            let name = format!("plate-{}-{code}", data.plate.number);
            Ok((name, plate_page(&data)))
        })
        .await?;
    match format.as_str() {
        "svg" => Ok(sent("image/svg+xml", &format!("{name}.svg"), drawing)),
        "pdf" => {
            let page = as_pdf(drawing).await?;
            Ok(sent("application/pdf", &format!("{name}.pdf"), page))
        }
        _ => Err(WebError::NoPage),
    }
}

/// A drawing as a PDF, made aside.
pub(super) async fn as_pdf(drawing: String) -> Result<Vec<u8>, WebError> {
    let made = tokio::task::spawn_blocking(move || write_pdf(&drawing)).await?;
    made.map_err(|why| WebError::BadRequest(why.to_string()))
}

fn arranged(copy: &PlateCopy, mesh: usize) -> ArrangedCopy {
    ArrangedCopy {
        mesh,
        name: format!("{} {}", copy.mark(), copy.part_name),
        rotation_deg: copy.placed.rotation_deg,
        at_mm: copy.placed.at_mm,
    }
}
