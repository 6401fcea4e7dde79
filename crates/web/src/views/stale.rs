//! What has changed since a plan was made.

use askama::Template;
use wembrit_core::army::Army;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::ids::{PartId, ProjectId};
use wembrit_store::Stale;

use super::Page;
use super::show::{count, grouped};

/// A part whose demand is another one now.
pub(crate) struct Changed {
    pub(crate) name: String,
    /// Copies when the plan was made.
    pub(crate) was: u64,
    /// Copies wanted now.
    pub(crate) now: u64,
    /// What else is different.
    pub(crate) other: &'static str,
}

/// Part by part.
fn changes(army: &Army, planned: &[DemandLine], now: &[DemandLine]) -> Vec<Changed> {
    let mut parts: Vec<PartId> = planned.iter().chain(now).map(|l| l.part).collect();
    parts.sort_unstable();
    parts.dedup();
    let line = |lines: &[DemandLine], part| lines.iter().find(|l| l.part == part).copied();
    let changed = |part: PartId| {
        let (was, now) = (line(planned, part), line(now, part));
        let there = army.parts().any(|(_, _, p)| p.part.id == part);
        (was != now).then(|| Changed {
            name: if there {
                army.part_name(part)
            } else {
                "a part that was taken away".to_owned()
            },
            was: was.map_or(0, |l| l.wanted),
            now: now.map_or(0, |l| l.wanted),
            other: match (was, now) {
                (Some(a), Some(b)) if a.sculpt != b.sculpt => "another sculpt",
                (Some(a), Some(b)) if a.recipe_version != b.recipe_version => "another recipe",
                _ => "",
            },
        })
    };
    parts.into_iter().filter_map(changed).collect()
}

/// Parts named in one line.
const NAMED: usize = 3;

/// The changes in one line: what is new first.
pub(super) fn since_words(army: &Army, planned: &[DemandLine], now: &[DemandLine]) -> String {
    let mut changes = changes(army, planned, now);
    changes.sort_by_key(|c| std::cmp::Reverse(c.now.saturating_sub(c.was)));
    let words = |c: &Changed| match c.now.cmp(&c.was) {
        std::cmp::Ordering::Greater => {
            format!("{} more of {}", grouped((c.now - c.was) as i64), c.name)
        }
        std::cmp::Ordering::Less => {
            format!("{} fewer of {}", grouped((c.was - c.now) as i64), c.name)
        }
        std::cmp::Ordering::Equal => format!("{} for {}", c.other, c.name),
    };
    let mut named: Vec<String> = changes.iter().take(NAMED).map(words).collect();
    if changes.len() > NAMED {
        named.push(format!(
            "{} besides",
            count((changes.len() - NAMED) as u64, "part", "parts")
        ));
    }
    named.join(", ")
}

/// What changed since a plan was made, where somebody wanted to accept it.
#[derive(Template)]
#[template(path = "plates/stale.html")]
pub(crate) struct StaleView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) rows: Vec<Changed>,
}

impl StaleView {
    pub(crate) fn new(page: Page, army: &Army, stale: &Stale) -> Self {
        Self {
            page,
            id: army.project.id,
            rows: changes(army, &stale.planned, &stale.now),
        }
    }
}
