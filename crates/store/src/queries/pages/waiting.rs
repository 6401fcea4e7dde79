//! What waiting costs: the day sheet, the schedule, and what is ahead of every plate's copies.

use std::collections::BTreeMap;
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::flow::Stage;
use wembrit_core::ids::{PartId, PlateId, ProjectId, RecipeVersionId, SculptId};
use wembrit_core::schedule::Waiting;
use wembrit_core::today::Ahead;
use wembrit_core::workshop::practice::Practice;

use super::schedule::{self, Scheduled};
use super::today::{self, Today};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{practices, prepared_parts};
use crate::schema::{copies, placements, plans, plates};
use crate::until_written::kept;

/// What the costs of waiting are made from.
#[derive(Debug, Clone, PartialEq)]
pub struct WaitingPage {
    /// The day sheet.
    pub today: Arc<Today>,
    /// The schedule.
    pub scheduled: Arc<Scheduled>,
    /// What is on plates and not judged, open plans with them.
    pub ahead: BTreeMap<PlateId, Ahead>,
    /// How each project finishes.
    pub practices: BTreeMap<ProjectId, Practice>,
    /// Plates of plans nobody has accepted yet, as if they waited.
    pub drafts: Vec<Waiting>,
}

/// Loads it; `shown` is the project whose progress stands beside it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn, shown: Option<ProjectId>) -> Result<Arc<WaitingPage>, StoreError> {
    kept(conn, ("waiting", &[shown.map_or(0, |p| p.0)]), |conn| {
        let today = today::load(conn, shown)?;
        let (mut of_projects, mut drafts) = (BTreeMap::new(), Vec::new());
        for project in &today.facts.projects {
            let id = project.army.project.id;
            of_projects.insert(id, practices::load(conn, Some(id))?);
            if let Some(plan) = project.plan.as_ref().filter(|_| !project.draft.is_empty()) {
                drafts.extend(schedule::of_plan(conn, plan.id)?);
            }
        }
        Ok(WaitingPage {
            scheduled: schedule::load(conn)?,
            ahead: ahead(conn)?,
            practices: of_projects,
            drafts,
            today,
        })
    })
}

/// Plate, part, sculpt and version of a recipe of a copy.
type OnPlate = (i64, i64, i64, i64);

/// What is on plates and not judged, open plans with them.
fn ahead(conn: &mut Conn) -> Result<BTreeMap<PlateId, Ahead>, StoreError> {
    let open = [Stage::Planned, Stage::Printing, Stage::InFinishing].map(Stage::as_str);
    let mut rows: Vec<OnPlate> = copies::table
        .filter(copies::stage.eq_any(open))
        .select((
            copies::plate_id,
            copies::part_id,
            copies::sculpt_id,
            copies::recipe_version_id,
        ))
        .load(conn)?;
    let drafts: Vec<OnPlate> = placements::table
        .inner_join(plates::table.inner_join(plans::table))
        .filter(plans::state.eq("draft").and(plates::state.eq("draft")))
        .select((
            placements::plate_id,
            placements::part_id,
            placements::sculpt_id,
            placements::recipe_version_id,
        ))
        .load(conn)?;
    rows.extend(drafts);
    let printed = rows.iter().map(|r| (SculptId(r.2), RecipeVersionId(r.3)));
    let held = prepared_parts::held(conn, printed)?;
    let mut all: BTreeMap<PlateId, Ahead> = BTreeMap::new();
    for (plate, part, sculpt, version) in rows {
        let of = all.entry(PlateId(plate)).or_default();
        let contacts = held.get(&(SculptId(sculpt), RecipeVersionId(version)));
        of.copies += 1;
        of.contacts += contacts.map_or(0, |(contacts, _)| *contacts as u64);
        of.parts.insert(PartId(part));
    }
    Ok(all)
}
