//! The first page: the day sheet, or the three questions while there is no printer.

use std::sync::Arc;
use std::time::Duration;

use axum::extract::State;
use axum::response::{Html, IntoResponse, Response};
use wembrit_core::schedule::{Moments, Work};
use wembrit_core::today::{Day, DayFacts, held_by, lines};
use wembrit_store::queries::pages::waiting::{self, WaitingPage};
use wembrit_store::queries::{muster, printers};

use super::schedule::{times, work};
use super::{Fields, page, start};
use crate::attended;
use crate::error::WebError;
use crate::state::App;
use crate::views::slip::{Minutes, Slip};
use crate::views::today::TodayView;
use crate::views::{Page, Tab, html, show as words};
use crate::worked::{AskedDay, ToldDay};

/// Waiting is told for so long too, ms.
const SOONER_MS: [i64; 2] = [30 * 60_000, 120 * 60_000];
/// Somebody comes back then where no window says it, ms.
const BACK_MS: i64 = 12 * 3_600_000;
const MINUTES: &str = "40";
/// What is known already is known by then.
const AT_ONCE: Duration = Duration::from_millis(1);

pub(crate) async fn show(State(app): State<App>, fields: Fields) -> Result<Response, WebError> {
    let (page, fresh) = app
        .view(move |c, app| {
            let page = page(c, app, Tab::Today, "Today", None)?;
            let fresh = printers::list(c)?.is_empty() && muster::projects(c)?.is_empty();
            Ok((page, fresh))
        })
        .await?;
    if fresh {
        return Ok(html(&start::view(page))?.into_response());
    }
    let loaded = loaded(&app, page, &fields).await?;
    // Who asked something waits for the answer; else a script asks for the slip at once, and again.
    let within = loaded.asked.asked.is_none().then_some(AT_ONCE);
    let told = loaded.told(&app, within).await;
    let slip = loaded.slip(&app, told.as_ref());
    let Loaded {
        page,
        data,
        asked,
        now_ms,
        ..
    } = loaded;
    let view = TodayView::new(page, &data.today, slip, asked, now_ms);
    let page: Html<String> = html(&view)?;
    Ok(page.into_response())
}

/// The slip alone, with what waiting costs.
pub(crate) async fn slip(State(app): State<App>, fields: Fields) -> Result<Html<String>, WebError> {
    let page = app
        .view(|c, app| page(c, app, Tab::Today, "Today", None))
        .await?;
    let loaded = loaded(&app, page, &fields).await?;
    let told = loaded.told(&app, None).await;
    html(&loaded.slip(&app, told.as_ref()))
}

/// What the page is made from.
struct Loaded {
    page: Page,
    data: Arc<WaitingPage>,
    work: Work,
    asked: Minutes,
    now_ms: i64,
}

async fn loaded(app: &App, page: Page, fields: &Fields) -> Result<Loaded, WebError> {
    let project = page.project_id();
    let data = app.read(move |c| waiting::load(c, project)).await?;
    let now_ms = app.now_ms();
    let work = work(&data.scheduled, &page, now_ms);
    let asked = minutes(fields, &page, &work);
    Ok(Loaded {
        page,
        data,
        work,
        asked,
        now_ms,
    })
}

/// What was asked; waiting is told till somebody is back, or else till they are there the next time.
fn minutes(fields: &Fields, page: &Page, work: &Work) -> Minutes {
    let now_ms = work.now_ms;
    // Who does not do it the next time they are there does it the time after.
    let after_ms = work.attended.get(1).map_or(now_ms + BACK_MS, |w| w.0);
    let back = work.attended.iter().find(|w| w.0 > now_ms);
    let back_ms = back.map_or(now_ms + BACK_MS, |w| w.0);
    let typed = |name: &str| fields.get(name).map_or("", |t| t.trim());
    let mut asked = Minutes {
        minutes: MINUTES.into(),
        till: words::clock(back_ms, &page.zone),
        asked: None,
        till_ms: after_ms,
        fault: "",
    };
    if typed("minutes").is_empty() && typed("till").is_empty() {
        return asked;
    }
    let minutes = typed("minutes").parse::<u32>();
    let minutes = minutes.ok().filter(|m| (1..=600).contains(m));
    let till_ms = attended::next_at(typed("till"), &page.zone, now_ms);
    match (minutes, till_ms) {
        (None, _) => asked.fault = "Write how many minutes you have, from 1 to 600.",
        (_, None) => asked.fault = "Write the time at which you are back, such as 18:00.",
        (Some(minutes), Some(till_ms)) => {
            asked.minutes = minutes.to_string();
            asked.till = words::clock(till_ms, &page.zone);
            asked.till_ms = till_ms;
            if till_ms < now_ms + i64::from(minutes) * 60_000 {
                asked.fault = "You are back before those minutes are over: nothing has to wait.";
            } else {
                asked.asked = Some((minutes, till_ms));
            }
        }
    }
    asked
}

impl Loaded {
    /// What waiting costs, worked out aside; nothing where it takes longer, or nobody is ever there.
    async fn told(
        &self,
        app: &App,
        within: Option<Duration>,
    ) -> Option<(Day, Arc<Option<ToldDay>>)> {
        let scheduled = &self.data.scheduled;
        let found = times(app, scheduled, &self.work, (true, within)).await?;
        let (table, _) = found.as_ref().as_ref().ok()?;
        let on = (scheduled.printers.as_slice(), scheduled.settings.as_slice());
        let (holds, of) = (&scheduled.holds, &scheduled.attendance);
        let drafts = Work::of(&self.data.drafts, on, holds, of, Moments::default());
        let today = &self.data.today.facts;
        let day = Day::of(DayFacts {
            today,
            work: self.work.clone().on_their_own(),
            order: table.order(),
            ahead: &self.data.ahead,
            practices: &self.data.practices,
            drafts: drafts.on_their_own().due,
        });
        let held = lines(today, &day.order, self.now_ms);
        let asked = AskedDay {
            held: held.iter().map(|line| held_by(line, today)).collect(),
            tills_ms: SOONER_MS
                .iter()
                .map(|ms| self.work.now_ms + ms)
                .chain([self.asked.till_ms])
                .collect(),
            in_hand: self.asked.asked,
            day: day.clone(),
        };
        let told = app
            .worked
            .days
            .get(app.urgent(), asked, within, |asked| {
                let waits = asked.day.waiting(&asked.held, &asked.tills_ms).ok()?;
                let best = asked
                    .in_hand
                    .map(|(minutes, back_ms)| asked.day.in_hand(minutes, back_ms));
                Some(ToldDay {
                    waits,
                    in_hand: best.transpose().ok()?,
                })
            })
            .await?;
        Some((day, told))
    }

    /// The slip; while the schedule is being worked out, in the order of the last one.
    fn slip(&self, app: &App, told: Option<&(Day, Arc<Option<ToldDay>>)>) -> Slip {
        let today = &self.data.today;
        let shown = today.army().map(|a| a.project.id);
        let turn = told.map_or_else(|| app.worked.order(), |(day, _)| day.order.clone());
        let told = told.and_then(|(day, told)| Some((day, told.as_ref().as_ref()?)));
        Slip::new(
            &self.page,
            (&today.facts, shown, &turn),
            told,
            &self.asked,
            self.now_ms,
        )
    }
}
