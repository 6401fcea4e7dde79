//! Files and parts brought together.

use std::collections::BTreeMap;

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::ids::{ModelId, OptionId, PartId, ProjectId, SculptId};
use wembrit_store::commands::muster::PartChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::{
    army, hollows, kits as store_kits, muster, recipes, resins, sculpts, workshop,
};
use wembrit_store::{Conn, StoreError, commands};

use super::sculpts::arrived;
use super::{Fields, Id, go, page};
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::matching::{MatchView, named_places};
use crate::views::{Tab, html};

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let from = asked.get("from").and_then(|n| n.parse().ok()).unwrap_or(0);
    let view = app
        .view(move |c, app| {
            let page =
                page(c, app, Tab::Muster, "Files for parts", Some(id))?.noticed(arrived(&asked));
            let army = army::load(c, id)?;
            let files = sculpts::without_part(c)?;
            let ids: Vec<_> = files.iter().map(|f| f.id).collect();
            let pictured = hollows::pictured(c, &ids)?;
            Ok(MatchView::new(page, &army, files, &pictured, from))
        })
        .await?;
    html(&view)
}

/// Where a new part goes.
#[derive(Clone, Copy)]
enum Place {
    /// To all models of a kind.
    Model(ModelId),
    /// To those that take an option.
    Option(OptionId),
}

/// What the maker confirmed for one file.
enum Match {
    Part(SculptId, PartId),
    NewPart {
        sculpt: SculptId,
        to: Place,
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
    // Where there are many places, they are typed by their names.
    let (parts, models) = app
        .read(move |c| Ok(named_places(&*army::load(c, id)?)))
        .await?;
    let all = parts.into_iter().chain(models);
    let places: BTreeMap<String, String> = all.map(|(value, name)| (name, value)).collect();
    let matches = read(&input, &places)?;
    app.write(move |c| matches.iter().try_for_each(|m| carry_out(c, id, m, now)))
        .await?;
    app.ring();
    Ok(go(format!("/projects/{id}/match")))
}

fn read(input: &Input, places: &BTreeMap<String, String>) -> Result<Vec<Match>, WebError> {
    let mut matches = Vec::new();
    for file in input.all("sculpt") {
        let Ok(sculpt) = file.parse::<SculptId>() else {
            continue;
        };
        let to = input.get(&format!("to_{file}")).trim();
        let is_value = |t: &str| places.values().any(|value| value == t);
        let to = places.get(to).map_or(to, String::as_str);
        if !to.is_empty() && !is_value(to) {
            return Err(WebError::BadRequest(format!(
                "'{to}' is none of the parts without a file, and no model: pick one from the list, or leave it empty"
            )));
        }
        let Some((kind, number)) = to.split_once('-') else {
            continue;
        };
        match kind {
            "part" => {
                let part = number.parse().map_err(|_| WebError::NoPage)?;
                matches.push(Match::Part(sculpt, part));
            }
            "model" | "option" => {
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
                let number: i64 = number.parse().map_err(|_| WebError::NoPage)?;
                let to = if kind == "model" {
                    Place::Model(ModelId(number))
                } else {
                    Place::Option(OptionId(number))
                };
                matches.push(Match::NewPart {
                    sculpt,
                    to,
                    name,
                    count,
                });
            }
            _ => {}
        }
    }
    Ok(matches)
}

fn carry_out(c: &mut Conn, project: ProjectId, to: &Match, now_ms: i64) -> Result<(), StoreError> {
    match to {
        Match::Part(sculpt, id) => {
            let part = muster::part(c, *id)?;
            let recipe = recipes::newest(c, part.recipe)?;
            let change = PartChange {
                name: part.name.clone(),
                count: part.count,
                spares: part.spares,
                sculpt: Some(*sculpt),
                option: part.option,
                recipe: RecipeChange {
                    setup: commands::by_practice::of_new_part(c, project, Some(*sculpt))?,
                    ..RecipeChange::of(&recipe)
                },
            };
            commands::muster::change_part(c, *id, part.row_version, &change, now_ms)
        }
        Match::NewPart {
            sculpt,
            to,
            name,
            count,
        } => {
            let (model, option) = match to {
                Place::Model(model) => (*model, None),
                Place::Option(option) => (store_kits::model_of_option(c, *option)?, Some(*option)),
            };
            let resins = resins::list(c)?;
            let resin = resins.first().ok_or_else(|| {
                StoreError::Refused("there is no resin yet: add one in the workshop first".into())
            })?;
            let change = PartChange {
                name: name.clone(),
                count: *count,
                spares: 0,
                sculpt: Some(*sculpt),
                option,
                recipe: RecipeChange {
                    scale: 1.0,
                    resin: resin.id,
                    layer: workshop::load(c)?.layer,
                    setup: commands::by_practice::of_new_part(c, project, Some(*sculpt))?,
                },
            };
            commands::muster::add_part(c, model, &change, now_ms).map(drop)
        }
    }
}
