//! Prepared facts: what the layers tell of a sculpt at a scale and a layer height, measured once.

use diesel::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::layers::{StackFigures, Thickness};
use wembrit_core::recipe::{PartSetup, RecipeVersion};
use wembrit_core::sculpt::Sculpt;

use super::tasks;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::layer_facts::task_key;
use crate::queries::sculpts::MEASURE_VERSION;
use crate::rows::{
    Nouns, RecipeVersionRow, SculptRow, cups_text, curve_text, islands_text, raised_text,
    thickness_text,
};
use crate::schema::{
    layer_facts as pf, parts, prepared_parts as hf, recipe_versions as rv, sculpts as s,
};

/// Writes down what the layers told. Doing it twice is as good as once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    of: &PartSetup,
    (stack, thickness): (&StackFigures, &Thickness),
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
                pf::orientation.eq(of.setup.pose.to_string()),
                pf::measure_version.eq(MEASURE_VERSION),
                pf::layers.eq(i64::from(stack.layers)),
                pf::pitch_mm.eq(stack.pitch_mm),
                pf::volume_mm3.eq(stack.volume_mm3),
                pf::largest_section_mm2.eq(stack.largest_section()),
            ),
            (
                pf::overhang_mm2.eq(stack.overhang_mm2),
                pf::thickness.eq(thickness_text(thickness)),
                pf::tips_at_deg.eq(stack.tips_at_deg),
                pf::sealed_mm3.eq(stack.sealed_mm3),
                pf::support_columns.eq(i64::from(stack.columns)),
                pf::raised.eq(raised_text(stack)),
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

/// Asks for everything that a part is printed at and that has not been prepared. Answers how many
/// tasks that made.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask_missing(conn: &mut Conn, now_ms: i64) -> Result<usize, StoreError> {
    use diesel::dsl::{exists, not};
    let measured = s::state.eq(wembrit_core::flow::SculptState::Measured.as_str());
    let newer = diesel::alias!(crate::schema::recipe_versions as newer);
    let there = hf::table.filter(
        hf::sculpt_id
            .eq(s::id)
            .and(hf::unit_mm.eq(s::unit_mm))
            .and(hf::scale.eq(rv::scale))
            .and(hf::layer_um.eq(rv::layer_um))
            .and(hf::orientation.eq(rv::orientation))
            .and(hf::supports.eq(rv::supports))
            .and(hf::measure_version.eq(MEASURE_VERSION)),
    );
    let replaced = newer.filter(
        newer
            .field(rv::recipe_id)
            .eq(rv::recipe_id)
            .and(newer.field(rv::version).gt(rv::version)),
    );
    let wanted = parts::table
        .inner_join(rv::table.on(rv::recipe_id.eq(parts::recipe_id)))
        .inner_join(s::table.on(s::id.nullable().eq(parts::sculpt_id)))
        .filter(parts::removed_at_ms.is_null().and(measured))
        .filter(not(exists(there)))
        .filter(not(exists(replaced)))
        .select((SculptRow::as_select(), RecipeVersionRow::as_select()))
        .nouns::<(SculptRow, RecipeVersionRow)>(conn)?;
    let mut asked = 0;
    for (sculpt, version) in wanted {
        asked += usize::from(ask(conn, &sculpt, &version, now_ms)?);
    }
    Ok(asked)
}

/// Asks for a sculpt to be prepared as a version of a recipe prints it; whether that is a new
/// task. One that failed or was parked is not asked for again by itself.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask(
    conn: &mut Conn,
    sculpt: &Sculpt,
    version: &RecipeVersion,
    now_ms: i64,
) -> Result<bool, StoreError> {
    let key = task_key(sculpt, &PartSetup::of(sculpt, version));
    let fresh = queries::tasks::find(conn, TaskKind::Prepare, &key)?.is_none();
    if fresh {
        tasks::ask(conn, TaskKind::Prepare, &key, now_ms)?;
    }
    Ok(fresh)
}
