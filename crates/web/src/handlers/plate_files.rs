//! A plate as a file for the maker's own program, and all plates of a project as tables.

use axum::extract::{Path, State};
use axum::response::Response;
use wembrit_core::flow::{PlateCopy, plate_code};
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_core::mesh::{Arranged, ArrangedCopy};
use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::prepare::print_mesh;
use wembrit_core::watch::Watch;
use wembrit_paper::{ListedCopy, ListedPlate, write_plates_csv, write_plates_json};
use wembrit_store::queries::{muster, plates, printers, recipes, resins, sculpts};

use super::sent;
use crate::asked::asking;
use crate::error::WebError;
use crate::part_files::PartFiles;
use crate::state::App;

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

fn arranged(copy: &PlateCopy, mesh: usize) -> ArrangedCopy {
    let mark = copy.copy.as_ref().map_or(copy.placed.key, |c| c.mark);
    ArrangedCopy {
        mesh,
        name: format!("{mark} {}", copy.part_name),
        rotation_deg: copy.placed.rotation_deg,
        at_mm: copy.placed.at_mm,
    }
}

/// Every accepted plate of a project: `csv` or `json`.
pub(crate) async fn plates_of(
    State(app): State<App>,
    Path((project, format)): Path<(i64, String)>,
) -> Result<Response, WebError> {
    let project = ProjectId(project);
    let (name, listed) = app
        .read(move |c| {
            let name = muster::project(c, project)?.name;
            let all = plates::accepted(c, project)?;
            let ids: Vec<PlateId> = all.iter().map(|p| p.id).collect();
            let mut copies = plates::copies_on(c, &ids)?;
            let mut listed = Vec::new();
            for plate in all {
                let on = copies.remove(&plate.id).unwrap_or_default();
                listed.push(ListedPlate {
                    code: plate_code(&on),
                    printer: printers::load(c, plate.printer)?.name,
                    resin: resins::load(c, plate.resin)?.name,
                    copies: on.iter().map(listed_copy).collect(),
                    plate,
                });
            }
            Ok((name, listed))
        })
        .await?;
    Ok(match format.as_str() {
        "csv" => sent(
            "text/csv; charset=utf-8",
            "plates.csv",
            write_plates_csv(&listed),
        ),
        "json" => sent(
            "application/json",
            "plates.json",
            write_plates_json(&name, &listed),
        ),
        _ => return Err(WebError::NoPage),
    })
}

fn listed_copy(copy: &PlateCopy) -> ListedCopy {
    ListedCopy {
        mark: copy.copy.as_ref().map_or(copy.placed.key, |c| c.mark),
        part: copy.part_name.clone(),
        model: copy.model_name.clone(),
        unit: copy.unit_name.clone(),
        at_mm: copy.placed.at_mm,
        rotation_deg: copy.placed.rotation_deg,
        resin_ml: copy.resin_ml,
    }
}
