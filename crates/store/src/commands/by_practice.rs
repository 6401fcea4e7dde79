//! Parts are set up as the maker's practice says.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, ProjectId, SculptId};
use wembrit_core::recipe::{AsItStands, RecipeVersion, Setup, by_practice};
use wembrit_core::sculpt::SupportsSaid;

use super::recipes::{self, ANOTHER_SCULPT, RecipeChange};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{self, demand, layer_facts, muster, one_row, practices};
use crate::schema::{copies, parts, sculpts};

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
    let sculpt = queries::sculpts::load(conn, sculpt)?;
    Ok(facts.zip(layers).and_then(|(facts, layers)| {
        let said = by_practice(&practice, &AsItStands::of(&sculpt, &facts, &layers));
        said.map(|s| s.setup)
    }))
}

/// A sculpt has been measured: parts that name it, that nobody has set up and of which no plate was accepted, hang as
/// the practice says; how many these were.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_up_sculpt(conn: &mut Conn, id: SculptId, now_ms: i64) -> Result<usize, StoreError> {
    let of = unprinted(conn, id)?;
    set_up(conn, &of, is_fresh, now_ms)
}

/// The maker says whether a file brings its supports: parts that name it, and of which no plate was
/// accepted, are set up anew by that; how many these were.
///
/// # Errors
/// [`StoreError::Conflict`] when the sculpt is not there.
pub fn say_supports(
    conn: &mut Conn,
    id: SculptId,
    said: SupportsSaid,
    now_ms: i64,
) -> Result<usize, StoreError> {
    let changed = diesel::update(sculpts::table.find(id.0))
        .set(sculpts::supports.eq(said.as_str()))
        .execute(conn)?;
    one_row(changed, "sculpt")?;
    let of = unprinted(conn, id)?;
    let changed = set_up_all(conn, &of, now_ms)?;
    if said == SupportsSaid::Without {
        // Where the practice leaves it to the maker, nothing has taken its supports away yet.
        for part in of {
            let recipe = muster::part(conn, part)?.recipe;
            let version = queries::recipes::newest(conn, recipe)?;
            if version.setup == Setup::IN_FILE {
                let to = RecipeChange {
                    setup: Some(Setup::PLAIN),
                    ..RecipeChange::of(&version)
                };
                recipes::change(conn, recipe, &to, now_ms)?;
            }
        }
    }
    Ok(changed)
}

/// Parts of a sculpt of which no plate was accepted: how a part was printed stays.
fn unprinted(conn: &mut Conn, id: SculptId) -> Result<Vec<PartId>, StoreError> {
    let there = parts::sculpt_id
        .eq(id.0)
        .and(parts::removed_at_ms.is_null());
    let printed = copies::table
        .filter(copies::part_id.eq(parts::id))
        .select(copies::id);
    let of: Vec<i64> = parts::table
        .filter(there)
        .filter(diesel::dsl::not(diesel::dsl::exists(printed)))
        .select(parts::id)
        .load(conn)?;
    Ok(of.into_iter().map(PartId).collect())
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
