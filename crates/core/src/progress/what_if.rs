//! What would make a date likelier: the rest of a project, changed in one thing, rehearsed again.

use super::rehearse::{Missing, Rest, RestPlate, rehearse};
use crate::odds::{Posterior, spares};

/// One thing that is changed.
#[derive(Debug, Clone, PartialEq)]
pub enum WhatIf {
    /// A unit is left out.
    WithoutUnit(usize),
    /// A second printer like this one.
    AnotherPrinter(usize),
    /// Somebody is there at these times too, s from now.
    MoreHours(Vec<[f64; 2]>),
    /// Every plate takes so many times as long: thinner layers, or thicker ones.
    Layers(f64),
    /// So many copies are printed of each part that enough come out with this chance.
    Spares(f64),
    /// The part that is least likely to come out is proven first: one copy on a plate of its own, and then it comes out
    /// as others do.
    ProveFirst(usize),
}

/// What comes of it.
#[derive(Debug, Clone, PartialEq)]
pub struct WhatIfAnswer {
    /// The change.
    pub what: WhatIf,
    /// The chance by the date then.
    pub chance: f64,
    /// By when half of the rehearsals ended, s from now.
    pub median_s: Option<f64>,
}

/// Windows in order, none overlapping another.
fn joined(mut windows: Vec<[f64; 2]>) -> Vec<[f64; 2]> {
    windows.sort_by(|a, b| a[0].total_cmp(&b[0]));
    let mut all: Vec<[f64; 2]> = Vec::new();
    for window in windows {
        match all.last_mut() {
            Some(last) if last[1] >= window[0] => last[1] = last[1].max(window[1]),
            _ => all.push(window),
        }
    }
    all
}

impl Rest {
    /// The copies of a part that wait, run, or are off.
    pub(super) fn under_way(&self, part: usize) -> u32 {
        let copies = self.plates.iter().flat_map(|p| &p.copies);
        copies.filter(|(of, _)| *of == part).map(|(_, n)| n).sum()
    }

    /// With one thing changed; `usual` is how copies of the workshop come out.
    #[must_use]
    pub fn changed(&self, what: &WhatIf, usual: Posterior) -> Self {
        let mut rest = self.clone();
        match what {
            WhatIf::WithoutUnit(unit) => {
                for part in rest.missing.iter_mut().filter(|m| m.unit == *unit) {
                    part.copies = 0;
                }
                let needed = |(part, _): &(usize, u32)| rest.missing[*part].copies > 0;
                // A plate of another project holds nothing of this one, and is printed all the same.
                rest.plates.retain_mut(|plate| {
                    let had = !plate.copies.is_empty();
                    plate.copies.retain(needed);
                    plate.runs || !had || !plate.copies.is_empty()
                });
            }
            WhatIf::AnotherPrinter(machine) => {
                let new = rest.machines;
                rest.machines += 1;
                // Every second plate that waits there goes over, and of what is printed again every second part.
                let waits = rest
                    .plates
                    .iter_mut()
                    .filter(|p| p.machine == Some(*machine) && !p.runs);
                for plate in waits.skip(1).step_by(2) {
                    plate.machine = Some(new);
                }
                let parts = rest.missing.iter_mut().filter(|m| m.machine == *machine);
                for part in parts.skip(1).step_by(2) {
                    part.machine = new;
                }
            }
            WhatIf::MoreHours(more) => {
                rest.windows = joined(rest.windows.iter().chain(more).copied().collect());
            }
            WhatIf::Layers(times) => {
                for plate in rest.plates.iter_mut().filter(|p| !p.runs) {
                    plate.seconds *= times;
                }
                for part in &mut rest.missing {
                    part.seconds *= times;
                }
            }
            WhatIf::Spares(chance) => rest.with_spares(*chance),
            WhatIf::ProveFirst(part) => rest.prove_first(*part, usual),
        }
        rest
    }

    /// One copy of a part on a plate of its own before all others on its printer; it is one of those that were to be
    /// printed anyway.
    fn prove_first(&mut self, part: usize, usual: Posterior) {
        let Missing {
            machine, seconds, ..
        } = self.missing[part];
        let waits = |p: &RestPlate| !p.runs && p.machine.is_some();
        let holds = |p: &RestPlate| p.copies.iter().any(|(of, _)| *of == part);
        if let Some(last) = self.plates.iter().rposition(|p| waits(p) && holds(p)) {
            let plate = &mut self.plates[last];
            for (of, copies) in &mut plate.copies {
                *copies -= u32::from(*of == part);
            }
            plate.copies.retain(|(_, copies)| *copies > 0);
            if plate.copies.is_empty() {
                self.plates.remove(last);
            }
        }
        let first = RestPlate {
            machine: Some(machine),
            seconds,
            spread: 0.0,
            runs: false,
            copies: vec![(part, 1)],
        };
        let before = self
            .plates
            .iter()
            .position(|p| p.machine == Some(machine) && !p.runs);
        self.plates
            .insert(before.unwrap_or(self.plates.len()), first);
        if usual.mean() > self.missing[part].odds.mean() {
            self.missing[part].odds = usual;
        }
    }

    /// More copies on the last plate of each part, so that enough come out with a chance.
    fn with_spares(&mut self, chance: f64) {
        for index in 0..self.missing.len() {
            let part = &self.missing[index];
            if part.copies == 0 {
                continue;
            }
            let wanted = spares(&part.odds, u64::from(part.copies), chance);
            let more = wanted.map_or(0, |n| {
                u32::try_from(n)
                    .unwrap_or(u32::MAX)
                    .saturating_sub(self.under_way(index))
            });
            let last = self.plates.iter_mut().rev().find(|p| {
                !p.runs && p.machine.is_some() && p.copies.iter().any(|(of, _)| *of == index)
            });
            let copies = last.and_then(|p| p.copies.iter_mut().find(|(of, _)| *of == index));
            if let Some((_, copies)) = copies {
                *copies += more;
            }
        }
    }
}

/// Rehearses each change with the same seed, the likeliest first.
#[must_use]
pub fn answers(
    rest: &Rest,
    asked: &[WhatIf],
    (usual, moment_s): (Posterior, f64),
    (many, seed): (usize, u64),
) -> Vec<WhatIfAnswer> {
    let answer = |what: &WhatIf| {
        let played = rehearse(&rest.changed(what, usual), many, seed);
        WhatIfAnswer {
            what: what.clone(),
            chance: played.chance_by(moment_s),
            median_s: played.by(0.5),
        }
    };
    let mut all: Vec<WhatIfAnswer> = asked.iter().map(answer).collect();
    all.sort_by(|a, b| b.chance.total_cmp(&a.chance));
    all
}
