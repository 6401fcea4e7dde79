//! Findings put aside, each with the maker's reason.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::new_uid;
use crate::schema::dismissals::dsl;

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
