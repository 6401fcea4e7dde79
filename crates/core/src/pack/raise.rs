//! The tallest copies of a plate raised onto a taller one, so that it becomes lower.

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use super::nest::Put;
use super::press::Care;
use super::work::{Filled, LANES, Work};
use crate::rng::Rng;

/// Work of a lane at most, in points of outlines that are moved.
const BUDGET: usize = 900_000;

/// The same for a copy that was let go of.
const SMALL: usize = 40_000;

/// What was tried in vain, by the two plates' marks.
#[derive(Debug, Default)]
pub(super) struct Raises {
    failed: FxHashMap<(u64, u64), u32>,
}

impl Raises {
    /// The best of some plans in which a plate has given its tallest copy away; nothing where none
    /// is better. Plates have their marks.
    pub(super) fn step(
        &mut self,
        work: &Work,
        plates: &[Filled],
        rng: &mut Rng,
    ) -> Option<Vec<Filled>> {
        let pairs: Vec<(usize, usize, u64)> = (0..LANES)
            .filter_map(|_| self.draw(work, plates, rng))
            .collect();
        let tried: Vec<Option<Vec<Filled>>> = pairs
            .par_iter()
            .map(|(from, to, seed)| work.raised(plates, *from, *to, &mut Rng(*seed)))
            .collect();
        let leaning = |plates: &[Filled]| -> f64 {
            let of = |f: &Filled| work.leaning(f.build_area, &f.items());
            plates.iter().map(of).sum()
        };
        let mut best: Option<(f64, Vec<Filled>)> = None;
        for ((from, to, _), raised) in pairs.into_iter().zip(tried) {
            let Some(raised) = raised else {
                let pair = (plates[from].mark, plates[to].mark);
                *self.failed.entry(pair).or_default() += 1;
                continue;
            };
            let cost = leaning(&raised);
            if best.as_ref().is_none_or(|b| cost < b.0) {
                best = Some((cost, raised));
            }
        }
        let (cost, raised) = best?;
        let better =
            cost < leaning(plates) - 1e-9 && work.cost(&raised) <= work.cost(plates) + 1e-9;
        better.then_some(raised)
    }

    /// Two plates, rather those with which it was tried less.
    fn draw(&self, work: &Work, plates: &[Filled], rng: &mut Rng) -> Option<(usize, usize, u64)> {
        let mut best: Option<(f64, usize, usize)> = None;
        for _ in 0..48 {
            let (from, to) = (rng.below(plates.len()), rng.below(plates.len()));
            if plates[to].height_mm <= plates[from].height_mm
                || plates[from].fixed
                || plates[to].fixed
            {
                continue;
            }
            let pair = (plates[from].mark, plates[to].mark);
            let failed = self.failed.get(&pair).copied().unwrap_or(0);
            let full = work.fill_above(&plates[to], &plates[from]);
            let score = work.lowering(&plates[from])
                * (-(full - 0.70).max(0.0) / 0.04).exp()
                * (0.5 + rng.share())
                / (1.0 + f64::from(failed));
            if best.is_none_or(|b| score > b.0) {
                best = Some((score, from, to));
            }
        }
        best.map(|(_, from, to)| (from, to, rng.next()))
    }
}

impl Work<'_> {
    /// How much lower a plate can become for the area that has to leave it: the best of its
    /// levels, s for a whole plate.
    fn lowering(&self, plate: &Filled) -> f64 {
        let of = |p: &Put| (self.job.items[p.item].height_mm, self.area[p.item]);
        let mut all: Vec<(f64, f64)> = plate.puts().iter().map(of).collect();
        all.sort_by(|a, b| b.0.total_cmp(&a.0));
        let build_area = &self.job.build_areas[plate.build_area];
        let (mut area, mut best) = (0.0, 0.0_f64);
        for (i, (_, own)) in all.iter().enumerate() {
            area += own;
            let saved = match all.get(i + 1) {
                Some(next) => build_area.per_mm_s * (plate.height_mm - next.0),
                None => self.kept(plate.build_area, plate.height_mm) + self.job.wishes.plate_s,
            };
            best = best.max(saved / area);
        }
        best * self.room(plate.build_area)
    }

    /// Share of a plate that would be taken by what stands higher than another and the tallest of
    /// that.
    fn fill_above(&self, to: &Filled, from: &Filled) -> f64 {
        let high = |p: &&Put| self.job.items[p.item].height_mm >= from.height_mm;
        let area: f64 = (to.puts().iter().filter(high))
            .map(|p| self.area[p.item])
            .sum();
        (area + self.area[self.tallest(from)]) / self.room(to.build_area)
    }

    /// The tallest on a plate that is not empty.
    pub(super) fn tallest(&self, plate: &Filled) -> usize {
        let high = |p: &&Put| self.job.items[p.item].height_mm;
        let tallest = plate
            .puts()
            .iter()
            .max_by(|a, b| high(a).total_cmp(&high(b)));
        tallest.map_or(0, |p| p.item)
    }

    /// A plan with the tallest copy of a plate pressed onto another, which first lets go of all
    /// that is lower than what stays; that then comes into gaps of any plate.
    fn raised(
        &self,
        plates: &[Filled],
        from: usize,
        to: usize,
        rng: &mut Rng,
    ) -> Option<Vec<Filled>> {
        let item = self.tallest(&plates[from]);
        let high = |p: &Put| self.job.items[p.item].height_mm;
        let mut rest = plates[from].puts().to_vec();
        rest.swap_remove(rest.iter().position(|p| p.item == item)?);
        let height = rest.iter().map(high).fold(0.0, f64::max);
        // The lower it is, the easier it finds another place.
        let limit = height * (0.4 + rng.share()).min(1.0);
        let low = |p: &Put| high(p) <= limit && high(p) < self.job.items[item].height_mm;
        let (dropped, standing): (Vec<Put>, Vec<Put>) =
            plates[to].puts().iter().partition(|p| low(p));
        let mut budget = BUDGET;
        let raised = self.press(
            plates[to].build_area,
            &standing,
            item,
            Care::WHOLE,
            &mut budget,
            rng,
        )?;
        let mut next = plates.to_vec();
        next[to] = raised;
        next[from] = self.standing(plates[from].build_area, &rest)?;
        // Where they were first, then where they are free, tall plates before low ones.
        let mut places = vec![to, from];
        places.extend((0..plates.len()).filter(|i| *i != to && *i != from && !plates[*i].fixed));
        let mut homeless: Vec<usize> = dropped.iter().map(|p| p.item).collect();
        homeless.sort_by(|a, b| self.area[*b].total_cmp(&self.area[*a]));
        for item in homeless {
            let height = self.job.items[item].height_mm;
            let may = |next: &[Filled], i: usize| next[i].height_mm >= height;
            let found = places
                .iter()
                .any(|i| may(&next, *i) && self.insert(&mut next[*i], item));
            if found {
                continue;
            }
            // The emptiest make room for it.
            let mut emptiest: Vec<(f64, usize)> = (places.iter())
                .filter(|i| may(&next, **i))
                .map(|i| (self.fill_of(&next[*i]), *i))
                .collect();
            emptiest.sort_by(|a, b| a.0.total_cmp(&b.0));
            let pressed = emptiest.iter().take(3).find_map(|(_, i)| {
                let given = SMALL.min(budget);
                let mut mine = given;
                let puts = next[*i].puts().to_vec();
                let pressed = self.press(
                    next[*i].build_area,
                    &puts,
                    item,
                    Care::QUICK,
                    &mut mine,
                    rng,
                );
                budget -= given - mine;
                pressed.map(|p| (*i, p))
            });
            let (i, pressed) = pressed?;
            next[i] = pressed;
        }
        next.retain(|p| !p.puts().is_empty());
        next.iter_mut().for_each(|p| p.nest.forget());
        next.sort_by(|a, b| b.height_mm.total_cmp(&a.height_mm));
        Some(next)
    }
}

#[cfg(test)]
#[path = "raise_tests.rs"]
mod raise_tests;
