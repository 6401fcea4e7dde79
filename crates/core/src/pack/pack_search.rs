//! Who shares a plate: the tallest as far as they fit, lower ones in the gaps for free; and better
//! sharings for as long as one cares to wait.

use super::raise::Raises;
use super::trade::Trades;
use super::work::{Filled, Work};
use super::{MAX_COPIES, PackError, PackJob, PackedPlate, Packing};
use crate::rng::Rng;
use crate::watch::Watch;

/// Packs by squeezing the tallest copies onto as few plates as will hold them.
///
/// A plate costs its constant and its tallest copy. So every plate takes the tallest copies that
/// are left, as far down the list as it can, nested large before small; what does not fit sets the
/// height of the next plate. Gaps are filled with lower copies at no cost. Then copies are pressed
/// from the emptier plates into the fuller ones, a few plates at a time are emptied and filled again
/// with the same copies, or everything after a plate is packed anew; what costs no more is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PackSearch {
    /// Seeds the orders that are tried.
    pub seed: u64,
    /// Rounds of trying a plate again after the first plan; the same number gives the same plan.
    pub steps: u64,
}

impl PackSearch {
    /// A plan at once.
    pub const AT_ONCE: Self = Self { seed: 1, steps: 0 };
}

/// Steps that begin anew.
const AGAIN: u64 = 1;
/// Steps that bring nothing before rectangles are begun anew.
const STALE: u32 = 14;

impl PackSearch {
    /// Packs a job. Equal jobs give equal results.
    ///
    /// # Errors
    /// [`PackError`] when it is stopped or the job is too large.
    pub fn pack(&self, job: &PackJob, watch: &dyn Watch) -> Result<Packing, PackError> {
        let mut best = None;
        self.improve(job, None, watch, &mut |packing| {
            best = Some(packing.clone())
        })?;
        best.ok_or(PackError::Stopped)
    }
}

impl PackSearch {
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
        let mut work = Work::new(job);
        let mut rng = Rng(self.seed);
        let begun = from.map_or_else(Vec::new, |packing| work.take_up(packing));
        let mut best = work
            .build(begun, &mut rng, 0.0, watch)
            .ok_or(PackError::Stopped)?;
        better(&work.packing(&best));
        if self.steps > 0 {
            work.prepare_shapes();
        }
        let mut trades = Trades::default();
        let mut raises = Raises::default();
        let bricks = work.boxes.iter().all(|b| *b);
        let mut told = work.cost(&best);
        let (mut least, mut stale) = (told, 0);
        for step in 0..self.steps {
            let free: Vec<usize> = (0..best.len()).filter(|i| !best[*i].fixed).collect();
            if watch.stopped() || free.is_empty() {
                break;
            }
            watch.report(step as f64 / self.steps as f64);
            let many = free.len() as u64;
            let round = if bricks {
                1
            } else if many <= 6 {
                2
            } else {
                6
            };
            if step < AGAIN {
                // Luck decides a good deal: the start is the best of some.
                let fixed = best.iter().filter(|p| p.fixed).cloned().collect();
                if let Some(other) = work.build(fixed, &mut rng, 0.0, watch)
                    && work.cost(&other) < work.cost(&best)
                {
                    best = other;
                }
            } else if step % round < round - 1 {
                trades.mark(&mut best);
                if step % 4 == 2 {
                    if let Some(raised) = raises.step(&work, &best, &mut rng) {
                        best = raised;
                    }
                } else {
                    trades.step(&work, &mut best, &mut rng);
                }
            } else if let Some(changed) = work.shuffled(&best, &free, step / round, &mut rng, watch)
                && work.cost(&changed) <= work.cost(&best) + 1e-9
            {
                best = changed;
            }
            let now = work.cost(&best);
            if now < least - 1e-9 {
                (least, stale) = (now, 0);
            } else {
                stale += 1;
            }
            if now < told - 1e-9 {
                told = now;
                better(&work.packing(&best));
            }
            if bricks && stale >= STALE {
                // Rectangles lead into dead ends: begun anew, and told when that is better.
                let fixed = best.iter().filter(|p| p.fixed).cloned().collect();
                if let Some(anew) = work.build(fixed, &mut rng, 0.25, watch) {
                    least = work.cost(&anew);
                    (best, stale) = (anew, 0);
                }
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
        if start.puts().len() != pinned.placements.len() {
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
