//! The day sheet: everything that needs a hand, in all projects.

use std::sync::Arc;

use wembrit_core::army::Army;
use wembrit_core::finishing::Batch;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::ProjectId;
use wembrit_core::today::{TodayBatch, TodayFacts, TodayProject};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, batches, benches, muster, plans, plates, printers, resins, wears};
use crate::until_written::kept;

/// What the day sheet is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct Today {
    /// Everything that needs a hand.
    pub facts: TodayFacts,
    /// The project that is open, where it is among them.
    pub shown: Option<ProjectId>,
}

impl Today {
    /// The army of the project that is open.
    #[must_use]
    pub fn army(&self) -> Option<&Army> {
        let all = self.facts.projects.iter().map(|p| &*p.army);
        all.into_iter().find(|a| Some(a.project.id) == self.shown)
    }
}

/// Loads the day sheet; `shown` is the project whose progress stands beside it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn, shown: Option<ProjectId>) -> Result<Arc<Today>, StoreError> {
    kept(conn, ("today", &[shown.map_or(0, |p| p.0)]), |conn| {
        let deadlines = muster::deadlines(conn)?;
        let mut projects = Vec::new();
        for project in muster::projects(conn)? {
            let army = army::load(conn, project.id)?;
            let plates = plates::accepted(conn, project.id)?;
            let ids: Vec<_> = plates.iter().map(|p| p.id).collect();
            let plan = plans::open_plan(conn, project.id)?;
            let draft = match &plan {
                Some(plan) => plates::of_plan(conn, plan.id)?,
                None => Vec::new(),
            };
            projects.push(TodayProject {
                runs: plates::runs_of(conn, &ids)?.into_iter().collect(),
                army,
                plates,
                plan,
                draft,
                deadline_ms: deadlines.get(&project.id).copied(),
            });
        }
        let all = projects.iter().flat_map(|p| &p.plates);
        let waits = all.filter(|p| matches!(p.state, PlateState::Running | PlateState::Planned));
        // What runs comes first, then what waits.
        let mut waits: Vec<&Plate> = waits.collect();
        waits.sort_by_key(|p| p.state != PlateState::Running);
        let worn = wears::state(conn, &waits)?;
        Ok(Today {
            facts: TodayFacts {
                worn,
                projects,
                printers: printers::list_all(conn)?,
                in_use: printers::list(conn)?.iter().map(|p| p.id).collect(),
                resins: resins::list_all(conn)?,
                batches: on_their_way(conn)?,
                to_check: benches::to_check(conn)?,
                vats: benches::standing_vats(conn)?,
            },
            shown,
        })
    })
}

fn on_their_way(conn: &mut Conn) -> Result<Vec<TodayBatch>, StoreError> {
    let all = batches::open(conn)?;
    let marked = batches::marked(conn)?;
    let with = |batch: Batch| {
        let of = marked.get(&batch.plate).copied().unwrap_or_default();
        TodayBatch {
            to_mend: of.to_mend,
            mend_minutes: of.mend_minutes,
            batch,
        }
    };
    Ok(all.into_iter().map(with).collect())
}
