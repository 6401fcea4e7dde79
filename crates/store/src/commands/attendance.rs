//! When somebody is there, and what is wanted by when.

use diesel::prelude::*;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::attendance::{Attendance, write_otherwise};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::one_row;
use crate::schema::attendance::dsl;
use crate::schema::projects;

/// Changes when somebody is there; all of it. `row_version` in it is the one that was seen.
///
/// # Errors
/// [`StoreError::Conflict`] when it was changed since.
pub fn change(conn: &mut Conn, to: &Attendance) -> Result<(), StoreError> {
    let seen = dsl::attendance.filter(dsl::row_version.eq(to.row_version));
    let changed = diesel::update(seen)
        .set((
            dsl::row_version.eq(to.row_version + 1),
            dsl::weekly.eq(to.write_week()),
            dsl::otherwise.eq(write_otherwise(&to.otherwise)),
            dsl::quiet.eq(to.quiet.map_or_else(String::new, |q| q.to_string())),
            dsl::load_minutes.eq(to.load_minutes),
            dsl::unload_minutes.eq(to.unload_minutes),
            dsl::look_minutes.eq(to.look_minutes),
            dsl::assumed.eq(&to.assumed),
        ))
        .execute(conn)?;
    one_row(changed, "attendance")
}

/// A project is wanted by a moment, ms since 1970, or by none.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn set_deadline(
    conn: &mut Conn,
    project: ProjectId,
    deadline_ms: Option<i64>,
) -> Result<(), StoreError> {
    let of = projects::table.filter(projects::id.eq(project.0));
    let changed = diesel::update(of)
        .set(projects::deadline_ms.eq(deadline_ms))
        .execute(conn)?;
    if changed == 1 {
        Ok(())
    } else {
        Err(StoreError::NotFound { what: "project" })
    }
}
