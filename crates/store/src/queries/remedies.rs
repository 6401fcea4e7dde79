//! What is known of a run that had failures, of the last that went well, and what was changed since.

use diesel::prelude::*;
use wembrit_core::flow::{Plate, Stage};
use wembrit_core::ids::PlateId;
use wembrit_core::running::evidence::RunFigures;

use super::{plates, printers, resins};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{copies, plates as p, remedies as r, runs, setting_versions as sv};

/// A change that was made after failures of a plate.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Remedy {
    /// Which one.
    pub id: i64,
    /// The cause it is for.
    pub cause: String,
    /// What was changed.
    pub change: String,
    /// `made`, `held` or `did not hold`.
    pub state: String,
}

/// What was changed after failures of a plate.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plate(conn: &mut Conn, plate: PlateId) -> Result<Vec<Remedy>, StoreError> {
    let rows: Vec<(i64, String, String, String)> = r::table
        .filter(r::plate_id.eq(plate.0))
        .order(r::id)
        .select((r::id, r::cause, r::change, r::state))
        .load(conn)?;
    let remedy = |(id, cause, change, state)| Remedy {
        id,
        cause,
        change,
        state,
    };
    Ok(rows.into_iter().map(remedy).collect())
}

/// What is known of the newest run of a plate; its pull is that of what stands on it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn figures(conn: &mut Conn, plate: &Plate) -> Result<RunFigures, StoreError> {
    let run = plates::runs_of(conn, &[plate.id])?.remove(&plate.id);
    let (exposure_s, bottom_s, assumed): (f64, f64, String) = sv::table
        .find(plate.setting.0)
        .select((sv::exposure_s, sv::bottom_exposure_s, sv::assumed))
        .first(conn)?;
    let printer = printers::list_all(conn)?
        .into_iter()
        .find(|x| x.id == plate.printer);
    let resin = resins::list_all(conn)?
        .into_iter()
        .find(|x| x.id == plate.resin);
    Ok(RunFigures {
        room_c: run.as_ref().and_then(|r| r.room_c),
        exposure_s,
        bottom_s,
        assumed,
        peak_pull: None,
        pull_limit: printer.as_ref().and_then(|p| p.plate_pull),
        looked: run.as_ref().is_some_and(|r| r.looked_at_ms.is_some()),
        trouble: run.map_or_else(String::new, |r| r.trouble),
        printer: printer.map_or_else(String::new, |p| p.name),
        resin: resin.map_or_else(String::new, |r| r.name),
    })
}

/// The newest other plate that had good copies of a recipe that failed on this one, and its number.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn last_good(conn: &mut Conn, plate: &Plate) -> Result<Option<(i64, RunFigures)>, StoreError> {
    let versions: Vec<i64> = copies::table
        .filter(copies::plate_id.eq(plate.id.0))
        .filter(copies::stage.eq(Stage::Failed.as_str()))
        .select(copies::recipe_version_id)
        .distinct()
        .load(conn)?;
    let found: Option<i64> = copies::table
        .inner_join(p::table.inner_join(runs::table))
        .filter(copies::recipe_version_id.eq_any(versions))
        .filter(copies::stage.eq_any([Stage::Good.as_str(), Stage::Surplus.as_str()]))
        .filter(p::id.ne(plate.id.0))
        .order(runs::started_at_ms.desc())
        .select(p::id)
        .first(conn)
        .optional()?;
    let Some(found) = found else {
        return Ok(None);
    };
    let good = plates::load(conn, PlateId(found))?;
    Ok(Some((good.number, figures(conn, &good)?)))
}
