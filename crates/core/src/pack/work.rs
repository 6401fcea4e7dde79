//! What is to be packed, and how one plate after the other is filled.

use rayon::prelude::*;

use super::bound::grown_area;
use super::boxes::{Brick, Laid, ORDERS, lay};
use super::limits::{Limits, Tally};
use super::nest::{Nest, Put, Turn, turns};
use super::rng::Rng;
use super::shape::Shape;
use super::{LeftOver, Misfit, PackJob, PackedPlate, Packing, Spot};
use crate::geometry::{Outline, Point};
use crate::watch::Watch;

/// Cell of the lattice, mm; smaller where parts are small.
const CELL_MM: f64 = 0.5;
/// Turns tried for every part, evenly over the circle, besides its long edge along the plate.
const TURNS: usize = 16;
/// Lanes that try the same plate side by side, each with seeds of its own: as many whatever the
/// machine, so that its cores decide how fast a plan comes, never which.
pub(super) const LANES: u64 = 4;

/// What an hour on a printer counts beside an hour until everything is done.
const MACHINE_SHARE: f64 = 0.2;

/// Share by which rectangles are drawn apart, so that they do not touch where no clearance is asked.
const HAIR: f64 = 4e-9;

/// Rounds of lanes for every plate.
const ROUNDS: usize = 2;

/// Times an attempt is made, with what did not fit coming earlier.
const TIMES: usize = 2;

/// Width and depth within the margin, mm.
pub(super) const fn inner(sheet: &super::Sheet) -> Point {
    [
        sheet.width_mm - 2.0 * sheet.margin_mm,
        sheet.depth_mm - 2.0 * sheet.margin_mm,
    ]
}

/// An outline fills its box in some turn.
fn is_box(outline: &Outline) -> bool {
    let longest = outline.edges().map(|(a, b)| [b[0] - a[0], b[1] - a[1]]);
    let longest = longest.max_by(|a, b| a[0].hypot(a[1]).total_cmp(&b[0].hypot(b[1])));
    longest.is_some_and(|d| {
        let placed = outline.placed(-d[1].atan2(d[0]).to_degrees(), [0.0, 0.0]);
        let (low, high) = placed.bounds();
        placed.area_mm2() > 0.999_999 * (high[0] - low[0]) * (high[1] - low[1])
    })
}

/// A plate with what stands on it.
#[derive(Debug, Clone)]
pub(super) struct Filled {
    pub(super) sheet: usize,
    pub(super) height_mm: f64,
    pub(super) nest: Nest,
    tally: Tally,
    pub(super) fixed: bool,
    /// Tells apart what was tried on it; nothing when it is new.
    pub(super) mark: u64,
}

impl Filled {
    pub(super) fn puts(&self) -> &[Put] {
        &self.nest.puts
    }
}

pub(super) struct Work<'a> {
    pub(super) job: &'a PackJob,
    limits: Limits,
    /// Of every sheet: which items it takes, on their own.
    takes: Vec<Vec<bool>>,
    cell: f64,
    /// Items from tall to low; among equals the more urgent, then the larger.
    pub(super) order: Vec<usize>,
    /// Turns of every item, for a plate as it is and with its sides swapped.
    turns: Vec<[Vec<Turn>; 2]>,
    /// Area of each item with half the clearance around, mm².
    pub(super) area: Vec<f64>,
    /// Which items are rectangles.
    pub(super) boxes: Vec<bool>,
    /// Items as they are pressed; none before [`Work::prepare_shapes`].
    pub(super) shapes: Vec<Shape>,
}

impl<'a> Work<'a> {
    pub(super) fn new(job: &'a PackJob) -> Self {
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
            boxes: job.items.iter().map(|i| is_box(&i.outline)).collect(),
            shapes: Vec::new(),
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
    pub(super) fn seconds(&self, sheet: usize, height_mm: f64) -> f64 {
        let sheet = &self.job.sheets[sheet];
        sheet.constant_s + sheet.per_mm_s * height_mm
    }

    /// Work of every printer once these plates are done, s.
    pub(super) fn busy(&self, plates: &[Filled]) -> Vec<f64> {
        let mut busy: Vec<f64> = self.job.sheets.iter().map(|s| s.busy_s).collect();
        for p in plates {
            busy[p.sheet] += self.seconds(p.sheet, p.height_mm);
        }
        busy
    }

    /// Cost of a plan, s: when the last printer is done and the hands that takes, then hours on
    /// the printers, then units scattered over plates.
    pub(super) fn cost(&self, plates: &[Filled]) -> f64 {
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
    pub(super) fn left(&self, plates: &[Filled]) -> Vec<u64> {
        let mut left: Vec<u64> = self.job.items.iter().map(|i| i.copies).collect();
        for put in plates.iter().flat_map(|p| p.puts()) {
            left[put.item] -= 1;
        }
        left
    }

    pub(super) fn fits(&self, item: usize, sheet: usize) -> bool {
        let (of, on) = (&self.job.items[item], &self.job.sheets[sheet]);
        let hardest = of.pull.iter().copied().fold(0.0, f64::max);
        of.height_mm <= on.height_mm
            && on.part_pull.is_none_or(|cap| hardest <= cap)
            && on.plate_pull.is_none_or(|cap| hardest <= cap)
            && self.nest(on, false).insert(item, &self.turns[item][0])
    }

    /// An empty plate.
    pub(super) fn empty(&self, sheet: usize, swapped: bool) -> Filled {
        Filled {
            sheet,
            height_mm: 0.0,
            nest: self.nest(&self.job.sheets[sheet], swapped),
            tally: Tally::default(),
            fixed: false,
            mark: 0,
        }
    }

    /// Puts a copy on a plate, where it may stand there and finds a place.
    pub(super) fn insert(&self, plate: &mut Filled, item: usize) -> bool {
        let turns = &self.turns[item][usize::from(plate.nest.swapped)];
        let placed = self.takes[plate.sheet][item]
            && plate
                .tally
                .admits(self.job, &self.limits, plate.sheet, item)
            && plate.nest.insert(item, turns);
        if placed {
            self.account(plate, item);
            plate.mark = 0;
        }
        placed
    }

    fn account(&self, plate: &mut Filled, item: usize) {
        plate.tally.add(self.job, item);
        plate.height_mm = plate.height_mm.max(self.job.items[item].height_mm);
    }

    /// A plate as it was packed before. What may not stand there any more is left out.
    pub(super) fn restored(&self, packed: &PackedPlate) -> Filled {
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
    pub(super) fn take_up(&self, packing: &Packing) -> Vec<Filled> {
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
        Nest::new(inner(sheet), self.job.clearance_mm, self.cell, swapped)
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
    pub(super) fn fill(&self, sheet: usize, left: &[u64], rng: &mut Rng) -> Filled {
        let room = self.room(sheet);
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
                .map(|(seed, share)| {
                    self.laid(sheet, left, Rng(seed))
                        .unwrap_or_else(|| self.attempt(sheet, left, room * share, Rng(seed)))
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
        let filled = best.map_or_else(|| self.empty(sheet, false), |b| b.1);
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
    pub(super) fn laid(
        &self,
        sheet: usize,
        left: &[u64],
        mut rng: Rng,
    ) -> Option<((i64, i64), Filled)> {
        let of = &self.job.sheets[sheet];
        let goes = |i: usize| left[i] > 0 && self.takes[sheet][i];
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
        Some((after(&laid), self.standing(sheet, &puts)?))
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

    /// Area of a plate as copies with half the clearance around see it, mm².
    pub(super) fn room(&self, sheet: usize) -> f64 {
        let [width, depth] = inner(&self.job.sheets[sheet]);
        (width + self.job.clearance_mm) * (depth + self.job.clearance_mm)
    }

    /// A plate with copies where they stand; nothing when one does not fit there.
    pub(super) fn standing(&self, sheet: usize, puts: &[Put]) -> Option<Filled> {
        let spots = puts.iter().map(|p| self.spot(sheet, p)).collect();
        let filled = self.restored(&PackedPlate {
            sheet,
            spots,
            fixed: false,
        });
        (filled.puts().len() == puts.len()).then_some(filled)
    }

    /// Gets everything ready to be pressed. Not when it is first wanted: lanes that wait for it
    /// would be given each other's work, and wait for themselves.
    pub(super) fn prepare_shapes(&mut self) {
        self.shapes = self
            .job
            .items
            .par_iter()
            .map(|i| Shape::new(&i.outline, self.job.clearance_mm))
            .collect();
    }

    /// Where a copy stands on the whole plate, margin included.
    fn spot(&self, sheet: usize, put: &Put) -> Spot {
        let margin = self.job.sheets[sheet].margin_mm;
        Spot {
            item: put.item,
            at_mm: put.at_mm.map(|c| c + margin),
            rotation_deg: put.rotation_deg,
        }
    }

    pub(super) fn packed(&self, plate: &Filled) -> PackedPlate {
        let spot = |put: &Put| self.spot(plate.sheet, put);
        PackedPlate {
            sheet: plate.sheet,
            spots: plate.puts().iter().map(spot).collect(),
            fixed: plate.fixed,
        }
    }

    pub(super) fn packing(&self, plates: &[Filled]) -> Packing {
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
