//! The day sheet: what to do next, in the order in which it needs a hand.

use askama::Template;
use wembrit_core::ids::{PrinterId, ProjectId};
use wembrit_store::queries::pages::today::Today;

use super::Page;
use super::paces::change_words;
use super::show;
use super::slip::{Minutes, Slip};
use crate::currency::Amount;

/// Runs after which a printer's pace is no news any more.
const OF_LATE: usize = 12;

/// The day sheet.
#[derive(Template)]
#[template(path = "today/show.html")]
pub(crate) struct TodayView {
    pub(crate) page: Page,
    pub(crate) now: String,
    pub(crate) slip: Slip,
    pub(crate) asked: Minutes,
    /// Printers whose pace has changed of late, and where it is told.
    pub(crate) changes: Vec<(PrinterId, String)>,
    pub(crate) units: Vec<(String, String, String)>,
    pub(crate) complete: String,
    pub(crate) good: String,
    pub(crate) spent: String,
    pub(crate) project: Option<ProjectId>,
}

impl TodayView {
    pub(crate) fn new(page: Page, data: &Today, slip: Slip, asked: Minutes, now_ms: i64) -> Self {
        let shown = data.army().map(|a| a.project.id);
        let used = data.facts.printers.iter();
        let used = used.filter(|p| data.facts.in_use.contains(&p.id));
        let changes = used.filter_map(|p| {
            let change = p.pace.change().filter(|c| c.runs <= OF_LATE)?;
            let since = show::when(change.since_ms, &page.zone);
            Some((p.id, change_words(change, &p.name, &since)))
        });
        let mut view = Self {
            changes: changes.collect(),
            now: show::when(now_ms, &page.zone),
            slip,
            asked,
            units: Vec::new(),
            complete: String::new(),
            good: String::new(),
            spent: String::new(),
            project: shown,
            page,
        };
        if let Some(army) = data.army() {
            let of = army.progress;
            view.complete = format!("{}/{}", of.complete, of.models);
            view.good = format!("{}/{}", of.good, of.copies);
            view.spent = army.spent().written();
            let unit = |u: &wembrit_core::army::ArmyUnit| {
                (
                    u.unit.name.clone(),
                    format!("{}/{}", u.progress.complete, u.progress.models),
                    format!("{:.0}", u.progress.share() * 100.0),
                )
            };
            view.units = army.units.iter().map(unit).collect();
        }
        view
    }
}
