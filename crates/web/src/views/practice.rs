//! The schools a maker chooses among.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::{Question, School};
use wembrit_store::queries::practices::From;

use super::Page;

/// One question with its answers.
pub(crate) struct Asked {
    pub(crate) word: &'static str,
    pub(crate) asks: &'static str,
    pub(crate) schools: &'static [School],
    pub(crate) chosen: &'static str,
    /// The project follows the workshop, or nobody has answered.
    pub(crate) follows: bool,
    pub(crate) assumed: bool,
}

/// Every question.
#[derive(Template)]
#[template(path = "practice/show.html")]
pub(crate) struct PracticeView {
    pub(crate) page: Page,
    pub(crate) project: Option<ProjectId>,
    pub(crate) questions: Vec<Asked>,
}

impl PracticeView {
    pub(crate) fn new(
        page: Page,
        project: Option<ProjectId>,
        answers: &BTreeMap<Question, (&'static School, From)>,
    ) -> Self {
        let asked = |(question, (school, from)): (&Question, &(&'static School, From))| Asked {
            word: question.as_str(),
            asks: question.asks(),
            schools: question.schools(),
            chosen: school.word,
            follows: project.is_some() && *from != From::Project,
            assumed: *from == From::Assumed,
        };
        Self {
            page,
            project,
            questions: answers.iter().map(asked).collect(),
        }
    }

    pub(crate) fn action(&self) -> String {
        self.project.map_or_else(
            || "/workshop/practice".into(),
            |p| format!("/projects/{p}/practice"),
        )
    }
}
