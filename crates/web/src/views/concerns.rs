//! What stands open in a project, wherever a decision is made.

use std::collections::HashSet;

use askama::Template;
use wembrit_core::ids::{ModelId, PartId, PlanId, ProjectId};
use wembrit_core::plan::concerns::{Concern, ConcernKind, ConcernState};

use super::Page;

/// One concern as a page shows it.
pub(crate) struct ConcernRow {
    pub(crate) key: String,
    pub(crate) grave: bool,
    pub(crate) model: (ModelId, String),
    pub(crate) words: String,
    /// Where it is dealt with, and what is done there.
    pub(crate) to: String,
    pub(crate) what: &'static str,
    /// Why the maker put it aside.
    pub(crate) reason: Option<String>,
}

/// What stands open, and what was put aside.
#[derive(Template)]
#[template(path = "concerns.html")]
pub(crate) struct ConcernList {
    pub(crate) project: ProjectId,
    /// The page it stands on: answers lead back there.
    pub(crate) then: String,
    /// The grave ones, and a few more.
    pub(crate) open: Vec<ConcernRow>,
    /// The rest.
    pub(crate) more: Vec<ConcernRow>,
    pub(crate) grave: usize,
    pub(crate) aside: Vec<ConcernRow>,
}

/// Concerns shown beside the grave ones; the rest are counted.
const SHOWN: usize = 2;

fn row(project: ProjectId, of: &Concern) -> ConcernRow {
    let part = of.part;
    let (to, what) = match of.kind {
        ConcernKind::SealedHollow | ConcernKind::Unit => (
            of.sculpt
                .map_or_else(|| "/sculpts".into(), |s| format!("/sculpts/{s}")),
            if of.kind == ConcernKind::Unit {
                "Say its unit"
            } else {
                "See its drains"
            },
        ),
        ConcernKind::Scale => (
            of.base_mm.map_or_else(
                || format!("/parts/{part}/scale"),
                |[w, d]| format!("/parts/{part}/scale?to=base&base={w}x{d}"),
            ),
            "Set its scale",
        ),
        ConcernKind::MidAir => (format!("/parts/{part}/poses"), "Compare orientations"),
        ConcernKind::BaseAttached => (format!("/parts/{part}/compare"), "Compare its files"),
        ConcernKind::Holding => (format!("/parts/{part}/recipe"), "Its supports"),
        ConcernKind::Untried => (format!("/parts/{part}/recipe"), "Its recipe"),
        ConcernKind::NoFile => (format!("/parts/{part}"), "Choose its file"),
        ConcernKind::TooMany => (format!("/projects/{project}/plates"), "To the plates"),
    };
    ConcernRow {
        key: of.key.clone(),
        grave: of.grave,
        model: of.model.clone(),
        words: of.words.clone(),
        to,
        what,
        reason: match &of.state {
            ConcernState::Open => None,
            ConcernState::PutAside(reason) => Some(reason.clone()),
        },
    }
}

impl ConcernList {
    /// All of them.
    pub(crate) fn new(project: ProjectId, then: String, all: &[Concern]) -> Self {
        Self::of(project, then, all.iter())
    }

    /// Those about some parts.
    pub(crate) fn about(
        project: ProjectId,
        then: String,
        all: &[Concern],
        parts: &HashSet<PartId>,
    ) -> Self {
        Self::of(project, then, all.iter().filter(|c| c.is_about(parts)))
    }

    fn of<'a>(project: ProjectId, then: String, all: impl Iterator<Item = &'a Concern>) -> Self {
        let (mut open, aside): (Vec<ConcernRow>, Vec<ConcernRow>) = all
            .map(|c| row(project, c))
            .partition(|r| r.reason.is_none());
        let grave = open.iter().filter(|r| r.grave).count();
        let more = open.split_off((grave + SHOWN).min(open.len()));
        Self {
            project,
            then,
            grave,
            more,
            open,
            aside,
        }
    }

    pub(crate) fn title(&self) -> String {
        let open = super::show::count(
            (self.open.len() + self.more.len()) as u64,
            "thing stands open",
            "things stand open",
        );
        match self.grave {
            0 => open,
            n => format!("{open}, {n} grave"),
        }
    }
}

/// A plan is accepted with grave things open: it takes a word.
#[derive(Template)]
#[template(path = "plates/word.html")]
pub(crate) struct WordView {
    pub(crate) page: Page,
    pub(crate) project: ProjectId,
    pub(crate) plan: PlanId,
    pub(crate) rows: Vec<ConcernRow>,
}

impl WordView {
    pub(crate) fn new(page: Page, project: ProjectId, plan: PlanId, grave: &[Concern]) -> Self {
        Self {
            page,
            project,
            plan,
            rows: grave.iter().map(|c| row(project, c)).collect(),
        }
    }
}
