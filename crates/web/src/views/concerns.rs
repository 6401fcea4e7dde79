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
    /// What stands open in all.
    stands: usize,
    /// What stands open and is in neither list yet.
    pub(crate) beyond: usize,
    /// What is put aside, listed or not.
    pub(crate) put_aside: usize,
}

/// Concerns shown beside the grave ones; the rest are counted.
const SHOWN: usize = 2;
/// Rows of a list at most: nobody answers more at a sitting, and the next come up as these go.
const ROWS: usize = 40;

/// Keeps the first rows, and says how many there are beyond them.
fn cut(rows: &mut Vec<ConcernRow>) -> usize {
    let beyond = rows.len().saturating_sub(ROWS);
    rows.truncate(ROWS);
    beyond
}

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
        let (mut open, mut aside): (Vec<ConcernRow>, Vec<ConcernRow>) = all
            .map(|c| row(project, c))
            .partition(|r| r.reason.is_none());
        let grave = open.iter().filter(|r| r.grave).count();
        let stands = open.len();
        let mut more = open.split_off((grave + SHOWN).min(stands));
        let put_aside = aside.len();
        cut(&mut aside);
        Self {
            stands,
            beyond: cut(&mut open) + cut(&mut more),
            put_aside,
            project,
            then,
            grave,
            more,
            open,
            aside,
        }
    }

    pub(crate) fn title(&self) -> String {
        let open = super::show::count(self.stands as u64, "thing stands open", "things stand open");
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

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn concern(number: usize, grave: bool, aside: bool) -> Concern {
        Concern {
            kind: ConcernKind::Untried,
            key: format!("untried {number}"),
            grave,
            model: (ModelId(1), "Heron".into()),
            part: PartId(1),
            parts: vec![PartId(1)],
            sculpt: None,
            words: String::new(),
            base_mm: None,
            state: if aside {
                ConcernState::PutAside("tried elsewhere".into())
            } else {
                ConcernState::Open
            },
        }
    }

    /// Grave, open, put aside: what is listed, and what is only counted.
    #[rstest]
    #[case::few([1, 5, 2], [3, 3, 2], 0)]
    #[case::many([0, 900, 70], [2, 40, 40], 858)]
    #[case::many_grave([300, 10, 0], [40, 8, 0], 262)]
    fn a_list_is_as_long_as_somebody_answers(
        #[case] stand: [usize; 3],
        #[case] listed: [usize; 3],
        #[case] beyond: usize,
    ) {
        let [grave, open, aside] = stand;
        let all: Vec<Concern> = (0..grave)
            .map(|n| concern(n, true, false))
            .chain((0..open).map(|n| concern(1000 + n, false, false)))
            .chain((0..aside).map(|n| concern(2000 + n, false, true)))
            .collect();
        let list = ConcernList::new(ProjectId(1), String::new(), &all);
        assert_eq!([list.open.len(), list.more.len(), list.aside.len()], listed);
        assert_eq!((list.beyond, list.put_aside), (beyond, aside));
        assert!(
            list.title()
                .starts_with(&format!("{} things stand open", grave + open))
        );
    }
}
