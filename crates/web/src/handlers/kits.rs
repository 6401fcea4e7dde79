//! Kits: choices, pieces, a kit taken over from another model.

use axum::body::Bytes;
use axum::extract::State;
use axum::response::{Html, Response};
use wembrit_core::army::ChoiceOption;
use wembrit_core::ids::{ChoiceId, ModelId, OptionId, PieceId};
use wembrit_store::queries::{kits, muster};
use wembrit_store::{Conn, StoreError, commands};

use super::{Id, go, page, save};
use crate::error::WebError;
use crate::forms::{Input, kits as form};
use crate::state::App;
use crate::views::{FormView, Tab, html};

/// The options of a model with their names, for forms.
pub(super) fn options(c: &mut Conn, model: ModelId) -> Result<Vec<(OptionId, String)>, StoreError> {
    let choices: Vec<ChoiceId> = kits::choices_of(c, &[model])?
        .iter()
        .map(|x| x.id)
        .collect();
    Ok(kits::options_of(c, &choices)?
        .into_iter()
        .map(|o| (o.id, o.name))
        .collect())
}

/// A form of something that belongs to a model.
fn view(
    c: &mut Conn,
    app: &App,
    model: ModelId,
    heading: &str,
    action: String,
) -> Result<FormView, StoreError> {
    let unit = muster::model(c, model)?.unit;
    let project = muster::unit(c, unit)?.project;
    let page = page(c, app, Tab::Muster, heading, Some(project))?;
    Ok(FormView::new(page, heading, action).leads(format!("/models/{model}"), "Save"))
}

/// The form of a choice, how many models are wanted, and the options there are.
struct ChoiceForm {
    view: FormView,
    model: ModelId,
    quantity: u32,
    known: Vec<ChoiceOption>,
}

async fn choice_form(
    app: &App,
    model: Option<ModelId>,
    id: Option<ChoiceId>,
) -> Result<ChoiceForm, WebError> {
    app.view(move |c, app| {
        let choice = id.map(|id| kits::choice(c, id)).transpose()?;
        let model = choice
            .as_ref()
            .map(|x| x.model)
            .or(model)
            .ok_or(StoreError::NotFound { what: "model" })?;
        let known = match &choice {
            Some(choice) => kits::options_of(c, &[choice.id])?,
            None => Vec::new(),
        };
        let row = muster::model(c, model)?;
        let lead = format!("{} of {} are wanted.", row.quantity, row.name);
        let (heading, action) = match &choice {
            Some(choice) => (choice.name.clone(), format!("/choices/{}", choice.id)),
            None => (
                "New choice".to_owned(),
                format!("/models/{model}/choices/new"),
            ),
        };
        let mut view =
            view(c, app, model, &heading, action)?
                .lead(&lead)
                .fields(form::choice_fields(
                    choice.as_ref().map(|x| (x, known.as_slice())),
                ));
        if let Some(choice) = &choice {
            view = view.editing(
                choice.row_version,
                Some(format!("/choices/{}/remove", choice.id)),
            );
        }
        Ok(ChoiceForm {
            view,
            model,
            quantity: row.quantity,
            known,
        })
    })
    .await
}

pub(crate) async fn new_choice(
    State(app): State<App>,
    Id(model): Id<ModelId>,
) -> Result<Html<String>, WebError> {
    html(&choice_form(&app, Some(model), None).await?.view)
}

pub(crate) async fn edit_choice(
    State(app): State<App>,
    Id(id): Id<ChoiceId>,
) -> Result<Html<String>, WebError> {
    html(&choice_form(&app, None, Some(id)).await?.view)
}

pub(crate) async fn add_choice(
    State(app): State<App>,
    Id(model): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_choice_as(app, Some(model), None, body).await
}

pub(crate) async fn save_choice(
    State(app): State<App>,
    Id(id): Id<ChoiceId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_choice_as(app, None, Some(id), body).await
}

async fn save_choice_as(
    app: App,
    model: Option<ModelId>,
    id: Option<ChoiceId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let ChoiceForm {
        view,
        model,
        quantity,
        known,
    } = choice_form(&app, model, id).await?;
    let (read, version) = (
        form::read_choice(&input, quantity, &known),
        input.row_version(),
    );
    save(view, &input, read, |choice| async move {
        app.write(move |c| match id {
            Some(id) => commands::kits::change_choice(c, id, version, &choice, now),
            None => commands::kits::add_choice(c, model, &choice, now).map(drop),
        })
        .await?;
        Ok(format!("/models/{model}"))
    })
    .await
}

async fn piece_form(
    app: &App,
    model: Option<ModelId>,
    id: Option<PieceId>,
) -> Result<(FormView, ModelId), WebError> {
    app.view(move |c, app| {
        let piece = id.map(|id| kits::piece(c, id)).transpose()?;
        let model = piece
            .as_ref()
            .map(|p| p.model)
            .or(model)
            .ok_or(StoreError::NotFound { what: "model" })?;
        let (heading, action) = match &piece {
            Some(piece) => (piece.name.clone(), format!("/pieces/{}", piece.id)),
            None => (
                "New piece".to_owned(),
                format!("/models/{model}/pieces/new"),
            ),
        };
        let options = options(c, model)?;
        let mut view = view(c, app, model, &heading, action)?
            .lead("Something the model needs that is not printed here.")
            .fields(form::piece_fields(piece.as_ref(), &options));
        if let Some(piece) = &piece {
            view = view.editing(
                piece.row_version,
                Some(format!("/pieces/{}/remove", piece.id)),
            );
        }
        Ok((view, model))
    })
    .await
}

pub(crate) async fn new_piece(
    State(app): State<App>,
    Id(model): Id<ModelId>,
) -> Result<Html<String>, WebError> {
    html(&piece_form(&app, Some(model), None).await?.0)
}

pub(crate) async fn edit_piece(
    State(app): State<App>,
    Id(id): Id<PieceId>,
) -> Result<Html<String>, WebError> {
    html(&piece_form(&app, None, Some(id)).await?.0)
}

pub(crate) async fn add_piece(
    State(app): State<App>,
    Id(model): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_piece_as(app, Some(model), None, body).await
}

pub(crate) async fn save_piece(
    State(app): State<App>,
    Id(id): Id<PieceId>,
    body: Bytes,
) -> Result<Response, WebError> {
    save_piece_as(app, None, Some(id), body).await
}

async fn save_piece_as(
    app: App,
    model: Option<ModelId>,
    id: Option<PieceId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (view, model) = piece_form(&app, model, id).await?;
    let version = input.row_version();
    save(view, &input, form::read_piece(&input), |piece| async move {
        app.write(move |c| match id {
            Some(id) => commands::kits::change_piece(c, id, version, &piece),
            None => commands::kits::add_piece(c, model, &piece).map(drop),
        })
        .await?;
        Ok(format!("/models/{model}"))
    })
    .await
}

pub(crate) async fn take_over(
    State(app): State<App>,
    Id(model): Id<ModelId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let (input, now) = (Input::parse(&body), app.now_ms());
    let from: ModelId = input
        .get("kit_of")
        .parse()
        .map_err(|_| WebError::BadRequest("choose the model whose kit is taken over".into()))?;
    app.write(move |c| commands::kits::copy_kit(c, from, model, now))
        .await?;
    Ok(go(format!("/models/{model}")))
}
