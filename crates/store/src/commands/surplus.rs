//! What one part has over goes to another that wants it, of whatever project.

use diesel::prelude::*;
use wembrit_core::ids::{ModelId, PartId};

use super::settle_copies;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, surplus};
use crate::schema::{copies, placements};

/// Gives a part of a model what is over elsewhere and fits, as many copies as it wants; how many it got. A copy keeps
/// its mark, its plate and what it cost.
///
/// # Errors
/// [`StoreError::Refused`] where nothing is wanted, or nothing is over; [`StoreError::NotFound`].
pub fn take(
    conn: &mut Conn,
    model: ModelId,
    part: PartId,
    now_ms: i64,
) -> Result<usize, StoreError> {
    let (_, of) = army::model(conn, model)?;
    let wanted = of.parts.iter().find(|p| p.part.id == part);
    let wanted = wanted.ok_or(StoreError::NotFound { what: "part" })?;
    let wanted = wanted.need.wanted();
    if wanted == 0 {
        return Err(StoreError::Refused(
            "no copy of it is wanted: what is over stays where it is".into(),
        ));
    }
    let over = surplus::for_model(conn, model)?;
    let fits = over.iter().filter(|o| o.part == part);
    let taken: Vec<i64> = fits.map(|o| o.copy.0).take(wanted as usize).collect();
    if taken.is_empty() {
        return Err(StoreError::Refused(
            "nothing that fits is over any more: somebody took it, or it is wanted again".into(),
        ));
    }
    diesel::update(copies::table.filter(copies::id.eq_any(&taken)))
        .set((
            copies::part_id.eq(part.0),
            copies::row_version.eq(copies::row_version + 1),
        ))
        .execute(conn)?;
    let of_copies = placements::copy_id.eq_any(taken.iter().map(|id| Some(*id)));
    diesel::update(placements::table.filter(of_copies))
        .set(placements::part_id.eq(part.0))
        .execute(conn)?;
    settle_copies::settle_model(conn, model, now_ms)?;
    Ok(taken.len())
}
