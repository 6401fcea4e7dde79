//! Findings put aside, each with the maker's reason.

use std::collections::{HashMap, HashSet};

use diesel::prelude::*;
use wembrit_core::ids::SculptId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::dismissals::dsl;
use crate::schema::sculpts;

/// Reasons by finding.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpt(conn: &mut Conn, sculpt: SculptId) -> Result<HashMap<String, String>, StoreError> {
    let rows = dsl::dismissals
        .filter(dsl::sculpt_id.eq(sculpt.0))
        .select((dsl::finding, dsl::reason))
        .load(conn)?;
    Ok(rows.into_iter().collect())
}

/// Everything put aside on any sculpt: the sculpt and the finding.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn all(conn: &mut Conn) -> Result<HashSet<(SculptId, String)>, StoreError> {
    let rows: Vec<(i64, String)> = dsl::dismissals
        .select((dsl::sculpt_id, dsl::finding))
        .load(conn)?;
    let all = rows.into_iter();
    Ok(all.map(|(id, finding)| (SculptId(id), finding)).collect())
}

/// Sculpt, finding and reason of everything put aside on some sculpts.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_sculpts(
    conn: &mut Conn,
    of: &[SculptId],
) -> Result<Vec<(String, String, String)>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    Ok(dsl::dismissals
        .inner_join(sculpts::table)
        .filter(dsl::sculpt_id.eq_any(ids))
        .order((dsl::sculpt_id, dsl::finding))
        .select((sculpts::name, dsl::finding, dsl::reason))
        .load(conn)?)
}
