//! Prepared facts: what the layers tell of a sculpt at a scale and a layer height, measured once.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::{Task, TaskKind};
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::{PartSetup, Setup};
use wembrit_core::sculpt::{LayerFacts, Sculpt};
use wembrit_core::units::LayerHeight;

use super::sculpts::{self, MEASURE_VERSION};
use super::tasks;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{LayerFactsRow, Nouns};
use crate::schema::{layer_facts as pf, sculpts as s};

/// What a task is about; nothing when its sculpt has another unit by now.
///
/// # Errors
/// [`StoreError::NotFound`] and [`StoreError::BadRow`].
pub fn of_task(conn: &mut Conn, key: &str) -> Result<Option<(Sculpt, PartSetup)>, StoreError> {
    let sculpt = sculpts::of_task(conn, key)?;
    let bad = || StoreError::BadRow(format!("the task '{key}'"));
    let words: Vec<&str> = key.split(':').collect();
    let [_, unit, scale, um, pose, supports, _] = words[..] else {
        // A key as an earlier version wrote it: what it asked for is asked for anew.
        return Ok(None);
    };
    let number = |word: &str| word.parse::<f64>().map_err(|_| bad());
    let layer = LayerHeight::try_from(um.parse::<i64>().map_err(|_| bad())?).map_err(|_| bad())?;
    let setup = PartSetup {
        sculpt: sculpt.id,
        unit_mm: number(unit)?,
        scale: number(scale)?,
        layer,
        setup: Setup {
            pose: pose.parse().map_err(|_| bad())?,
            supports: supports.parse().map_err(|_| bad())?,
        },
    };
    Ok((sculpt.unit_mm == setup.unit_mm).then_some((sculpt, setup)))
}

/// The prepared facts of a sculpt in its present unit, by scale and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, id: SculptId) -> Result<Vec<LayerFacts>, StoreError> {
    pf::table
        .inner_join(s::table)
        .filter(
            pf::sculpt_id
                .eq(id.0)
                .and(pf::unit_mm.eq(s::unit_mm))
                .and(pf::measure_version.eq(MEASURE_VERSION)),
        )
        .order((pf::scale, pf::layer_um))
        .select(LayerFactsRow::as_select())
        .nouns::<LayerFactsRow>(conn)
}

/// What the layers of some files tell as they stand, at their own size.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_files(
    conn: &mut Conn,
    of: &[SculptId],
) -> Result<HashMap<SculptId, LayerFacts>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    let all = pf::table
        .inner_join(s::table)
        .filter(
            pf::sculpt_id
                .eq_any(ids)
                .and(pf::unit_mm.eq(s::unit_mm))
                .and(pf::scale.eq(1.0))
                .and(pf::measure_version.eq(MEASURE_VERSION)),
        )
        .select(LayerFactsRow::as_select())
        .nouns::<LayerFactsRow>(conn)?;
    let of_file = all.into_iter().filter(LayerFacts::is_of_file);
    Ok(of_file.map(|l| (l.sculpt, l)).collect())
}

/// The key of the task that prepares a setup of a sculpt.
#[must_use]
pub fn task_key(sculpt: &Sculpt, setup: &PartSetup) -> String {
    format!(
        "{}:{}:{}:{}:{}:{}:{MEASURE_VERSION}",
        sculpt.uid,
        setup.unit_mm,
        setup.scale,
        setup.layer.um(),
        setup.setup.pose,
        setup.setup.supports
    )
}

/// The task that prepares a setup of a sculpt, if it was asked for.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn task(
    conn: &mut Conn,
    sculpt: &Sculpt,
    setup: &PartSetup,
) -> Result<Option<Task>, StoreError> {
    tasks::find(conn, TaskKind::Prepare, &task_key(sculpt, setup))
}
