//! Trials: begun, put together, planned, marked, decided.

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::response::{Html, Response};
use wembrit_core::army::demand_lines;
use wembrit_core::ids::{PartId, PrinterId, ProjectId, ResinId, TrialId, VariantId};
use wembrit_core::plan::{plan_first_copies, plan_trial};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::supports::Supports;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::trials::VariantChange;
use wembrit_store::queries::pages::trials as pages;
use wembrit_store::queries::{army, demand, plans, printers, trials};
use wembrit_store::{StoreError, commands};

use super::recipes::{part_page, read_style};
use super::{Id, go, wait_s};
use crate::error::WebError;
use crate::forms::{Input, Reader};
use crate::state::{App, Topic};
use crate::views::html;
use crate::views::trials::TrialView;
use crate::views::waiting::Waiting;

pub(crate) async fn begin(
    State(app): State<App>,
    Id(part): Id<PartId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let id = app
        .write(move |c| {
            let printer = printers::list(c)?.first().map(|p| p.id).ok_or_else(|| {
                StoreError::Refused("there is no printer yet: add one in the workshop".into())
            })?;
            commands::trials::begin(c, part, printer, now)
        })
        .await?;
    app.ring();
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let part = trials::load(c, id)?.part;
            let page = part_page(c, app, part, "Trial")?;
            Ok(TrialView::new(page, &pages::page(c, id)?))
        })
        .await?;
    html(&view)
}

pub(crate) async fn state(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Html<String>, WebError> {
    let (facts, wait) = app
        .view(move |c, app| Ok((trials::facts(c, id)?, wait_s(c, app)?)))
        .await?;
    html(&Waiting::of_trial(!facts.waiting_for().is_empty()).about(wait))
}

pub(crate) async fn add_variant(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let mut r = Reader::new(&input);
    let scale = r.number("scale_percent", 1.0, 2000.0) / 100.0;
    let layer = r.layer("layer_mm");
    let resin = r.choice("resin", ResinId(0));
    let printer = r.choice("printer", PrinterId(0));
    let pose = r.choice("pose", Pose::AS_IMPORTED);
    let exposure_s = if input.get("exposure_s").is_empty() {
        None
    } else {
        Some(r.number("exposure_s", 0.1, 120.0))
    };
    let read = r.done((scale, layer, resin, printer, pose, exposure_s));
    let (scale, layer, resin, printer, pose, exposure_s) = read.map_err(|faults| {
        let said: Vec<String> = faults
            .into_iter()
            .map(|(name, why)| format!("{}: {why}", name.split('_').next().unwrap_or(name)))
            .collect();
        WebError::BadRequest(said.join("; "))
    })?;
    let supports = if input.has("planned") {
        Supports::Planned(read_style(&input)?)
    } else {
        Supports::None
    };
    let name = match input.get("name") {
        "" => match exposure_s {
            Some(s) => format!("{s} s"),
            None => pose.words(),
        },
        name => name.chars().take(60).collect(),
    };
    let now = app.now_ms();
    app.write(move |c| {
        let variant = VariantChange {
            name,
            recipe: RecipeChange {
                scale,
                resin,
                layer,
                setup: Some(Setup { pose, supports }),
            },
            printer,
            exposure_s,
        };
        commands::trials::add_variant(c, id, &variant, now)
    })
    .await?;
    app.ring();
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn remove_variant(
    State(app): State<App>,
    Path((id, variant)): Path<(i64, i64)>,
) -> Result<Response, WebError> {
    app.write(move |c| commands::trials::remove_variant(c, TrialId(id), VariantId(variant)))
        .await?;
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn set_criteria(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let lines = Input::parse(&body).get("criteria").to_owned();
    app.write(move |c| commands::trials::set_criteria(c, id, &lines))
        .await?;
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn plan(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::trials::ensure_settings(c, id, now))
        .await?;
    let facts = app.read(move |c| trials::facts(c, id)).await?;
    // Packing takes a while: nobody waits for the data file meanwhile.
    let planned = tokio::task::spawn_blocking(move || {
        let planned = plan_trial(&facts);
        planned.map(|planned| (facts, planned))
    })
    .await?;
    let (facts, planned) = planned.map_err(|why| StoreError::Refused(why.to_string()))?;
    app.write(move |c| commands::trials::plan(c, &facts, planned, now))
        .await?;
    app.tell(Topic::Plates);
    Ok(go(format!("/trials/{id}")))
}

/// Plans one copy of each of some parts, at once.
async fn try_one_of_each(app: &App, parts: Vec<PartId>) -> Result<ProjectId, WebError> {
    let now = app.now_ms();
    app.write(move |c| commands::settings::ensure_all(c, now))
        .await?;
    let (project, lines, facts) = app.read(move |c| trials::first_copies(c, &parts)).await?;
    let planned = tokio::task::spawn_blocking(move || {
        let plan = plan_first_copies(&facts, &lines);
        plan.map(|plan| (lines, plan))
    })
    .await?;
    let (lines, plan) = planned.map_err(|why| StoreError::Refused(why.to_string()))?;
    app.write(move |c| commands::trials::plan_first_copies(c, project, &lines, &plan, now))
        .await?;
    app.tell(Topic::Plates);
    Ok(project)
}

pub(crate) async fn grades(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    app.write(move |c| {
        let trial = trials::load(c, id)?;
        let criteria = trial.criteria;
        for (variant, _) in trials::variants(c, id)? {
            for (index, criterion) in criteria.iter().enumerate() {
                let name = format!("m{}_{index}", variant.id);
                if input.has(&name) {
                    let grade = input.get(&name).parse().ok();
                    commands::trials::grade(c, id, variant.id, criterion, grade)?;
                }
            }
        }
        Ok(())
    })
    .await?;
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn winner(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let winner: VariantId = input
        .get("winner")
        .parse()
        .map_err(|_| WebError::BadRequest("choose the variant that wins".into()))?;
    let reason: String = input.get("reason").chars().take(300).collect();
    let now = app.now_ms();
    app.write(move |c| commands::trials::declare(c, id, winner, &reason, now))
        .await?;
    app.ring();
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn give_up(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Response, WebError> {
    let part = app
        .write(move |c| {
            commands::trials::give_up(c, id)?;
            Ok(trials::load(c, id)?.part)
        })
        .await?;
    Ok(go(format!("/parts/{part}/recipe")))
}

/// One copy of the version that took the winner over, on a plate.
pub(crate) async fn confirm(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Response, WebError> {
    let part = app.read(move |c| Ok(trials::load(c, id)?.part)).await?;
    let project = try_one_of_each(&app, vec![part]).await?;
    Ok(go(format!("/projects/{project}/plates")))
}

/// One copy of every part of the open plan whose recipe nobody has tried.
pub(crate) async fn first_copies(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
) -> Result<Response, WebError> {
    let missing = app
        .read(move |c| {
            let lines = match plans::open_plan(c, project)? {
                Some(plan) => plans::demand_of(c, plan.id)?,
                None => demand_lines(&*army::load(c, project)?),
            };
            demand::untried(c, &lines)
        })
        .await?;
    let project = try_one_of_each(&app, missing).await?;
    Ok(go(format!("/projects/{project}/plates")))
}
