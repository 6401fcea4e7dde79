//! How far a project is: what its models lack, which plates come, what was done so far.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use diesel::dsl::count_star;
use diesel::prelude::*;
use wembrit_core::army::miniatures::Miniature;
use wembrit_core::army::{Army, ArmyUnit};
use wembrit_core::flow::{Plate, PlateState, Stage};
use wembrit_core::ids::{ModelId, PartId, PlateId, ProjectId, SculptId};
use wembrit_core::odds::Judged;
use wembrit_core::sculpt::SculptFacts;

use super::schedule::{self, Scheduled};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, demand, judged, miniatures, muster, plates};
use crate::schema::{copies, plates as p, runs};
use crate::until_written::kept;

/// What the page shows.
#[derive(Debug, Clone, PartialEq)]
pub struct ProgressPage {
    /// The army.
    pub army: Arc<Army>,
    /// Its miniatures, by model.
    pub miniatures: HashMap<ModelId, Vec<Miniature>>,
    /// Its accepted plates.
    pub plates: Vec<Plate>,
    /// Copies on plates that are not judged, of all projects.
    pub on: BTreeMap<PlateId, BTreeMap<PartId, u32>>,
    /// All copies that ever stood on its plates.
    pub stood: BTreeMap<PlateId, BTreeMap<PartId, u32>>,
    /// When its plates that held were off, ms since 1970, in order.
    pub off_ms: Vec<i64>,
    /// When its first plate was put on.
    pub begun_ms: Option<i64>,
    /// When it is wanted.
    pub deadline_ms: Option<i64>,
    /// How copies came out, part by part, in the whole workshop.
    pub judged: BTreeMap<PartId, Judged>,
    /// Plates that held, and those lost whole.
    pub plates_lost: Judged,
    /// What the schedule of the workshop is made from.
    pub scheduled: Arc<Scheduled>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, project: ProjectId) -> Result<Arc<ProgressPage>, StoreError> {
    kept(conn, ("progress", &[project.0]), |conn| {
        let army = army::load(conn, project)?;
        let models: Vec<ModelId> = army
            .units
            .iter()
            .flat_map(|u| u.models.iter().map(|m| m.model.id))
            .collect();
        let plates = plates::accepted(conn, project)?;
        let ids: Vec<PlateId> = plates.iter().map(|p| p.id).collect();
        let ran = plates::runs_of(conn, &ids)?;
        let held = |p: &&Plate| matches!(p.state, PlateState::Printed | PlateState::Done);
        let ended = plates
            .iter()
            .filter(held)
            .filter_map(|p| ran.get(&p.id)?.ended_at_ms);
        let mut off_ms: Vec<i64> = ended.collect();
        off_ms.sort_unstable();
        Ok(ProgressPage {
            miniatures: miniatures::of_models(conn, &models)?,
            on: not_judged(conn)?,
            stood: stood(conn, project)?,
            begun_ms: begun(conn, &ids)?,
            off_ms,
            deadline_ms: muster::deadlines(conn)?.get(&project).copied(),
            judged: judged::by_part(conn)?,
            plates_lost: judged::plates_lost(conn)?,
            scheduled: schedule::load(conn)?,
            plates,
            army,
        })
    })
}

/// What was measured on the sculpts of some units.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn measured(
    conn: &mut Conn,
    units: &[ArmyUnit],
) -> Result<HashMap<SculptId, SculptFacts>, StoreError> {
    let models = units.iter().flat_map(|u| &u.models);
    let parts = models.flat_map(|m| &m.parts);
    let of: Vec<SculptId> = parts.filter_map(|p| p.part.sculpt).collect();
    demand::facts_of(conn, &of)
}

/// Copies by plate and part.
type OnPlates = BTreeMap<PlateId, BTreeMap<PartId, u32>>;

fn on_plates(rows: Vec<(i64, i64, i64)>) -> OnPlates {
    let mut all = OnPlates::new();
    for (plate, part, many) in rows {
        let on = all.entry(PlateId(plate)).or_default();
        on.insert(PartId(part), u32::try_from(many).unwrap_or(u32::MAX));
    }
    all
}

/// All copies that ever stood on the plates of a project.
fn stood(conn: &mut Conn, project: ProjectId) -> Result<OnPlates, StoreError> {
    let rows = copies::table
        .inner_join(p::table)
        .filter(p::project_id.eq(project.0))
        .group_by((copies::plate_id, copies::part_id))
        .select((copies::plate_id, copies::part_id, count_star()))
        .load(conn)?;
    Ok(on_plates(rows))
}

/// Copies on plates that are not judged yet.
fn not_judged(conn: &mut Conn) -> Result<OnPlates, StoreError> {
    let open = [Stage::Planned, Stage::Printing, Stage::InFinishing].map(Stage::as_str);
    let rows = copies::table
        .filter(copies::stage.eq_any(open))
        .group_by((copies::plate_id, copies::part_id))
        .select((copies::plate_id, copies::part_id, count_star()))
        .load(conn)?;
    Ok(on_plates(rows))
}

fn begun(conn: &mut Conn, plates: &[PlateId]) -> Result<Option<i64>, StoreError> {
    let ids: Vec<i64> = plates.iter().map(|p| p.0).collect();
    Ok(runs::table
        .filter(runs::plate_id.eq_any(ids))
        .select(diesel::dsl::min(runs::started_at_ms))
        .first(conn)?)
}
