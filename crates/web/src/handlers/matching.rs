//! Files and parts brought together.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::ids::{ModelId, PartId, ProjectId, SculptId};
use wembrit_store::queries::muster::{self, PartChange};
use wembrit_store::queries::recipes::{self, RecipeChange};
use wembrit_store::queries::{resins, workshop};
use wembrit_store::{Conn, StoreError};

use super::sculpts::arrived;
use super::{Asked, Id, go};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::matching::MatchView;
use crate::views::{Page, Tab, html};

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Asked,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let page = Page::load(c, app, Tab::Muster, "Files for parts", Some(id))?
                .noticed(arrived(&asked));
            MatchView::load(c, page, id)
        })
        .await?;
    html(&view)
}

/// What the maker confirmed for one file.
enum Match {
    Part(SculptId, PartId),
    NewPart {
        sculpt: SculptId,
        model: ModelId,
        name: String,
        count: u32,
    },
}

pub(crate) async fn confirm(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let matches = read(&input)?;
    app.write(move |c| matches.iter().try_for_each(|m| carry_out(c, m, now)))
        .await?;
    Ok(go(format!("/projects/{id}/match")))
}

fn read(input: &Input) -> Result<Vec<Match>, WebError> {
    let mut matches = Vec::new();
    for file in input.all("sculpt") {
        let Ok(sculpt) = file.parse::<SculptId>() else {
            continue;
        };
        let to = input.get(&format!("to_{file}"));
        let Some((kind, number)) = to.split_once('-') else {
            continue;
        };
        match kind {
            "part" => {
                let part = number.parse().map_err(|_| WebError::NoPage)?;
                matches.push(Match::Part(sculpt, part));
            }
            "model" => {
                let name = input.get(&format!("name_{file}")).to_owned();
                let count = input
                    .get(&format!("count_{file}"))
                    .parse::<u32>()
                    .unwrap_or(0);
                if name.is_empty() || !(1..=500).contains(&count) {
                    return Err(WebError::BadRequest(
                        "a new part needs a name, and a count from 1 to 500".into(),
                    ));
                }
                let model = number.parse().map_err(|_| WebError::NoPage)?;
                matches.push(Match::NewPart {
                    sculpt,
                    model,
                    name,
                    count,
                });
            }
            _ => {}
        }
    }
    Ok(matches)
}

fn carry_out(c: &mut Conn, to: &Match, now_ms: i64) -> Result<(), StoreError> {
    match to {
        Match::Part(sculpt, id) => {
            let part = muster::part(c, *id)?;
            let recipe = recipes::newest(c, part.recipe_id)?;
            let change = PartChange {
                name: part.name.clone(),
                count: u32::try_from(part.count).unwrap_or(1),
                spares: u32::try_from(part.spares).unwrap_or(0),
                sculpt: Some(*sculpt),
                option: part.option_id(),
                recipe: RecipeChange::of(&recipe),
            };
            muster::change_part(c, *id, part.row_version, &change, now_ms)
        }
        Match::NewPart {
            sculpt,
            model,
            name,
            count,
        } => {
            let resins = resins::list(c)?;
            let resin = resins.first().ok_or_else(|| {
                StoreError::Refused("there is no resin yet: add one in the workshop first".into())
            })?;
            let change = PartChange {
                name: name.clone(),
                count: *count,
                spares: 0,
                sculpt: Some(*sculpt),
                option: None,
                recipe: RecipeChange {
                    scale: 1.0,
                    resin: resin.id,
                    layer: workshop::load(c)?.layer,
                    hang: None,
                },
            };
            muster::add_part(c, *model, &change, now_ms).map(drop)
        }
    }
}
