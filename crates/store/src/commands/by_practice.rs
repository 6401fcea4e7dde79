//! Parts are set up as the maker's practice says.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, ProjectId, SculptId};
use wembrit_core::recipe::{AsItStands, RecipeVersion, Setup, by_practice};

use super::recipes::{self, ANOTHER_SCULPT, RecipeChange};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{self, demand, layer_facts, muster, practices};
use crate::schema::{copies, parts};

/// How a new part of a sculpt is to hang; nothing where the sculpt is not measured yet, or the
/// practice leaves it to the maker.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_new_part(
    conn: &mut Conn,
    project: ProjectId,
    sculpt: Option<SculptId>,
) -> Result<Option<Setup>, StoreError> {
    let Some(sculpt) = sculpt else {
        return Ok(None);
    };
    let facts = demand::facts_of(conn, &[sculpt])?.remove(&sculpt);
    let layers = layer_facts::of_files(conn, &[sculpt])?.remove(&sculpt);
    let practice = practices::load(conn, Some(project))?;
    Ok(facts.zip(layers).and_then(|(facts, layers)| {
        let said = by_practice(&practice, &AsItStands::of(&facts, &layers));
        said.map(|s| s.setup)
    }))
}

/// A sculpt has been measured: parts that name it, that nobody has set up and of which no plate was accepted, hang as
/// the practice says; how many these were.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_up_sculpt(conn: &mut Conn, id: SculptId, now_ms: i64) -> Result<usize, StoreError> {
    let there = parts::sculpt_id
        .eq(id.0)
        .and(parts::removed_at_ms.is_null());
    // It may be measured again, by a newer version or in another workshop: what was printed so stays so.
    let printed = copies::table
        .filter(copies::part_id.eq(parts::id))
        .select(copies::id);
    let of: Vec<i64> = parts::table
        .filter(there)
        .filter(diesel::dsl::not(diesel::dsl::exists(printed)))
        .select(parts::id)
        .load(conn)?;
    let of: Vec<PartId> = of.into_iter().map(PartId).collect();
    set_up(conn, &of, is_fresh, now_ms)
}

/// Sets parts up as the practice says, however they were set up before; how many changed.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_up_all(conn: &mut Conn, of: &[PartId], now_ms: i64) -> Result<usize, StoreError> {
    set_up(conn, of, |_| true, now_ms)
}

/// Nobody has said anything about how it hangs.
fn is_fresh(version: &RecipeVersion) -> bool {
    let begun = version.version == 1 || version.changed == ANOTHER_SCULPT;
    begun && version.setup == Setup::PLAIN
}

fn set_up(
    conn: &mut Conn,
    of: &[PartId],
    which: impl Fn(&RecipeVersion) -> bool,
    now_ms: i64,
) -> Result<usize, StoreError> {
    let mut changed = 0;
    for id in of {
        let part = muster::part(conn, *id)?;
        let version = queries::recipes::newest(conn, part.recipe)?;
        if !which(&version) {
            continue;
        }
        let project = muster::project_of_part(conn, *id)?;
        let said = of_new_part(conn, project, part.sculpt)?;
        if let Some(setup) = said.filter(|s| *s != version.setup) {
            let to = RecipeChange {
                setup: Some(setup),
                ..RecipeChange::of(&version)
            };
            recipes::change(conn, part.recipe, &to, now_ms)?;
            changed += 1;
        }
    }
    Ok(changed)
}
