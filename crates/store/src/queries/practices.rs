//! The maker's practice: answers for the workshop, and other ones for a project.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::{Question, School};

use crate::db::Conn;
use crate::error::StoreError;
use crate::schema::practices::dsl;

/// Where an answer comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum From {
    /// Nobody has answered: it is assumed.
    Assumed,
    /// The workshop's answer.
    Workshop,
    /// The project's own.
    Project,
}

/// Every question with the answer that holds for a project, or for the workshop alone.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn answers(
    conn: &mut Conn,
    project: Option<ProjectId>,
) -> Result<BTreeMap<Question, (&'static School, From)>, StoreError> {
    let rows: Vec<(Option<i64>, String, String)> = dsl::practices
        .filter(
            dsl::project_id
                .is_null()
                .or(dsl::project_id.eq(project.map(|p| p.0))),
        )
        .select((dsl::project_id, dsl::question, dsl::answer))
        .load(conn)?;
    let of = |question: Question, project: Option<i64>| {
        let row = rows
            .iter()
            .find(|(p, q, _)| *p == project && q == question.as_str())?;
        question.school(&row.2)
    };
    Ok(Question::ALL
        .iter()
        .map(|q| {
            let own = project.and_then(|p| of(*q, Some(p.0)));
            let answer = match (own, of(*q, None)) {
                (Some(school), _) => (school, From::Project),
                (None, Some(school)) => (school, From::Workshop),
                (None, None) => (q.assumed(), From::Assumed),
            };
            (*q, answer)
        })
        .collect())
}

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
