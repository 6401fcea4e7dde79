//! Finishing: batches on their way, who is next, and what each step asks.

use askama::Template;
use wembrit_core::finishing::cure::{UnderLamp, nearest};
use wembrit_core::finishing::queue::{Slot, queue};
use wembrit_core::finishing::{Batch, BatchState, Step, StepState, cautions, wash_agent};
use wembrit_core::flow::{CauseCard, FailureCause};
use wembrit_core::ids::{BatchId, PlateId};
use wembrit_core::workshop::resin::WashAgent;
use wembrit_paper::{RailRow, draw_rail};
use wembrit_store::queries::pages::finishing::OnItsWay;

use super::Page;
use super::runs::late;
use super::show::{self, count};

/// A step of a batch in its row.
pub(crate) struct StepChip {
    pub(crate) name: &'static str,
    pub(crate) state: &'static str,
    pub(crate) title: String,
}

/// A batch as it stands.
pub(crate) struct BatchCard {
    pub(crate) id: BatchId,
    pub(crate) plate: PlateId,
    pub(crate) number: i64,
    pub(crate) what: String,
    pub(crate) state: &'static str,
    pub(crate) order: String,
    pub(crate) minutes: String,
    pub(crate) notes: Vec<String>,
    pub(crate) cautions: Vec<&'static str>,
    /// What it can be washed in, and whether it is; nothing once it is washed.
    pub(crate) agents: Vec<(WashAgent, bool)>,
    pub(crate) steps: Vec<StepChip>,
    /// The words of the route, for putting it in another order.
    pub(crate) route: String,
    pub(crate) under_way: bool,
    pub(crate) is_judge: bool,
    pub(crate) is_cure: bool,
    pub(crate) counts: bool,
    pub(crate) counted: String,
    pub(crate) miscounted: String,
    pub(crate) ends_ms: i64,
    pub(crate) left: String,
    pub(crate) late: String,
    pub(crate) begins: String,
    pub(crate) sheet: String,
    pub(crate) last_cure: String,
    pub(crate) lamp: String,
    pub(crate) under_lamp: UnderLamp,
}

/// Finishing.
#[derive(Template)]
#[template(path = "finishing/show.html")]
pub(crate) struct FinishingView {
    pub(crate) page: Page,
    pub(crate) now_ms: i64,
    pub(crate) rail: String,
    pub(crate) cards: Vec<BatchCard>,
    pub(crate) fault: String,
    pub(crate) all_steps: Vec<&'static str>,
}

impl FinishingView {
    pub(crate) fn new(page: Page, data: &[OnItsWay], fault: String, now_ms: i64) -> Self {
        let batches: Vec<Batch> = data.iter().map(|d| d.batch.clone()).collect();
        let slots = queue(&batches, now_ms);
        let rows: Vec<RailRow> = data
            .iter()
            .map(|d| RailRow {
                name: format!("plate {}", d.plate.number),
                now: d.batch.now().map(|at| {
                    let step = &d.batch.steps[at];
                    let from = step.began_at_ms.unwrap_or(now_ms);
                    (step.step, from, step.ends_at_ms.unwrap_or(now_ms))
                }),
                slots: of(&slots, d.batch.id),
            })
            .collect();
        let clock = |ms: i64| show::clock(ms, &page.zone);
        let mut cards: Vec<(i64, BatchCard)> = data
            .iter()
            .map(|d| {
                let next = slots.iter().find(|s| s.batch == d.batch.id);
                let due = d.batch.due_at_ms().or(next.map(|s| s.from_ms));
                (due.unwrap_or(now_ms), card(d, next, &page, now_ms))
            })
            .collect();
        // What needs somebody first stands first.
        cards.sort_by_key(|(due, card)| (*due, card.id));
        Self {
            now_ms,
            rail: draw_rail(&rows, now_ms, &clock),
            cards: cards.into_iter().map(|(_, card)| card).collect(),
            fault,
            all_steps: Step::ALL.iter().map(|s| s.as_str()).collect(),
            page,
        }
    }
}

fn of(slots: &[Slot], batch: BatchId) -> Vec<Slot> {
    slots.iter().filter(|s| s.batch == batch).copied().collect()
}

fn card(data: &OnItsWay, next: Option<&Slot>, page: &Page, now_ms: i64) -> BatchCard {
    let batch = &data.batch;
    let current = batch.current();
    let step = current.map_or(Step::Judge, |s| s.step);
    let washed = batch
        .steps
        .iter()
        .any(|s| s.step == Step::Wash && s.state == StepState::Done);
    let supposed = || wash_agent(&data.resin.washed_in(), &data.practice);
    let agent = batch.washed_in.unwrap_or_else(supposed);
    let ends = batch.due_at_ms().unwrap_or(0);
    let chips = batch.steps.iter().map(|s| StepChip {
        name: s.step.as_str(),
        state: s.state.as_str(),
        title: if s.reason.is_empty() {
            format!("{:.0} min", s.minutes)
        } else {
            s.reason.clone()
        },
    });
    let state = batch.state();
    BatchCard {
        id: batch.id,
        plate: data.plate.id,
        number: data.plate.number,
        what: format!(
            "{} of {}, off {} {}",
            count(data.came_off.max(0) as u64, "copy", "copies"),
            data.resin.name,
            data.printer,
            show::near(batch.off_at_ms, now_ms, &page.zone)
        ),
        state: state.as_str(),
        order: step.order().to_owned(),
        minutes: current.map_or_else(String::new, |s| format!("{:.0}", s.minutes)),
        notes: current.map_or_else(Vec::new, |s| s.notes.clone()),
        cautions: cautions::of_step(step, agent),
        agents: WashAgent::ALL
            .iter()
            .filter(|_| !washed)
            .map(|a| (*a, *a == agent))
            .collect(),
        steps: chips.collect(),
        route: batch
            .steps
            .iter()
            .map(|s| s.step.as_str())
            .collect::<Vec<_>>()
            .join(", "),
        under_way: matches!(state, BatchState::InHand | BatchState::Resting),
        is_judge: step == Step::Judge,
        is_cure: step == Step::Cure,
        counts: washed && batch.counted.is_none(),
        counted: batch.counted.map_or_else(String::new, |n| n.to_string()),
        miscounted: batch
            .counted
            .filter(|n| *n != data.came_off)
            .map_or_else(String::new, |n| {
                format!(
                    "{} were counted, {} came off: mark what is missing on the plate's sheet",
                    n, data.came_off
                )
            }),
        ends_ms: ends,
        left: minutes_left(ends, now_ms),
        late: if ends > 0 {
            late(ends, now_ms)
        } else {
            String::new()
        },
        begins: next
            .filter(|s| {
                s.from_ms > now_ms && !matches!(state, BatchState::InHand | BatchState::Resting)
            })
            .map_or_else(String::new, |s| show::clock(s.from_ms, &page.zone)),
        sheet: data.resin.data_sheet.clone(),
        last_cure: nearest(&data.felt, data.under_lamp).map_or_else(String::new, |f| {
            let lamp = if f.lamp.is_empty() {
                String::new()
            } else {
                format!(" under {}", f.lamp)
            };
            format!("last time {} min{lamp}, {}: {}", f.minutes, f.kind, f.feel)
        }),
        lamp: data
            .felt
            .last()
            .map_or_else(String::new, |f| f.lamp.clone()),
        under_lamp: data.under_lamp,
    }
}

fn minutes_left(ends_ms: i64, now_ms: i64) -> String {
    let left = (ends_ms - now_ms).max(0) / 1000;
    format!("{}:{:02}", left / 60, left % 60)
}

/// Every caution, one tap away from everywhere.
#[derive(Template)]
#[template(path = "finishing/cautions.html")]
pub(crate) struct CautionsView {
    pub(crate) page: Page,
    pub(crate) all: &'static [(&'static str, &'static [&'static str])],
    /// Resins with their data sheet.
    pub(crate) sheets: Vec<(String, String)>,
}

/// What each failure looks like, and what usually did it.
#[derive(Template)]
#[template(path = "finishing/causes.html")]
pub(crate) struct CausesView {
    pub(crate) page: Page,
    pub(crate) cards: Vec<(FailureCause, CauseCard)>,
}

impl CausesView {
    pub(crate) fn new(page: Page) -> Self {
        let named = FailureCause::named().map(|c| (c, c.card()));
        Self {
            cards: named.filter(|(_, card)| !card.looks.is_empty()).collect(),
            page,
        }
    }
}
