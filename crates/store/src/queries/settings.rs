//! Process settings: chains of versions, one for each printer, resin and layer height.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use wembrit_core::units::LayerHeight;
use wembrit_core::workshop::print_time::LayerTiming;

use super::{last_id, new_uid};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{ProcessSetting, SettingVersion};
use crate::schema::{process_settings as ps, setting_versions as sv};

/// Every field of a timing, as named in `assumed`.
pub const TIMING_FIELDS: &str = "exposure_s,bottom_layers,bottom_exposure_s,lift_mm,lift_mm_per_min,\
retract_mm_per_min,rest_s,tilt_cycle_s,beam_mm2_per_s,beam_mm_per_s";

/// Every setting with its newest version.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<(ProcessSetting, SettingVersion)>, StoreError> {
    let rows: Vec<(ProcessSetting, SettingVersion)> = ps::table
        .inner_join(sv::table)
        .filter(sv::for_trial.eq(0))
        .order((ps::printer_id, ps::resin_id, ps::layer_um, sv::version))
        .select((ProcessSetting::as_select(), SettingVersion::as_select()))
        .load(conn)?;
    let mut newest: Vec<(ProcessSetting, SettingVersion)> = Vec::new();
    for row in rows {
        match newest.last_mut() {
            Some(last) if last.0.id == row.0.id => *last = row,
            _ => newest.push(row),
        }
    }
    Ok(newest)
}

/// One setting with its newest version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(
    conn: &mut Conn,
    id: ProcessSettingId,
) -> Result<(ProcessSetting, SettingVersion), StoreError> {
    ps::table
        .inner_join(sv::table)
        .filter(ps::id.eq(id.0).and(sv::for_trial.eq(0)))
        .order(sv::version.desc())
        .select((ProcessSetting::as_select(), SettingVersion::as_select()))
        .first(conn)
        .or_not_found("process setting")
}

/// The setting of a printer, resin and layer height; made with assumed figures when there is
/// none yet.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ensure(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
    layer: LayerHeight,
    now_ms: i64,
) -> Result<ProcessSettingId, StoreError> {
    let found = ps::table
        .filter(
            ps::printer_id
                .eq(printer.0)
                .and(ps::resin_id.eq(resin.0))
                .and(ps::layer_um.eq(i64::from(layer.um()))),
        )
        .select(ps::id)
        .first::<i64>(conn)
        .optional()?;
    if let Some(id) = found {
        return Ok(ProcessSettingId(id));
    }
    diesel::insert_into(ps::table)
        .values((
            ps::uid.eq(new_uid()),
            ps::printer_id.eq(printer.0),
            ps::resin_id.eq(resin.0),
            ps::layer_um.eq(i64::from(layer.um())),
        ))
        .execute(conn)?;
    let id = last_id(conn).map(ProcessSettingId)?;
    append(
        conn,
        id,
        0,
        &LayerTiming::assumed(layer),
        TIMING_FIELDS,
        now_ms,
    )?;
    Ok(id)
}

/// Adds a version after `known`, the newest one the maker saw.
///
/// # Errors
/// [`StoreError::Conflict`] when there is a newer one.
pub fn append(
    conn: &mut Conn,
    id: ProcessSettingId,
    known: i64,
    timing: &LayerTiming,
    assumed: &str,
    now_ms: i64,
) -> Result<SettingVersionId, StoreError> {
    let newest: Option<i64> = sv::table
        .filter(sv::setting_id.eq(id.0).and(sv::for_trial.eq(0)))
        .select(diesel::dsl::max(sv::version))
        .first(conn)?;
    if newest.unwrap_or(0) != known {
        return Err(StoreError::Conflict {
            what: "process setting",
        });
    }
    insert(conn, id, timing, assumed, false, now_ms)
}

/// A timing that holds for one trial alone; the one in use stays.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn for_trial(
    conn: &mut Conn,
    id: ProcessSettingId,
    timing: &LayerTiming,
    now_ms: i64,
) -> Result<SettingVersionId, StoreError> {
    insert(conn, id, timing, "", true, now_ms)
}

fn insert(
    conn: &mut Conn,
    id: ProcessSettingId,
    timing: &LayerTiming,
    assumed: &str,
    for_trial: bool,
    now_ms: i64,
) -> Result<SettingVersionId, StoreError> {
    let last: Option<i64> = sv::table
        .filter(sv::setting_id.eq(id.0))
        .select(diesel::dsl::max(sv::version))
        .first(conn)?;
    diesel::insert_into(sv::table)
        .values((
            sv::uid.eq(new_uid()),
            sv::setting_id.eq(id.0),
            sv::version.eq(last.unwrap_or(0) + 1),
            sv::for_trial.eq(i64::from(for_trial)),
            sv::exposure_s.eq(timing.exposure_s),
            sv::bottom_layers.eq(i64::from(timing.bottom_layers)),
            sv::bottom_exposure_s.eq(timing.bottom_exposure_s),
            sv::lift_mm.eq(timing.lift_mm),
            sv::lift_mm_per_min.eq(timing.lift_mm_per_min),
            sv::retract_mm_per_min.eq(timing.retract_mm_per_min),
            sv::rest_s.eq(timing.rest_s),
            sv::tilt_cycle_s.eq(timing.tilt_cycle_s),
            sv::beam_mm2_per_s.eq(timing.beam_mm2_per_s),
            sv::beam_mm_per_s.eq(timing.beam_mm_per_s),
            sv::assumed.eq(assumed),
            sv::created_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(SettingVersionId)
}

/// Makes sure that every printer in use has a setting for every resin and layer height the army
/// asks for, and for the workshop's usual layer height with every resin in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ensure_all(conn: &mut Conn, now_ms: i64) -> Result<(), StoreError> {
    use crate::schema::{parts, recipe_versions as rv};
    let usual = super::workshop::load(conn)?.layer;
    let mut wanted: Vec<(ResinId, LayerHeight)> = super::resins::list(conn)?
        .into_iter()
        .map(|resin| (resin.id, usual))
        .collect();
    let in_use: Vec<(i64, i64)> = rv::table
        .inner_join(parts::table.on(parts::recipe_id.eq(rv::recipe_id)))
        .filter(parts::removed_at_ms.is_null())
        .select((rv::resin_id, rv::layer_um))
        .distinct()
        .load(conn)?;
    for (resin, um) in in_use {
        let layer = LayerHeight::try_from(um).map_err(|e| StoreError::BadRow(e.to_string()))?;
        wanted.push((ResinId(resin), layer));
    }
    for printer in super::printers::list(conn)? {
        for (resin, layer) in &wanted {
            ensure(conn, printer.id, *resin, *layer, now_ms)?;
        }
    }
    Ok(())
}
