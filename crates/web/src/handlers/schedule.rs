//! The schedule, its calendar, and what it is made from: when somebody is there, what is wanted by
//! when, where a plate is wanted.

use std::sync::{Arc, PoisonError};
use std::time::Duration;

use axum::body::Bytes;
use axum::extract::State;
use axum::http::header;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::flow::read_told;
use wembrit_core::ids::{PlanId, PlateId, PrinterId, ProjectId};
use wembrit_core::schedule::{
    Asked, Due, OnPrinter, ScheduleError, ScheduleSearch, Timetable, Work, answers, time_on,
};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::attendance::{Attendance, DAYS};
use wembrit_paper::{CalendarEntry, draw_ruler, write_calendar, write_ruler};
use wembrit_store::queries::pages::schedule::{self as pages, Scheduled, Waiting};
use wembrit_store::{StoreError, commands, queries};

use super::{Id, go, page, save};
use crate::attended;
use crate::error::WebError;
use crate::forms::{self, Input, still_assumed};
use crate::state::App;
use crate::views::schedule::{ScheduleView, ruler};
use crate::views::{FormView, Page, Tab, html, show};

/// What a page waits for it at most.
const PATIENCE: Duration = Duration::from_secs(4);

/// A plate that waits, with every printer that can print it; nothing where its own is out of use.
fn due(waiting: &Waiting, data: &Scheduled) -> Option<Due> {
    let plate = &waiting.plate;
    let own = data.printers.iter().find(|p| p.id == plate.printer)?;
    let mut on = vec![(own.id, plate.seconds)];
    for other in data.printers.iter().filter(|p| p.id != own.id) {
        if let Ok((seconds, _)) = time_on(plate, own, other, &data.settings) {
            on.push((other.id, seconds));
        }
    }
    Some(Due {
        plate: plate.id,
        number: plate.number,
        project: plate.project,
        on,
        resin: plate.resin,
        weight: (6 - waiting.priority).clamp(1, 5) as u32,
        untried: waiting.untried,
        not_before_ms: waiting.not_before_ms,
    })
}

/// All plates, printers and windows from the minute that runs.
fn work(data: &Scheduled, page: &Page, now_ms: i64) -> Work {
    let now_ms = now_ms - now_ms.rem_euclid(60_000);
    let of = &data.attendance;
    let runs = data.plates.iter().filter_map(|waiting| {
        let (plate, run) = (&waiting.plate, waiting.run.as_ref()?);
        Some(OnPrinter {
            printer: plate.printer,
            plate: plate.id,
            number: plate.number,
            project: plate.project,
            from_ms: run.started_at_ms,
            ends_ms: run.ends_at_ms(plate.seconds, now_ms),
        })
    });
    let waits = data.plates.iter().filter(|w| w.run.is_none());
    Work {
        now_ms,
        printers: data
            .printers
            .iter()
            .map(|p| (p.id, data.holds.get(&p.id).copied()))
            .collect(),
        on: runs.collect(),
        due: waits.filter_map(|w| due(w, data)).collect(),
        attended: attended::windows(of, &page.zone, now_ms),
        quiet: attended::quiet(of, &page.zone, now_ms),
        minutes: [
            of.load_minutes,
            of.unload_minutes,
            of.look_minutes,
            of.change_minutes,
        ],
    }
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

/// The timetable with what is said of each project.
pub(crate) type Times = Result<(Timetable, Vec<Asked>), ScheduleError>;

/// Times for everything, worked out aside; nothing when it takes longer than a page waits. Their
/// order is kept for the next time where it is that of accepted plates.
async fn times(app: &App, data: &Scheduled, work: &Work, keep: bool) -> Option<Arc<Times>> {
    let projects: Vec<ProjectId> = data.projects.iter().map(|p| p.0).collect();
    let kept = {
        let order = app.worked.order.lock();
        order.unwrap_or_else(PoisonError::into_inner).clone()
    };
    let found = app
        .worked
        .times
        .get(app.urgent(), work.clone(), Some(PATIENCE), move |work| {
            let search = ScheduleSearch::FOR_A_PAGE;
            answers(work, &kept, &projects, search, &Unwatched)
        })
        .await;
    if let Some(Ok((table, _))) = found.as_deref()
        && keep
    {
        let mut order = app
            .worked
            .order
            .lock()
            .unwrap_or_else(PoisonError::into_inner);
        *order = table.order();
    }
    found
}

async fn with_times(app: &App) -> Result<(Page, Scheduled, Work, Option<Arc<Times>>), WebError> {
    let (page, data) = app
        .view(|c, app| {
            let page = page(c, app, Tab::Plates, "Schedule", None)?;
            Ok((page, pages::load(c)?))
        })
        .await?;
    let work = work(&data, &page, app.now_ms());
    let found = times(app, &data, &work, true).await;
    Ok((page, data, work, found))
}

async fn view(app: &App, refused: &str) -> Result<ScheduleView, WebError> {
    let (page, data, work, found) = with_times(app).await?;
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
    html(&view(&app, "").await?)
}

/// The ruler alone, as a piece of another page.
pub(crate) async fn ruler_alone(State(app): State<App>) -> Result<Html<String>, WebError> {
    let (page, data, work, found) = with_times(&app).await?;
    let Some(Ok((table, _))) = found.as_deref() else {
        return Ok(Html(
            "<p class=\"caption-line\"><a href=\"/schedule\">Schedule</a></p>".into(),
        ));
    };
    let drawing = draw_ruler(&ruler(&data, &work, table, &page.zone));
    Ok(Html(format!(
        "<div class=\"wide-scroll\">{drawing}</div><p class=\"caption-line\"><a href=\"/schedule\">Schedule</a></p>"
    )))
}

/// When a plan would be done, were it accepted now: a piece of its page.
pub(crate) async fn ends_of(
    State(app): State<App>,
    Id(id): Id<PlanId>,
) -> Result<Html<String>, WebError> {
    let (page, mut data, plan) = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Plates, "", None)?;
            Ok((page, pages::load(c)?, pages::of_plan(c, id)?))
        })
        .await?;
    let project = plan.first().map(|w| w.plate.project);
    // What it holds is on no other plate.
    data.plates.extend(plan);
    let work = work(&data, &page, app.now_ms());
    let found = times(&app, &data, &work, false).await;
    let words = match (found.as_deref(), project) {
        (Some(Ok((table, _))), Some(project)) => {
            let of: Vec<_> = table.bars.iter().filter(|b| b.project == project).collect();
            let ends = of.iter().map(|b| b.end_ms).max().unwrap_or(work.now_ms);
            format!(
                "<dl class=\"titleblock mb-4\"><div class=\"wide hot\"><dt>It would end</dt><dd>{}</dd></div></dl>",
                show::when(ends, &page.zone)
            )
        }
        (Some(Err(why)), _) => format!(
            "<p class=\"warn\">It would end: {}.</p>",
            no_times(*why, &work)
        ),
        _ => String::new(),
    };
    Ok(Html(words))
}

/// The ruler alone, as a file.
pub(crate) async fn svg(State(app): State<App>) -> Result<Response, WebError> {
    let (page, data, work, found) = with_times(&app).await?;
    let table = match found.as_deref() {
        Some(Ok((table, _))) => table.clone(),
        _ => Timetable::default(),
    };
    let drawing = write_ruler(&ruler(&data, &work, &table, &page.zone));
    let kind = [(header::CONTENT_TYPE, "image/svg+xml")];
    Ok((kind, drawing).into_response())
}

/// What a person does when, as a calendar; the same act keeps its identity.
pub(crate) async fn calendar(State(app): State<App>) -> Result<Response, WebError> {
    let (_, data, _, found) = with_times(&app).await?;
    let now = app.now_ms();
    let mut entries = Vec::new();
    if let Some(Ok((table, _))) = found.as_deref() {
        for act in table.acts() {
            let bar = &table.bars[act.bar];
            let name = data.printers.iter().find(|p| p.id == bar.printer);
            let name = name.map_or("", |p| p.name.as_str());
            let (what, to_ms) = if act.puts_on {
                ("Put on", bar.prints_ms)
            } else {
                ("Take off", bar.end_ms)
            };
            let kind = if act.puts_on { "on" } else { "off" };
            entries.push(CalendarEntry {
                uid: format!("plate-{}-{kind}", bar.plate),
                words: format!("{what} plate {}, {name}", bar.number),
                from_ms: act.at_ms,
                to_ms,
            });
        }
    }
    let kind = [
        (header::CONTENT_TYPE, "text/calendar; charset=utf-8"),
        (
            header::CONTENT_DISPOSITION,
            "attachment; filename=\"schedule.ics\"",
        ),
    ];
    Ok((kind, write_calendar(&entries, now)).into_response())
}

/// A project is wanted by a moment.
pub(crate) async fn deadline(
    State(app): State<App>,
    Id(project): Id<ProjectId>,
    body: Bytes,
) -> Result<Response, WebError> {
    let typed = Input::parse(&body).get("deadline").trim().to_owned();
    let zone = app
        .view(|c, app| page(c, app, Tab::Plates, "", None))
        .await?
        .zone;
    let deadline = show::read_field(&typed, &zone);
    if deadline.is_none() && !typed.is_empty() {
        return refused(
            &app,
            "that is no date and time: pick both, or leave it empty",
        )
        .await;
    }
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
    let mut view = view(&app, &format!("nothing was taken: {why}")).await?;
    view.told = Some((project, typed));
    let code = axum::http::StatusCode::UNPROCESSABLE_ENTITY;
    Ok((code, html(&view)?).into_response())
}

/// A plate is moved, as far as the printer takes it.
pub(crate) async fn move_plate(State(app): State<App>, body: Bytes) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let zone = app
        .view(|c, app| page(c, app, Tab::Plates, "", None))
        .await?
        .zone;
    let id = |name: &str| input.get(name).trim().parse::<i64>().ok();
    let Some((plate, printer)) = id("plate").zip(id("printer")) else {
        return refused(&app, "say which plate, and onto which printer").await;
    };
    let typed = input.get("from").trim();
    let from = id("from_ms").or_else(|| show::read_field(typed, &zone));
    if from.is_none() && !typed.is_empty() {
        return refused(
            &app,
            "that is no date and time: pick both, or leave it empty",
        )
        .await;
    }
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
    let view = view(app, why).await?;
    let code = axum::http::StatusCode::UNPROCESSABLE_ENTITY;
    Ok((code, html(&view)?).into_response())
}

async fn attendance_view(app: &App) -> Result<(FormView, Attendance), WebError> {
    app.view(move |c, app| {
        let known = queries::attendance::load(c)?;
        let page = page(c, app, Tab::Workshop, "When you are there", None)?;
        let view = FormView::new(page, "When you are there", "/attendance")
            .leads("/schedule", "Save")
            .editing(known.row_version, None)
            .lead("Plates are put on and taken off in these hours. One pair of hands does one thing at a time.")
            .fields(forms::attendance::fields(&known));
        Ok((view, known))
    })
    .await
}

pub(crate) async fn edit_attendance(State(app): State<App>) -> Result<Html<String>, WebError> {
    html(&attendance_view(&app).await?.0)
}

pub(crate) async fn save_attendance(
    State(app): State<App>,
    body: Bytes,
) -> Result<Response, WebError> {
    let input = Input::parse(&body);
    let (view, _) = attendance_view(&app).await?;
    let assumed = still_assumed(&view.fields, &input);
    let read = forms::attendance::read(&input, input.row_version(), assumed);
    debug_assert_eq!(DAYS.len(), 7);
    save(view, &input, read, |to| async move {
        app.write(move |c| commands::attendance::change(c, &to))
            .await?;
        Ok("/schedule".to_owned())
    })
    .await
}
