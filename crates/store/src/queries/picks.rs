//! Which sculpt was picked for a part, and why.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, SculptId};

use super::muster::{self, PartChange};
use super::new_uid;
use super::recipes::{self, RecipeChange};
use crate::db::Conn;
use crate::error::StoreError;
use crate::schema::{picks::dsl, sculpts};

/// Gives a part a sculpt; a reason is kept.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn pick(
    conn: &mut Conn,
    id: PartId,
    sculpt: SculptId,
    reason: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let part = muster::part(conn, id)?;
    let recipe = recipes::newest(conn, part.recipe_id)?;
    let change = PartChange {
        name: part.name.clone(),
        count: u32::try_from(part.count).unwrap_or(1),
        spares: u32::try_from(part.spares).unwrap_or(0),
        sculpt: Some(sculpt),
        option: part.option_id(),
        recipe: RecipeChange::of(&recipe),
    };
    muster::change_part(conn, id, part.row_version, &change, now_ms)?;
    if !reason.trim().is_empty() {
        diesel::insert_into(dsl::picks)
            .values((
                dsl::uid.eq(new_uid()),
                dsl::part_id.eq(id.0),
                dsl::sculpt_id.eq(sculpt.0),
                dsl::reason.eq(reason.trim()),
                dsl::picked_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// Name of the sculpt and reason of every pick for a part, the latest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_part(conn: &mut Conn, id: PartId) -> Result<Vec<(String, String)>, StoreError> {
    Ok(dsl::picks
        .inner_join(sculpts::table)
        .filter(dsl::part_id.eq(id.0))
        .order(dsl::id.desc())
        .select((sculpts::name, dsl::reason))
        .load(conn)?)
}
