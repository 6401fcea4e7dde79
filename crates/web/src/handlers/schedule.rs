//! The schedule, its calendar, what is wanted by when, and where a plate is wanted.

use std::sync::Arc;
use std::time::Duration;

use axum::body::Bytes;
use axum::extract::{Path, State};
use axum::response::{Html, IntoResponse, Response};
use jiff::tz::TimeZone;
use wembrit_core::army::only_spares;
use wembrit_core::cost::PlateSums;
use wembrit_core::flow::read_told;
use wembrit_core::ids::{PlanId, PlateId, PrinterId, ProjectId};
use wembrit_core::schedule::{ScheduleError, ScheduleSearch, Timetable, Work, answers};
use wembrit_core::watch::Unwatched;
use wembrit_paper::{CalendarEntry, write_calendar};
use wembrit_store::queries::pages::schedule::{self as pages, Scheduled};
use wembrit_store::queries::pages::stores;
use wembrit_store::queries::plans;
use wembrit_store::{StoreError, commands};

use super::plate_files::as_pdf;
use super::{Id, go, page, sent};
use crate::attended;
use crate::error::WebError;
use crate::forms::Input;
use crate::state::App;
use crate::views::lasts::{in_turn, lasts, lasts_words, wears, worn_words};
use crate::views::pages_out::schedule_page;
use crate::views::schedule::{EndsPiece, RulerPiece, ScheduleView, SoonerPiece, in_words};
use crate::views::{Page, Tab, html, show};
use crate::worked::{A_MOMENT, TimesOrWhy};

/// All plates, printers and windows from the minute that runs.
pub(super) fn work(data: &Scheduled, page: &Page, now_ms: i64) -> Work {
    let now_ms = now_ms - now_ms.rem_euclid(60_000);
    let moments = attended::moments(&data.attendance, &page.zone, now_ms);
    let on = (data.printers.as_slice(), data.settings.as_slice());
    let mut work = Work::of(&data.plates, on, &data.holds, &data.attendance, moments);
    work.spare = only_spares(&data.needs, &data.on);
    work
}

/// Why there are no times, with what to do.
fn no_times(why: ScheduleError, work: &Work) -> String {
    let plate = |job: usize| {
        let due = work.due.get(job);
        due.map_or_else(String::new, |d| format!("plate {}", d.number))
    };
    match why {
        ScheduleError::NoWindow { job } => format!(
            "{} finds no time in the next {} days: say when you are there, or for longer",
            plate(job),
            attended::DAYS_AHEAD
        ),
        ScheduleError::NoMachine { job } => {
            format!("no printer in use can take {}", plate(job))
        }
        ScheduleError::NeverOff { .. } => {
            "nobody is there to take off what is on a printer: say when you are there".into()
        }
    }
}

/// Times for everything, worked out aside; nothing when it takes longer than `within`. Their order
/// is kept for the next time where it is that of accepted plates.
pub(super) async fn times(
    app: &App,
    data: &Scheduled,
    work: &Work,
    (keep, within): (bool, Option<Duration>),
) -> Option<Arc<TimesOrWhy>> {
    let projects: Vec<ProjectId> = data.projects.iter().map(|p| p.0).collect();
    let kept = app.worked.order();
    let found = app
        .worked
        .times
        .get(app.urgent(), work.clone(), within, move |work| {
            let search = ScheduleSearch::FOR_A_PAGE;
            answers(work, &kept, &projects, search, &Unwatched)
        })
        .await;
    if let Some(Ok((table, _))) = found.as_deref()
        && keep
    {
        app.worked.keep_order(table.order());
    }
    found
}

/// What a page shows of the schedule: within a moment, or when it is there.
async fn with_times(
    app: &App,
    within: Option<Duration>,
) -> Result<(Page, Arc<Scheduled>, Work, Option<Arc<TimesOrWhy>>), WebError> {
    let (page, data) = app
        .view(|c, app| {
            let page = page(c, app, Tab::Plates, "Schedule", None)?;
            Ok((page, pages::load(c)?))
        })
        .await?;
    let work = work(&data, &page, app.now_ms());
    let found = times(app, &data, &work, (true, within)).await;
    Ok((page, data, work, found))
}

async fn view(
    app: &App,
    refused: &str,
    within: Option<Duration>,
) -> Result<ScheduleView, WebError> {
    let (page, data, work, found) = with_times(app, within).await?;
    let (found, mut fault) = match found.as_deref() {
        Some(Ok(found)) => (Some(found), String::new()),
        Some(Err(why)) => (None, no_times(*why, &work)),
        None => (None, String::new()),
    };
    if !refused.is_empty() {
        fault = show::sentence(refused);
    }
    Ok(ScheduleView::new(page, &data, &work, found, fault))
}

pub(crate) async fn show(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&view(&app, "", Some(A_MOMENT)).await?)
}

/// The ruler alone, as a piece of another page.
pub(crate) async fn ruler_alone(State(app): State<App>) -> Result<Html<String>, WebError> {
    let (page, data, work, found) = with_times(&app, None).await?;
    let table = found.as_deref().and_then(|f| f.as_ref().ok()).map(|f| &f.0);
    html(&RulerPiece::new(&data, &work, table, &page.zone))
}

/// What a plan would be, were it accepted now.
struct Accepted {
    data: Scheduled,
    zone: TimeZone,
    /// Its project and when that would be done; or why nobody can say.
    ends: Result<(ProjectId, i64), String>,
    /// What its plates print, s.
    seconds: f64,
    /// The order in which all plates would be printed.
    order: Vec<PlateId>,
}

async fn were_accepted(app: &App, id: PlanId) -> Result<Accepted, WebError> {
    let (page, mut data, plan) = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Plates, "", None)?;
            let data = Arc::unwrap_or_clone(pages::load(c)?);
            Ok((page, data, pages::of_plan(c, id)?))
        })
        .await?;
    let project = plan.first().map(|w| w.plate.project);
    let seconds = PlateSums::of(plan.iter().map(|w| &w.plate)).seconds;
    // What it holds is on no other plate.
    data.plates.extend(plan);
    let work = work(&data, &page, app.now_ms());
    let found = times(app, &data, &work, (false, None)).await;
    let order = match found.as_deref() {
        Some(Ok((table, _))) => table.order(),
        _ => Vec::new(),
    };
    let ends = match (found.as_deref(), project) {
        (Some(Ok((table, _))), Some(project)) => {
            let at = table.end_of(project).map(|at| (project, at));
            at.ok_or_else(String::new)
        }
        (Some(Err(why)), _) => Err(no_times(*why, &work)),
        _ => Err(String::new()),
    };
    Ok(Accepted {
        data,
        zone: page.zone,
        ends,
        seconds,
        order,
    })
}

/// When a plan would be done, were it accepted now: a piece of its page.
pub(crate) async fn ends_of(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Html<String>, WebError> {
    let of = were_accepted(&app, id).await?;
    let resin = app.read(stores::load).await?;
    let plates = of
        .data
        .plates
        .iter()
        .map(|w| (w.plate.clone(), String::new()));
    let plates = in_turn(plates.collect(), &of.order);
    let told = lasts(&resin, &plates);
    let words = (!resin.bottles.is_empty())
        .then(|| (lasts_words(&told, &plates), told.lasts() < plates.len()));
    let worn = worn_words(&wears(&resin, &plates), &resin.printers, &plates);
    html(&EndsPiece::new(&of.data, of.ends, &of.zone, words, worn))
}

/// Which of two plans would end sooner, and what that costs on the printers.
pub(crate) async fn ends_beside(
    State(app): State<App>,
    Path((one, other)): Path<(i64, i64)>,
) -> Result<Html<String>, WebError> {
    let [one, other] = [PlanId(one), PlanId(other)];
    let numbers = app
        .read(move |c| {
            Ok([
                plans::load(c, one)?.revision,
                plans::load(c, other)?.revision,
            ])
        })
        .await?;
    let both = [
        were_accepted(&app, one).await?,
        were_accepted(&app, other).await?,
    ];
    let ends = both.each_ref().map(|of| of.ends.as_ref().ok().map(|e| e.1));
    let seconds = both.each_ref().map(|of| of.seconds);
    html(&SoonerPiece::new(numbers, ends, seconds))
}

/// The schedule on a page of paper.
async fn on_paper(app: &App) -> Result<String, WebError> {
    let (page, data, work, found) = with_times(app, None).await?;
    let table = match found.as_deref() {
        Some(Ok((table, _))) => table.clone(),
        _ => Timetable::default(),
    };
    Ok(schedule_page(&data, &work, &table, &page.zone))
}

pub(crate) async fn svg(State(app): State<App>) -> Result<Response, WebError> {
    let drawing = on_paper(&app).await?;
    Ok(sent("image/svg+xml", "schedule.svg", drawing))
}

pub(crate) async fn pdf(State(app): State<App>) -> Result<Response, WebError> {
    let drawing = on_paper(&app).await?;
    Ok(sent(
        "application/pdf",
        "schedule.pdf",
        as_pdf(drawing).await?,
    ))
}

/// What a person does when, as a calendar; the same act keeps its identity.
pub(crate) async fn calendar(State(app): State<App>) -> Result<Response, WebError> {
    let (_, data, work, found) = with_times(&app, None).await?;
    let now = app.now_ms();
    let mut entries = Vec::new();
    if let Some(Ok((table, _))) = found.as_deref() {
        for of in in_words(&data, &work, table) {
            let act = of.act;
            let bar = &table.bars[act.bar];
            let (kind, to_ms) = if act.puts_on {
                ("on", bar.prints_ms)
            } else {
                ("off", bar.end_ms)
            };
            entries.push(CalendarEntry {
                uid: format!("plate-{}-{kind}", bar.plate),
                words: format!("{}, {}", of.what, of.printer),
                from_ms: act.at_ms,
                to_ms,
            });
        }
    }
    let kind = "text/calendar; charset=utf-8";
    Ok(sent(kind, "schedule.ics", write_calendar(&entries, now)))
}

/// A moment as it was typed, in the workshop's time zone; nothing where nothing was.
async fn moment(app: &App, typed: &str) -> Result<Result<Option<i64>, &'static str>, WebError> {
    let zone = app
        .view(|c, app| page(c, app, Tab::Plates, "", None))
        .await?
        .zone;
    let read = show::read_field(typed, &zone);
    Ok(if read.is_none() && !typed.is_empty() {
        Err("that is no date and time: pick both, or leave it empty")
    } else {
        Ok(read)
    })
}

/// A project is wanted by a moment.
pub(crate) async fn deadline(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let typed = Input::parse(&body).get("deadline").trim().to_owned();
    let deadline = match moment(&app, &typed).await? {
        Ok(deadline) => deadline,
        Err(why) => return refused(&app, why).await,
    };
    app.write(move |c| commands::attendance::set_deadline(c, project, deadline))
        .await?;
    Ok(go("/schedule"))
}

/// What the maker's own program says of plates: typed, or pasted as a table.
pub(crate) async fn told(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let typed = Input::parse(&body).get("told").to_owned();
    let why = match read_told(&typed) {
        Err(faults) => faults.join("; "),
        Ok(told) => {
            let done = app
                .write(move |c| commands::tell_plates::tell(c, project, &told))
                .await;
            match done {
                Err(WebError::Store(StoreError::Refused(why))) => why,
                done => return done.map(|()| go("/schedule")),
            }
        }
    };
    let mut view = view(&app, &format!("nothing was taken: {why}"), None).await?;
    view.told = Some((project, typed));
    let code = axum::http::StatusCode::UNPROCESSABLE_ENTITY;
    Ok((code, html(&view)?).into_response())
}

/// A plate is moved, as far as the printer takes it.
pub(crate) async fn move_plate(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let id = |name: &str| input.get(name).trim().parse::<i64>().ok();
    let Some((plate, printer)) = id("plate").zip(id("printer")) else {
        return refused(&app, "say which plate, and onto which printer").await;
    };
    let from = match (id("from_ms"), moment(&app, input.get("from").trim()).await?) {
        (Some(dragged), _) => Some(dragged),
        (None, Ok(typed)) => typed,
        (None, Err(why)) => return refused(&app, why).await,
    };
    let done = app
        .write(move |c| {
            commands::move_plate::move_plate(c, PlateId(plate), PrinterId(printer), from)
        })
        .await;
    match done {
        Err(WebError::Store(StoreError::Refused(why))) => refused(&app, &why).await,
        done => done.map(|()| go("/schedule")),
    }
}

async fn refused(app: &App, why: &str) -> Result<Response, WebError> {
    let view = view(app, why, None).await?;
    let code = axum::http::StatusCode::UNPROCESSABLE_ENTITY;
    Ok((code, html(&view)?).into_response())
}
