//! Who shares a plate: the tallest as far as they fit, lower ones in the gaps for free; and better
//! sharings for as long as one cares to wait.

use rayon::prelude::*;

use super::bound::grown_area;
use super::limits::{Limits, Tally};
use super::nest::{Nest, Put, Turn, turns};
use super::{LeftOver, MAX_COPIES, Misfit, PackError, PackJob, PackedPlate, Packer, Packing, Spot};
use crate::watch::Watch;

/// Cell of the lattice, mm; smaller where parts are small.
const CELL_MM: f64 = 0.5;
/// Turns tried for every part, evenly over the circle, besides its long edge along the plate.
const TURNS: usize = 8;
/// Lanes that try the same plate side by side, each with seeds of its own: as many whatever the
/// machine, so that its cores decide how fast a plan comes, never which.
const LANES: u64 = 4;

/// What an hour on a printer counts beside an hour until everything is done.
const MACHINE_SHARE: f64 = 0.2;

/// Rounds of lanes for every plate.
const ROUNDS: usize = 2;

/// Times an attempt is made, with what did not fit coming earlier.
const TIMES: usize = 2;

/// Packs by squeezing the tallest copies onto as few plates as will hold them.
///
/// A plate costs its constant and its tallest copy. So every plate takes the tallest copies that
/// are left, as far down the list as it can, nested large before small; what does not fit sets the
/// height of the next plate. Gaps are filled with lower copies at no cost. Then a few plates at a
/// time are emptied and filled again with the same copies, or everything after a plate is packed
/// anew, and what costs no more is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Squeeze {
    /// Seeds the orders that are tried.
    pub seed: u64,
    /// Rounds of trying a plate again after the first plan; the same number gives the same plan.
    pub steps: u64,
}

impl Squeeze {
    /// A plan at once.
    pub const AT_ONCE: Self = Self { seed: 1, steps: 0 };
}

impl Packer for Squeeze {
    fn pack(&self, job: &PackJob, watch: &dyn Watch) -> Result<Packing, PackError> {
        let mut best = None;
        self.improve(job, None, watch, &mut |packing| {
            best = Some(packing.clone())
        })?;
        best.ok_or(PackError::Stopped)
    }
}

impl Squeeze {
    /// Packs, and calls with the first complete packing and every better one. Stops after its
    /// steps, or when the watch says so: what was told last stands.
    ///
    /// Where a packing to begin with is given, the first one told changes it as little as it can:
    /// copies stand where they stood, what is wanted no more goes, what is missing comes into gaps
    /// and onto further plates. Plates that are `fixed` are never shared out again.
    ///
    /// # Errors
    /// [`PackError::TooMany`]; [`PackError::Stopped`] when it was stopped before the first one.
    pub fn improve(
        &self,
        job: &PackJob,
        from: Option<&Packing>,
        watch: &dyn Watch,
        better: &mut dyn FnMut(&Packing),
    ) -> Result<(), PackError> {
        let copies = job
            .items
            .iter()
            .fold(0u64, |sum, item| sum.saturating_add(item.copies));
        if copies > MAX_COPIES {
            return Err(PackError::TooMany {
                copies,
                limit: MAX_COPIES,
            });
        }
        let work = Work::new(job);
        let mut rng = Rng(self.seed);
        let begun = from.map_or_else(Vec::new, |packing| work.take_up(packing));
        let mut best = work
            .build(begun, &mut rng, 0.0, watch)
            .ok_or(PackError::Stopped)?;
        better(&work.packing(&best));
        for step in 0..self.steps {
            let free: Vec<usize> = (0..best.len()).filter(|i| !best[*i].fixed).collect();
            if watch.stopped() || free.is_empty() {
                break;
            }
            watch.report(step as f64 / self.steps as f64);
            let many = free.len() as u64;
            let anew = if many <= 6 { 2 } else { 8 };
            let changed = if step % anew == anew - 1 {
                let keep = free[(rng.next() % many) as usize];
                work.try_again(&best, keep, &mut rng, watch)
            } else if many > 1 {
                // Neighbours in height, two or three.
                let first = (rng.next() % (many - 1)) as usize;
                let apart = 1 + (rng.next() % 3) as usize;
                let at = |i: usize| free[i.min(free.len() - 1)];
                let mut chosen = vec![at(first), at(first + apart)];
                if step % 3 == 2 {
                    chosen.push(at(first + apart + 1));
                }
                chosen.dedup();
                work.share_again(&best, &chosen, &mut rng)
            } else {
                None
            };
            let Some(changed) = changed else {
                continue;
            };
            let (now, before) = (work.cost(&changed), work.cost(&best));
            if now <= before + 1e-9 {
                best = changed;
            }
            if now < before - 1e-9 {
                better(&work.packing(&best));
            }
        }
        watch.report(1.0);
        Ok(())
    }

    /// Arranges copies on one plate anew around those that may not be moved, as many of them as
    /// go; nothing where fewer would stand there than `least`.
    ///
    /// # Errors
    /// [`PackError::Stopped`].
    pub fn around(
        &self,
        job: &PackJob,
        pinned: &PackedPlate,
        least: u64,
        watch: &dyn Watch,
    ) -> Result<Option<PackedPlate>, PackError> {
        let work = Work::new(job);
        let start = work.restored(pinned);
        let left = work.left(std::slice::from_ref(&start));
        if start.puts().len() != pinned.spots.len() {
            return Ok(None);
        }
        let mut rng = Rng(self.seed);
        let mut best: Option<Filled> = None;
        for _ in 0..self.steps.max(1) {
            if watch.stopped() {
                return Err(PackError::Stopped);
            }
            let mut plate = start.clone();
            let mut wanted: Vec<(f64, usize)> = work
                .order
                .iter()
                .flat_map(|item| (0..left[*item]).map(|_| *item))
                .map(|item| (work.area[item] * (0.8 + 0.4 * rng.share()), item))
                .collect();
            wanted.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            for (_, item) in wanted {
                work.insert(&mut plate, item);
            }
            if best
                .as_ref()
                .is_none_or(|b| plate.puts().len() > b.puts().len())
            {
                best = Some(plate);
            }
            let all: u64 = left.iter().sum();
            let placed = |f: &Filled| (f.puts().len() - start.puts().len()) as u64;
            if best.as_ref().is_some_and(|b| placed(b) == all) {
                break;
            }
        }
        Ok(best
            .filter(|b| b.puts().len() as u64 >= least)
            .map(|b| work.packed(&b)))
    }
}

/// Pseudo-random numbers that are the same everywhere (SplitMix64; G. Steele, D. Lea, C. Flood,
/// OOPSLA 2014, from memory).
#[derive(Debug, Clone, Copy)]
struct Rng(u64);

impl Rng {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// From 0 to 1.
    fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }
}

/// A plate with what stands on it.
#[derive(Debug, Clone)]
struct Filled {
    sheet: usize,
    height_mm: f64,
    nest: Nest,
    tally: Tally,
    fixed: bool,
}

impl Filled {
    fn puts(&self) -> &[Put] {
        &self.nest.puts
    }
}

struct Work<'a> {
    job: &'a PackJob,
    limits: Limits,
    /// Of every sheet: which items it takes, on their own.
    takes: Vec<Vec<bool>>,
    cell: f64,
    /// Items from tall to low; among equals the more urgent, then the larger.
    order: Vec<usize>,
    /// Turns of every item, for a plate as it is and with its sides swapped.
    turns: Vec<[Vec<Turn>; 2]>,
    /// Area of each item with half the clearance around, mm².
    area: Vec<f64>,
}

impl<'a> Work<'a> {
    fn new(job: &'a PackJob) -> Self {
        let mut order: Vec<usize> = (0..job.items.len()).collect();
        // Heights alike to the tenth of a millimetre cost the same: there the priority decides.
        let height = |i: usize| (job.items[i].height_mm * 10.0).round() as i64;
        order.sort_by(|a, b| {
            let area = |i: usize| job.items[i].outline.area_mm2();
            height(*b)
                .cmp(&height(*a))
                .then(job.items[*a].priority.cmp(&job.items[*b].priority))
                .then(job.items[*a].unit.cmp(&job.items[*b].unit))
                .then(area(*b).total_cmp(&area(*a)))
                .then(a.cmp(b))
        });
        let smallest = job
            .items
            .iter()
            .map(|i| i.outline.area_mm2().sqrt())
            .fold(f64::INFINITY, f64::min);
        let cell = CELL_MM.min((smallest / 6.0).max(0.2));
        let turns: Vec<[Vec<Turn>; 2]> = job
            .items
            .par_iter()
            .map(|item| [false, true].map(|swapped| turns(&item.outline, cell, TURNS, swapped)))
            .collect();
        let area: Vec<f64> = job
            .items
            .par_iter()
            .map(|i| grown_area(&i.outline, job.clearance_mm / 2.0))
            .collect();
        let mut work = Self {
            limits: Limits::of(job),
            takes: Vec::new(),
            cell,
            order,
            turns,
            area,
            job,
        };
        work.takes = (0..job.sheets.len())
            .map(|sheet| {
                (0..job.items.len())
                    .into_par_iter()
                    .map(|item| work.fits(item, sheet))
                    .collect()
            })
            .collect();
        work
    }

    /// Time of a plate on its printer, s.
    fn seconds(&self, sheet: usize, height_mm: f64) -> f64 {
        let sheet = &self.job.sheets[sheet];
        sheet.constant_s + sheet.per_mm_s * height_mm
    }

    /// Work of every printer once these plates are done, s.
    fn busy(&self, plates: &[Filled]) -> Vec<f64> {
        let mut busy: Vec<f64> = self.job.sheets.iter().map(|s| s.busy_s).collect();
        for p in plates {
            busy[p.sheet] += self.seconds(p.sheet, p.height_mm);
        }
        busy
    }

    /// Cost of a plan, s: when the last printer is done and the hands that takes, then hours on
    /// the printers, then units scattered over plates.
    fn cost(&self, plates: &[Filled]) -> f64 {
        let last = self.busy(plates).into_iter().fold(0.0, f64::max);
        let machine: f64 = plates
            .iter()
            .map(|p| self.seconds(p.sheet, p.height_mm))
            .sum();
        let scattered: usize = plates.iter().map(|p| p.tally.units()).sum();
        let wishes = &self.job.wishes;
        last + wishes.plate_s * plates.len() as f64
            + MACHINE_SHARE * machine
            + wishes.together_s * scattered as f64
    }

    /// Copies of every item that some plates leave.
    fn left(&self, plates: &[Filled]) -> Vec<u64> {
        let mut left: Vec<u64> = self.job.items.iter().map(|i| i.copies).collect();
        for put in plates.iter().flat_map(|p| p.puts()) {
            left[put.item] -= 1;
        }
        left
    }

    fn fits(&self, item: usize, sheet: usize) -> bool {
        let (of, on) = (&self.job.items[item], &self.job.sheets[sheet]);
        let hardest = of.pull.iter().copied().fold(0.0, f64::max);
        of.height_mm <= on.height_mm
            && on.part_pull.is_none_or(|cap| hardest <= cap)
            && on.plate_pull.is_none_or(|cap| hardest <= cap)
            && self.nest(on, false).insert(item, &self.turns[item][0])
    }

    /// An empty plate.
    fn empty(&self, sheet: usize, swapped: bool) -> Filled {
        Filled {
            sheet,
            height_mm: 0.0,
            nest: self.nest(&self.job.sheets[sheet], swapped),
            tally: Tally::default(),
            fixed: false,
        }
    }

    /// Puts a copy on a plate, where it may stand there and finds a place.
    fn insert(&self, plate: &mut Filled, item: usize) -> bool {
        let turns = &self.turns[item][usize::from(plate.nest.swapped)];
        let placed = self.takes[plate.sheet][item]
            && plate
                .tally
                .admits(self.job, &self.limits, plate.sheet, item)
            && plate.nest.insert(item, turns);
        if placed {
            self.account(plate, item);
        }
        placed
    }

    fn account(&self, plate: &mut Filled, item: usize) {
        plate.tally.add(self.job, item);
        plate.height_mm = plate.height_mm.max(self.job.items[item].height_mm);
    }

    /// A plate as it was packed before. What may not stand there any more is left out.
    fn restored(&self, packed: &PackedPlate) -> Filled {
        let mut plate = self.empty(packed.sheet, false);
        plate.fixed = packed.fixed;
        let margin = self.job.sheets[packed.sheet].margin_mm;
        for spot in &packed.spots {
            let known = self.takes[packed.sheet].get(spot.item) == Some(&true);
            if known
                && plate
                    .tally
                    .admits(self.job, &self.limits, plate.sheet, spot.item)
                && plate.nest.restore(
                    spot.item,
                    &self.job.items[spot.item].outline,
                    spot.at_mm.map(|c| c - margin),
                    spot.rotation_deg,
                )
            {
                self.account(&mut plate, spot.item);
            }
        }
        plate
    }

    /// An earlier packing, with as much changed as has to be: the rest is still to be built.
    fn take_up(&self, packing: &Packing) -> Vec<Filled> {
        let mut left: Vec<u64> = self.job.items.iter().map(|i| i.copies).collect();
        let mut plates: Vec<Filled> = Vec::new();
        for packed in &packing.plates {
            if packed.sheet >= self.job.sheets.len() {
                continue;
            }
            let mut still = packed.clone();
            still.spots.retain(|s| {
                let wanted = left.get(s.item).is_some_and(|n| *n > 0);
                if wanted {
                    left[s.item] -= 1;
                }
                wanted
            });
            let plate = self.restored(&still);
            // What did not stand again is still to be placed.
            for spot in &still.spots {
                left[spot.item] += 1;
            }
            for put in plate.puts() {
                left[put.item] -= 1;
            }
            if !plate.puts().is_empty() {
                plates.push(plate);
            }
        }
        for item in &self.order {
            let height = self.job.items[*item].height_mm;
            for plate in &mut plates {
                if height > plate.height_mm {
                    continue;
                }
                while left[*item] > 0 && self.insert(plate, *item) {
                    left[*item] -= 1;
                }
            }
        }
        plates.iter_mut().for_each(|p| p.nest.forget());
        plates
    }

    fn nest(&self, sheet: &super::Sheet, swapped: bool) -> Nest {
        let size = [
            sheet.width_mm - 2.0 * sheet.margin_mm,
            sheet.depth_mm - 2.0 * sheet.margin_mm,
        ];
        Nest::new(size, self.job.clearance_mm, self.cell, swapped)
    }

    /// The printer that would be done first with the tallest copy left, among those that take it;
    /// with some luck another one.
    fn sheet_for(&self, item: usize, plates: &[Filled], rng: &mut Rng, luck: f64) -> Option<usize> {
        let height = self.job.items[item].height_mm;
        (self.busy(plates).iter().enumerate())
            .filter(|(sheet, _)| self.takes[*sheet][item])
            .map(|(sheet, busy)| {
                let done = busy + self.seconds(sheet, height);
                (sheet, done * (1.0 + luck * rng.share()))
            })
            .min_by(|a, b| a.1.total_cmp(&b.1).then(a.0.cmp(&b.0)))
            .map(|(sheet, _)| sheet)
    }

    /// Completes some plates to a plan; nothing when the watch says stop.
    fn build(
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
            let Some(sheet) = self.sheet_for(tallest, &plates, rng, luck) else {
                left[tallest] = 0;
                continue;
            };
            let plate = self.fill(sheet, &left, rng);
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

    /// Some plates emptied and filled again with the same copies, the tallest plate first; what
    /// then finds no place goes into gaps of the others. Nothing when something stays over.
    fn share_again(&self, best: &[Filled], chosen: &[usize], rng: &mut Rng) -> Option<Vec<Filled>> {
        let mut pool = vec![0_u64; self.job.items.len()];
        for put in chosen.iter().flat_map(|i| best[*i].puts()) {
            pool[put.item] += 1;
        }
        let mut plates: Vec<Filled> = (0..best.len())
            .filter(|i| !chosen.contains(i))
            .map(|i| best[i].clone())
            .collect();
        for i in chosen {
            if pool.iter().all(|n| *n == 0) {
                break;
            }
            let plate = self.fill(best[*i].sheet, &pool, rng);
            for put in plate.puts() {
                pool[put.item] -= 1;
            }
            if !plate.puts().is_empty() {
                plates.push(plate);
            }
        }
        plates.sort_by(|a, b| b.height_mm.total_cmp(&a.height_mm));
        for item in &self.order {
            'copies: while pool[*item] > 0 {
                let height = self.job.items[*item].height_mm;
                for plate in &mut plates {
                    if height <= plate.height_mm && self.insert(plate, *item) {
                        pool[*item] -= 1;
                        continue 'copies;
                    }
                }
                return None;
            }
        }
        plates.iter_mut().for_each(|p| p.nest.forget());
        Some(plates)
    }

    /// Everything after some plates packed anew.
    fn try_again(
        &self,
        best: &[Filled],
        keep: usize,
        rng: &mut Rng,
        watch: &dyn Watch,
    ) -> Option<Vec<Filled>> {
        let kept = best[..keep]
            .iter()
            .chain(best[keep..].iter().filter(|p| p.fixed))
            .cloned()
            .collect();
        self.build(kept, rng, 0.25, watch)
    }

    /// What some copies left would still cost: height of the tallest, and a share of their areas
    /// weighed by height.
    fn rest(&self, left: &[u64]) -> (i64, i64) {
        let tallest = self.order.iter().find(|i| left[**i] > 0);
        let height = tallest.map_or(0.0, |i| self.job.items[*i].height_mm);
        let bulk: f64 = (0..left.len())
            .map(|i| left[i] as f64 * self.area[i] * self.job.items[i].height_mm)
            .sum();
        ((height * 10.0).round() as i64, bulk.round() as i64)
    }

    /// Fills one plate as far down the list as it goes: lanes try prefixes of the list side by
    /// side, the best one gets its gaps filled.
    fn fill(&self, sheet: usize, left: &[u64], rng: &mut Rng) -> Filled {
        let plate = &self.job.sheets[sheet];
        let room = (plate.width_mm - 2.0 * plate.margin_mm + self.job.clearance_mm)
            * (plate.depth_mm - 2.0 * plate.margin_mm + self.job.clearance_mm);
        let mut best: Option<((i64, i64), Filled)> = None;
        // How full a plate may be asked to become; learned from what fitted.
        let mut ask = 0.80;
        for _ in 0..ROUNDS {
            let seeds: Vec<(u64, f64)> = (0..LANES)
                .map(|lane| {
                    let luck = Rng(rng.next()).share() - 0.5;
                    (rng.next(), ask + 0.03 * (lane as f64 - 1.5) + 0.06 * luck)
                })
                .collect();
            let tried: Vec<((i64, i64), Filled)> = seeds
                .into_par_iter()
                .map(|(seed, share)| self.attempt(sheet, left, room * share, Rng(seed)))
                .collect();
            for (rest, filled) in tried {
                if best.as_ref().is_none_or(|b| rest < b.0) {
                    let area: f64 = filled.puts().iter().map(|p| self.area[p.item]).sum();
                    ask = (area / room).clamp(0.5, 0.95) + 0.02;
                    best = Some((rest, filled));
                }
            }
        }
        let mut filled = best.map_or_else(|| self.empty(sheet, false), |b| b.1);
        self.fill_gaps(left, &mut filled);
        filled.nest.forget();
        filled
    }

    /// The tallest copies of this much area, large before small with some luck. What does not fit
    /// comes earlier the next time; the best of some times counts.
    fn attempt(&self, sheet: usize, left: &[u64], area: f64, mut rng: Rng) -> ((i64, i64), Filled) {
        // Every copy from tall to low.
        let mut more = self
            .order
            .iter()
            .filter(|item| self.takes[sheet][**item])
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
            let mut filled = self.empty(sheet, swapped);
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
        best.unwrap_or_else(|| (self.rest(left), self.empty(sheet, swapped)))
    }

    /// Whatever else fits, from tall to low.
    fn fill_gaps(&self, left: &[u64], plate: &mut Filled) {
        let mut left = left.to_vec();
        plate.puts().iter().for_each(|p| left[p.item] -= 1);
        for item in &self.order {
            while left[*item] > 0 && self.insert(plate, *item) {
                left[*item] -= 1;
            }
        }
    }

    fn packed(&self, plate: &Filled) -> PackedPlate {
        let margin = self.job.sheets[plate.sheet].margin_mm;
        let spot = |put: &Put| Spot {
            item: put.item,
            at_mm: put.at_mm.map(|c| c + margin),
            rotation_deg: put.rotation_deg,
        };
        PackedPlate {
            sheet: plate.sheet,
            spots: plate.puts().iter().map(spot).collect(),
            fixed: plate.fixed,
        }
    }

    fn packing(&self, plates: &[Filled]) -> Packing {
        let left = self.left(plates);
        let misfit = |item: usize| {
            let of = &self.job.items[item];
            let hardest = of.pull.iter().copied().fold(0.0, f64::max);
            let high = |s: &&super::Sheet| of.height_mm <= s.height_mm;
            let caps = |s: &super::Sheet| {
                s.part_pull.is_none_or(|cap| hardest <= cap)
                    && s.plate_pull.is_none_or(|cap| hardest <= cap)
            };
            if !self.job.sheets.iter().any(|s| high(&s)) {
                Misfit::TooTall
            } else if !self.job.sheets.iter().filter(high).any(caps) {
                Misfit::PullsTooHard
            } else {
                Misfit::TooWide
            }
        };
        Packing {
            plates: plates.iter().map(|p| self.packed(p)).collect(),
            left_over: (0..left.len())
                .filter(|i| left[*i] > 0)
                .map(|item| LeftOver {
                    item,
                    copies: left[item],
                    why: misfit(item),
                })
                .collect(),
        }
    }
}
