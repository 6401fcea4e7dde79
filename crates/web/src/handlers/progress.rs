//! What holds a project back, what to print next, and the chance of a date.

use std::collections::HashMap;
use std::sync::Arc;

use axum::extract::State;
use axum::response::Html;
use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_core::schedule::{Timetable, Work};
use wembrit_core::sculpt::SculptFacts;
use wembrit_store::queries::pages::progress::{self as pages, ProgressPage};

use super::schedule::{times, work};
use super::{Fields, Id, leaf_asked, page};
use crate::error::WebError;
use crate::state::App;
use crate::views::chance::{Asking, ChanceView};
use crate::views::progress::ProgressView;
use crate::views::{Page, Tab, html};
use crate::worked::{A_MOMENT, TimesOrWhy};

/// What was measured on the sculpts that are drawn.
type Measured = HashMap<SculptId, SculptFacts>;

/// A page, its project, what waits, and when that is printed once it is known.
type Loaded = (
    Page,
    (Arc<ProgressPage>, Measured),
    Work,
    Option<Arc<TimesOrWhy>>,
);

/// A project with the times of the schedule: where a leaf of its units is shown those that are there within a
/// moment, else when they are there.
async fn loaded(
    app: &App,
    id: ProjectId,
    title: &'static str,
    leaf: Option<usize>,
) -> Result<Loaded, WebError> {
    let (page, (data, measured)) = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Muster, title, Some(id))?;
            let data = pages::load(c, id)?;
            let facts = match leaf {
                Some(from) => {
                    let leaf = ProgressView::leaf(&data.army, from);
                    pages::measured(c, &data.army.units[leaf.from..leaf.to])?
                }
                None => HashMap::new(),
            };
            Ok((page, (data, facts)))
        })
        .await?;
    let work = work(&data.scheduled, &page, app.now_ms());
    let within = leaf.is_some().then_some(A_MOMENT);
    let found = times(app, &data.scheduled, &work, (true, within)).await;
    Ok((page, (data, measured), work, found))
}

/// The times, where there are any.
fn table(found: Option<&TimesOrWhy>) -> Option<&Timetable> {
    found.and_then(|f| f.as_ref().ok()).map(|f| &f.0)
}

pub(crate) async fn show(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let from = leaf_asked(&asked);
    let (page, (data, measured), work, found) =
        loaded(&app, id, "What holds it back", Some(from)).await?;
    let hours = asked.get("hours").map_or("", String::as_str);
    let view = ProgressView::new(
        page,
        (&data, &measured),
        (&work, table(found.as_deref())),
        (hours, from),
        app.now_ms(),
    );
    html(&ProgressView {
        unfinished: found.is_none(),
        ..view
    })
}

/// The chance of a date, rehearsed; and of the same date if one thing were changed.
pub(crate) async fn chance(
    State(app): State<App>,
    Id(id): Id<ProjectId>,
    asked: Fields,
) -> Result<Html<String>, WebError> {
    let (page, (data, _), work, found) = loaded(&app, id, "The chance of a date", None).await?;
    let asking = Asking::new(&page.zone, &asked, data.deadline_ms, app.now_ms());
    let played = tokio::task::spawn_blocking(move || {
        ChanceView::new(page, &data, (&work, table(found.as_deref())), asking)
    })
    .await?;
    html(&played)
}
