//! Muster: projects, units, models and their parts.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::army::Model;
use wembrit_core::ids::{ChoiceId, ModelId, PartId, PieceId, ProjectId, UnitId};
use wembrit_core::plan::concerns::concerns;
use wembrit_store::commands::muster::Entry;
use wembrit_store::queries::pages::build_sheet;
use wembrit_store::queries::{
    army, concerns as stored, hollows, kits as store_kits, muster, plans, recipes, resins, sculpts,
    workshop,
};
use wembrit_store::{Conn, StoreError, commands};

use super::{Fields, Id, go, kits, leaf_asked, notice, page, save};
use crate::error::WebError;
use crate::forms::{Field, Input, models, parts, units};
use crate::state::App;
use crate::views::build_sheet::BuildSheet;
use crate::views::muster::{ModelView, MusterView, UnitView};
use crate::views::{FormView, Page, Tab, html};

/// To the muster of the newest project; without one, to the form that makes it.
pub(crate) async fn newest(State(app): State<App>, asked: Fields) -> Result<Response, WebError> {
    // It goes into a header: nothing but a kind and a number does.
    let is_plain = |r: &&String| r.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-');
    let asked = asked
        .get("removed")
        .filter(is_plain)
        .map_or_else(String::new, |r| format!("?removed={r}"));
    super::newest(&app, &format!("muster{asked}")).await
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let from = leaf_asked(&asked);
    let view = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Muster, "Muster", Some(id))?.noticed(notice(&asked));
            let army = army::load(c, id)?;
            let facts = stored::of_project(c, id)?;
            Ok(MusterView::new(
                page,
                (&army, from),
                &plans::draft_plates(c, id)?,
                &concerns(&army, &facts),
                &facts.facts,
            ))
        })
        .await?;
    html(&view)
}

fn project_form(page: Page, name: &str, action: String) -> FormView {
    FormView::new(page, "Project", action)
        .leads("/muster", "Save")
        .lead("One army or collection.")
        .fields(vec![Field::text("name", "Name", name)])
}

pub(crate) async fn new_project(State(app): State<App>) -> Result<Html<String>, WebError> {
    let page = app
        .view(move |c, app| page(c, app, Tab::Muster, "New project", None))
        .await?;
    html(&project_form(page, "", "/projects/new".into()))
}

pub(crate) async fn add_project(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let page = app
        .view(move |c, app| page(c, app, Tab::Muster, "New project", None))
        .await?;
    let view = project_form(page, "", "/projects/new".into());
    save(view, &input, read_name(&input), |name| async move {
        let id = app
            .write(move |c| commands::muster::add_project(c, &name))
            .await?;
        Ok(format!("/projects/{id}/muster"))
    })
    .await
}

fn read_name(input: &Input) -> Result<String, crate::forms::Faults> {
    let mut r = crate::forms::Reader::new(input);
    let name = r.name("name");
    r.done(name)
}

async fn project_view(app: &App, id: ProjectId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let project = muster::project(c, id)?;
        let page = page(c, app, Tab::Muster, "Project", Some(id))?;
        let view = project_form(page, &project.name, format!("/projects/{id}"))
            .editing(project.row_version, Some(format!("/projects/{id}/remove")));
        Ok(view.leads(format!("/projects/{id}/muster"), "Save"))
    })
    .await
}

pub(crate) async fn edit_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    html(&project_view(&app, id).await?)
}

pub(crate) async fn save_project(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (view, version) = (project_view(&app, id).await?, input.row_version());
    save(view, &input, read_name(&input), |name| async move {
        app.write(move |c| commands::muster::change_project(c, id, version, &name))
            .await?;
        Ok(format!("/projects/{id}/muster"))
    })
    .await
}

async fn new_unit_view(app: &App, project: ProjectId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let page = page(c, app, Tab::Muster, "New unit", Some(project))?;
        let all = muster::units(c, project)?;
        let next = all.iter().map(|u| u.priority).max().unwrap_or(0) + 1;
        let models = muster::models_of(c, project)?;
        Ok(
            FormView::new(page, "New unit", format!("/projects/{project}/units/new"))
                .leads(format!("/projects/{project}/muster"), "Add the unit")
                .fields(units::fields(None, next, &carriers(&models))),
        )
    })
    .await
}

pub(crate) async fn new_unit(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
) -> Result<Html<String>, WebError> {
    html(&new_unit_view(&app, project).await?)
}

pub(crate) async fn add_unit(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let view = new_unit_view(&app, project).await?;
    save(view, &input, units::read(&input), |unit| async move {
        let id = app
            .write(move |c| commands::muster::add_unit(c, project, &unit))
            .await?;
        Ok(format!("/units/{id}/models/new"))
    })
    .await
}

/// Models that carry others.
fn carriers(models: &[Model]) -> Vec<units::Carrier> {
    let all = models.iter().filter(|m| m.carries > 0);
    all.map(|m| (m.id, format!("{}, {} each", m.name, m.carries)))
        .collect()
}

async fn unit_view(app: &App, id: UnitId) -> Result<UnitView, WebError> {
    app.view(move |c, app| {
        let unit = muster::unit(c, id)?;
        let page = page(c, app, Tab::Muster, &unit.name, Some(unit.project))?;
        let (all, models) = (
            muster::units(c, unit.project)?,
            muster::models_of(c, unit.project)?,
        );
        let form = FormView::new(page, unit.name.clone(), format!("/units/{id}"))
            .leads(format!("/projects/{}/muster", unit.project), "Save")
            .editing(unit.row_version, Some(format!("/units/{id}/remove")))
            .fields(units::fields(
                Some(&unit),
                unit.priority,
                &carriers(&models),
            ));
        Ok(UnitView::new(form, &all, &models, id))
    })
    .await
}

pub(crate) async fn edit_unit(
    State(app): State<App>,
    Id(id): Id<UnitId>,
) -> Result<Html<String>, WebError> {
    html(&unit_view(&app, id).await?)
}

/// What is built of a unit, to print and to tick.
pub(crate) async fn build_sheet(
    State(app): State<App>,
    Id(id): Id<UnitId>,
) -> Result<Html<String>, WebError> {
    let view = app
        .view(move |c, app| {
            let data = build_sheet::load(c, id)?;
            let project = data.unit.unit.project;
            let page = page(c, app, Tab::Muster, "Build sheet", Some(project))?;
            Ok(BuildSheet::new(page, &data))
        })
        .await?;
    html(&view)
}

pub(crate) async fn save_unit(
    State(app): State<App>,
    Id(id): Id<UnitId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let view = unit_view(&app, id).await?.form;
    let (version, back) = (input.row_version(), view.back.clone());
    save(view, &input, units::read(&input), |unit| async move {
        app.write(move |c| commands::muster::change_unit(c, id, version, &unit))
            .await?;
        Ok(back)
    })
    .await
}

async fn new_model_view(app: &App, unit: UnitId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let unit = muster::unit(c, unit)?;
        let page = page(c, app, Tab::Muster, "New model", Some(unit.project))?;
        Ok(FormView::new(
            page,
            format!("New model in {}", unit.name),
            format!("/units/{}/models/new", unit.id),
        )
        .leads(
            format!("/projects/{}/muster", unit.project),
            "Add the model",
        )
        .fields(models::fields(None)))
    })
    .await
}

pub(crate) async fn new_model(
    State(app): State<App>,
    Id(unit): Id<UnitId>,
) -> Result<Html<String>, WebError> {
    html(&new_model_view(&app, unit).await?)
}

pub(crate) async fn add_model(
    State(app): State<App>,
    Id(unit): Id<UnitId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let view = new_model_view(&app, unit).await?;
    save(view, &input, models::read(&input), |model| async move {
        let id = app
            .write(move |c| commands::muster::add_model(c, unit, &model))
            .await?;
        Ok(format!("/models/{id}"))
    })
    .await
}

async fn model_view(app: &App, id: ModelId, asked: Option<Fields>) -> Result<ModelView, WebError> {
    app.view(move |c, app| {
        let model = muster::model(c, id)?;
        let project = muster::unit(c, model.unit)?.project;
        let page = page(c, app, Tab::Muster, &model.name, Some(project))?;
        let page = page.noticed(asked.as_ref().and_then(notice));
        let kits = muster::with_kits(c, project)?;
        let army = army::some(c, project, &[model.unit])?;
        let (unit, model) = army
            .model(id)
            .ok_or(StoreError::NotFound { what: "model" })?;
        let sculpts: Vec<_> = model.parts.iter().filter_map(|p| p.part.sculpt).collect();
        let facts = stored::facts(c, &army)?;
        Ok(ModelView::new(
            page,
            (&army, &kits),
            (unit, model),
            &resins::list_all(c)?,
            &concerns(&army, &facts),
            &facts.facts,
            &hollows::pictured(c, &sculpts)?,
        ))
    })
    .await
}

pub(crate) async fn show_model(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    html(&model_view(&app, id, Some(asked)).await?)
}

async fn model_form(app: &App, id: ModelId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let model = muster::model(c, id)?;
        let project = muster::unit(c, model.unit)?.project;
        let page = page(c, app, Tab::Muster, &model.name, Some(project))?;
        Ok(
            FormView::new(page, model.name.clone(), format!("/models/{id}/edit"))
                .leads(format!("/models/{id}"), "Save")
                .editing(model.row_version, Some(format!("/models/{id}/remove")))
                .fields(models::fields(Some(&model))),
        )
    })
    .await
}

pub(crate) async fn edit_model(
    State(app): State<App>,
    Id(id): Id<ModelId>,
) -> Result<Html<String>, WebError> {
    html(&model_form(&app, id).await?)
}

pub(crate) async fn save_model(
    State(app): State<App>,
    Id(id): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (view, version, now) = (
        model_form(&app, id).await?,
        input.row_version(),
        app.now_ms(),
    );
    save(view, &input, models::read(&input), |model| async move {
        app.write(move |c| commands::muster::change_model(c, id, version, &model, now))
            .await?;
        Ok(format!("/models/{id}"))
    })
    .await
}

fn choices(c: &mut Conn, model: ModelId) -> Result<parts::Choices, StoreError> {
    Ok(parts::Choices {
        sculpts: sculpts::names(c)?,
        resins: resins::list(c)?,
        layer: workshop::load(c)?.layer,
        options: kits::options(c, model)?,
    })
}

async fn new_part_view(app: &App, model: ModelId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let model = muster::model(c, model)?;
        let project = muster::unit(c, model.unit)?.project;
        let page = page(c, app, Tab::Muster, "New part", Some(project))?;
        Ok(FormView::new(
            page,
            format!("New part of {}", model.name),
            format!("/models/{}/parts/new", model.id),
        )
        .leads(format!("/models/{}", model.id), "Add the part")
        .fields(parts::fields(None, &choices(c, model.id)?)))
    })
    .await
}

pub(crate) async fn new_part(
    State(app): State<App>,
    Id(model): Id<ModelId>,
) -> Result<Html<String>, WebError> {
    html(&new_part_view(&app, model).await?)
}

pub(crate) async fn add_part(
    State(app): State<App>,
    Id(model): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (view, now) = (new_part_view(&app, model).await?, app.now_ms());
    save(view, &input, parts::read(&input), |mut part| async move {
        app.write(move |c| {
            let unit = muster::model(c, model)?.unit;
            let project = muster::unit(c, unit)?.project;
            part.recipe.setup = commands::by_practice::of_new_part(c, project, part.sculpt)?;
            commands::muster::add_part(c, model, &part, now)
        })
        .await?;
        app.ring();
        Ok(format!("/models/{model}"))
    })
    .await
}

async fn part_view(app: &App, id: PartId) -> Result<FormView, WebError> {
    app.view(move |c, app| {
        let part = muster::part(c, id)?;
        let recipe = recipes::newest(c, part.recipe)?;
        let unit = muster::model(c, part.model)?.unit;
        let project = muster::unit(c, unit)?.project;
        let page = page(c, app, Tab::Muster, &part.name, Some(project))?;
        Ok(FormView::new(page, part.name.clone(), format!("/parts/{id}"))
            .lead(&format!("Recipe version {}. A changed scale, resin or layer height becomes a new version; copies already planned keep theirs.", recipe.version))
            .leads(format!("/models/{}", part.model), "Save")
            .editing(part.row_version, Some(format!("/parts/{id}/remove")))
            .fields(parts::fields(Some((&part, &recipe)), &choices(c, part.model)?)))
    })
    .await
}

pub(crate) async fn edit_part(
    State(app): State<App>,
    Id(id): Id<PartId>,
) -> Result<Html<String>, WebError> {
    html(&part_view(&app, id).await?)
}

pub(crate) async fn save_part(
    State(app): State<App>,
    Id(id): Id<PartId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let view = part_view(&app, id).await?;
    let (version, back, now) = (input.row_version(), view.back.clone(), app.now_ms());
    save(view, &input, parts::read(&input), |mut part| async move {
        app.write(move |c| {
            if muster::part(c, id)?.sculpt != part.sculpt {
                let project = muster::project_of_part(c, id)?;
                part.recipe.setup = commands::by_practice::of_new_part(c, project, part.sculpt)?;
            }
            commands::muster::change_part(c, id, version, &part, now)
        })
        .await?;
        app.ring();
        Ok(back)
    })
    .await
}

/// The entry an address names: `/units/7/remove`.
fn entry(kind: &str, id: i64) -> Result<Entry, WebError> {
    match kind {
        "projects" => Ok(Entry::Project(ProjectId(id))),
        "units" => Ok(Entry::Unit(UnitId(id))),
        "models" => Ok(Entry::Model(ModelId(id))),
        "parts" => Ok(Entry::Part(PartId(id))),
        "choices" => Ok(Entry::Choice(ChoiceId(id))),
        "pieces" => Ok(Entry::Piece(PieceId(id))),
        _ => Err(WebError::NoPage),
    }
}

/// The page on which an entry is listed, and the word for it.
fn home(c: &mut Conn, entry: Entry) -> Result<(String, &'static str), StoreError> {
    let muster = |project: ProjectId| format!("/projects/{project}/muster");
    Ok(match entry {
        Entry::Project(_) => ("/muster".into(), "project"),
        Entry::Unit(id) => (muster(muster::unit(c, id)?.project), "unit"),
        Entry::Model(id) => {
            let unit = muster::model(c, id)?.unit;
            (muster(muster::unit(c, unit)?.project), "model")
        }
        Entry::Choice(id) => (
            format!("/models/{}", store_kits::choice(c, id)?.model),
            "choice",
        ),
        Entry::Piece(id) => (
            format!("/models/{}", store_kits::piece(c, id)?.model),
            "piece",
        ),
        Entry::Part(id) => (format!("/models/{}", muster::part(c, id)?.model), "part"),
    })
}

pub(crate) async fn remove(
    State(app): State<App>,
    kind: &'static str,
    id: i64,
) -> Result<Response, WebError> {
    let (entry, now) = (entry(kind, id)?, app.now_ms());
    let (home, word) = app
        .write(move |c| {
            commands::muster::set_removed(c, entry, Some(now))?;
            home(c, entry)
        })
        .await?;
    Ok(go(format!("{home}?removed={word}-{id}")))
}

pub(crate) async fn restore(
    State(app): State<App>,
    kind: &'static str,
    id: i64,
) -> Result<Response, WebError> {
    let entry = entry(kind, id)?;
    let (home, _) = app
        .write(move |c| {
            commands::muster::set_removed(c, entry, None)?;
            home(c, entry)
        })
        .await?;
    Ok(go(home))
}
