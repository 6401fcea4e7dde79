//! A sculpt is measured.

use wembrit_core::sculpt::Sculpt;
use wembrit_core::sculpt::measure::{MeasureError, MeasureOptions, measure_file};
use wembrit_core::watch::Watch;
use wembrit_store::queries::{sculpts, workshop};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::state::App;

pub(super) fn run(app: &App, sculpt: &Sculpt, watch: &dyn Watch) -> Result<End, StoreError> {
    let (bytes, layer) = app.store.read(|c| {
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok((bytes, workshop::load(c)?.layer))
    })?;
    let now = app.now_ms();
    match measure_file(
        &bytes,
        &sculpt.file_name,
        MeasureOptions {
            layer,
            scale: sculpt.unit_mm,
        },
        watch,
    ) {
        Ok(measured) => {
            app.store
                .write(|c| commands::sculpts::set_measured(c, sculpt.id, layer, &measured, now))?;
            Ok(End::Done)
        }
        Err(MeasureError::Stopped) => Ok(End::Stopped),
        Err(error) => {
            let why = error.to_string();
            app.store
                .write(|c| commands::sculpts::set_refused(c, sculpt.id, &why))?;
            Ok(End::Failed(why))
        }
    }
}
