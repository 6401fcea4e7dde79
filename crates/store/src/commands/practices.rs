//! The maker's practice: answers for the workshop, and other ones for a project.

use diesel::prelude::*;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::{Question, School};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::practices::dsl;

/// Answers a question for the workshop or a project; nothing takes the answer back.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn answer(
    conn: &mut Conn,
    project: Option<ProjectId>,
    question: Question,
    school: Option<&School>,
) -> Result<(), StoreError> {
    let same = dsl::practices.filter(dsl::question.eq(question.as_str()));
    match project {
        Some(p) => diesel::delete(same.filter(dsl::project_id.eq(p.0))).execute(conn)?,
        None => diesel::delete(same.filter(dsl::project_id.is_null())).execute(conn)?,
    };
    if let Some(school) = school {
        diesel::insert_into(dsl::practices)
            .values((
                dsl::project_id.eq(project.map(|p| p.0)),
                dsl::question.eq(question.as_str()),
                dsl::answer.eq(school.word),
            ))
            .execute(conn)?;
    }
    Ok(())
}
