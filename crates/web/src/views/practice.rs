//! The schools a maker chooses among.

use askama::Template;
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::{AnsweredBy, Practice, School};

use super::Page;

/// One question with its answers.
pub(crate) struct Answer {
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
    pub(crate) questions: Vec<Answer>,
}

impl PracticeView {
    pub(crate) fn new(page: Page, project: Option<ProjectId>, practice: &Practice) -> Self {
        let questions = practice.answers().map(|(question, school, by)| Answer {
            word: question.as_str(),
            asks: question.asks(),
            schools: question.schools(),
            chosen: school.word,
            follows: project.is_some() && by != AnsweredBy::Project,
            assumed: by == AnsweredBy::Assumed,
        });
        Self {
            page,
            project,
            questions: questions.collect(),
        }
    }

    pub(crate) fn action(&self) -> String {
        self.project.map_or_else(
            || "/workshop/practice".into(),
            |p| format!("/projects/{p}/practice"),
        )
    }
}
