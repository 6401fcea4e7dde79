//! How large an army may be: pages and plans work with every copy of it.

use diesel::prelude::*;
use diesel::sql_types::BigInt;
use wembrit_core::ids::{ModelId, ProjectId};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{models, units};

/// Copies that the parts of a project take at most, spares among them: twenty times the largest army anybody has had.
const MOST_COPIES: i64 = 100_000;

#[derive(QueryableByName)]
struct Wanted {
    #[diesel(sql_type = BigInt)]
    copies: i64,
}

/// Refuses an army that has grown beyond what pages and plans can work with.
///
/// # Errors
/// [`StoreError::Refused`] with how many copies it would take.
pub(crate) fn check(conn: &mut Conn, project: ProjectId) -> Result<(), StoreError> {
    let Wanted { copies } = diesel::sql_query(
        "SELECT coalesce(sum(coalesce(o.models, m.quantity) * p.count + p.spares), 0) AS copies \
         FROM units u JOIN models m ON m.unit_id = u.id JOIN parts p ON p.model_id = m.id \
         LEFT JOIN options o ON o.id = p.option_id \
         WHERE u.project_id = ? AND u.removed_at_ms IS NULL AND m.removed_at_ms IS NULL AND p.removed_at_ms IS NULL",
    )
    .bind::<BigInt, _>(project.0)
    .get_result(conn)?;
    if copies > MOST_COPIES {
        return Err(StoreError::Refused(format!(
            "the project would take {copies} copies in all, and at most {MOST_COPIES} can be planned: lower a quantity, or the copies of a part"
        )));
    }
    Ok(())
}

/// The same for the project of a model.
///
/// # Errors
/// As [`check`].
pub(super) fn check_of_model(conn: &mut Conn, model: ModelId) -> Result<(), StoreError> {
    let project: i64 = models::table
        .inner_join(units::table)
        .filter(models::id.eq(model.0))
        .select(units::project_id)
        .first(conn)?;
    check(conn, ProjectId(project))
}
