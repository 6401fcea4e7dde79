//! Tall with tall, first fit: the tallest copies open a plate, whatever still fits fills it.

use super::lattice::{Bits, Stamp};
use super::{
    Item, LeftOver, MAX_COPIES, Misfit, PackError, PackJob, PackedPlate, Packer, Packing, Sheet,
    Spot,
};
use crate::watch::Watch;

/// Cell of the lattice, mm.
const CELL_MM: f64 = 0.5;
/// Turns tried for every part, evenly over the circle.
const TURNS: usize = 8;

/// Takes the copies from tall to low. The printer that would be free first gets the next plate,
/// among those that the tallest copy fits; then every copy, from tall to low, goes to the lowest
/// place where it fits in one of eight turns. Lower copies fill gaps at no cost in hours.
#[derive(Debug, Clone, Copy, Default)]
pub struct FirstFit;

impl Packer for FirstFit {
    fn pack(&self, job: &PackJob, watch: &dyn Watch) -> Result<Packing, PackError> {
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
        let total = copies.max(1) as f64;
        while let Some(tallest) = work.next() {
            let Some(sheet) = work.sheet_for(tallest) else {
                work.give_up(tallest);
                continue;
            };
            let plate = work.fill(sheet, watch)?;
            work.account(&plate);
            work.packing.plates.push(plate);
            watch.report(1.0 - work.left.iter().sum::<u64>() as f64 / total);
        }
        Ok(work.packing)
    }
}

/// A stamp for every turn of an item.
struct Turned {
    rotation_deg: f64,
    stamp: Stamp,
}

struct Work<'a> {
    job: &'a PackJob,
    /// Items from tall to low.
    order: Vec<usize>,
    /// Copies left of every item.
    left: Vec<u64>,
    turned: Vec<Vec<Turned>>,
    busy_s: Vec<f64>,
    packing: Packing,
}

impl<'a> Work<'a> {
    fn new(job: &'a PackJob) -> Self {
        let mut order: Vec<usize> = (0..job.items.len()).collect();
        // Heights alike to the millimetre cost the same: there the unit's priority decides.
        let key = |i: &usize| {
            let item: &Item = &job.items[*i];
            (-(item.height_mm.round() as i64), item.priority)
        };
        order.sort_by(|a, b| {
            let area = |i: &usize| job.items[*i].outline.area_mm2();
            key(a)
                .cmp(&key(b))
                .then(area(b).total_cmp(&area(a)))
                .then(a.cmp(b))
        });
        let turned = job
            .items
            .iter()
            .map(|item| turns(item, job.clearance_mm))
            .collect();
        Self {
            job,
            order,
            left: job.items.iter().map(|i| i.copies).collect(),
            turned,
            busy_s: job.sheets.iter().map(|s| s.busy_s).collect(),
            packing: Packing::default(),
        }
    }

    fn next(&self) -> Option<usize> {
        self.order.iter().copied().find(|i| self.left[*i] > 0)
    }

    /// The printer that would be done first with a plate of this height.
    fn sheet_for(&self, item: usize) -> Option<usize> {
        let height = self.job.items[item].height_mm;
        let done = |s: usize| {
            let sheet = &self.job.sheets[s];
            self.busy_s[s] + sheet.constant_s + sheet.per_mm_s * height
        };
        (0..self.job.sheets.len())
            .filter(|s| {
                height <= self.job.sheets[*s].height_mm
                    && self.fits_flat(item, &self.job.sheets[*s])
            })
            .min_by(|a, b| done(*a).total_cmp(&done(*b)).then(a.cmp(b)))
    }

    fn fits_flat(&self, item: usize, sheet: &Sheet) -> bool {
        let (columns, rows) = cells(sheet);
        self.turned[item]
            .iter()
            .any(|t| t.stamp.body.columns <= columns && t.stamp.body.rows <= rows)
    }

    fn give_up(&mut self, item: usize) {
        let height = self.job.items[item].height_mm;
        let why = if self.job.sheets.iter().any(|s| height <= s.height_mm) {
            Misfit::TooWide
        } else {
            Misfit::TooTall
        };
        self.packing.left_over.push(LeftOver {
            item,
            copies: self.left[item],
            why,
        });
        self.left[item] = 0;
    }

    fn account(&mut self, plate: &PackedPlate) {
        let sheet = &self.job.sheets[plate.sheet];
        let tallest = plate
            .spots
            .iter()
            .map(|s| self.job.items[s.item].height_mm)
            .fold(0.0, f64::max);
        self.busy_s[plate.sheet] += sheet.constant_s + sheet.per_mm_s * tallest;
    }

    fn fill(&mut self, sheet_index: usize, watch: &dyn Watch) -> Result<PackedPlate, PackError> {
        let sheet = &self.job.sheets[sheet_index];
        let (columns, rows) = cells(sheet);
        let mut taken = Bits::new(columns, rows);
        let mut spots = Vec::new();
        for item in self.order.clone() {
            if self.job.items[item].height_mm > sheet.height_mm {
                continue;
            }
            // A place that was taken once stays taken: every turn goes on from where it stopped.
            let mut from = vec![Some((0, 0)); self.turned[item].len()];
            while self.left[item] > 0 {
                if watch.stopped() {
                    return Err(PackError::Stopped);
                }
                for (turned, from) in self.turned[item].iter().zip(&mut from) {
                    *from = from.and_then(|start| first_free(&taken, &turned.stamp, start));
                }
                let reach = |t: usize, (column, row): (usize, usize)| {
                    (row + self.turned[item][t].stamp.body.rows, column)
                };
                let best = (0..from.len())
                    .filter_map(|t| from[t].map(|at| (reach(t, at), t, at)))
                    .min();
                let Some((_, turn, (column, row))) = best else {
                    break;
                };
                let Turned {
                    rotation_deg,
                    stamp,
                } = &self.turned[item][turn];
                let rim = stamp.rim as isize;
                taken.stamp(&stamp.block, column as isize - rim, row as isize - rim);
                let at = |cell: usize, k: usize| {
                    sheet.margin_mm + cell as f64 * CELL_MM + stamp.origin_mm[k]
                };
                spots.push(Spot {
                    item,
                    at_mm: [at(column, 0), at(row, 1)],
                    rotation_deg: *rotation_deg,
                });
                self.left[item] -= 1;
            }
        }
        Ok(PackedPlate {
            sheet: sheet_index,
            spots,
        })
    }
}

/// Whole cells inside the margin.
fn cells(sheet: &Sheet) -> (usize, usize) {
    let along = |length: f64| {
        ((length - 2.0 * sheet.margin_mm) / CELL_MM + 1e-9)
            .floor()
            .max(0.0) as usize
    };
    (along(sheet.width_mm), along(sheet.depth_mm))
}

fn turns(item: &Item, clearance_mm: f64) -> Vec<Turned> {
    (0..TURNS)
        .map(|turn| {
            let rotation_deg = turn as f64 * 360.0 / TURNS as f64;
            let outline = item.outline.placed(rotation_deg, [0.0, 0.0]);
            Turned {
                rotation_deg,
                stamp: Stamp::new(&outline, CELL_MM, clearance_mm),
            }
        })
        .collect()
}

/// The first free place at or after `start`, row by row.
fn first_free(taken: &Bits, stamp: &Stamp, start: (usize, usize)) -> Option<(usize, usize)> {
    let last_column = taken.columns.checked_sub(stamp.body.columns)?;
    let last_row = taken.rows.checked_sub(stamp.body.rows)?;
    let mut column = start.0;
    for row in start.1..=last_row {
        while column <= last_column {
            if !taken.meets(&stamp.body, column, row) {
                return Some((column, row));
            }
            column += 1;
        }
        column = 0;
    }
    None
}
