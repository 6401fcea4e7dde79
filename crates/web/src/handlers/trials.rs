//! Trials: begun, put together, planned, marked, decided.

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::response::{Html, Response};
use wembrit_core::ids::{PartId, PrinterId, ProjectId, ResinId, TrialId, VariantId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::Proof;
use wembrit_core::recipe::supports::Supports;
use wembrit_store::StoreError;
use wembrit_store::queries::recipes::{Hang, RecipeChange};
use wembrit_store::queries::trials::{self, VariantChange};
use wembrit_store::queries::{army, demand, muster, plans, printers, recipes};

use super::recipes::{page, read_style};
use super::{Id, go};
use crate::error::WebError;
use crate::forms::{Input, Reader};
use crate::state::{App, Topic};
use crate::views::html;
use crate::views::trials::{TrialView, waiting_words};

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
            trials::begin(c, part, printer, now)
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
            let part = trials::load(c, id)?.part_id;
            let page = page(c, app, part, "Trial")?;
            TrialView::load(c, page, id)
        })
        .await?;
    html(&view)
}

pub(crate) async fn state(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Html<&'static str>, WebError> {
    Ok(Html(app.read(move |c| waiting_words(c, id)).await?))
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
            None => pose.says(),
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
                hang: Some(Hang { pose, supports }),
            },
            printer,
            exposure_s,
        };
        trials::add_variant(c, id, &variant, now)
    })
    .await?;
    app.ring();
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn remove_variant(
    State(app): State<App>,
    Path((id, variant)): Path<(i64, i64)>,
) -> Result<Response, WebError> {
    app.write(move |c| trials::remove_variant(c, TrialId(id), VariantId(variant)))
        .await?;
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn set_criteria(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let lines = Input::parse(&body).get("criteria").to_owned();
    app.write(move |c| trials::set_criteria(c, id, &lines))
        .await?;
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn plan(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| trials::plan(c, id, now).map(drop))
        .await?;
    app.tell(Topic::Plates);
    Ok(go(format!("/trials/{id}")))
}

pub(crate) async fn marks(
    State(app): State<App>,
    Id(id): Id<TrialId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    app.write(move |c| {
        let trial = trials::load(c, id)?;
        let criteria: Vec<String> = trial.criteria().iter().map(ToString::to_string).collect();
        for (variant, _) in trials::variants(c, id)? {
            for (index, criterion) in criteria.iter().enumerate() {
                let name = format!("m{}_{index}", variant.id);
                if input.has(&name) {
                    let mark = input.get(&name).parse().ok();
                    trials::mark(c, id, variant.id, criterion, mark)?;
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
    app.write(move |c| trials::declare(c, id, winner, &reason, now))
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
            trials::give_up(c, id)?;
            Ok(trials::load(c, id)?.part_id)
        })
        .await?;
    Ok(go(format!("/parts/{part}/recipe")))
}

/// One copy of the version that took the winner over, on a plate.
pub(crate) async fn confirm(
    State(app): State<App>,
    Id(id): Id<TrialId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    let project = app
        .write(move |c| {
            let part = trials::load(c, id)?.part_id;
            trials::plan_first_copies(c, &[part], now)?;
            muster::project_of_part(c, part)
        })
        .await?;
    app.tell(Topic::Plates);
    Ok(go(format!("/projects/{project}/plates")))
}

/// One copy of every part of the open plan whose recipe nobody has tried.
pub(crate) async fn first_copies(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
) -> Result<Response, WebError> {
    let now = app.now_ms();
    app.write(move |c| {
        let lines = match plans::open_plan(c, project)? {
            Some(plan) => plans::demand_of(c, plan.id)?,
            None => demand::lines(&army::load(c, project)?),
        };
        let versions: Vec<_> = lines.iter().map(|l| l.recipe_version).collect();
        let proofs = recipes::proofs(c, &versions)?;
        let under_way = recipes::under_way(c, &versions)?;
        let untried: Vec<PartId> = lines
            .iter()
            .filter(|l| proofs[&l.recipe_version] != Proof::Proven)
            .filter(|l| !under_way.contains(&l.recipe_version))
            .map(|l| l.part)
            .collect();
        trials::plan_first_copies(c, &untried, now).map(drop)
    })
    .await?;
    app.tell(Topic::Plates);
    Ok(go(format!("/projects/{project}/plates")))
}
