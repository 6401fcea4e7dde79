//! What waiting costs: the rest of the work played out twice, as it is and with one act done later.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use crate::flow::PlateState;
use crate::ids::{PlateId, PrinterId, ProjectId, UnitId};
use crate::schedule::ScheduleError;
use crate::units::Money;
use crate::workshop::Printer;

use super::day::{Day, Played};
use super::lines::{Act, Line, TodayFacts, When};

/// What is held up while an act waits.
#[derive(Debug, Clone, PartialEq)]
pub enum Held {
    /// A plate that stays on its printer.
    OnPrinter(PlateId),
    /// A printer nothing is put on.
    Printer(PrinterId),
    /// Copies that are not touched.
    Copies(PlateId),
    /// Copies that are not mended.
    Mend(PlateId),
    /// The plates of a plan that is not accepted.
    Plan(ProjectId),
    /// Printers that have nothing to print.
    Idle(Vec<PrinterId>),
}

/// What waiting till a moment costs.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Waiting {
    /// Till then, ms since 1970.
    pub till_ms: i64,
    /// Plates are judged later by so many minutes, each times what an earlier end of it is worth.
    pub cost: f64,
    /// The unit whose last planned copy comes latest by it, and by how much, ms.
    pub unit: Option<(UnitId, i64)>,
    /// Printers that wait longer for hands, min.
    pub idle: Vec<(PrinterId, i64)>,
}

impl Waiting {
    /// All printers together, min.
    #[must_use]
    pub fn idle_minutes(&self) -> i64 {
        self.idle.iter().map(|i| i.1).sum()
    }

    /// What those hours of the printers are worth: the wear of an hour, which is paid by whatever they print.
    #[must_use]
    pub fn worth(&self, printers: &[Printer]) -> Money {
        let hour = |id: PrinterId| {
            let of = printers.iter().find(|p| p.id == id);
            of.map_or(0.0, |p| p.upkeep.hour_minor)
        };
        let each = self
            .idle
            .iter()
            .map(|(id, minutes)| *minutes as f64 / 60.0 * hour(*id));
        Money::from_minor_f64(each.sum())
    }
}

/// What a line of the day sheet holds up while nobody does it; nothing where no plate waits for it.
#[must_use]
pub fn held_by(line: &Line<'_>, facts: &TodayFacts) -> Option<Held> {
    let plate = || line.plate.map(|p| p.id);
    match &line.act {
        Act::TakeOff { .. } => Some(Held::OnPrinter(plate()?)),
        Act::Start => Some(Held::Printer(line.plate?.printer)),
        Act::CheckVat(_) => Some(Held::Printer(line.on?)),
        Act::Judge | Act::EndStep { .. } | Act::BeginStep { .. } => Some(Held::Copies(plate()?)),
        Act::Mend(..) => Some(Held::Mend(plate()?)),
        Act::Accept { .. } => Some(Held::Plan(line.project?.0)),
        Act::Plan { .. } => {
            let plates = || facts.projects.iter().flat_map(|p| &p.plates);
            let busy = |printer: PrinterId| {
                let open = |s| matches!(s, PlateState::Running | PlateState::Planned);
                plates().any(|p| p.printer == printer && open(p.state))
            };
            let all = facts.in_use.iter().copied();
            Some(Held::Idle(all.filter(|p| !busy(*p)).collect()))
        }
        Act::Look(_)
        | Act::IdleVat(_)
        | Act::Replace(..)
        | Act::FindSculpts { .. }
        | Act::AddUnit
        | Act::Wanted { .. } => None,
    }
}

impl Day {
    /// The same while an act waits till a moment, ms since 1970.
    fn while_waiting(&self, held: &Held, till_ms: i64) -> Self {
        let mut day = self.with_plan_of(held);
        match held {
            Held::OnPrinter(plate) => {
                day.left_on.insert(*plate, till_ms);
            }
            Held::Printer(printer) => {
                let own = |d: &Option<&(PrinterId, f64)>| d.is_some_and(|on| on.0 == *printer);
                for due in &mut day.work.due {
                    if own(&due.on.first()) {
                        due.not_before_ms = Some(due.not_before_ms.unwrap_or(0).max(till_ms));
                    }
                }
            }
            Held::Copies(plate) => {
                for of in day.off.iter_mut().filter(|o| o.plate == *plate) {
                    of.ready_ms = of.ready_ms.max(till_ms);
                }
            }
            Held::Mend(plate) => {
                for of in day.off.iter_mut().filter(|o| o.plate == *plate) {
                    of.mend_from_ms = till_ms;
                }
            }
            Held::Plan(project) => {
                let of_plan = self.drafts.get(project).into_iter().flatten();
                let ids: Vec<PlateId> = of_plan.map(|d| d.plate).collect();
                for due in &mut day.work.due {
                    if ids.contains(&due.plate) {
                        due.not_before_ms = Some(till_ms);
                    }
                }
            }
            Held::Idle(_) => {}
        }
        day
    }

    /// The same with the plates of a plan that nobody has accepted, where it is about one.
    fn with_plan_of(&self, held: &Held) -> Self {
        let mut day = self.clone();
        if let Held::Plan(project) = held {
            let of_plan = day.drafts.get(project).cloned().unwrap_or_default();
            day.work.due.extend(of_plan);
        }
        day
    }

    /// What it costs to let each of some acts wait till each of some moments, ms since 1970.
    ///
    /// # Errors
    /// [`ScheduleError`] where somebody is there too seldom.
    pub fn waiting(
        &self,
        acts: &[Option<Held>],
        tills_ms: &[i64],
    ) -> Result<Vec<Vec<Waiting>>, ScheduleError> {
        let base = self.play()?;
        let one = |held: &Option<Held>| {
            let Some(held) = held else {
                return Ok(Vec::new());
            };
            let of_plan = match held {
                Held::Plan(_) => Some(self.with_plan_of(held).play()?),
                _ => None,
            };
            let base = of_plan.as_ref().unwrap_or(&base);
            let till = |till_ms: &i64| match held {
                Held::Idle(printers) => {
                    let minutes = (till_ms - self.work.now_ms).max(0) / 60_000;
                    Ok(Waiting {
                        till_ms: *till_ms,
                        cost: (minutes * printers.len() as i64) as f64,
                        unit: None,
                        idle: printers.iter().map(|p| (*p, minutes)).collect(),
                    })
                }
                _ => {
                    let after = self.while_waiting(held, *till_ms).play()?;
                    Ok(self.between(base, &after, *till_ms))
                }
            };
            tills_ms.iter().map(till).collect()
        };
        acts.iter().map(one).collect()
    }

    fn between(&self, base: &Played, after: &Played, till_ms: i64) -> Waiting {
        let idle = after.idle.iter().filter_map(|(printer, minutes)| {
            let more = minutes - base.idle.get(printer).copied().unwrap_or(0);
            (more > 0).then_some((*printer, more))
        });
        let (was, is) = (self.units_done(base), self.units_done(after));
        let later = was.iter().filter_map(|(unit, was)| {
            let later = is.get(unit)? - was;
            (later > 0).then_some((*unit, later))
        });
        Waiting {
            till_ms,
            cost: (after.cost - base.cost).max(0.0),
            // Of two that come as much later, the one that stands first.
            unit: later.max_by_key(|(unit, later)| (*later, Reverse(*unit))),
            idle: idle.collect(),
        }
    }

    /// When the last copy of each unit that is on a plate is judged, ms since 1970.
    fn units_done(&self, played: &Played) -> BTreeMap<UnitId, i64> {
        let mut all = BTreeMap::new();
        for (plate, done_ms) in &played.done_ms {
            for unit in self.units.get(plate).into_iter().flatten() {
                let last = all.entry(*unit).or_insert(*done_ms);
                *last = (*last).max(*done_ms);
            }
        }
        all
    }
}

/// Lines as they are dealt with: looks at what runs, then what can be done now, the one first whose waiting costs most
/// for each minute of hands (cost of delay over duration: W. E. Smith, Naval Research Logistics Quarterly 3, 1956,
/// from memory), then what comes, by its time, then what costs nothing and waits for a free hour. Gives the places of the
/// lines; each with its cost and its minutes.
#[must_use]
pub fn dearest_first(lines: &[Line<'_>], costs: &[(f64, f64)], now_ms: i64) -> Vec<(usize, Turn)> {
    let of = |index: usize| costs.get(index).copied().unwrap_or((0.0, 1.0));
    let turn = |index: usize| match lines[index].act.when(now_ms) {
        When::Next(_) => Turn::Next,
        When::Later if of(index).0 <= 0.0 => Turn::Later,
        _ => Turn::Now,
    };
    let rank = |index: usize| match (&lines[index].act, turn(index)) {
        (Act::Look(_), Turn::Now) => f64::INFINITY,
        (_, Turn::Now) => of(index).0 / of(index).1.max(1.0),
        _ => 0.0,
    };
    let mut all: Vec<(usize, Turn)> = (0..lines.len()).map(|i| (i, turn(i))).collect();
    all.sort_by(|(a, of_a), (b, of_b)| of_a.cmp(of_b).then(rank(*b).total_cmp(&rank(*a))));
    all
}

/// When a line is dealt with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Turn {
    /// Now.
    Now,
    /// When its time comes.
    Next,
    /// When there is time for it.
    Later,
}

#[cfg(test)]
#[path = "waiting_tests.rs"]
mod tests;
