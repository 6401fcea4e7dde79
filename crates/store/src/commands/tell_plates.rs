//! What the maker's own program says that plates take.

use diesel::prelude::*;
use wembrit_core::flow::{PlateState, Told};
use wembrit_core::ids::ProjectId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::plates;
use crate::schema::plates as p;

/// Takes what was said of plates of a project that are not printed yet; all of it or nothing.
///
/// # Errors
/// [`StoreError::Refused`] with every plate it cannot be said of.
pub fn tell(conn: &mut Conn, project: ProjectId, told: &[Told]) -> Result<(), StoreError> {
    let all = plates::accepted(conn, project)?;
    let mut faults = Vec::new();
    for one in told {
        let number = one.number;
        let Some(plate) = all.iter().find(|p| p.number == number) else {
            faults.push(format!("there is no plate {number}"));
            continue;
        };
        if !matches!(plate.state, PlateState::Planned | PlateState::Running) {
            faults.push(format!(
                "plate {number} is printed: its run says what it took"
            ));
            continue;
        }
        diesel::update(p::table.find(plate.id.0))
            .set((
                p::told_seconds.eq(one.seconds),
                p::told_ml.eq(one.ml),
                p::row_version.eq(plate.row_version + 1),
            ))
            .execute(conn)?;
    }
    if faults.is_empty() {
        Ok(())
    } else {
        Err(StoreError::Refused(faults.join("; ")))
    }
}
