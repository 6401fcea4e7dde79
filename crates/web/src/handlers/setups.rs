//! How all parts of a project hang, on one sheet; many set up at once.

use std::collections::HashSet;

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::ids::{PartId, ProjectId};
use wembrit_core::recipe::{AsItStands, PartSetup, RecipeVersion, Setup, by_practice};
use wembrit_store::commands;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::layer_facts::task_key;
use wembrit_store::queries::pages::setups as pages;
use wembrit_store::queries::{muster, recipes};

use super::{Fields, Id, go, leaf_asked, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::setups::{Said, SetupsPart, SetupsView};
use crate::views::{Tab, html};

/// What the practice says of each part whose sculpt is measured, as it would be held; with the keys of what is being
/// measured.
fn said(data: &pages::SetupsPage, asked: &HashSet<String>) -> Vec<Said> {
    let mut all = Vec::new();
    for (_, _, part) in data.army.parts() {
        let id = part.part.sculpt;
        let known = id.and_then(|s| {
            let (sculpt, facts) = (data.sculpts.get(&s)?, data.facts.get(&s)?);
            Some((sculpt, facts, data.layers.get(&s)?))
        });
        let Some((sculpt, facts, layers)) = known else {
            continue;
        };
        let Some(proposed) = by_practice(&data.practice, &AsItStands::of(sculpt, facts, layers))
        else {
            continue;
        };
        let held = PartSetup {
            setup: proposed.setup,
            ..PartSetup::of(sculpt, &part.recipe)
        };
        all.push(Said {
            part: part.part.id,
            proposed,
            kept: data.as_held(sculpt, &held).copied(),
            open: asked.contains(&task_key(sculpt, &held)),
        });
    }
    all
}

async fn view(app: &App, id: ProjectId, from: usize) -> Result<SetupsView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Muster, "How parts hang", Some(id))?;
        let data = pages::page(c, id)?;
        let said = said(&data, &pages::asked(c)?);
        Ok(SetupsView::new(page, &data, &said, from))
    })
    .await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    html(&view(&app, id, leaf_asked(&asked)).await?)
}

/// The sheet alone, while some of it is measured.
pub(crate) async fn sheet(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    html(&SetupsPart(view(&app, id, leaf_asked(&asked)).await?))
}

/// Has everything that the practice says measured, so that there is a picture of it.
pub(crate) async fn look(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let data = pages::page(c, id)?;
        for said in said(&data, &HashSet::new())
            .iter()
            .filter(|s| s.kept.is_none())
        {
            let parts = data.army.parts().map(|(_, _, p)| p);
            let found = parts.into_iter().find(|p| p.part.id == said.part);
            let sculpt = found.and_then(|p| data.sculpts.get(&p.part.sculpt?));
            if let (Some(part), Some(sculpt)) = (found, sculpt) {
                let version = RecipeVersion {
                    setup: said.proposed.setup,
                    ..part.recipe.clone()
                };
                commands::layer_facts::ask(c, sculpt, &version, now)?;
            }
        }
        Ok(())
    })
    .await?;
    app.ring();
    Ok(go(format!("/projects/{id}/setups")))
}

/// Sets up the parts that are ticked: as the practice says, as their files stand, or with the supports
/// that these bring.
pub(crate) async fn set_up(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let parts: Vec<PartId> = input.all("part").filter_map(|p| p.parse().ok()).collect();
    if parts.is_empty() {
        return Err(WebError::BadRequest(
            "tick the parts that are to hang otherwise".into(),
        ));
    }
    let to = match input.get("do") {
        "plain" => Some(Setup::PLAIN),
        "supports" => Some(Setup::IN_FILE),
        _ => None,
    };
    app.write(move |c| {
        let Some(setup) = to else {
            return commands::by_practice::set_up_all(c, &parts, now).map(drop);
        };
        parts.iter().try_for_each(|part| {
            let recipe = muster::part(c, *part)?.recipe;
            let to = RecipeChange {
                setup: Some(setup),
                ..RecipeChange::of(&recipes::newest(c, recipe)?)
            };
            commands::recipes::change(c, recipe, &to, now)
        })
    })
    .await?;
    app.ring();
    Ok(go(format!("/projects/{id}/setups")))
}
