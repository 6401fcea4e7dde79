//! Zones of a sculpt marked fine.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::orient::FineZone;
use wembrit_core::sculpt::picture::Side;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, one_row};
use crate::schema::fine_zones::dsl;

/// Marks a zone, seen from a side.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn mark(conn: &mut Conn, id: SculptId, zone: &FineZone, side: Side) -> Result<(), StoreError> {
    let [x, y, z] = zone.at_mm;
    diesel::insert_into(dsl::fine_zones)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::sculpt_id.eq(id.0),
            dsl::x_mm.eq(x),
            dsl::y_mm.eq(y),
            dsl::z_mm.eq(z),
            dsl::radius_mm.eq(zone.radius_mm),
            dsl::side.eq(side.as_str()),
        ))
        .execute(conn)?;
    Ok(())
}

/// Takes a mark away.
///
/// # Errors
/// [`StoreError::Conflict`] when it is not there.
pub fn unmark(conn: &mut Conn, id: SculptId, zone: i64) -> Result<(), StoreError> {
    let mine = dsl::fine_zones.filter(dsl::id.eq(zone).and(dsl::sculpt_id.eq(id.0)));
    one_row(diesel::delete(mine).execute(conn)?, "zone")
}
