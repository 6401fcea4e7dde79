//! Zones of a sculpt marked fine.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::recipe::orient::FineZone;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::fine_zones::dsl;

/// The zones of a sculpt in the order in which they were marked.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, id: SculptId) -> Result<Vec<(i64, FineZone)>, StoreError> {
    let rows: Vec<(i64, f64, f64, f64, f64)> = dsl::fine_zones
        .filter(dsl::sculpt_id.eq(id.0))
        .order(dsl::id)
        .select((dsl::id, dsl::x_mm, dsl::y_mm, dsl::z_mm, dsl::radius_mm))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, x, y, z, radius_mm)| {
            let zone = FineZone {
                at_mm: [x, y, z],
                radius_mm,
            };
            (id, zone)
        })
        .collect())
}
