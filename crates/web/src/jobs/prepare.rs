//! A sculpt is prepared as a recipe prints it.

use wembrit_core::mesh::{ReadError, read_watched};
use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::orient::FineZone;
use wembrit_core::recipe::prepare::{PrepareError, PrepareRequest, Supported, prepare};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::sculpt::Sculpt;
use wembrit_core::watch::Watch;
use wembrit_paper::write_png;
use wembrit_store::queries::{print_meshes, sculpts, zones};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::state::App;

/// A sculpt as a recipe prints it. Facts that are there already cost nothing.
pub(super) fn run(
    app: &App,
    sculpt: &Sculpt,
    of: &PartSetup,
    watch: &dyn Watch,
) -> Result<End, StoreError> {
    let (bytes, real, zones) = app.store.read(|c| {
        let real = match of.setup.supports {
            Supports::PrintMesh(id) => {
                let row = print_meshes::load(c, id)?;
                let file = sculpts::load(c, row.file)?;
                Some((sculpts::bytes(c, file.id)?, file.file_name, row))
            }
            _ => None,
        };
        let zones = zones::of_sculpt(c, sculpt.id)?;
        Ok((sculpts::bytes(c, sculpt.id)?, real, zones))
    })?;
    let mesh = match read_watched(&bytes, &sculpt.file_name, watch) {
        Ok(mesh) => mesh,
        Err(ReadError::Stopped) => return Ok(End::Stopped),
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    let supported = match &real {
        Some((bytes, name, row)) => match read_watched(bytes, name, watch) {
            Ok(mesh) => Some((mesh, row)),
            Err(ReadError::Stopped) => return Ok(End::Stopped),
            Err(error) => return Ok(End::Failed(error.to_string())),
        },
        None => None,
    };
    let zones: Vec<FineZone> = zones.into_iter().map(|(_, z)| z).collect();
    let how = PrepareRequest {
        pose: of.setup.pose,
        scale: of.unit_mm * of.scale,
        supports: of.setup.supports,
        supported: supported.as_ref().map(|(mesh, row)| Supported {
            mesh,
            support_mm3: row.found.map_or(0.0, |f| f.support_mm3),
            contacts: row.found.map_or(0, |f| f.contacts),
        }),
        zones: &zones,
        layer: of.layer,
    };
    match prepare(&mesh, &how, watch) {
        Ok(prepared) => {
            let picture = write_png(&prepared.picture).unwrap_or_default();
            let now = app.now_ms();
            app.store
                .write(|c| commands::prepared_parts::set(c, of, &prepared, &picture, now))?;
            Ok(End::Done)
        }
        Err(PrepareError::Stopped) => Ok(End::Stopped),
        Err(error) => Ok(End::Failed(error.to_string())),
    }
}
