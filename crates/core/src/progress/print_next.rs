//! Which plates to print in the time there is, so that most models are complete.

use std::collections::{BTreeMap, BTreeSet};

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
    /// The models each of them has copies for.
    touches: Vec<BTreeSet<usize>>,
    /// Models complete of each kind without any of the plates.
    base: Vec<u64>,
    /// What each of them adds to that by itself, model by model.
    alone: Vec<BTreeMap<usize, u64>>,
    horizon_s: f64,
}

impl<'a> Choice<'a> {
    fn new(
        models: &'a [&'a ArmyModel],
        coming: &'a BTreeMap<PartId, u32>,
        fit: Vec<&'a ReadyPlate>,
        horizon_s: f64,
    ) -> Self {
        let mut of_part: BTreeMap<PartId, usize> = BTreeMap::new();
        for (index, model) in models.iter().enumerate() {
            of_part.extend(model.parts.iter().map(|p| (p.part.id, index)));
        }
        let touched = |plate: &&ReadyPlate| {
            let parts = plate.adds.keys();
            parts.filter_map(|p| of_part.get(p).copied()).collect()
        };
        let base = models
            .iter()
            .map(|m| m.kit_with(coming).progress().complete);
        let mut choice = Self {
            touches: fit.iter().map(touched).collect(),
            base: base.collect(),
            alone: Vec::new(),
            models,
            coming,
            fit,
            horizon_s,
        };
        let on = (coming, choice.base.as_slice());
        let gains = |i: usize| {
            let touched = choice.touches[i].iter();
            touched
                .map(|m| (*m, choice.gain_of(*m, on, &[i])))
                .collect()
        };
        let alone = (0..choice.fit.len()).map(gains).collect();
        choice.alone = alone;
        choice
    }

    /// How long each printer is busy with some plates, s.
    fn busy(&self, chosen: &[usize]) -> BTreeMap<PrinterId, f64> {
        let mut busy: BTreeMap<PrinterId, f64> = BTreeMap::new();
        for plate in chosen.iter().map(|i| self.fit[*i]) {
            *busy.entry(plate.printer).or_default() += plate.seconds;
        }
        busy
    }

    /// Printers that are busy for so long have time for all of these too.
    fn fits(&self, busy: &BTreeMap<PrinterId, f64>, more: &[usize]) -> bool {
        more.iter().all(|i| {
            let printer = self.fit[*i].printer;
            let on_it = more.iter().filter(|j| self.fit[**j].printer == printer);
            let more_s: f64 = on_it.map(|j| self.fit[*j].seconds).sum();
            busy.get(&printer).unwrap_or(&0.0) + more_s <= self.horizon_s
        })
    }

    /// Copies of some plates on top of others.
    fn with(&self, more: &BTreeMap<PartId, u32>, chosen: &[usize]) -> BTreeMap<PartId, u32> {
        let mut more = more.clone();
        for plate in chosen.iter().map(|i| self.fit[*i]) {
            for (part, copies) in &plate.adds {
                *more.entry(*part).or_default() += copies;
            }
        }
        more
    }

    /// Models that some plates have copies for.
    fn touched(&self, chosen: &[usize]) -> BTreeSet<usize> {
        let of = chosen.iter().flat_map(|i| &self.touches[*i]);
        of.copied().collect()
    }

    /// Models of one kind that become complete by some plates, on top of so many copies and so many complete of each
    /// kind.
    fn gain_of(
        &self,
        m: usize,
        (more, complete): (&BTreeMap<PartId, u32>, &[u64]),
        chosen: &[usize],
    ) -> u64 {
        let model = self.models[m];
        let of = |part: &PartId| {
            let from = chosen.iter().map(|i| self.fit[*i].adds.get(part));
            let from = from.chain([more.get(part)]);
            from.flatten().sum()
        };
        let parts = model.parts.iter().map(|p| p.part.id);
        let with = parts.map(|part| (part, of(&part))).collect();
        let then = model.kit_with(&with).progress().complete;
        then.saturating_sub(complete[m])
    }

    /// The same of all kinds: only those these plates have copies for are looked at.
    fn gain(&self, on: (&BTreeMap<PartId, u32>, &[u64]), chosen: &[usize]) -> u64 {
        let touched = self.touched(chosen);
        touched.iter().map(|m| self.gain_of(*m, on, chosen)).sum()
    }

    /// The same from what each plate adds by itself, model by model: asked anew is only where several of them have copies
    /// for a model, and may add together what none does.
    fn gain_together(
        &self,
        on: (&BTreeMap<PartId, u32>, &[u64]),
        set: &[usize],
        alone: &[BTreeMap<usize, u64>],
    ) -> u64 {
        let pairs = set.iter().enumerate();
        let pairs = pairs.flat_map(|(n, i)| set[n + 1..].iter().map(move |j| (*i, *j)));
        let shared: BTreeSet<usize> = pairs
            .flat_map(|(i, j)| self.touches[i].intersection(&self.touches[j]))
            .copied()
            .collect();
        let each: u64 = set.iter().flat_map(|i| alone[*i].values()).sum();
        let of_shared = |m: &usize| set.iter().filter_map(|i| alone[*i].get(m)).sum::<u64>();
        let told_apart: u64 = shared.iter().map(of_shared).sum();
        let together: u64 = shared.iter().map(|m| self.gain_of(*m, on, set)).sum();
        each - told_apart + together
    }

    fn complete(&self, chosen: &[usize]) -> u64 {
        self.base.iter().sum::<u64>() + self.gain((self.coming, &self.base), chosen)
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
            if !self.fits(&BTreeMap::new(), &chosen) {
                continue;
            }
            let then = self.complete(&chosen);
            if self.is_better((then, &chosen), (best.0, &best.1)) {
                best = (then, chosen);
            }
        }
        best
    }

    /// One more plate that adds most for its hours, or two that share a model where one alone adds nothing. What a plate
    /// adds is asked for again only once a plate was taken that shares a model with it.
    fn greedy(&self) -> (u64, Vec<usize>) {
        let all = self.fit.len();
        let share = |i: usize, j: usize| !self.touches[i].is_disjoint(&self.touches[j]);
        let ones = (0..all).map(|i| vec![i]);
        let pairs = (0..all).flat_map(|i| {
            let others = (i + 1..all).filter(move |j| share(i, *j));
            others.map(move |j| vec![i, j]).collect::<Vec<_>>()
        });
        let mut left: Vec<(Vec<usize>, Option<u64>)> =
            ones.chain(pairs).map(|set| (set, None)).collect();
        let (mut chosen, mut more) = (Vec::new(), self.coming.clone());
        let mut complete = self.base.clone();
        let mut alone = self.alone.clone();
        loop {
            for (i, of) in alone.iter_mut().enumerate() {
                for m in &self.touches[i] {
                    of.entry(*m)
                        .or_insert_with(|| self.gain_of(*m, (&more, &complete), &[i]));
                }
            }
            let busy = self.busy(&chosen);
            left.retain(|(set, _)| self.fits(&busy, set));
            for (set, gain) in left.iter_mut().filter(|(_, gain)| gain.is_none()) {
                *gain = Some(self.gain_together((&more, &complete), set, &alone));
            }
            let worth = |(set, gain): &(Vec<usize>, Option<u64>)| {
                gain.unwrap_or(0) as f64 / self.seconds(set).max(1.0)
            };
            let gains = left.iter().filter(|(_, gain)| gain.is_some_and(|g| g > 0));
            let Some((taken, _)) = gains.max_by(|a, b| worth(a).total_cmp(&worth(b))).cloned()
            else {
                return (complete.iter().sum(), chosen);
            };
            more = self.with(&more, &taken);
            let touched = self.touched(&taken);
            for m in &touched {
                complete[*m] = self.models[*m].kit_with(&more).progress().complete;
            }
            for of in &mut alone {
                of.retain(|m, _| !touched.contains(m));
            }
            left.retain(|(set, _)| set.iter().all(|i| !taken.contains(i)));
            for (set, gain) in &mut left {
                if set.iter().any(|i| !self.touches[*i].is_disjoint(&touched)) {
                    *gain = None;
                }
            }
            chosen.extend(taken);
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
    let choice = Choice::new(models, coming, fit.collect(), horizon_s);
    let (then, best) = if choice.fit.len() <= ALL_CHOICES {
        choice.of_all()
    } else {
        choice.greedy()
    };
    let soon = choice.complete(&[]);
    Next {
        now: complete_with(models, &BTreeMap::new()),
        soon,
        alone: (choice.fit.iter().zip(&choice.alone))
            .map(|(plate, gains)| (plate.plate, soon + gains.values().sum::<u64>()))
            .collect(),
        best: best.iter().map(|i| choice.fit[*i].plate).collect(),
        then,
    }
}

#[cfg(test)]
#[path = "print_next_tests.rs"]
mod tests;
