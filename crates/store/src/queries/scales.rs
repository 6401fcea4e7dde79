//! What limits the scale of a sculpt: its joints, and what came of scales that were tried.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ResinId, SculptId};
use wembrit_core::recipe::scale::{Joint, Outcome};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{joints, scale_attempts as tried};

/// The joints of a sculpt.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn joints_of(conn: &mut Conn, id: SculptId) -> Result<Vec<(i64, Joint)>, StoreError> {
    let rows: Vec<(i64, String, f64)> = joints::table
        .filter(joints::sculpt_id.eq(id.0))
        .order(joints::id)
        .select((joints::id, joints::name, joints::gap_mm))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, name, gap_mm)| (id, Joint { name, gap_mm }))
        .collect())
}

/// Scales of a sculpt that were tried on a printer with a resin.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn tried(
    conn: &mut Conn,
    id: SculptId,
    on: (PrinterId, ResinId),
) -> Result<Vec<(f64, Outcome)>, StoreError> {
    let rows: Vec<(f64, String)> = tried::table
        .filter(
            tried::sculpt_id
                .eq(id.0)
                .and(tried::printer_id.eq(on.0.0))
                .and(tried::resin_id.eq(on.1.0)),
        )
        .order(tried::scale)
        .select((tried::scale, tried::outcome))
        .load(conn)?;
    rows.into_iter()
        .map(|(scale, word)| {
            let outcome = Outcome::try_from(word).map_err(|e| StoreError::BadRow(e.to_string()))?;
            Ok((scale, outcome))
        })
        .collect()
}
