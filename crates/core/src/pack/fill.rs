//! One plate after the other filled: the tallest as far as they fit, lower ones in the gaps.

use rayon::prelude::*;

use super::boxes::{Brick, Laid, ORDERS, lay};
use super::nest::{Put, Turn};
use super::work::{Filled, LANES, Work, inner};
use crate::rng::Rng;
use crate::watch::Watch;

/// Share by which rectangles are drawn apart, so that they do not touch where no clearance is asked.
const HAIR: f64 = 4e-9;

/// Rounds of lanes for every plate.
const ROUNDS: usize = 2;

/// Times an attempt is made, with what did not fit coming earlier.
const TIMES: usize = 2;

impl Work<'_> {
    /// The printer that would be done first with the tallest copy left, among those that take it;
    /// with some luck another one.
    fn sheet_for(&self, item: usize, plates: &[Filled], rng: &mut Rng, luck: f64) -> Option<usize> {
        let height = self.job.items[item].height_mm;
        (self.busy(plates).iter().enumerate())
            .filter(|(build_area, _)| self.takes[*build_area][item])
            .map(|(build_area, busy)| {
                let done = busy + self.kept(build_area, height);
                (build_area, done * (1.0 + luck * rng.share()))
            })
            .min_by(|a, b| a.1.total_cmp(&b.1).then(a.0.cmp(&b.0)))
            .map(|(build_area, _)| build_area)
    }

    /// Completes some plates to a plan; nothing when the watch says stop.
    pub(super) fn build(
        &self,
        mut plates: Vec<Filled>,
        rng: &mut Rng,
        luck: f64,
        watch: &dyn Watch,
    ) -> Option<Vec<Filled>> {
        let mut left = self.left(&plates);
        loop {
            if watch.stopped() {
                return None;
            }
            let Some(tallest) = self.order.iter().copied().find(|i| left[*i] > 0) else {
                return Some(plates);
            };
            let Some(build_area) = self.sheet_for(tallest, &plates, rng, luck) else {
                left[tallest] = 0;
                continue;
            };
            let plate = self.fill(build_area, &left, rng);
            if plate.puts().is_empty() {
                // Limits leave it no place, not even alone.
                left[tallest] = 0;
                continue;
            }
            for put in plate.puts() {
                left[put.item] -= 1;
            }
            plates.push(plate);
        }
    }

    /// What some copies left would still cost: height of the tallest, and a share of their areas
    /// weighed by height.
    pub(super) fn rest(&self, left: &[u64]) -> (i64, i64) {
        let tallest = self.order.iter().find(|i| left[**i] > 0);
        let height = tallest.map_or(0.0, |i| self.job.items[*i].height_mm);
        let bulk: f64 = (0..left.len())
            .map(|i| left[i] as f64 * self.area[i] * self.job.items[i].height_mm)
            .sum();
        ((height * 10.0).round() as i64, bulk.round() as i64)
    }

    /// Fills one plate as far down the list as it goes: lanes try prefixes of the list side by
    /// side, the best one gets its gaps filled.
    pub(super) fn fill(&self, build_area: usize, left: &[u64], rng: &mut Rng) -> Filled {
        let room = self.room(build_area);
        let mut best: Option<((i64, i64), Filled)> = None;
        // How full a plate may be asked to become; learned from what fitted.
        let mut ask = 0.80;
        // What is about as tall as the tallest should not make a second plate as tall.
        let tallest = (self.order.iter().find(|i| left[**i] > 0))
            .map_or(0.0, |i| self.job.items[*i].height_mm);
        let level = (0.93 * tallest * 10.0).round() as i64;
        let as_tall: f64 = (0..left.len())
            .filter(|i| (self.job.items[*i].height_mm * 10.0).round() as i64 > level)
            .map(|i| left[i] as f64 * self.area[i])
            .sum();
        for round in 0..3 * ROUNDS {
            let second = best.as_ref().is_some_and(|((next, _), _)| *next > level);
            if round >= ROUNDS && !(second && as_tall < 0.7 * room) {
                break;
            }
            let seeds: Vec<(u64, f64)> = (0..LANES)
                .map(|lane| {
                    let luck = Rng(rng.next()).share() - 0.5;
                    (rng.next(), ask + 0.03 * (lane as f64 - 1.5) + 0.06 * luck)
                })
                .collect();
            let tried: Vec<((i64, i64), Filled)> = seeds
                .into_par_iter()
                .map(|(seed, share)| {
                    self.laid(build_area, left, Rng(seed))
                        .unwrap_or_else(|| self.attempt(build_area, left, room * share, Rng(seed)))
                })
                .collect();
            for (rest, filled) in tried {
                if best.as_ref().is_none_or(|b| rest < b.0) {
                    let area: f64 = filled.puts().iter().map(|p| self.area[p.item]).sum();
                    ask = (area / room).clamp(0.5, 0.95) + 0.02;
                    best = Some((rest, filled));
                }
            }
        }
        let filled = best.map_or_else(|| self.empty(build_area, false), |b| b.1);
        // Gaps take what is tall first, or what is large.
        let orders: Vec<Vec<usize>> = (0..LANES).map(|lane| self.gap_order(lane, rng)).collect();
        let fulls: Vec<Filled> = orders
            .into_par_iter()
            .map(|order| {
                let mut full = filled.clone();
                self.fill_gaps(left, &order, &mut full);
                full.nest.forget();
                full
            })
            .collect();
        let bulk = |f: &Filled| -> f64 {
            f.puts()
                .iter()
                .map(|p| self.area[p.item] * self.job.items[p.item].height_mm)
                .sum()
        };
        fulls
            .into_iter()
            .reduce(|a, b| if bulk(&b) > bulk(&a) { b } else { a })
            .unwrap_or(filled)
    }

    /// A plate of nothing but rectangles, the tallest first; nothing where there is anything else
    /// or something to be counted.
    fn laid(&self, build_area: usize, left: &[u64], mut rng: Rng) -> Option<((i64, i64), Filled)> {
        let of = &self.job.build_areas[build_area];
        let goes = |i: usize| left[i] > 0 && self.takes[build_area][i];
        let counted = of.plate_pull.is_some() || self.job.wishes.apart;
        if counted || (0..left.len()).any(|i| goes(i) && !self.boxes[i]) {
            return None;
        }
        let c = self.job.clearance_mm;
        let lean = rng.share();
        let bricks: Vec<Brick> = self
            .order
            .iter()
            .filter(|i| goes(**i))
            .flat_map(|i| (0..left[*i]).map(|_| *i))
            .map(|item| {
                let turns = &self.turns[item][0];
                let size = |t: &Turn| t.size.map(|s| s + c);
                Brick {
                    item,
                    sizes: [size(&turns[0]), size(turns.last().unwrap_or(&turns[0]))],
                    worth: self.job.items[item].height_mm * self.area[item].powf(0.3 * lean),
                }
            })
            .collect();
        // A large job is not to wait for its first plan.
        let orders = (ORDERS * 70 / bricks.len().max(1)).clamp(ORDERS / 20, ORDERS);
        // Nothing that this printer takes may be left.
        let tallest = self.job.items[bricks.first()?.item].height_mm;
        let size = inner(of).map(|side| side + c);
        let after = |laid: &[Laid]| {
            let mut after = left.to_vec();
            laid.iter().for_each(|l| after[l.item] -= 1);
            self.rest(&after)
        };
        // What is missing, the tall much more than the low.
        let power = [3.0, 5.0, 8.0, 12.0][rng.below(4)];
        let worth: Vec<f64> = (0..left.len())
            .map(|i| self.area[i] * (self.job.items[i].height_mm / tallest).powf(power))
            .collect();
        let all: f64 = (0..left.len()).map(|i| left[i] as f64 * worth[i]).sum();
        let steep = |laid: &[Laid]| all - laid.iter().map(|l| worth[l.item]).sum::<f64>();
        let laid = lay(size, bricks, orders, &mut rng, after, steep);
        let puts: Vec<Put> = laid
            .iter()
            .map(|l| {
                let turns = &self.turns[l.item][0];
                let turn = &turns[l.turned.min(turns.len() - 1)];
                Put {
                    item: l.item,
                    at_mm: [0, 1].map(|k| l.at[k] * (1.0 + HAIR) + turn.origin[k]),
                    rotation_deg: turn.rotation_deg,
                }
            })
            .collect();
        Some((after(&laid), self.standing(build_area, &puts)?))
    }

    /// The tallest copies of this much area, large before small with some luck. What does not fit
    /// comes earlier the next time; the best of some times counts.
    fn attempt(
        &self,
        build_area: usize,
        left: &[u64],
        area: f64,
        mut rng: Rng,
    ) -> ((i64, i64), Filled) {
        // Every copy from tall to low.
        let mut more = self
            .order
            .iter()
            .filter(|item| self.takes[build_area][**item])
            .flat_map(|item| (0..left[*item]).map(|_| *item))
            .peekable();
        let mut wanted: Vec<(f64, usize)> = Vec::new();
        let mut sum = 0.0;
        while let Some(item) = more.next_if(|i| wanted.is_empty() || sum + self.area[*i] <= area) {
            sum += self.area[item];
            let noise = 1.0 + 0.4 * (rng.share() - 0.5);
            wanted.push((self.area[item] * noise, item));
        }
        let swapped = rng.next() % 2 == 1;
        let mut best: Option<((i64, i64), Filled)> = None;
        let times = if left.iter().sum::<u64>() <= 150 {
            2 * TIMES
        } else {
            TIMES
        };
        for _ in 0..times {
            wanted.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            let mut filled = self.empty(build_area, swapped);
            let mut after = left.to_vec();
            let mut full: Vec<usize> = Vec::new();
            let mut missed = 0;
            for (weight, item) in &mut wanted {
                if !full.contains(item) && self.insert(&mut filled, *item) {
                    after[*item] -= 1;
                } else {
                    full.push(*item);
                    *weight *= 1.2 + 0.8 * rng.share();
                    missed += 1;
                }
            }
            let rest = self.rest(&after);
            if best.as_ref().is_none_or(|b| rest < b.0) {
                best = Some((rest, filled));
            }
            if missed == 0 {
                // All of it fits: a little more is asked.
                for _ in 0..2 {
                    if let Some(item) = more.next() {
                        wanted.push((self.area[item] * (0.8 + 0.4 * rng.share()), item));
                    }
                }
            }
        }
        best.unwrap_or_else(|| (self.rest(left), self.empty(build_area, swapped)))
    }

    /// In which order gaps are filled: from tall to low, or from large to small with some luck.
    fn gap_order(&self, lane: u64, rng: &mut Rng) -> Vec<usize> {
        if lane == 0 {
            return self.order.clone();
        }
        let mut keyed: Vec<(f64, usize)> = self
            .order
            .iter()
            .map(|item| {
                let luck = 1.0 + 0.3 * (lane - 1) as f64 * (rng.share() - 0.5);
                (self.area[*item] * luck, *item)
            })
            .collect();
        keyed.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        keyed.into_iter().map(|k| k.1).collect()
    }

    /// Whatever else fits and does not rise above what stands there.
    fn fill_gaps(&self, left: &[u64], order: &[usize], plate: &mut Filled) {
        let mut left = left.to_vec();
        plate.puts().iter().for_each(|p| left[p.item] -= 1);
        for item in order {
            if self.job.items[*item].height_mm > plate.height_mm {
                continue;
            }
            while left[*item] > 0 && self.insert(plate, *item) {
                left[*item] -= 1;
            }
        }
    }
}
