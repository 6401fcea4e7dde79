//! What is to be packed, what a plan costs, and plates as they stand.

use rayon::prelude::*;

use super::bound::grown_area;
use super::limits::{Limits, Tally};
use super::nest::{Nest, Put, Turn, boxed, turns};
use super::shape::Shape;
use super::{LeftOver, Misfit, PackJob, PackedPlate, Packing, Placement};
use crate::geometry::Point;

/// Cell of the lattice, mm; smaller where parts are small.
const CELL_MM: f64 = 0.5;
/// Turns tried for every part, evenly over the circle, besides its long edge along the plate.
const TURNS: usize = 16;
/// Lanes that try the same plate side by side, each with seeds of its own: as many whatever the
/// machine, so that its cores decide how fast a plan comes, never which.
pub(super) const LANES: u64 = 4;

/// Share of its box that a rectangle fills, but for rounding.
const BOX: f64 = 0.999_999;

/// What an hour on a printer counts beside an hour until everything is done.
const MACHINE_SHARE: f64 = 0.2;

/// Width and depth within the margin, mm.
pub(super) const fn inner(build_area: &super::BuildArea) -> Point {
    [
        build_area.width_mm - 2.0 * build_area.margin_mm,
        build_area.depth_mm - 2.0 * build_area.margin_mm,
    ]
}

/// A plate with what stands on it.
#[derive(Debug, Clone)]
pub(super) struct Filled {
    pub(super) build_area: usize,
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

    /// The item of every copy.
    pub(super) fn items(&self) -> Vec<usize> {
        self.puts().iter().map(|p| p.item).collect()
    }
}

pub(super) struct Work<'a> {
    pub(super) job: &'a PackJob,
    limits: Limits,
    /// Of every build_area: which items it takes, on their own.
    pub(super) takes: Vec<Vec<bool>>,
    cell: f64,
    /// Items from tall to low; among equals the more urgent, then the larger.
    pub(super) order: Vec<usize>,
    /// Turns of every item, for a plate as it is and with its sides swapped.
    pub(super) turns: Vec<[Vec<Turn>; 2]>,
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
            boxes: job
                .items
                .iter()
                .map(|i| boxed(&i.outline).1 > BOX)
                .collect(),
            shapes: Vec::new(),
            job,
        };
        work.takes = (0..job.build_areas.len())
            .map(|build_area| {
                (0..job.items.len())
                    .into_par_iter()
                    .map(|item| work.fits(item, build_area))
                    .collect()
            })
            .collect();
        work
    }

    /// Time of a plate on its printer, s.
    pub(super) fn seconds(&self, build_area: usize, height_mm: f64) -> f64 {
        self.job.build_areas[build_area].seconds(height_mm)
    }

    /// How long a plate keeps its printer until somebody takes it off, s.
    pub(super) fn kept(&self, build_area: usize, height_mm: f64) -> f64 {
        let seconds = self.seconds(build_area, height_mm);
        self.job.build_areas[build_area].slots.kept(seconds)
    }

    /// Work of every printer once these plates are done, s.
    pub(super) fn busy(&self, plates: &[Filled]) -> Vec<f64> {
        let mut busy: Vec<f64> = self.job.build_areas.iter().map(|s| s.busy_s).collect();
        for p in plates {
            busy[p.build_area] += self.kept(p.build_area, p.height_mm);
        }
        busy
    }

    /// Cost of a plan, s: when the last printer is done and the hands that takes, then hours on
    /// the printers, then units scattered over plates.
    pub(super) fn cost(&self, plates: &[Filled]) -> f64 {
        let last = self.busy(plates).into_iter().fold(0.0, f64::max);
        let machine: f64 = plates
            .iter()
            .map(|p| self.seconds(p.build_area, p.height_mm))
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

    pub(super) fn fits(&self, item: usize, build_area: usize) -> bool {
        let (of, on) = (&self.job.items[item], &self.job.build_areas[build_area]);
        let hardest = of.pull.iter().copied().fold(0.0, f64::max);
        of.height_mm <= on.height_mm
            && on.part_pull.is_none_or(|cap| hardest <= cap)
            && on.plate_pull.is_none_or(|cap| hardest <= cap)
            && self.nest(on, false).insert(item, &self.turns[item][0])
    }

    /// An empty plate.
    pub(super) fn empty(&self, build_area: usize, swapped: bool) -> Filled {
        Filled {
            build_area,
            height_mm: 0.0,
            nest: self.nest(&self.job.build_areas[build_area], swapped),
            tally: Tally::default(),
            fixed: false,
            mark: 0,
        }
    }

    /// Puts a copy on a plate, where it may stand there and finds a place.
    pub(super) fn insert(&self, plate: &mut Filled, item: usize) -> bool {
        let turns = &self.turns[item][usize::from(plate.nest.swapped)];
        let placed = self.takes[plate.build_area][item]
            && plate
                .tally
                .admits(self.job, &self.limits, plate.build_area, item)
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
        let mut plate = self.empty(packed.build_area, false);
        plate.fixed = packed.fixed;
        let margin = self.job.build_areas[packed.build_area].margin_mm;
        for placement in &packed.placements {
            let known = self.takes[packed.build_area].get(placement.item) == Some(&true);
            if known
                && plate
                    .tally
                    .admits(self.job, &self.limits, plate.build_area, placement.item)
                && plate.nest.restore(
                    placement.item,
                    &self.job.items[placement.item].outline,
                    placement.at_mm.map(|c| c - margin),
                    placement.rotation_deg,
                )
            {
                self.account(&mut plate, placement.item);
            }
        }
        plate
    }

    /// An earlier packing, with as much changed as has to be: the rest is still to be built.
    pub(super) fn take_up(&self, packing: &Packing) -> Vec<Filled> {
        let mut left: Vec<u64> = self.job.items.iter().map(|i| i.copies).collect();
        let mut plates: Vec<Filled> = Vec::new();
        for packed in &packing.plates {
            if packed.build_area >= self.job.build_areas.len() {
                continue;
            }
            let mut still = packed.clone();
            still.placements.retain(|s| {
                let wanted = left.get(s.item).is_some_and(|n| *n > 0);
                if wanted {
                    left[s.item] -= 1;
                }
                wanted
            });
            let plate = self.restored(&still);
            // What did not stand again is still to be placed.
            for placement in &still.placements {
                left[placement.item] += 1;
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

    fn nest(&self, build_area: &super::BuildArea, swapped: bool) -> Nest {
        Nest::new(inner(build_area), self.job.clearance_mm, self.cell, swapped)
    }

    /// Area of a plate as copies with half the clearance around see it, mm².
    pub(super) fn room(&self, build_area: usize) -> f64 {
        let [width, depth] = inner(&self.job.build_areas[build_area]);
        (width + self.job.clearance_mm) * (depth + self.job.clearance_mm)
    }

    /// A plate with copies where they stand; nothing when one does not fit there.
    pub(super) fn standing(&self, build_area: usize, puts: &[Put]) -> Option<Filled> {
        let placements = puts.iter().map(|p| self.placement(build_area, p)).collect();
        let filled = self.restored(&PackedPlate {
            build_area,
            placements,
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
    fn placement(&self, build_area: usize, put: &Put) -> Placement {
        let margin = self.job.build_areas[build_area].margin_mm;
        Placement {
            item: put.item,
            at_mm: put.at_mm.map(|c| c + margin),
            rotation_deg: put.rotation_deg,
        }
    }

    pub(super) fn packed(&self, plate: &Filled) -> PackedPlate {
        let placement = |put: &Put| self.placement(plate.build_area, put);
        PackedPlate {
            build_area: plate.build_area,
            placements: plate.puts().iter().map(placement).collect(),
            fixed: plate.fixed,
        }
    }

    pub(super) fn packing(&self, plates: &[Filled]) -> Packing {
        let left = self.left(plates);
        let misfit = |item: usize| {
            let of = &self.job.items[item];
            let hardest = of.pull.iter().copied().fold(0.0, f64::max);
            let high = |s: &&super::BuildArea| of.height_mm <= s.height_mm;
            let caps = |s: &super::BuildArea| {
                s.part_pull.is_none_or(|cap| hardest <= cap)
                    && s.plate_pull.is_none_or(|cap| hardest <= cap)
            };
            if !self.job.build_areas.iter().any(|s| high(&s)) {
                Misfit::TooTall
            } else if !self.job.build_areas.iter().filter(high).any(caps) {
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
