//! A plan that was made elsewhere comes in.

use wembrit_core::army::demand::DemandLine;
use wembrit_core::ids::{PlanId, ProjectId};
use wembrit_core::plan::Plan;

use super::ask_plan::{begin, make_way};
use super::save_plan::set_computed;
use crate::conn::Conn;
use crate::error::StoreError;

/// Takes a plan that was made elsewhere for these lines, as a draft. The draft that is shown stays
/// beside it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
    made: &Plan,
    now_ms: i64,
) -> Result<PlanId, StoreError> {
    make_way(conn, project, now_ms)?;
    let id = begin(conn, project, lines, now_ms)?;
    set_computed(conn, id, made)?;
    Ok(id)
}
