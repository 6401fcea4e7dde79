//! A quick look at a part as it hangs: a hundred thick layers instead of a thousand thin ones.

use rustc_hash::FxHashMap;

use super::islands::{ALONE_LAYERS, IslandWatch};
use super::pull;
use super::regions::{find_regions, region_pairs};
use super::slice::{Runs, Slicer};
use super::stack::free_stretches;
use crate::mesh::Solid;
use crate::units::LayerHeight;

/// What a look at the layers tells about hanging a part.
///
/// # Units
/// mm, mm²; heights above the lowest point, places in the solid's own coordinates.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    /// Height.
    pub height_mm: f64,
    /// Hardest pull, fast form.
    pub peak_pull: f64,
    /// Regions that start in mid-air, where it stands on the plate apart.
    pub islands: usize,
    /// Area that overhangs by more than 45°, where it stands on the plate apart.
    pub overhang_mm2: f64,
    /// Area of its shadow on the plate.
    pub shadow_mm2: f64,
    /// Where supports would touch it.
    pub contacts: Vec<Touch>,
}

/// A place where a support touches.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Touch {
    /// Where.
    pub at_mm: [f64; 3],
    /// For a start in mid-air its area a millimetre further up, mm²; 0 on an overhang.
    pub grown_mm2: f64,
}

/// Layers across the longest diagonal of a part in a quick look.
const ACROSS: f64 = 110.0;
/// What leans out further than this share of 45° is held: slopes print by themselves.
const HELD: f64 = 0.5;

/// Looks coarsely: a hundred thick layers. The coarseness follows from the solid's diagonal, so
/// all poses of one part are seen alike.
#[must_use]
pub fn take_look(solid: &Solid, diagonal_mm: f64, spacing_mm: f64) -> Look {
    look_through(
        &Slicer::coarse(solid, (diagonal_mm / ACROSS).max(0.1)),
        1,
        spacing_mm,
    )
}

/// Looks at every layer as it is printed. What lies on the plate is held unless it stands there.
#[must_use]
pub fn look_closely(solid: &Solid, layer: LayerHeight, spacing_mm: f64) -> Look {
    look_through(&Slicer::new(solid, layer, 1.0), ALONE_LAYERS, spacing_mm)
}

fn look_through(slicer: &Slicer<'_>, alone: usize, spacing_mm: f64) -> Look {
    let grid = slicer.grid;
    let mut look = Look {
        height_mm: grid.high[2] - grid.low[2],
        peak_pull: 0.0,
        islands: 0,
        overhang_mm2: 0.0,
        shadow_mm2: 0.0,
        contacts: Vec::new(),
    };
    let mut islands = IslandWatch::lasting(alone);
    let mut held: Vec<([f64; 2], f64, f64)> = Vec::new();
    let mut shadow = vec![Vec::<[f64; 2]>::new(); grid.lines];
    let (mut before, mut before_regions) = (Runs::default(), None);
    let per_mm = (1.0 / grid.layer_mm).ceil() as usize;
    let middle = [0, 1].map(|k| (grid.low[k] + grid.high[k]) / 2.0);
    let mut k = 0;
    for chunk in 0..slicer.chunks() {
        for runs in slicer.cut(chunk) {
            let regions = find_regions(&runs, grid.lines, &grid, 0.0, None);
            let pulls = regions.regions.iter().map(pull::of_region);
            look.peak_pull = look.peak_pull.max(pulls.sum());
            let z = grid.low[2] + k as f64 * grid.layer_mm;
            let pairs = match &before_regions {
                None => Vec::new(),
                Some(below) => {
                    free_stretches(&before, &runs, &grid, |line, from, to| {
                        look.overhang_mm2 += (to - from) * grid.pitch;
                        if to - from > HELD * grid.layer_mm {
                            held.push(([from, to], grid.line_at(line), z));
                        }
                    });
                    region_pairs((&before, below), (&runs, &regions), grid.lines)
                }
            };
            if k == 0 {
                for line in 0..grid.lines {
                    let here = runs.line(line).iter();
                    held.extend(here.map(|run| (*run, grid.line_at(line), z)));
                }
            }
            islands.layer(k, &regions, &pairs, per_mm);
            for (line, seen) in shadow.iter_mut().enumerate() {
                seen.extend_from_slice(runs.line(line));
                // What is covered over and over is kept once.
                if seen.len() > 64 {
                    merge(seen);
                }
            }
            (before, before_regions) = (runs, Some(regions));
            k += 1;
        }
    }
    // Starts first: what hangs on one is lost without it.
    let mut spots = Spots::new(spacing_mm);
    for island in islands.end(k, grid.layer_mm) {
        look.islands += 1;
        let at = [0, 1].map(|k| island.at_mm[k] + middle[k]);
        spots.start([at[0], at[1], grid.low[2] + island.z_mm], island.grown_mm2);
    }
    for (stretch, y, z) in held {
        spots.cover(stretch, y, z);
    }
    look.shadow_mm2 = shadow
        .iter_mut()
        .map(|line| {
            merge(line);
            line.iter().map(|s| s[1] - s[0]).sum::<f64>()
        })
        .sum::<f64>()
        * grid.pitch;
    look.contacts = spots.found;
    look
}

/// Stretches in order and apart, covering the same.
fn merge(stretches: &mut Vec<[f64; 2]>) {
    stretches.sort_unstable_by(|a, b| a[0].total_cmp(&b[0]));
    let mut apart: Vec<[f64; 2]> = Vec::with_capacity(stretches.len());
    for s in stretches.iter() {
        match apart.last_mut() {
            Some(last) if s[0] <= last[1] => last[1] = last[1].max(s[1]),
            _ => apart.push(*s),
        }
    }
    *stretches = apart;
}

/// Points no closer than a spacing, the first come first.
struct Spots {
    spacing: f64,
    cells: FxHashMap<[i32; 3], Vec<u32>>,
    found: Vec<Touch>,
}

impl Spots {
    fn new(spacing: f64) -> Self {
        Self {
            spacing,
            cells: FxHashMap::default(),
            found: Vec::new(),
        }
    }

    fn cell(&self, at: [f64; 3]) -> [i32; 3] {
        at.map(|c| (c / self.spacing).floor() as i32)
    }

    fn is_near(&self, at: [f64; 3]) -> bool {
        let [x, y, z] = self.cell(at);
        let near = |index: &u32| {
            let other = self.found[*index as usize].at_mm;
            (0..3).map(|k| (other[k] - at[k]).powi(2)).sum::<f64>() < self.spacing * self.spacing
        };
        (-1..=1).any(|i| {
            (-1..=1).any(|j| {
                (-1..=1).any(|l| {
                    self.cells
                        .get(&[x + i, y + j, z + l])
                        .is_some_and(|here| here.iter().any(near))
                })
            })
        })
    }

    fn put(&mut self, at_mm: [f64; 3], grown_mm2: f64) {
        let cell = self.cell(at_mm);
        let next = self.found.len() as u32;
        self.cells.entry(cell).or_default().push(next);
        self.found.push(Touch { at_mm, grown_mm2 });
    }

    /// Starts are all held, however close they are.
    fn start(&mut self, at: [f64; 3], grown_mm2: f64) {
        self.put(at, grown_mm2);
    }

    fn cover(&mut self, [from, to]: [f64; 2], y: f64, z: f64) {
        let many = ((to - from) / self.spacing).floor().max(0.0) as usize;
        for i in 0..=many {
            let share = (i as f64 + 0.5) / (many as f64 + 1.0);
            let at = [from + (to - from) * share, y, z];
            if !self.is_near(at) {
                self.put(at, 0.0);
            }
        }
    }
}
