//! The maker's practice, for the workshop and for one project.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::ids::ProjectId;
use wembrit_core::workshop::practice::Question;
use wembrit_store::commands;
use wembrit_store::queries::practices;

use super::{Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::practice::PracticeView;
use crate::views::{Tab, html};

async fn show(app: App, project: Option<ProjectId>) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let tab = if project.is_some() {
                Tab::Muster
            } else {
                Tab::Workshop
            };
            let page = page(c, app, tab, "Practice", project)?;
            Ok(PracticeView::new(
                page,
                project,
                &practices::load(c, project)?,
            ))
        })
        .await?;
    html(&view)
}

async fn save(app: App, project: Option<ProjectId>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut answers = Vec::new();
    for question in Question::ALL {
        let word = input.get(question.as_str());
        let school = question.school(word);
        if school.is_none() && !word.is_empty() {
            return Err(WebError::BadRequest(format!(
                "'{word}' is no answer to: {}",
                question.asks()
            )));
        }
        answers.push((*question, school));
    }
    app.write(move |c| {
        answers.iter().try_for_each(|(question, school)| {
            commands::practices::answer(c, project, *question, *school)
        })
    })
    .await?;
    Ok(go(match project {
        Some(project) => format!("/projects/{project}/practice"),
        None => "/workshop/practice".to_owned(),
    }))
}

pub(crate) async fn of_workshop(State(app): State<App>) -> Result<Html<String>, WebError> {
    show(app, None).await
}

pub(crate) async fn save_workshop(
    State(app): State<App>,
    body: Bytes,
) -> Result<Response, WebError> {
    save(app, None, body).await
}

pub(crate) async fn of_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    show(app, Some(id)).await
}

pub(crate) async fn save_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save(app, Some(id), body).await
}
