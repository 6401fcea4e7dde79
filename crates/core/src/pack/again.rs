//! A plan that is packed again in part: a few plates with the same copies, or all from a plate on.

use super::work::{Filled, Work};
use crate::rng::Rng;
use crate::watch::Watch;

impl Work<'_> {
    /// A few plates filled again with the same copies, or everything after a plate packed anew.
    pub(super) fn shuffled(
        &self,
        best: &[Filled],
        free: &[usize],
        turn: u64,
        rng: &mut Rng,
        watch: &dyn Watch,
    ) -> Option<Vec<Filled>> {
        let many = free.len() as u64;
        if self.boxes.iter().all(|b| *b) && turn % 4 != 3 {
            return self.laid_again(best, rng, watch);
        }
        let anew = if many <= 6 { 2 } else { 8 };
        if turn % anew == anew - 1 {
            let keep = free[(rng.next() % many) as usize];
            return self.try_again(best, keep, rng, watch);
        }
        if many < 2 {
            return None;
        }
        // Neighbours in height, two or three.
        let first = (rng.next() % (many - 1)) as usize;
        let apart = 1 + (rng.next() % 3) as usize;
        let at = |i: usize| free[i.min(free.len() - 1)];
        let mut chosen = vec![at(first), at(first + apart)];
        if turn % 3 == 2 {
            chosen.push(at(first + apart + 1));
        }
        chosen.dedup();
        self.share_again(best, &chosen, rng)
    }

    /// Every plate filled again, and kept as it was as long as that is no better.
    fn laid_again(&self, best: &[Filled], rng: &mut Rng, watch: &dyn Watch) -> Option<Vec<Filled>> {
        let (fixed, free): (Vec<&Filled>, Vec<&Filled>) = best.iter().partition(|p| p.fixed);
        let mut plates: Vec<Filled> = fixed.into_iter().cloned().collect();
        for plate in free {
            if watch.stopped() {
                return None;
            }
            let left = self.left(&plates);
            let next = self.fill(plate.build_area, &left, rng);
            let rest = |f: &Filled| {
                let mut after = left.clone();
                f.puts().iter().for_each(|p| after[p.item] -= 1);
                self.rest(&after)
            };
            if rest(&next) < rest(plate) {
                plates.push(next);
                return self.build(plates, rng, 0.0, watch);
            }
            plates.push(plate.clone());
        }
        None
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
            let plate = self.fill(best[*i].build_area, &pool, rng);
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
}
