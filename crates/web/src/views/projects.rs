//! All projects side by side.

use askama::Template;
use wembrit_core::cost::mean;
use wembrit_core::flow::{Plate, PlateState, Stage};
use wembrit_core::ids::ProjectId;
use wembrit_store::queries::pages::projects::Compared;

use super::Page;
use super::show::hours;
use crate::currency::Amount;

/// One of them.
pub(crate) struct ProjectRow {
    pub(crate) id: ProjectId,
    pub(crate) name: String,
    pub(crate) is_away: bool,
    pub(crate) complete: String,
    pub(crate) plates: usize,
    pub(crate) lost: usize,
    pub(crate) hours: String,
    /// Of the copies that were judged.
    pub(crate) failed: String,
    pub(crate) spent: String,
    pub(crate) each: String,
}

/// The page.
#[derive(Template)]
#[template(path = "muster/projects.html")]
pub(crate) struct ProjectsView {
    pub(crate) page: Page,
    pub(crate) rows: Vec<ProjectRow>,
    pub(crate) fault: String,
}

fn row(of: &Compared) -> ProjectRow {
    let army = &of.army;
    let count = |stage: Stage| {
        let parts = army.parts().map(|(_, _, p)| u64::from(p.counts.of(stage)));
        parts.sum::<u64>()
    };
    let failed = count(Stage::Failed);
    let judged = failed + count(Stage::Good) + count(Stage::Surplus);
    let p = army.progress;
    ProjectRow {
        id: army.project.id,
        name: army.project.name.clone(),
        is_away: of.is_away,
        complete: format!("{}/{}", p.complete, p.models),
        plates: of.printed.len(),
        lost: of
            .printed
            .iter()
            .filter(|p| p.state == PlateState::Lost)
            .count(),
        hours: hours(of.printed.iter().map(|p: &Plate| p.seconds).sum()),
        failed: format!("{failed} of {judged}"),
        spent: army.spent().written(),
        each: mean(army.spent(), p.complete).map_or_else(|| "–".into(), |m| m.written()),
    }
}

impl ProjectsView {
    pub(crate) fn new(page: Page, data: &[Compared], fault: String) -> Self {
        Self {
            rows: data.iter().map(row).collect(),
            fault,
            page,
        }
    }
}
