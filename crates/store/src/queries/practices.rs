//! The maker's practice: answers for the workshop, and other ones for a project.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::{Practice, Question};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::practices::dsl;

/// The answers that hold for a project; without one those of the workshop.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load(conn: &mut Conn, project: Option<ProjectId>) -> Result<Practice, StoreError> {
    let rows: Vec<(Option<i64>, String, String)> = dsl::practices
        .filter(
            dsl::project_id
                .is_null()
                .or(dsl::project_id.eq(project.map(|p| p.0))),
        )
        .select((dsl::project_id, dsl::question, dsl::answer))
        .load(conn)?;
    let (mut workshop, mut own) = (BTreeMap::new(), BTreeMap::new());
    for (of, question, answer) in rows {
        let answers = if of.is_none() {
            &mut workshop
        } else {
            &mut own
        };
        answers.insert(Question::try_from(question)?, answer);
    }
    Ok(Practice::of(&workshop, &own))
}
