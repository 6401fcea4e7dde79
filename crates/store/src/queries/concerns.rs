//! What concerns about a project are drawn from.

use std::collections::HashMap;
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::army::Army;
use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_core::plan::concerns::ConcernFacts;

use super::{
    army, demand, holding, layer_facts, practices, prepared_parts, recipes, sculpts, settings,
};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{concerns_put_aside as aside, dismissals};
use crate::until_written::kept;

/// What stands open in an army, or was put aside, is drawn from this.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn facts(conn: &mut Conn, army: &Army) -> Result<ConcernFacts, StoreError> {
    let parts = || army.parts().map(|(_, _, part)| part);
    let mut of: Vec<SculptId> = parts().filter_map(|p| p.part.sculpt).collect();
    of.sort_unstable();
    of.dedup();
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    let versions: Vec<_> = parts().map(|p| p.recipe.id).collect();
    let held: Vec<_> = parts()
        .filter_map(|p| Some((p.part.sculpt?, &p.recipe)))
        .collect();
    let hollow: Vec<(i64, String)> = dismissals::table
        .filter(
            dismissals::sculpt_id
                .eq_any(&ids)
                .and(dismissals::finding.like("sealed hollow%")),
        )
        .select((dismissals::sculpt_id, dismissals::reason))
        .load(conn)?;
    Ok(ConcernFacts {
        sculpts: sculpts::some(conn, &of)?,
        facts: demand::facts_of(conn, &of)?,
        layers: layer_facts::of_files(conn, &of)?,
        held: prepared_parts::held_by(conn, &held)?,
        holds: *holding::limit(conn)?,
        proofs: recipes::proofs(conn, &versions)?,
        settings: settings::list(conn)?,
        bases_apart: practices::load(conn, Some(army.project.id))?.prints_bases_apart(),
        put_aside: put_aside(conn, army.project.id)?,
        hollow_put_aside: hollow
            .into_iter()
            .map(|(id, reason)| (SculptId(id), reason))
            .collect(),
    })
}

/// The same of a whole project, which pages ask again and again.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such project.
pub fn of_project(conn: &mut Conn, project: ProjectId) -> Result<Arc<ConcernFacts>, StoreError> {
    kept(conn, ("concerns", &[project.0]), |conn| {
        let army = army::load(conn, project)?;
        facts(conn, &army)
    })
}

fn put_aside(conn: &mut Conn, project: ProjectId) -> Result<HashMap<String, String>, StoreError> {
    let rows: Vec<(String, String)> = aside::table
        .filter(aside::project_id.eq(project.0))
        .select((aside::concern, aside::reason))
        .load(conn)?;
    Ok(rows.into_iter().collect())
}
