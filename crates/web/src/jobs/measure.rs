//! A sculpt is measured.

use wembrit_core::sculpt::Sculpt;
use wembrit_core::sculpt::measure::{MeasureError, MeasureOptions, measure_file};
use wembrit_core::watch::Watch;
use wembrit_store::queries::{sculpts, workshop};
use wembrit_store::{StoreError, commands};

use super::End;
use crate::apart::{ApartError, MeasureWhere, measure_apart};
use crate::state::App;

pub(super) fn run(app: &App, sculpt: &Sculpt, watch: &dyn Watch) -> Result<End, StoreError> {
    let (bytes, layer) = app.store.read(|c| {
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok((bytes, workshop::load(c)?.layer))
    })?;
    let now = app.now_ms();
    let options = MeasureOptions {
        layer,
        scale: sculpt.unit_mm,
    };
    let measured = match &app.settings.measure {
        MeasureWhere::Here => {
            measure_file(&bytes, &sculpt.file_name, options, watch).map_err(|why| match why {
                MeasureError::Stopped => ApartError::Stopped,
                why => ApartError::Refused(why.to_string()),
            })
        }
        MeasureWhere::Apart(program) => {
            measure_apart(program, &bytes, &sculpt.file_name, options, watch)
        }
    };
    match measured {
        Ok(measured) => {
            app.store.write(|c| {
                let first = sculpts::load_facts(c, sculpt.id)?.is_none();
                commands::sculpts::set_measured(c, sculpt.id, layer, &measured, now)?;
                if first {
                    // Parts that were matched before their file was measured. Measured again, it
                    // changes no recipe: what stands as its file does may be meant so.
                    commands::by_practice::set_up_sculpt(c, sculpt.id, now)?;
                }
                Ok(())
            })?;
            Ok(End::Done)
        }
        Err(ApartError::Stopped) => Ok(End::Stopped),
        Err(ApartError::Process(why)) => Ok(End::Failed(why.to_string())),
        Err(error) => {
            let why = error.to_string();
            app.store
                .write(|c| commands::sculpts::set_refused(c, sculpt.id, &why))?;
            Ok(End::Failed(why))
        }
    }
}
