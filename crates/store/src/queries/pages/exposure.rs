//! The exposure of a process setting: its tests, its ladder, its neighbours.

use wembrit_core::exposure::{ExposureState, ExposureTest};
use wembrit_core::ids::ProcessSettingId;
use wembrit_core::learn::LadderPoint;
use wembrit_core::workshop::{Printer, ProcessSetting, Resin};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{exposures, printers, resins, settings};

/// What the page of an exposure shows.
#[derive(Debug, Clone, PartialEq)]
pub struct ExposurePage {
    /// The setting.
    pub setting: ProcessSetting,
    /// Its printer.
    pub printer: Printer,
    /// Its resin.
    pub resin: Resin,
    /// How sure its exposure is.
    pub state: ExposureState,
    /// Its tests with what was noted beside them, oldest first.
    pub tests: Vec<(ExposureTest, String)>,
    /// When film or resin were changed last, ms since 1970: tests before that say little.
    pub changed_at_ms: Option<i64>,
    /// How warm the room is, °C.
    pub room_c: Option<f64>,
    /// How deep the resin cured on the printer.
    pub ladder: Vec<LadderPoint>,
    /// The same printer and resin at other layer heights, where their exposure is tested.
    pub others: Vec<ProcessSetting>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(
    conn: &mut Conn,
    id: ProcessSettingId,
    now_ms: i64,
) -> Result<ExposurePage, StoreError> {
    let setting = settings::load(conn, id)?;
    let (printer, resin) = (setting.printer, setting.resin);
    let mut others = settings::list(conn)?;
    others.retain(|s| {
        (s.printer, s.resin) == (printer, resin) && s.id != id && s.exposure_confirmed()
    });
    Ok(ExposurePage {
        printer: printers::load(conn, printer)?,
        resin: resins::load(conn, resin)?,
        state: exposures::state(conn, &setting, now_ms)?,
        tests: exposures::tests(conn, id)?,
        changed_at_ms: exposures::changes(conn, printer, resin)?
            .into_iter()
            .flatten()
            .max(),
        room_c: exposures::room(conn, now_ms)?,
        ladder: exposures::ladder(conn, printer, resin)?,
        others,
        setting,
    })
}
