//! Whether a project is done by its date, and what would make it possible.

use crate::ids::{PlateId, ProjectId};
use crate::watch::Watch;

use super::bound::ScheduleBound;
use super::deadline::{Possible, possible};
use super::lay::ScheduleError;
use super::search::ScheduleSearch;
use super::timetable::{Due, Timetable, Work};

/// Something that would be otherwise.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WhatIf {
    /// Plates go to any printer that can print them.
    AnyPrinter,
    /// Somebody stays so many minutes longer each time.
    Longer(u32),
    /// Somebody is there at any hour.
    Always,
    /// Plates that hold nothing but spares are left for later.
    NoSpares,
}

/// What can be said of a project's end.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Asked {
    /// The project.
    pub project: ProjectId,
    /// Its last plate is off then, ms since 1970.
    pub end_ms: i64,
    /// No order of its plates ends before, ms since 1970.
    pub bound_ms: i64,
    /// Why.
    pub bound: ScheduleBound,
    /// When it would end, were something otherwise, ms since 1970; only what ends sooner.
    pub otherwise: Vec<(WhatIf, i64)>,
    /// The plates that would change their printers for [`WhatIf::AnyPrinter`].
    pub moved: Vec<PlateId>,
}

impl Asked {
    /// Whether it is done by a moment, ms since 1970.
    #[must_use]
    pub fn by(&self, deadline_ms: i64) -> Possible {
        possible(self.end_ms, self.bound_ms, deadline_ms)
    }
}

impl Work {
    /// The same, with something otherwise.
    #[must_use]
    pub fn with(&self, what: WhatIf) -> Self {
        let mut other = self.clone();
        match what {
            WhatIf::AnyPrinter => return other,
            WhatIf::NoSpares => other.due.retain(|d| !self.spare.contains(&d.plate)),
            WhatIf::Longer(minutes) => {
                for window in &mut other.attended {
                    window.1 += i64::from(minutes) * 60_000;
                }
                other.attended = joined(other.attended);
            }
            WhatIf::Always => {
                let ends = other.attended.iter().map(|w| w.1).max();
                other.attended = vec![(self.now_ms, ends.unwrap_or(self.now_ms))];
            }
        }
        other.on_their_own()
    }

    /// Every plate stays on its own printer.
    #[must_use]
    pub fn on_their_own(mut self) -> Self {
        for due in &mut self.due {
            due.on.truncate(1);
        }
        self
    }
}

/// Windows that touch, as one.
fn joined(mut windows: Vec<(i64, i64)>) -> Vec<(i64, i64)> {
    windows.sort_unstable();
    let mut all: Vec<(i64, i64)> = Vec::new();
    for window in windows {
        match all.last_mut() {
            Some(last) if window.0 <= last.1 => last.1 = last.1.max(window.1),
            _ => all.push(window),
        }
    }
    all
}

/// The timetable, every plate on its own printer, and what can be said of each of these projects.
///
/// # Errors
/// [`ScheduleError`].
pub fn answers(
    work: &Work,
    kept: &[PlateId],
    projects: &[ProjectId],
    search: ScheduleSearch,
    watch: &dyn Watch,
) -> Result<(Timetable, Vec<Asked>), ScheduleError> {
    let own = work.clone().on_their_own();
    let table = own.timetable(kept, search, watch)?;
    let mut all = Vec::new();
    for project in projects {
        let Some(end_ms) = table.end_of(*project) else {
            continue;
        };
        let (bound_ms, bound) = own.bound(*project, &table, watch);
        let (mut otherwise, mut moved) = (Vec::new(), Vec::new());
        // Only its own spares: the numbers of plates are a project's.
        let mut work = work.clone();
        let theirs = |d: &&Due| d.project == *project;
        let own: Vec<PlateId> = work.due.iter().filter(theirs).map(|d| d.plate).collect();
        work.spare.retain(|p| own.contains(p));
        let mut tried = vec![WhatIf::AnyPrinter, WhatIf::Longer(120), WhatIf::Always];
        if !work.spare.is_empty() {
            tried.push(WhatIf::NoSpares);
        }
        for what in tried {
            let Ok(other) = work.with(what).timetable(&[], search, watch) else {
                continue;
            };
            let ends = other.end_of(*project).unwrap_or(end_ms);
            if ends >= end_ms {
                continue;
            }
            otherwise.push((what, ends));
            if what == WhatIf::AnyPrinter {
                let was = |plate: PlateId| table.bars.iter().find(|b| b.plate == plate);
                let goes = other.bars.iter();
                moved = goes
                    .filter(|b| was(b.plate).is_some_and(|w| w.printer != b.printer))
                    .map(|b| b.plate)
                    .collect();
            }
        }
        all.push(Asked {
            project: *project,
            end_ms,
            bound_ms,
            bound,
            otherwise,
            moved,
        });
    }
    Ok((table, all))
}
