//! Prepared facts: what the layers tell of a sculpt at a scale and a layer height, measured once.

use diesel::prelude::*;
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::StackFigures;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::units::LayerHeight;

use super::sculpts::{self, MEASURE_VERSION};
use super::tasks;
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::{PreparedFacts, RecipeVersion, Sculpt, cups_text, curve_text, islands_text};
use crate::schema::{
    hung_facts as hf, parts, prepared_facts as pf, recipe_versions as rv, sculpts as s,
};

/// What is to be measured: a sculpt as a recipe prints it.
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
    /// How it hangs.
    pub pose: Pose,
    /// Its supports.
    pub supports: Supports,
}

impl Preparing {
    /// A sculpt as a version of a recipe prints it.
    #[must_use]
    pub fn of(sculpt: &Sculpt, version: &RecipeVersion) -> Self {
        Self {
            sculpt: sculpt.id,
            unit_mm: sculpt.unit_mm,
            scale: version.scale,
            layer: version.layer,
            pose: version.pose,
            supports: version.supports,
        }
    }

    /// The key of the task that prepares it.
    #[must_use]
    pub fn task_key(&self, sculpt: &Sculpt) -> String {
        format!(
            "{}:{}:{}:{}:{}:{}:{MEASURE_VERSION}",
            sculpt.uid,
            self.unit_mm,
            self.scale,
            self.layer.um(),
            self.pose,
            self.supports
        )
    }
}

/// What a task is about; nothing when its sculpt has another unit by now.
///
/// # Errors
/// [`StoreError::NotFound`] and [`StoreError::BadRow`].
pub fn of_task(conn: &mut Conn, key: &str) -> Result<Option<(Sculpt, Preparing)>, StoreError> {
    let sculpt = sculpts::of_task(conn, key)?;
    let bad = || StoreError::BadRow(format!("the task '{key}'"));
    let words: Vec<&str> = key.split(':').collect();
    let [_, unit, scale, um, pose, supports, _] = words[..] else {
        // A key as an earlier version wrote it: what it asked for is asked for anew.
        return Ok(None);
    };
    let number = |word: &str| word.parse::<f64>().map_err(|_| bad());
    let layer = LayerHeight::try_from(um.parse::<i64>().map_err(|_| bad())?).map_err(|_| bad())?;
    let preparing = Preparing {
        sculpt: sculpt.id,
        unit_mm: number(unit)?,
        scale: number(scale)?,
        layer,
        pose: pose.parse().map_err(|_| bad())?,
        supports: supports.parse().map_err(|_| bad())?,
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
                pf::orientation.eq(of.pose.to_string()),
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
                pf::support_columns.eq(i64::from(stack.columns)),
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
    let wanted: Vec<(Sculpt, RecipeVersion)> = parts::table
        .inner_join(rv::table.on(rv::recipe_id.eq(parts::recipe_id)))
        .inner_join(s::table.on(s::id.nullable().eq(parts::sculpt_id)))
        .filter(parts::removed_at_ms.is_null().and(measured))
        .filter(not(exists(there)))
        .filter(not(exists(replaced)))
        .select((Sculpt::as_select(), RecipeVersion::as_select()))
        .load(conn)?;
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
    let key = Preparing::of(sculpt, version).task_key(sculpt);
    let fresh = tasks::find(conn, TaskKind::Prepare, &key).is_err();
    if fresh {
        tasks::ask(conn, TaskKind::Prepare, &key, now_ms)?;
    }
    Ok(fresh)
}
