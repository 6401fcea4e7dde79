//! The schedule: what is on printers, what waits for them, when somebody is there.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::army::demand::Need;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PartId, PlanId, PlateId, PrinterId, ProjectId, ResinId};
use wembrit_core::schedule::Waiting;
use wembrit_core::workshop::attendance::Attendance;
use wembrit_core::workshop::{Printer, ProcessSetting};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, attendance, muster, plates, printers, settings};
use crate::schema::{copies, models, parts, placements, plates as p, resins as r, runs, units};
use crate::until_written::kept;

/// What the schedule is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct Scheduled {
    /// When somebody is there.
    pub attendance: Attendance,
    /// Printers in use.
    pub printers: Vec<Printer>,
    /// Their settings.
    pub settings: Vec<ProcessSetting>,
    /// Names of all resins.
    pub resins: BTreeMap<ResinId, String>,
    /// The resin each printer was filled with last.
    pub holds: BTreeMap<PrinterId, ResinId>,
    /// Projects: identity, name, when it is wanted, ms since 1970.
    pub projects: Vec<(ProjectId, String, Option<i64>)>,
    /// What each part needs that is on a plate.
    pub needs: BTreeMap<PartId, Need>,
    /// The part of every copy on each plate that waits.
    pub on: Vec<(PlateId, Vec<PartId>)>,
    /// Plates that run, with their runs, and plates that wait, of all projects.
    pub plates: Vec<Waiting>,
}

/// Loads what the schedule is made from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn) -> Result<Arc<Scheduled>, StoreError> {
    kept(conn, ("schedule", &[]), everything)
}

fn everything(conn: &mut Conn) -> Result<Scheduled, StoreError> {
    let deadlines = muster::deadlines(conn)?;
    let proven = with_good_copies(conn)?;
    let (mut of_projects, mut all) = (Vec::new(), Vec::new());
    let mut needs = BTreeMap::new();
    for project in muster::projects(conn)? {
        let deadline = deadlines.get(&project.id).copied();
        let mut open = plates::accepted(conn, project.id)?;
        open.retain(|p| matches!(p.state, PlateState::Running | PlateState::Planned));
        let ids: Vec<PlateId> = open.iter().map(|p| p.id).collect();
        let mut runs = plates::runs_of(conn, &ids)?;
        let on = what_is_on(conn, &ids)?;
        if !ids.is_empty() {
            let army = army::load(conn, project.id)?;
            needs.extend(army.parts().map(|(_, _, p)| (p.part.id, p.need)));
        }
        let wished = wishes(conn, &ids)?;
        all.extend(open.into_iter().map(|plate| {
            let of = on.get(&plate.id);
            let not_before_ms = wished.get(&plate.id).copied().flatten();
            Waiting {
                run: runs
                    .remove(&plate.id)
                    .filter(|_| plate.state == PlateState::Running),
                priority: of.map_or(1, |o| o.0),
                untried: of
                    .is_some_and(|o| o.1.iter().any(|v| !proven.contains(&(*v, plate.printer.0)))),
                not_before_ms,
                plate,
            }
        }));
        of_projects.push((project.id, project.name, deadline));
    }
    let waits = all.iter().filter(|w: &&Waiting| w.run.is_none());
    let waits: Vec<PlateId> = waits.map(|w| w.plate.id).collect();
    Ok(Scheduled {
        on: parts_on(conn, &waits)?,
        needs,
        attendance: attendance::load(conn)?,
        printers: printers::list(conn)?,
        settings: settings::list(conn)?,
        resins: resin_names(conn)?,
        holds: holds(conn)?,
        projects: of_projects,
        plates: all,
    })
}

/// The plates of a plan that is not accepted, as if they waited.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plan(conn: &mut Conn, plan: PlanId) -> Result<Vec<Waiting>, StoreError> {
    let proven = with_good_copies(conn)?;
    let all = plates::of_plan(conn, plan)?;
    let ids: Vec<i64> = all.iter().map(|p| p.id.0).collect();
    let on: Vec<(i64, i64, i64)> = placements::table
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .filter(placements::plate_id.eq_any(ids))
        .select((
            placements::plate_id,
            units::priority,
            placements::recipe_version_id,
        ))
        .distinct()
        .load(conn)?;
    let on = gathered(on);
    let waits = |plate: Plate| {
        let of = on.get(&plate.id);
        Waiting {
            run: None,
            priority: of.map_or(1, |o| o.0),
            untried: of
                .is_some_and(|o| o.1.iter().any(|v| !proven.contains(&(*v, plate.printer.0)))),
            not_before_ms: None,
            plate,
        }
    };
    Ok(all.into_iter().map(waits).collect())
}

/// Versions of recipes that have given good copies, with the printer they were printed on.
fn with_good_copies(conn: &mut Conn) -> Result<BTreeSet<(i64, i64)>, StoreError> {
    let rows: Vec<(i64, i64)> = copies::table
        .inner_join(p::table)
        .filter(copies::stage.eq_any(["good", "surplus"]))
        .select((copies::recipe_version_id, p::printer_id))
        .distinct()
        .load(conn)?;
    Ok(rows.into_iter().collect())
}

/// The part of every copy on some plates, the plates in this order.
fn parts_on(conn: &mut Conn, of: &[PlateId]) -> Result<Vec<(PlateId, Vec<PartId>)>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<(i64, i64)> = copies::table
        .filter(copies::plate_id.eq_any(ids))
        .select((copies::plate_id, copies::part_id))
        .load(conn)?;
    let mut by: HashMap<i64, Vec<PartId>> = HashMap::new();
    for (plate, part) in rows {
        by.entry(plate).or_default().push(PartId(part));
    }
    let of = of
        .iter()
        .map(|id| (*id, by.remove(&id.0).unwrap_or_default()));
    Ok(of.collect())
}

type WhatIsOn = HashMap<PlateId, (i64, BTreeSet<i64>)>;

/// The first priority and the versions of recipes on each of some plates.
fn what_is_on(conn: &mut Conn, of: &[PlateId]) -> Result<WhatIsOn, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<(i64, i64, i64)> = copies::table
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .filter(copies::plate_id.eq_any(ids))
        .select((copies::plate_id, units::priority, copies::recipe_version_id))
        .distinct()
        .load(conn)?;
    Ok(gathered(rows))
}

/// Plate, priority, version of a recipe: by plate.
fn gathered(rows: Vec<(i64, i64, i64)>) -> WhatIsOn {
    let mut all = WhatIsOn::new();
    for (plate, priority, version) in rows {
        let of = all
            .entry(PlateId(plate))
            .or_insert((priority, BTreeSet::new()));
        of.0 = of.0.min(priority);
        of.1.insert(version);
    }
    all
}

/// When plates are wanted at the earliest, ms since 1970.
fn wishes(conn: &mut Conn, of: &[PlateId]) -> Result<HashMap<PlateId, Option<i64>>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let rows: Vec<(i64, Option<i64>)> = p::table
        .filter(p::id.eq_any(ids))
        .select((p::id, p::not_before_ms))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, from)| (PlateId(id), from))
        .collect())
}

fn resin_names(conn: &mut Conn) -> Result<BTreeMap<ResinId, String>, StoreError> {
    let rows: Vec<(i64, String)> = r::table.select((r::id, r::name)).load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, name)| (ResinId(id), name))
        .collect())
}

/// The resin of each printer's last run.
fn holds(conn: &mut Conn) -> Result<BTreeMap<PrinterId, ResinId>, StoreError> {
    let rows: Vec<(i64, i64)> = runs::table
        .inner_join(p::table)
        .order(runs::started_at_ms)
        .select((p::printer_id, p::resin_id))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(printer, resin)| (PrinterId(printer), ResinId(resin)))
        .collect())
}
