//! Copies that change plates, so that what is left on the low plates becomes less and less.

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use super::nest::Put;
use super::press::Care;
use super::work::{Filled, LANES, Work};
use crate::rng::Rng;

/// What the soft cost counts beside the real one.
const SOFT: f64 = 0.3;
/// Work of a lane in a step at most, in points of outlines that are moved.
const BUDGET: usize = 200_000;
/// The same for each copy of a small job.
const EACH: usize = 4_000;
/// Work of a first try; later ones get more.
const FIRST: usize = 20_000;
/// Moves that are looked at for each that is tried.
const DRAWN: usize = 48;

/// What was tried on which plate without success.
#[derive(Debug, Default)]
pub(super) struct Trades {
    marks: u64,
    failed: FxHashMap<(u64, usize), u32>,
    failed_on: FxHashMap<u64, u32>,
}

/// A copy that may change plates.
#[derive(Debug, Clone, Copy)]
struct Offer {
    from: usize,
    to: usize,
    item: usize,
    failed: u32,
    seed: u64,
}

/// Two plates as they would be.
struct Traded {
    offer: Offer,
    from: Filled,
    to: Filled,
    /// What went over; nothing where something came back too.
    gone: Option<Vec<usize>>,
}

/// What became of an offer.
struct Tried {
    traded: Option<Traded>,
    /// Items that found no place.
    vain: Vec<usize>,
}

impl Trades {
    /// Gives every plate a mark that is new.
    pub(super) fn mark(&mut self, plates: &mut [Filled]) {
        for plate in plates.iter_mut().filter(|p| p.mark == 0) {
            self.marks += 1;
            plate.mark = self.marks;
        }
    }

    /// Some copies change plates where that brings the plan nearer to a cheaper one.
    pub(super) fn step(&mut self, work: &Work, plates: &mut Vec<Filled>, rng: &mut Rng) {
        self.mark(plates);
        let mut offers: Vec<Offer> = Vec::new();
        for _ in 0..LANES {
            if let Some(offer) = self.draw(work, plates, &offers, rng) {
                offers.push(offer);
            }
        }
        let tried: Vec<(Offer, Tried)> = offers
            .into_par_iter()
            .map(|offer| (offer, work.traded(plates, offer)))
            .collect();
        let mut touched: Vec<usize> = Vec::new();
        for (offer, Tried { traded, vain }) in tried {
            let Some(traded) = traded else {
                let mark = plates[offer.to].mark;
                for item in vain {
                    *self.failed.entry((mark, item)).or_default() += 1;
                }
                *self.failed_on.entry(mark).or_default() += 1;
                continue;
            };
            let Offer { from, to, .. } = traded.offer;
            if touched.contains(&to) {
                continue;
            }
            let still = if touched.contains(&from) {
                // Another lane has taken other copies from it.
                let gone = traded.gone.as_deref();
                gone.and_then(|gone| work.without(&plates[from], gone))
            } else {
                Some(traded.from)
            };
            let Some(still) = still else { continue };
            // A copy may leave its unit, or keep the last printer longer: then it stays.
            let mut next = plates.clone();
            (next[from], next[to]) = (still, traded.to);
            if work.cost(&next) > work.cost(plates) + 1e-9 {
                continue;
            }
            touched.extend([from, to]);
            *plates = next;
        }
        plates.retain(|p| !p.puts().is_empty());
        plates.sort_by(|a, b| b.height_mm.total_cmp(&a.height_mm));
        if self.failed.len() > 100_000 {
            self.failed.clear();
            self.failed_on.clear();
        }
    }

    /// The most promising of some moves.
    fn draw(
        &self,
        work: &Work,
        plates: &[Filled],
        others: &[Offer],
        rng: &mut Rng,
    ) -> Option<Offer> {
        // One lane lifts what makes a plate as tall as it is onto the plate before.
        if others.is_empty() && plates.len() > 1 {
            let from = 1 + rng.below(plates.len() - 1);
            let lower = |i: &usize| plates[*i].height_mm > plates[from].height_mm;
            let item = work.tallest(&plates[from]);
            if let Some(to) = (0..from).rev().find(lower)
                && !plates[from].fixed
                && work.gain(&plates[from], &plates[to], item) > 1e-9
            {
                return Some(Offer {
                    from,
                    to,
                    item,
                    failed: 1,
                    seed: rng.next(),
                });
            }
        }
        let spread = plates.len() > LANES as usize;
        let mut best: Option<(f64, Offer)> = None;
        let fill: Vec<f64> = plates.iter().map(|f| work.fill_of(f)).collect();
        // The emptiest may be dissolved.
        let emptiest = (0..plates.len())
            .filter(|i| !plates[*i].fixed)
            .min_by(|a, b| fill[*a].total_cmp(&fill[*b]))?;
        for drawn in 0..DRAWN {
            let from = if drawn % 2 == 0 {
                emptiest
            } else {
                rng.below(plates.len())
            };
            let source = &plates[from];
            let to = rng.below(plates.len());
            if source.fixed || from == to {
                continue;
            }
            let taken = |o: &Offer| o.to == from || o.to == to || o.from == to;
            if spread && others.iter().any(taken) {
                continue;
            }
            let puts = source.puts();
            let item = if rng.below(2) == 0 {
                // One of the tallest.
                let tallest = puts
                    .iter()
                    .map(|p| work.job.items[p.item].height_mm)
                    .fold(0.0, f64::max);
                let high = |p: &&Put| work.job.items[p.item].height_mm > 0.9 * tallest;
                let many = puts.iter().filter(high).count();
                puts.iter().filter(high).nth(rng.below(many))?.item
            } else {
                puts[rng.below(puts.len())].item
            };
            let gain = work.gain(source, &plates[to], item);
            if gain <= 1e-9 {
                continue;
            }
            let failed = self
                .failed
                .get(&(plates[to].mark, item))
                .copied()
                .unwrap_or(0);
            let area = work.share(plates[to].build_area, item);
            let hopeless = self.failed_on.get(&plates[to].mark).copied().unwrap_or(0);
            let likely = (-(fill[to] + area - 0.72).max(0.0) / 0.04).exp()
                / (1.0 + f64::from(failed).powi(2))
                / (1.0 + (f64::from(hopeless) / 2.0).powi(2))
                / (0.01 + area);
            let score = gain * likely * (0.5 + rng.share());
            if best.as_ref().is_none_or(|b| score > b.0) {
                let seed = rng.next();
                best = Some((
                    score,
                    Offer {
                        from,
                        to,
                        item,
                        failed,
                        seed,
                    },
                ));
            }
        }
        best.map(|b| b.1)
    }
}

impl Work<'_> {
    /// Share of a plate that a copy takes.
    fn share(&self, build_area: usize, item: usize) -> f64 {
        self.area[item] / self.room(build_area)
    }

    /// Share of a plate that is taken.
    pub(super) fn fill_of(&self, plate: &Filled) -> f64 {
        let share = |p: &Put| self.share(plate.build_area, p.item);
        plate.puts().iter().map(share).sum()
    }

    /// Cost of a plate that grows with what stands high on it, s: concave, so that it is worth to
    /// gather.
    fn soft(&self, build_area: usize, items: impl Iterator<Item = usize>) -> f64 {
        let mut all: Vec<(f64, f64)> = items
            .map(|i| (self.job.items[i].height_mm, self.share(build_area, i)))
            .collect();
        all.sort_by(|a, b| b.0.total_cmp(&a.0));
        let (mut area, mut sum): (f64, f64) = (0.0, 0.0);
        for i in 0..all.len() {
            area += all[i].1;
            let next = all.get(i + 1).map_or(0.0, |n| n.0);
            sum += (all[i].0 - next) * area.sqrt();
        }
        let of = &self.job.build_areas[build_area];
        of.per_mm_s * sum + of.constant_s * area.sqrt()
    }

    /// What a plate with these items costs and how far it leans towards a cheaper one, s.
    pub(super) fn leaning(&self, build_area: usize, items: &[usize]) -> f64 {
        if items.is_empty() {
            return 0.0;
        }
        let of = |i: &usize| self.job.items[*i].height_mm;
        let height = items.iter().map(of).fold(0.0, f64::max);
        let real = self.kept(build_area, height) + self.job.wishes.plate_s;
        real + SOFT * self.soft(build_area, items.iter().copied())
    }

    /// What it would bring if a copy changed plates, s.
    fn gain(&self, from: &Filled, to: &Filled, item: usize) -> f64 {
        let (mut a, mut b) = (from.items(), to.items());
        let both = |a: &[usize], b: &[usize]| {
            self.leaning(from.build_area, a) + self.leaning(to.build_area, b)
        };
        let before = both(&a, &b);
        let at = a.iter().position(|i| *i == item).unwrap_or(0);
        a.swap_remove(at);
        b.push(item);
        before - both(&a, &b)
    }

    /// Two plates after some copies have moved, as many as go in the time that is given to it, and
    /// what was tried in vain.
    fn traded(&self, plates: &[Filled], offer: Offer) -> Tried {
        let mut rng = Rng(offer.seed);
        let copies: usize = plates.iter().map(|p| p.puts().len()).sum();
        let whole = (EACH * copies).clamp(EACH, BUDGET);
        let mut now = (plates[offer.from].clone(), plates[offer.to].clone());
        let mut failed = vec![0_u32; self.job.items.len()];
        failed[offer.item] = offer.failed;
        let mut vain = Vec::new();
        let mut budget = whole;
        let mut item = offer.item;
        let mut gone = Some(Vec::new());
        let mut moved = false;
        loop {
            let tries = failed[item];
            if let Some(next) = self.moved(&now.0, &now.1, item, tries, &mut budget, &mut rng) {
                if next.0.puts().len() + 1 == now.0.puts().len() {
                    if let Some(gone) = &mut gone {
                        gone.push(item);
                    }
                } else {
                    gone = None;
                }
                now = next;
                moved = true;
                failed.fill(0);
                vain.clear();
            } else {
                failed[item] += 1;
                vain.push(item);
            }
            if budget < whole / 5 {
                break;
            }
            let mut best: Option<(f64, usize)> = None;
            for _ in 0..6 {
                let puts = now.0.puts();
                if puts.is_empty() {
                    break;
                }
                let item = puts[rng.below(puts.len())].item;
                let gain = self.gain(&now.0, &now.1, item);
                let score = gain
                    / (1.0 + f64::from(failed[item]).powi(2))
                    / (0.01 + self.share(now.1.build_area, item));
                if gain > 1e-9 && best.is_none_or(|b| score > b.0) {
                    best = Some((score, item));
                }
            }
            let Some((_, next)) = best else {
                break;
            };
            item = next;
            budget -= whole / 200;
        }
        let (from, to) = now;
        Tried {
            traded: moved.then_some(Traded {
                offer,
                from,
                to,
                gone,
            }),
            vain,
        }
    }

    /// A plate without some copies; nothing where they are not on it.
    fn without(&self, plate: &Filled, gone: &[usize]) -> Option<Filled> {
        let mut puts = plate.puts().to_vec();
        for item in gone {
            puts.remove(puts.iter().position(|p| p.item == *item)?);
        }
        self.standing(plate.build_area, &puts)
    }

    /// Two plates with one copy moved; nothing where no place was found for it.
    fn moved(
        &self,
        source: &Filled,
        target: &Filled,
        item: usize,
        tries: u32,
        budget: &mut usize,
        rng: &mut Rng,
    ) -> Option<(Filled, Filled)> {
        let mut to = target.clone();
        to.mark = 0;
        let mut dropped: Vec<usize> = Vec::new();
        if tries > 0 || !self.insert(&mut to, item) {
            if target.fixed {
                return None;
            }
            let mut standing = target.puts().to_vec();
            // Every other time lower copies make room, as much as it takes.
            let mut rest = source.puts().to_vec();
            rest.swap_remove(rest.iter().position(|p| p.item == item)?);
            let high = |p: &Put| self.job.items[p.item].height_mm;
            let height = rest.iter().map(high).fold(0.0, f64::max);
            let own = self.area[item];
            let lower = |p: &Put| high(p) <= height && self.area[p.item] < own;
            if tries % 4 == 1 {
                // All that is lower: the tall stand close, and gaps are filled afterwards.
                let tall = self.job.items[item].height_mm;
                let low = |p: &Put| high(p) <= height && high(p) < tall;
                dropped = standing.iter().filter(|p| low(p)).map(|p| p.item).collect();
                standing.retain(|p| !low(p));
            } else if tries % 4 == 3 && standing.iter().any(lower) {
                let mut room = own * (0.5 + 2.5 * rng.share() * rng.share());
                while room > 0.0 {
                    let low: Vec<usize> = (0..standing.len())
                        .filter(|i| lower(&standing[*i]))
                        .collect();
                    if low.is_empty() {
                        break;
                    }
                    let gone = standing.swap_remove(low[rng.below(low.len())]);
                    room -= self.area[gone.item];
                    dropped.push(gone.item);
                }
            }
            let given = (FIRST << (tries + 1).min(4)).min(*budget);
            let mut mine = given;
            let pressed = self.press(
                target.build_area,
                &standing,
                item,
                Care::QUICK,
                &mut mine,
                rng,
            );
            *budget -= given - mine;
            to = pressed?;
        }
        let at = source.puts().iter().position(|p| p.item == item)?;
        let mut still = source.puts().to_vec();
        still.remove(at);
        let mut from = self.standing(source.build_area, &still)?;
        dropped.sort_by(|a, b| self.area[*b].total_cmp(&self.area[*a]));
        for item in dropped {
            if !self.insert(&mut to, item) && !self.insert(&mut from, item) {
                return None;
            }
        }
        to.nest.forget();
        from.nest.forget();
        let cost = |of: [&Filled; 2]| -> f64 {
            of.iter()
                .map(|f| self.leaning(f.build_area, &f.items()))
                .sum()
        };
        (cost([&from, &to]) < cost([source, target]) - 1e-9).then_some((from, to))
    }
}
