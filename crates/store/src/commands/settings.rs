//! Process settings: chains of versions, one for each printer, resin and layer height.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use wembrit_core::units::LayerHeight;
use wembrit_core::workshop::Preset;
use wembrit_core::workshop::print_time::{LayerTiming, TIMING_FIELDS};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::{last_id, new_uid};
use crate::schema::{process_settings as ps, setting_versions as sv};

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
    let kind = queries::printers::load(conn, printer)?.kind;
    let timing = Preset::of(kind)[0].timing(layer);
    append(conn, id, 0, &timing, TIMING_FIELDS, now_ms)?;
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
            sv::light_off_s.eq(timing.light_off_s),
            sv::transition_layers.eq(i64::from(timing.transition_layers)),
            sv::second_lift_mm.eq(timing.second_lift_mm),
            sv::second_lift_mm_per_min.eq(timing.second_lift_mm_per_min),
            sv::last_retract_mm.eq(timing.last_retract_mm),
            sv::last_retract_mm_per_min.eq(timing.last_retract_mm_per_min),
            sv::bottom_lift_mm.eq(timing.bottom_lift_mm),
            sv::bottom_lift_mm_per_min.eq(timing.bottom_lift_mm_per_min),
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
    let usual = queries::workshop::load(conn)?.layer;
    let mut wanted: Vec<(ResinId, LayerHeight)> = queries::resins::list(conn)?
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
    for printer in queries::printers::list(conn)? {
        for (resin, layer) in &wanted {
            ensure(conn, printer.id, *resin, *layer, now_ms)?;
        }
    }
    Ok(())
}
