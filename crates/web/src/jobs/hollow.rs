//! Hollows of a file, and its pictures.

use wembrit_core::layers::{Voxels, find_hollows, measure_hollowing};
use wembrit_core::mesh::{ReadError, Solid, read_watched};
use wembrit_core::recipe::orient::tilted_pulls;
use wembrit_core::sculpt::Sculpt;
use wembrit_core::sculpt::picture::{Side, draw_side};
use wembrit_core::watch::Watch;
use wembrit_paper::write_png;
use wembrit_store::queries::{hollows, sculpts};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::state::App;

/// Pictures of a sculpt, hollows of its file, and what hollowing it with its wall would do.
pub(super) fn run(app: &App, sculpt: &Sculpt, watch: &dyn Watch) -> Result<End, StoreError> {
    let bytes = app.store.read(|c| sculpts::bytes(c, sculpt.id))?;
    let mesh = match read_watched(&bytes, &sculpt.file_name, watch) {
        Ok(mesh) => mesh,
        Err(ReadError::Stopped) => return Ok(End::Stopped),
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    if !app.store.read(|c| hollows::has_pictures(c, sculpt.id))? {
        for side in Side::ALL {
            // A sculpt without its picture is still a sculpt.
            match write_png(&draw_side(&mesh, *side)) {
                Ok(png) => app
                    .store
                    .write(|c| commands::hollows::set_picture(c, sculpt.id, *side, &png))?,
                Err(error) => tracing::warn!(%error, "no picture was drawn"),
            }
        }
    }
    let solid = Solid::new(&mesh);
    let Some(pulls) = tilted_pulls(&mesh.scaled(sculpt.unit_mm), watch) else {
        return Ok(End::Stopped);
    };
    let voxels = Voxels::of(&solid, sculpt.unit_mm);
    let found = find_hollows(&voxels);
    let hollowing = measure_hollowing(&voxels, sculpt.wall_mm);
    let now = app.now_ms();
    app.store.write(|c| {
        commands::hollows::set_tilted_pulls(c, sculpt.id, pulls)?;
        commands::hollows::set(c, sculpt, &hollowing, &found, now)
    })?;
    Ok(End::Done)
}
