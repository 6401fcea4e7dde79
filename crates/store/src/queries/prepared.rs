//! Prepared facts: what the layers tell of a sculpt at a scale and a layer height, measured once.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::StackFigures;
use wembrit_core::task::TaskKind;
use wembrit_core::units::LayerHeight;

use super::sculpts::{self, MEASURE_VERSION};
use super::tasks;
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::{PreparedFacts, Sculpt, cups_text, curve_text, islands_text};
use crate::schema::{parts, prepared_facts as pf, recipe_versions as rv, sculpts as s};

/// What is to be measured: a sculpt, its scale, its layer height.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Preparing {
    /// The sculpt.
    pub sculpt: SculptId,
    /// Millimetres in one unit of its file.
    pub unit_mm: f64,
    /// Scale of the recipe.
    pub scale: f64,
    /// Layer height.
    pub layer: LayerHeight,
}

/// The key of the task that prepares it.
fn task_key(sculpt: &Sculpt, scale: f64, layer: LayerHeight) -> String {
    format!(
        "{}:{}:{scale}:{}:{MEASURE_VERSION}",
        sculpt.uid,
        sculpt.unit_mm,
        layer.um()
    )
}

/// What a task is about; nothing when its sculpt has another unit by now.
///
/// # Errors
/// [`StoreError::NotFound`] and [`StoreError::BadRow`].
pub fn of_task(conn: &mut Conn, key: &str) -> Result<Option<(Sculpt, Preparing)>, StoreError> {
    let sculpt = sculpts::of_task(conn, key)?;
    let bad = || StoreError::BadRow(format!("the task '{key}'"));
    let words: Vec<&str> = key.split(':').collect();
    let [_, unit, scale, um, _] = words[..] else {
        return Err(bad());
    };
    let number = |word: &str| word.parse::<f64>().map_err(|_| bad());
    let layer = LayerHeight::try_from(um.parse::<i64>().map_err(|_| bad())?).map_err(|_| bad())?;
    let preparing = Preparing {
        sculpt: sculpt.id,
        unit_mm: number(unit)?,
        scale: number(scale)?,
        layer,
    };
    Ok((sculpt.unit_mm == preparing.unit_mm).then_some((sculpt, preparing)))
}

/// Writes down what the layers told. Doing it twice is as good as once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    of: &Preparing,
    stack: &StackFigures,
    now_ms: i64,
) -> Result<(), StoreError> {
    let (peak, pull) = stack.peak_pull();
    diesel::replace_into(pf::table)
        .values((
            (
                pf::sculpt_id.eq(of.sculpt.0),
                pf::unit_mm.eq(of.unit_mm),
                pf::scale.eq(of.scale),
                pf::layer_um.eq(i64::from(of.layer.um())),
                pf::orientation.eq("as imported"),
                pf::measure_version.eq(MEASURE_VERSION),
                pf::layers.eq(i64::from(stack.layers)),
                pf::pitch_mm.eq(stack.pitch_mm),
                pf::volume_mm3.eq(stack.volume_mm3),
                pf::largest_section_mm2.eq(stack.largest_section()),
            ),
            (
                pf::overhang_mm2.eq(stack.overhang_mm2),
                pf::thinnest_mm.eq(stack.thinnest_mm),
                pf::thinnest_at_mm.eq(stack.thinnest_at_mm),
                pf::tips_at_deg.eq(stack.tips_at_deg),
                pf::sealed_mm3.eq(stack.sealed_mm3),
                pf::peak_pull.eq(pull),
                pf::peak_pull_at_mm.eq(peak as f64 * of.layer.mm()),
                pf::islands.eq(islands_text(stack)),
                pf::cups.eq(cups_text(stack)),
                pf::area_curve.eq(curve_text(&stack.area_mm2)),
                pf::measured_at_ms.eq(now_ms),
            ),
        ))
        .execute(conn)?;
    Ok(())
}

/// The prepared facts of a sculpt in its present unit, by scale and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, id: SculptId) -> Result<Vec<PreparedFacts>, StoreError> {
    Ok(pf::table
        .inner_join(s::table)
        .filter(
            pf::sculpt_id
                .eq(id.0)
                .and(pf::unit_mm.eq(s::unit_mm))
                .and(pf::measure_version.eq(MEASURE_VERSION)),
        )
        .order((pf::scale, pf::layer_um))
        .select(PreparedFacts::as_select())
        .load(conn)?)
}

/// Everything prepared of these sculpts, by sculpt, scale (its bits) and layer height.
pub(super) fn volumes(
    conn: &mut Conn,
    of: &[SculptId],
) -> Result<HashMap<(SculptId, u64, LayerHeight), f64>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    let rows: Vec<(i64, f64, i64, f64)> = pf::table
        .inner_join(s::table)
        .filter(
            pf::sculpt_id
                .eq_any(ids)
                .and(pf::unit_mm.eq(s::unit_mm))
                .and(pf::measure_version.eq(MEASURE_VERSION)),
        )
        .select((pf::sculpt_id, pf::scale, pf::layer_um, pf::volume_mm3))
        .load(conn)?;
    rows.into_iter()
        .map(|(sculpt, scale, um, volume)| {
            let layer = LayerHeight::try_from(um).map_err(|e| StoreError::BadRow(e.to_string()))?;
            Ok(((SculptId(sculpt), scale.to_bits(), layer), volume))
        })
        .collect()
}

/// Asks for everything that a part is printed at and that has not been prepared. Answers how many
/// tasks that made.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask_missing(conn: &mut Conn, now_ms: i64) -> Result<usize, StoreError> {
    use diesel::dsl::{exists, not};
    let measured = s::state.eq(wembrit_core::flow::SculptState::Measured.as_str());
    let newer = diesel::alias!(crate::schema::recipe_versions as newer);
    let there = pf::table.filter(
        pf::sculpt_id
            .eq(s::id)
            .and(pf::unit_mm.eq(s::unit_mm))
            .and(pf::scale.eq(rv::scale))
            .and(pf::layer_um.eq(rv::layer_um))
            .and(pf::measure_version.eq(MEASURE_VERSION)),
    );
    let replaced = newer.filter(
        newer
            .field(rv::recipe_id)
            .eq(rv::recipe_id)
            .and(newer.field(rv::version).gt(rv::version)),
    );
    let wanted: Vec<(Sculpt, f64, i64)> = parts::table
        .inner_join(rv::table.on(rv::recipe_id.eq(parts::recipe_id)))
        .inner_join(s::table.on(s::id.nullable().eq(parts::sculpt_id)))
        .filter(parts::removed_at_ms.is_null().and(measured))
        .filter(not(exists(there)))
        .filter(not(exists(replaced)))
        .select((Sculpt::as_select(), rv::scale, rv::layer_um))
        .distinct()
        .load(conn)?;
    let mut asked = 0;
    for (sculpt, scale, um) in wanted {
        let layer = LayerHeight::try_from(um).map_err(|e| StoreError::BadRow(e.to_string()))?;
        let key = task_key(&sculpt, scale, layer);
        // A task that failed or was parked is not asked for again by itself.
        if tasks::find(conn, TaskKind::Prepare, &key).is_err() {
            tasks::ask(conn, TaskKind::Prepare, &key, now_ms)?;
            asked += 1;
        }
    }
    Ok(asked)
}
