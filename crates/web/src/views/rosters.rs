//! An army list coming in.

use askama::Template;
use wembrit_core::army::Army;
use wembrit_core::ids::ProjectId;

use super::Page;
use crate::forms::rosters::PreviewRow;

/// Where a list is pasted or uploaded.
#[derive(Template)]
#[template(path = "rosters/ask.html")]
pub(crate) struct RosterView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) text: String,
    pub(crate) fault: String,
}

/// Every line as it was read.
#[derive(Template)]
#[template(path = "rosters/preview.html")]
pub(crate) struct PreviewView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    /// The list as it was pasted: to be changed, it is not lost.
    pub(crate) text: String,
    pub(crate) rows: Vec<PreviewRow>,
    /// Names of units that are there already.
    pub(crate) units: Vec<String>,
    /// Models whose kit may be taken over.
    pub(crate) kits: Vec<(String, String)>,
    pub(crate) doubts: usize,
    pub(crate) models: u64,
}

impl PreviewView {
    pub(crate) fn new(
        page: Page,
        id: ProjectId,
        text: String,
        rows: Vec<PreviewRow>,
        army: &Army,
    ) -> Self {
        let taken = rows.iter().filter(|r| r.take);
        let models = taken
            .clone()
            .filter_map(|r| r.quantity.parse::<u64>().ok())
            .sum();
        Self {
            page,
            id,
            units: army.units.iter().map(|u| u.unit.name.clone()).collect(),
            kits: {
                let all = army.units.iter().flat_map(|u| &u.models);
                let with_kit = all.filter(|m| !m.parts.is_empty());
                with_kit
                    .map(|m| (m.model.id.to_string(), m.model.name.clone()))
                    .collect()
            },
            doubts: rows
                .iter()
                .filter(|r| r.take && !r.doubt.is_empty())
                .count(),
            models,
            text,
            rows,
        }
    }
}
