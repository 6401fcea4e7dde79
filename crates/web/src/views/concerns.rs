//! What stands open in a project, wherever a decision is made.

use std::collections::HashSet;

use askama::Template;
use wembrit_core::ids::{ModelId, PartId, PlanId, ProjectId};
use wembrit_core::plan::concerns::{Concern, ConcernKind, ConcernState, issues};

use super::Page;

/// One of the models that an issue is about.
pub(crate) struct ConcernModel {
    pub(crate) model: (ModelId, String),
    pub(crate) names: String,
    /// Where it is dealt with.
    pub(crate) to: String,
}

/// One issue as a page shows it.
pub(crate) struct ConcernRow {
    pub(crate) keys: Vec<String>,
    pub(crate) grave: bool,
    pub(crate) model: (ModelId, String),
    pub(crate) words: String,
    /// The models, where it is about several.
    pub(crate) models: Vec<ConcernModel>,
    /// Models that are not listed.
    pub(crate) unlisted: usize,
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
        keys: vec![of.key.clone()],
        models: Vec::new(),
        unlisted: 0,
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

/// Models of one issue that are listed at most.
const MODELS: usize = 12;

/// An issue; one about several models says what they have in common, and lists them.
fn issue(project: ProjectId, all: &[&Concern]) -> ConcernRow {
    let first = row(project, all[0]);
    if all.len() == 1 {
        return first;
    }
    let many = super::show::count(all.len() as u64, "model", "models");
    let words = match all[0].kind {
        ConcernKind::MidAir => format!(
            "{many} have parts on which an area begins in mid-air with no support under it. It will be missing from the print."
        ),
        ConcernKind::NoFile => {
            format!("{many} have parts without a file, so they go on no plate yet.")
        }
        _ => format!(
            "{many} have parts that nobody has printed with their recipe yet, and several copies are wanted. Print one copy of each first."
        ),
    };
    let of = |c: &&Concern| ConcernModel {
        model: c.model.clone(),
        names: c.names.clone(),
        to: row(project, c).to,
    };
    ConcernRow {
        keys: all.iter().map(|c| c.key.clone()).collect(),
        words,
        models: all.iter().take(MODELS).map(of).collect(),
        unlisted: all.len().saturating_sub(MODELS),
        ..first
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
        let (mut open, mut aside): (Vec<ConcernRow>, Vec<ConcernRow>) = issues(all)
            .iter()
            .map(|of| issue(project, of))
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
            kind: ConcernKind::Scale,
            key: format!("scale {number}"),
            grave,
            model: (ModelId(1), "Heron".into()),
            part: PartId(1),
            parts: vec![PartId(1)],
            sculpt: None,
            names: String::new(),
            words: String::new(),
            base_mm: None,
            state: if aside {
                ConcernState::PutAside("tried elsewhere".into())
            } else {
                ConcernState::Open
            },
        }
    }

    /// Models that lack the same are one issue, which is put aside for all of them.
    #[test]
    fn models_that_lack_the_same_are_one_issue() {
        let untried = |n: usize, aside| Concern {
            kind: ConcernKind::Untried,
            names: format!("Body {n}"),
            ..concern(n, false, aside)
        };
        let mut all: Vec<Concern> = (0..20).map(|n| untried(n, n == 3)).collect();
        all.push(concern(99, true, false));
        let list = ConcernList::new(ProjectId(1), String::new(), &all);
        assert_eq!(list.title(), "2 things stand open, 1 grave");
        assert_eq!((list.open.len(), list.aside.len()), (2, 1));
        let of = &list.open.iter().find(|r| !r.grave).unwrap();
        assert_eq!((of.keys.len(), of.models.len(), of.unlisted), (19, 12, 7));
        assert!(of.words.starts_with("19 models have parts that nobody"));
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
