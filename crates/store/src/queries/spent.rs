//! What plates took, and what their copies cost by that.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::cost_parts::CostParts;
use wembrit_core::flow::{Plate, RunOutcome};
use wembrit_core::ids::{PlateId, ProjectId};
use wembrit_core::ledger::LedgerPlate;
use wembrit_core::stores::{Lost, Place, Volume};

use super::{plates as all_plates, took};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::PlacementRow;
use crate::schema::{moves, placements, plates, runs};
use crate::until_written::kept;

/// Resin that was lost with the runs of plates, by cause, ml: what went into prints and baths is not.
fn spoilt(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<HashMap<PlateId, BTreeMap<String, f64>>, StoreError> {
    let lost = [Lost::Spilt, Lost::Sheet, Lost::Changed, Lost::WrittenOff];
    let rows: Vec<(i64, String, i64)> = moves::table
        .inner_join(runs::table)
        .filter(runs::plate_id.eq_any(of.iter().map(|p| p.0)))
        .filter(moves::to_place.eq_any(lost.map(|l| Place::Gone(l).word().0)))
        .select((runs::plate_id, moves::cause, moves::ul))
        .load(conn)?;
    let mut all: HashMap<PlateId, BTreeMap<String, f64>> = HashMap::new();
    for (plate, cause, ul) in rows {
        let of = all.entry(PlateId(plate)).or_default();
        *of.entry(cause).or_default() += Volume(ul).in_ml();
    }
    Ok(all)
}

/// The plates of a project that were accepted, with what they took.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plates_of(conn: &mut Conn, project: ProjectId) -> Result<Arc<Vec<LedgerPlate>>, StoreError> {
    kept(conn, ("plates of the ledger", &[project.0]), |conn| {
        took_by_plates(conn, project)
    })
}

/// What copies cost by what their plates took, where that is not what was planned; of one project or
/// of all.
///
/// # Errors
/// [`StoreError`] of the data file.
pub(super) fn costs_as_taken(
    conn: &mut Conn,
    of: Option<ProjectId>,
) -> Result<HashMap<i64, Taken>, StoreError> {
    let projects = match of {
        Some(project) => vec![project.0],
        None => plates::table
            .select(plates::project_id)
            .distinct()
            .load(conn)?,
    };
    let mut all = HashMap::new();
    for project in projects {
        let of = plates_of(conn, ProjectId(project))?;
        let otherwise = of
            .iter()
            .filter(|p| p.actual().is_some_and(|a| a != p.planned));
        let otherwise: HashMap<i64, &LedgerPlate> = otherwise.map(|p| (p.id.0, p)).collect();
        let placed: Vec<(i64, PlacementRow)> = placements::table
            .filter(placements::plate_id.eq_any(otherwise.keys()))
            .filter(placements::copy_id.is_not_null())
            .order((placements::plate_id, placements::seq))
            .select((
                placements::copy_id.assume_not_null(),
                PlacementRow::as_select(),
            ))
            .load(conn)?;
        for on_one in placed.chunk_by(|a, b| a.1.plate_id == b.1.plate_id) {
            let planned: Vec<CostParts> = on_one.iter().map(|(_, row)| row.cost()).collect();
            let taken = otherwise[&on_one[0].1.plate_id].of_copies(&planned);
            for (((copy, _), planned), cost) in on_one.iter().zip(planned).zip(taken) {
                all.insert(*copy, Taken { planned, cost });
            }
        }
    }
    Ok(all)
}

/// What a copy was planned to cost, and what it cost by what its plate took.
#[derive(Debug, Clone, Copy)]
pub(super) struct Taken {
    /// As planned.
    pub(super) planned: CostParts,
    /// As it was taken.
    pub(super) cost: CostParts,
}

fn took_by_plates(conn: &mut Conn, project: ProjectId) -> Result<Vec<LedgerPlate>, StoreError> {
    let accepted = all_plates::accepted(conn, project)?;
    let ids: Vec<PlateId> = accepted.iter().map(|p| p.id).collect();
    let mut spoilt = spoilt(conn, &ids)?;
    let took = took::of_plates(conn, &ids)?;
    let back = RunOutcome::PutBack.as_str();
    let ended: HashMap<i64, i64> = runs::table
        .filter(runs::plate_id.eq_any(ids.iter().map(|p| p.0)))
        .filter(runs::outcome.is_null().or(runs::outcome.ne(back)))
        .filter(runs::ended_at_ms.is_not_null())
        .order(runs::id)
        .select((runs::plate_id, runs::ended_at_ms.assume_not_null()))
        .load::<(i64, i64)>(conn)?
        .into_iter()
        .collect();
    let mut plate = |p: Plate| {
        let of = took.get(&p.id);
        LedgerPlate {
            basis: of.and_then(|t| t.planned),
            took: of.and_then(|t| t.took),
            ended_at_ms: ended.get(&p.id.0).copied(),
            spoilt_ml: spoilt.remove(&p.id).unwrap_or_default(),
            id: p.id,
            number: p.number,
            state: p.state,
            planned: p.costs,
            goes: p.goes,
        }
    };
    Ok(accepted.into_iter().map(&mut plate).collect())
}
