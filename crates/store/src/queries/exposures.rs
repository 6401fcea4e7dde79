//! Tests of exposures, and how sure an exposure is by them.

use diesel::prelude::*;
use wembrit_core::exposure::{ExposureFacts, ExposureState, ExposureTest, Tested};
use wembrit_core::flow::{FailureCause, PlateState};
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId};
use wembrit_core::learn::{LadderPoint, Verdict};
use wembrit_core::workshop::ProcessSetting;

use super::benches;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{ExposureTestRow, Nouns};
use crate::schema::{
    bench_changes as bc, copies, exposure_tests as et, ladder_steps as ls, plates,
    process_settings as ps, runs, setting_versions as sv,
};

/// The tests of a setting with what was noted beside them, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn tests(
    conn: &mut Conn,
    setting: ProcessSettingId,
) -> Result<Vec<(ExposureTest, String)>, StoreError> {
    et::table
        .filter(et::setting_id.eq(setting.0))
        .order((et::tested_at_ms, et::id))
        .select(ExposureTestRow::as_select())
        .nouns::<ExposureTestRow>(conn)
}

/// How deep a resin cured on a printer, at any layer height: that is of resin and lamp.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ladder(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
) -> Result<Vec<LadderPoint>, StoreError> {
    let rows: Vec<(f64, f64)> = ls::table
        .inner_join(ps::table)
        .filter(ps::printer_id.eq(printer.0).and(ps::resin_id.eq(resin.0)))
        .order((ls::exposure_s, ls::id))
        .select((ls::exposure_s, ls::depth_mm))
        .load(conn)?;
    let point = |(exposure_s, depth_mm)| LadderPoint {
        exposure_s,
        depth_mm,
    };
    Ok(rows.into_iter().map(point).collect())
}

/// When the film and the screen of a printer and the batch of a resin were changed last, ms since 1970.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn changes(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
) -> Result<[Option<i64>; 3], StoreError> {
    let newest = diesel::dsl::max(bc::changed_at_ms);
    let mut of = |what: &str| {
        bc::table
            .filter(bc::printer_id.eq(printer.0).and(bc::what.eq(what)))
            .select(newest)
            .first(conn)
    };
    let (film, screen) = (of("film")?, of("screen")?);
    let batch = bc::table
        .filter(bc::resin_id.eq(resin.0))
        .select(newest)
        .first(conn)?;
    Ok([film, screen, batch])
}

/// A temperature that was said in so many days is that of the room still.
const ROOM_DAYS: i64 = 3;

/// How warm the room is, as it was said of late, °C.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn room(conn: &mut Conn, now_ms: i64) -> Result<Option<f64>, StoreError> {
    benches::room_since(conn, now_ms - ROOM_DAYS * 86_400_000)
}

/// Whether an exposure test of a setting came out right since a time, ms since 1970.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn is_right_since(
    conn: &mut Conn,
    setting: ProcessSettingId,
    since_ms: i64,
) -> Result<bool, StoreError> {
    let right = et::table
        .filter(et::setting_id.eq(setting.0))
        .filter(et::of.eq(Tested::Layer.as_str()))
        .filter(et::verdict.eq(Verdict::Right.as_str()))
        .filter(et::tested_at_ms.ge(since_ms));
    Ok(diesel::select(diesel::dsl::exists(right)).get_result(conn)?)
}

/// How sure the exposure of a process setting is at a time.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn state(
    conn: &mut Conn,
    setting: &ProcessSetting,
    now_ms: i64,
) -> Result<ExposureState, StoreError> {
    let changed: i64 = sv::table
        .find(setting.version.0)
        .select(sv::created_at_ms)
        .first(conn)?;
    let right: Option<(i64, Option<f64>)> = et::table
        .filter(et::setting_id.eq(setting.id.0))
        .filter(et::of.eq(Tested::Layer.as_str()))
        .filter(et::verdict.eq(Verdict::Right.as_str()))
        .order(et::tested_at_ms.desc())
        .select((et::tested_at_ms, et::room_c))
        .first(conn)
        .optional()?;
    let tested_at_ms = right.map_or(changed, |(at, _)| at.max(changed));
    let last: Option<(i64, i64, String)> = runs::table
        .inner_join(plates::table.inner_join(sv::table))
        .filter(sv::setting_id.eq(setting.id.0))
        .filter(runs::ended_at_ms.is_not_null())
        .order(runs::started_at_ms.desc())
        .select((runs::started_at_ms, plates::id, plates::state))
        .first(conn)
        .optional()?;
    let mut suspect = false;
    // A version or a test made since then answers what that plate said.
    if let Some((_, plate, state)) = last.as_ref().filter(|l| l.0 >= tested_at_ms) {
        let words = FailureCause::OF_EXPOSURE.iter().map(|c| c.as_str());
        let failed: i64 = copies::table
            .filter(copies::plate_id.eq(plate))
            .filter(copies::cause.eq_any(words))
            .count()
            .get_result(conn)?;
        suspect = failed > 0 || state == PlateState::Lost.as_str();
    }
    let [film_at_ms, screen_at_ms, resin_at_ms] = changes(conn, setting.printer, setting.resin)?;
    let facts = ExposureFacts {
        confirmed: setting.exposure_confirmed(),
        tested_at_ms,
        tested_c: right.and_then(|(_, room)| room),
        used_at_ms: last.map(|l| l.0),
        suspect,
        resin_at_ms,
        film_at_ms,
        screen_at_ms,
        room_c: room(conn, now_ms)?,
    };
    Ok(ExposureState::of(&facts, now_ms))
}
