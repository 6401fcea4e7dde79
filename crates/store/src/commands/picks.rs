//! Which sculpt was picked for a part, and why.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, SculptId};

use super::muster::{self, PartChange};
use super::recipes::RecipeChange;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::new_uid;
use crate::schema::picks::dsl;

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
    let part = queries::muster::part(conn, id)?;
    // Said by name; the data file would only say that a reference is broken.
    queries::sculpts::load(conn, sculpt)?;
    let recipe = queries::recipes::newest(conn, part.recipe)?;
    let change = PartChange {
        name: part.name.clone(),
        count: part.count,
        spares: part.spares,
        sculpt: Some(sculpt),
        option: part.option,
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
