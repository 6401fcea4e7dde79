//! A sculpt is prepared as a recipe prints it.

use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::prepare::prepare;
use wembrit_core::watch::Watch;
use wembrit_paper::write_png;
use wembrit_store::{StoreError, commands};

use super::End;
use crate::part_files::PartFiles;
use crate::state::App;

/// A sculpt as a recipe prints it. Facts that are there already cost nothing.
pub(super) fn run(app: &App, of: &PartSetup, watch: &dyn Watch) -> Result<End, StoreError> {
    let files = app.store.read(|c| PartFiles::load(c, of))?;
    match files.with(watch, |mesh, how| prepare(mesh, how, watch)) {
        Ok(prepared) => {
            let picture = write_png(&prepared.picture).unwrap_or_default();
            let now = app.now_ms();
            app.store
                .write(|c| commands::prepared_parts::set(c, of, &prepared, &picture, now))?;
            Ok(End::Done)
        }
        Err(why) if why.stopped() => Ok(End::Stopped),
        Err(why) => Ok(End::Failed(why.to_string())),
    }
}
