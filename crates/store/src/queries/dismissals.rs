//! Findings put aside, each with the maker's reason.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::ids::SculptId;

use super::new_uid;
use crate::db::Conn;
use crate::error::StoreError;
use crate::schema::{dismissals::dsl, sculpts};

/// Puts a finding aside; another reason takes the place of the first.
///
/// # Errors
/// [`StoreError::Refused`] without a reason.
pub fn dismiss(
    conn: &mut Conn,
    sculpt: SculptId,
    finding: &str,
    reason: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    if reason.trim().is_empty() {
        return Err(StoreError::Refused(
            "say why it does not matter here: the reason is kept and shown on the plate".into(),
        ));
    }
    take_back(conn, sculpt, finding)?;
    diesel::insert_into(dsl::dismissals)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::sculpt_id.eq(sculpt.0),
            dsl::finding.eq(finding),
            dsl::reason.eq(reason.trim()),
            dsl::dismissed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Lets a finding count again.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take_back(conn: &mut Conn, sculpt: SculptId, finding: &str) -> Result<(), StoreError> {
    let same = dsl::dismissals.filter(dsl::sculpt_id.eq(sculpt.0).and(dsl::finding.eq(finding)));
    diesel::delete(same).execute(conn)?;
    Ok(())
}

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
