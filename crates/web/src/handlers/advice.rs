//! What would shorten a plate or a plan. It tries packings, which takes longer than a page should:
//! the page comes at once and its advice when it is there.

use std::sync::Arc;
use std::time::Duration;

use axum::extract::State;
use axum::http::HeaderMap;
use axum::response::Html;
use wembrit_core::ids::{PlanId, PlateId};
use wembrit_store::queries::pages::plans::{Advised, advised, advised_plate};

use super::{Id, is_fragment, page};
use crate::attended;
use crate::error::WebError;
use crate::state::App;
use crate::views::advice::{AdvicePage, PlanAdviceView};
use crate::views::{Tab, html};
use crate::worked::A_MOMENT;

/// Plate by plate of a plan.
pub(crate) async fn of_plan(
    State(app): State<App>,
    Id(id): Id<PlanId>,
    headers: HeaderMap,
) -> Result<Html<String>, WebError> {
    let data = app.read(move |c| advised(c, id)).await?;
    let project = data.army.project.id;
    let back = format!("/projects/{project}/plates");
    let here = format!("/plans/{id}/advice");
    answer(&app, data, false, (back, here), is_fragment(&headers)).await
}

/// Of one plate.
pub(crate) async fn of_plate(
    State(app): State<App>,
    Id(id): Id<PlateId>,
    headers: HeaderMap,
) -> Result<Html<String>, WebError> {
    let data = app.read(move |c| advised_plate(c, id)).await?;
    let back = format!("/plates/{id}");
    let here = format!("/plates/{id}/advice");
    answer(&app, data, true, (back, here), is_fragment(&headers)).await
}

/// A script waits for the advice alone; a page around it does not wait.
async fn answer(
    app: &App,
    data: Arc<Advised>,
    one: bool,
    (back, here): (String, String),
    alone: bool,
) -> Result<Html<String>, WebError> {
    let within: Option<Duration> = (!alone).then_some(A_MOMENT);
    let plates = data.plates.clone();
    let found = app.worked.advice.get(app.urgent(), plates, within, |of| {
        let each = of.iter();
        each.map(|(edit, ways)| (edit.plate.clone(), edit.advised(ways.as_ref())))
            .collect()
    });
    let found = found.await;
    let now = app.now_ms();
    let slots = app.read(move |c| attended::slots(c, now)).await?;
    let advice = found.map(|found| PlanAdviceView::new(&data.army, &found, &slots, one));
    if alone {
        return advice.map_or_else(|| Ok(Html(String::new())), |advice| html(&advice));
    }
    let title = if one {
        "What would shorten the plate"
    } else {
        "What would shorten the plan"
    };
    let project = data.army.project.id;
    let page = app
        .view(move |c, app| page(c, app, Tab::Plates, title, Some(project)))
        .await?;
    html(&AdvicePage::new(page, back, here, advice.as_ref()))
}
