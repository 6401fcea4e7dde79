//! Which plates to print in the time there is, so that most models are complete.

use std::collections::BTreeMap;

use crate::army::ArmyModel;
use crate::ids::{PartId, PlateId, PrinterId};

/// A plate that waits.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadyPlate {
    /// Which one.
    pub plate: PlateId,
    /// Its printer.
    pub printer: PrinterId,
    /// How long it prints, s.
    pub seconds: f64,
    /// Its copies.
    pub adds: BTreeMap<PartId, u32>,
}

/// What to print, if all of it comes out.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Next {
    /// Models that are complete now.
    pub now: u64,
    /// Those that would be with what is on printers and in finishing.
    pub soon: u64,
    /// Those that would be if one plate alone came out, plate by plate; only plates that fit into the time.
    pub alone: Vec<(PlateId, u64)>,
    /// The plates that complete most in the time, in the order given.
    pub best: Vec<PlateId>,
    /// Models that are complete then.
    pub then: u64,
}

/// Most plates of which every choice is looked at; beyond, the one that adds most is taken again and again.
const ALL_CHOICES: usize = 10;

/// Models that are complete with further good copies.
#[must_use]
pub fn complete_with(models: &[&ArmyModel], more: &BTreeMap<PartId, u32>) -> u64 {
    let of = |m: &&ArmyModel| m.kit_with(more).progress().complete;
    models.iter().map(of).sum()
}

struct Choice<'a> {
    models: &'a [&'a ArmyModel],
    /// Copies that come in that time without any of the plates.
    coming: &'a BTreeMap<PartId, u32>,
    fit: Vec<&'a ReadyPlate>,
    horizon_s: f64,
}

impl Choice<'_> {
    /// The printers have time for all of these.
    fn fits(&self, chosen: &[usize]) -> bool {
        let mut busy: BTreeMap<PrinterId, f64> = BTreeMap::new();
        for plate in chosen.iter().map(|i| self.fit[*i]) {
            *busy.entry(plate.printer).or_default() += plate.seconds;
        }
        busy.values().all(|s| *s <= self.horizon_s)
    }

    fn complete(&self, chosen: &[usize]) -> u64 {
        let mut more = self.coming.clone();
        for plate in chosen.iter().map(|i| self.fit[*i]) {
            for (part, copies) in &plate.adds {
                *more.entry(*part).or_default() += copies;
            }
        }
        complete_with(self.models, &more)
    }

    fn seconds(&self, chosen: &[usize]) -> f64 {
        chosen.iter().map(|i| self.fit[*i].seconds).sum()
    }

    /// Most models; then the fewest hours.
    fn is_better(&self, a: (u64, &[usize]), b: (u64, &[usize])) -> bool {
        a.0 > b.0 || (a.0 == b.0 && self.seconds(a.1) < self.seconds(b.1))
    }

    fn of_all(&self) -> (u64, Vec<usize>) {
        let mut best = (self.complete(&[]), Vec::new());
        for set in 1_u32..1 << self.fit.len() {
            let chosen: Vec<usize> = (0..self.fit.len()).filter(|i| set >> i & 1 == 1).collect();
            if !self.fits(&chosen) {
                continue;
            }
            let then = self.complete(&chosen);
            if self.is_better((then, &chosen), (best.0, &best.1)) {
                best = (then, chosen);
            }
        }
        best
    }

    /// One more plate that adds most for its hours, or two where one alone adds nothing.
    fn greedy(&self) -> (u64, Vec<usize>) {
        let mut chosen: Vec<usize> = Vec::new();
        let mut then = self.complete(&chosen);
        loop {
            let with = |more: &[usize]| {
                let all: Vec<usize> = chosen.iter().chain(more).copied().collect();
                self.fits(&all).then(|| (self.complete(&all), all))
            };
            let left: Vec<usize> = (0..self.fit.len())
                .filter(|i| !chosen.contains(i))
                .collect();
            let ones = left.iter().filter_map(|i| with(&[*i]));
            let pairs = left.iter().enumerate().flat_map(|(n, i)| {
                let others = left[n + 1..].iter();
                others.filter_map(|j| with(&[*i, *j])).collect::<Vec<_>>()
            });
            let gain = |(after, all): &(u64, Vec<usize>)| {
                let hours = self.seconds(all) - self.seconds(&chosen);
                (after.saturating_sub(then)) as f64 / hours.max(1.0)
            };
            let best = ones.chain(pairs).filter(|c| c.0 > then);
            match best.max_by(|a, b| gain(a).total_cmp(&gain(b))) {
                Some((after, all)) => (then, chosen) = (after, all),
                None => return (then, chosen),
            }
        }
    }
}

/// What to print next within a time from now, s, on printers that are free; `coming` are copies that are off by then
/// without it.
#[must_use]
pub fn print_next(
    models: &[&ArmyModel],
    coming: &BTreeMap<PartId, u32>,
    waiting: &[ReadyPlate],
    horizon_s: f64,
) -> Next {
    let fit = waiting.iter().filter(|p| p.seconds <= horizon_s);
    let choice = Choice {
        models,
        coming,
        fit: fit.collect(),
        horizon_s,
    };
    let (then, best) = if choice.fit.len() <= ALL_CHOICES {
        choice.of_all()
    } else {
        choice.greedy()
    };
    Next {
        now: complete_with(models, &BTreeMap::new()),
        soon: choice.complete(&[]),
        alone: (0..choice.fit.len())
            .map(|i| (choice.fit[i].plate, choice.complete(&[i])))
            .collect(),
        best: best.iter().map(|i| choice.fit[*i].plate).collect(),
        then,
    }
}

#[cfg(test)]
#[path = "print_next_tests.rs"]
mod tests;
