//! How far it is to the surface of a solid, from where lines pierce it.

use std::cell::OnceCell;

use glam::DVec3;

use super::chords::{Chord, Family};

/// How far around a place where it was pierced a surface is taken to be flat, in distances of lines.
const FLAT: f64 = 0.4;
/// How many looks there are, each twice as coarse as the one before.
const LOOKS: usize = 6;
/// A ball of so many distances of lines is seen well.
const SEEN: f64 = 7.0;
/// Side of a cell, in distances of lines.
const CELL: f64 = 2.2;
/// Cells of one look at most.
const MOST_CELLS: usize = 3_000_000;

/// Places of a surface with their normals, finely for small balls and coarsely for large ones.
pub(super) struct NearSurface<'a> {
    families: &'a [Family],
    step: f64,
    /// Each made when it is needed.
    looks: [OnceCell<Look>; LOOKS],
}

/// Places by cells.
struct Look {
    step: f64,
    side: f64,
    low: DVec3,
    many: [usize; 3],
    starts: Vec<u32>,
    places: Vec<(DVec3, DVec3)>,
}

impl<'a> NearSurface<'a> {
    pub(super) fn of(families: &'a [Family], step: f64) -> Self {
        Self {
            families,
            step,
            looks: Default::default(),
        }
    }

    /// Distance to the surface, as far as it is under a limit; else the limit.
    pub(super) fn distance(&self, at: DVec3, limit: f64) -> f64 {
        self.nearest(at, limit).0
    }

    /// The same, and the way that leads straight off the surface.
    pub(super) fn nearest(&self, at: DVec3, limit: f64) -> (f64, DVec3) {
        let coarse = (limit / (SEEN * self.step)).max(1.0).log2() as usize;
        let coarse = coarse.min(LOOKS - 1);
        let look =
            self.looks[coarse].get_or_init(|| Look::of(self.families, self.step, 1 << coarse));
        look.nearest(at, limit)
    }
}

impl Look {
    /// Of every so many lines one.
    fn of(families: &[Family], step: f64, every: usize) -> Self {
        let taken = |c: &&Chord| c.line.iter().all(|l| *l as usize % every == every / 2);
        let places = || {
            families.iter().flat_map(move |f| {
                let chords = f.chords.iter().filter(taken);
                chords.flat_map(|c| {
                    [0, 1].map(|end| {
                        (
                            DVec3::from_array(f.place(c, c.ends[end])),
                            DVec3::from_array(c.normals[end]),
                        )
                    })
                })
            })
        };
        let far = DVec3::splat(f64::INFINITY);
        let (low, high) = places().fold((far, -far), |(low, high), (at, _)| {
            (low.min(at), high.max(at))
        });
        let step = step * every as f64;
        let size = (high - low).max(DVec3::ZERO);
        let mut side = CELL * step;
        let count = |side: f64| size.to_array().map(|s| (s / side) as usize + 1);
        let mut many = count(side);
        while many.iter().product::<usize>() > MOST_CELLS {
            side *= 1.3;
            many = count(side);
        }
        let cells = many.iter().product::<usize>();
        let cell_of = |at: DVec3| {
            let p = ((at - low) / side).to_array();
            let [x, y, z] = std::array::from_fn(|k| (p[k] as usize).min(many[k] - 1));
            x + many[0] * (y + many[1] * z)
        };
        let mut starts = vec![0_u32; cells + 1];
        places().for_each(|(at, _)| starts[cell_of(at) + 1] += 1);
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        let mut sorted = vec![(DVec3::ZERO, DVec3::ZERO); starts[cells] as usize];
        for place in places() {
            let at = &mut next[cell_of(place.0)];
            sorted[*at as usize] = place;
            *at += 1;
        }
        Self {
            step,
            side,
            low,
            many,
            starts,
            places: sorted,
        }
    }

    fn nearest(&self, at: DVec3, limit: f64) -> (f64, DVec3) {
        let flat = FLAT * self.step;
        let cell = |p: DVec3| {
            let p = ((p - self.low) / self.side).to_array();
            std::array::from_fn::<usize, 3, _>(|k| (p[k].max(0.0) as usize).min(self.many[k] - 1))
        };
        let reach = DVec3::splat(limit + flat);
        let (from, to) = (cell(at - reach), cell(at + reach));
        let mut best = (limit, DVec3::ZERO);
        for z in from[2]..=to[2] {
            for y in from[1]..=to[1] {
                let row = self.many[0] * (y + self.many[1] * z);
                let first = self.starts[row + from[0]] as usize;
                let last = self.starts[row + to[0] + 1] as usize;
                for (place, normal) in &self.places[first..last] {
                    let off = at - *place;
                    let (square, within) = (off.length_squared(), best.0 + flat);
                    if square >= within * within {
                        continue;
                    }
                    let height = off.dot(*normal);
                    let aside = (square - height * height).max(0.0);
                    let far = if aside <= flat * flat {
                        height.abs()
                    } else {
                        let beyond = aside.sqrt() - flat;
                        (height * height + beyond * beyond).sqrt()
                    };
                    if far < best.0 {
                        let off = if aside > flat * flat {
                            off
                        } else {
                            *normal * height
                        };
                        best = (far, off.normalize_or_zero());
                    }
                }
            }
        }
        best
    }
}
