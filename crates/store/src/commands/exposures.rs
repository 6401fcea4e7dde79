//! A test of an exposure is judged, a depth is measured, a value is taken over, film or resin change.

use diesel::prelude::*;
use wembrit_core::exposure::{ExposureTest, Tested};
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use wembrit_core::learn::LadderPoint;
use wembrit_core::workshop::without;

use super::settings::append;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, settings};
use crate::schema::{bench_changes as bc, exposure_tests as et, ladder_steps as ls};

/// Writes down how a test came out.
///
/// # Errors
/// [`StoreError::NotFound`] where the setting is not there.
pub fn judge(
    conn: &mut Conn,
    setting: ProcessSettingId,
    test: &ExposureTest,
    note: &str,
) -> Result<(), StoreError> {
    settings::load(conn, setting)?;
    diesel::insert_into(et::table)
        .values((
            et::uid.eq(new_uid()),
            et::setting_id.eq(setting.0),
            et::of.eq(test.of.as_str()),
            et::exposure_s.eq(test.judged.exposure_s),
            et::verdict.eq(test.judged.verdict.as_str()),
            et::room_c.eq(test.room_c),
            et::note.eq(note.trim()),
            et::tested_at_ms.eq(test.at_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Writes down how deep the resin of a setting cured on its printer.
///
/// # Errors
/// [`StoreError::NotFound`] where the setting is not there.
pub fn measure(
    conn: &mut Conn,
    setting: ProcessSettingId,
    steps: &[LadderPoint],
    now_ms: i64,
) -> Result<(), StoreError> {
    settings::load(conn, setting)?;
    for step in steps {
        diesel::insert_into(ls::table)
            .values((
                ls::uid.eq(new_uid()),
                ls::setting_id.eq(setting.0),
                ls::exposure_s.eq(step.exposure_s),
                ls::depth_mm.eq(step.depth_mm),
                ls::measured_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// Forgets every depth that was measured of a resin on a printer.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn forget_ladder(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
) -> Result<(), StoreError> {
    use crate::schema::process_settings as ps;
    let of = ps::table
        .filter(ps::printer_id.eq(printer.0).and(ps::resin_id.eq(resin.0)))
        .select(ps::id);
    diesel::delete(ls::table.filter(ls::setting_id.eq_any(of))).execute(conn)?;
    Ok(())
}

/// A new version of a setting with this exposure, which somebody has tested; everything else stays.
///
/// # Errors
/// [`StoreError::Conflict`] where the setting has a newer version than `known`.
pub fn take_over(
    conn: &mut Conn,
    setting: ProcessSettingId,
    of: Tested,
    seconds: f64,
    known: i64,
    now_ms: i64,
) -> Result<SettingVersionId, StoreError> {
    let now = settings::load(conn, setting)?;
    let mut timing = now.timing;
    let name = match of {
        Tested::Layer => {
            timing.exposure_s = seconds;
            "exposure_s"
        }
        Tested::Bottom => {
            timing.bottom_exposure_s = seconds;
            "bottom_exposure_s"
        }
    };
    let assumed = without(name, &now.assumed);
    append(conn, setting, known, &timing, &assumed, now_ms)
}

/// What was changed at the bench.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Changed {
    /// The film of a printer.
    Film(PrinterId),
    /// The screen of a printer.
    Screen(PrinterId),
    /// Another batch of a resin is in use.
    Resin(ResinId),
}

/// Writes down that something was changed after which exposures are tested again.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn changed(conn: &mut Conn, what: Changed, now_ms: i64) -> Result<(), StoreError> {
    let (printer, resin, word) = match what {
        Changed::Film(printer) => (Some(printer.0), None, "film"),
        Changed::Screen(printer) => (Some(printer.0), None, "screen"),
        Changed::Resin(resin) => (None, Some(resin.0), "batch"),
    };
    diesel::insert_into(bc::table)
        .values((
            bc::uid.eq(new_uid()),
            bc::printer_id.eq(printer),
            bc::resin_id.eq(resin),
            bc::changed_at_ms.eq(now_ms),
            bc::what.eq(word),
        ))
        .execute(conn)?;
    Ok(())
}
