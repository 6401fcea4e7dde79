//! Which sculpt was picked for a part, and why.

use diesel::prelude::*;
use wembrit_core::ids::PartId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::picks::dsl;
use crate::schema::sculpts;

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
