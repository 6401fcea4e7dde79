//! What stands open in a project is put aside, with the maker's reason.

use diesel::prelude::*;
use wembrit_core::ids::ProjectId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::new_uid;
use crate::schema::concerns_put_aside::dsl;

/// Puts a concern aside, in the words it stood in; another reason takes the place of the first.
///
/// # Errors
/// [`StoreError::Refused`] without a reason.
pub fn put_aside(
    conn: &mut Conn,
    project: ProjectId,
    (key, words): (&str, &str),
    reason: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    if reason.trim().is_empty() {
        return Err(StoreError::Refused(
            "say why it is as it should be: the reason is kept and shown on the plate".into(),
        ));
    }
    take_up(conn, project, key)?;
    diesel::insert_into(dsl::concerns_put_aside)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::project_id.eq(project.0),
            dsl::concern.eq(key),
            dsl::words.eq(words),
            dsl::reason.eq(reason.trim()),
            dsl::put_aside_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Lets a concern stand open again.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take_up(conn: &mut Conn, project: ProjectId, key: &str) -> Result<(), StoreError> {
    let same =
        dsl::concerns_put_aside.filter(dsl::project_id.eq(project.0).and(dsl::concern.eq(key)));
    diesel::delete(same).execute(conn)?;
    Ok(())
}
