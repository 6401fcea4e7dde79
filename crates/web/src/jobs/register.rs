//! A mesh that came back is laid over its design.

use wembrit_core::ids::PrintMeshId;
use wembrit_core::mesh::{ReadError, read_watched};
use wembrit_core::recipe::prepare::design_mesh;
use wembrit_core::recipe::register::{RegisterError, measure_print_mesh};
use wembrit_core::watch::Watch;
use wembrit_store::queries::{print_meshes, sculpts};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::state::App;

/// A mesh supported elsewhere, laid over its design.
pub(super) fn run(app: &App, id: PrintMeshId, watch: &dyn Watch) -> Result<End, StoreError> {
    let (row, design, file) = app.store.read(|c| {
        let row = print_meshes::load(c, id)?;
        let design = sculpts::load(c, row.design)?;
        let file = sculpts::load(c, row.file)?;
        let bytes = [sculpts::bytes(c, design.id)?, sculpts::bytes(c, file.id)?];
        Ok((row, (design, bytes), file))
    })?;
    let (design, [bytes, file_bytes]) = design;
    let read = |bytes: &[u8], name: &str| {
        let mesh = read_watched(bytes, name, watch);
        mesh.map_err(|e| match e {
            ReadError::Stopped => String::new(),
            other => other.to_string(),
        })
    };
    let measured = read(&bytes, &design.file_name)
        .and_then(|mesh| Ok((mesh, read(&file_bytes, &file.file_name)?)))
        .and_then(|(mesh, supported)| {
            let exported = design_mesh(&mesh, row.pose, design.unit_mm * row.scale);
            let (low, high) = supported.bounds();
            measure_print_mesh(&exported, &supported, row.layer, watch)
                .map(|found| (found, high[2] - low[2]))
                .map_err(|e| match e {
                    RegisterError::Stopped => String::new(),
                    other => other.to_string(),
                })
        });
    let now = app.now_ms();
    match measured {
        Ok((found, height)) => {
            app.store.write(|c| {
                commands::print_meshes::set_measured(c, id, &found.found(height), now)
            })?;
            Ok(End::Done)
        }
        Err(why) if why.is_empty() => Ok(End::Stopped),
        Err(why) => {
            app.store
                .write(|c| commands::print_meshes::set_refused(c, id, &why))?;
            Ok(End::Failed(why))
        }
    }
}
