//! The free space around a part: ways for columns from a contact down to the plate.

use super::voxels::Voxels;
use crate::mesh::Solid;

/// Free space around a part, for columns of one diameter. Places in the solid's coordinates.
pub struct FreeSpace {
    voxels: Voxels,
    /// Distance to the part, mm; none inside it.
    clear: Vec<f32>,
    /// Sideways steps from here to the plate; infinite where no column gets there.
    ways: Vec<f32>,
}

/// Air left between a column and the part, mm: closer they would cure together.
const GAP_MM: f64 = 0.35;
/// How far from a contact its column begins at most, mm.
const NECK_MM: f64 = 5.0;

impl FreeSpace {
    /// Looks at a solid, and finds a way down from everywhere.
    #[must_use]
    pub fn around(solid: &Solid, column_mm: f64) -> Self {
        let voxels = Voxels::of(solid, 1.0);
        let clear = voxels.distances(|i| voxels.solid[i]);
        let need = (column_mm / 2.0 + GAP_MM) as f32;
        let [nx, ny, nz] = voxels.many;
        let mut ways = vec![f32::INFINITY; clear.len()];
        ways[..nx * ny].fill(0.0);
        for z in 1..nz {
            for y in 0..ny {
                for x in 0..nx {
                    let here = voxels.index([x, y, z]);
                    if voxels.solid[here] || clear[here] < need {
                        continue;
                    }
                    let mut best = ways[here - nx * ny];
                    for (dx, dy) in SIDEWAYS {
                        let (x, y) = (x.wrapping_add_signed(dx), y.wrapping_add_signed(dy));
                        if x < nx && y < ny {
                            let step = if dx != 0 && dy != 0 { 1.5 } else { 1.0 };
                            best = best.min(ways[voxels.index([x, y, z - 1])] + step);
                        }
                    }
                    ways[here] = best;
                }
            }
        }
        Self {
            voxels,
            clear,
            ways,
        }
    }

    fn at(&self, index: usize) -> [f64; 3] {
        let p = self.voxels.place(index);
        std::array::from_fn(|k| self.voxels.low[k] + (p[k] as f64 + 0.5) * self.voxels.side)
    }

    fn cell(&self, at: [f64; 3]) -> Option<usize> {
        let p = [0, 1, 2].map(|k| ((at[k] - self.voxels.low[k]) / self.voxels.side).floor());
        let inside = (0..3).all(|k| p[k] >= 0.0 && p[k] < self.voxels.many[k] as f64);
        inside.then(|| self.voxels.index(p.map(|c| c as usize)))
    }

    /// Whether a place is in the part, to the nearest cube.
    #[must_use]
    pub fn is_solid(&self, at: [f64; 3]) -> bool {
        self.cell(at).is_some_and(|i| self.voxels.solid[i])
    }

    /// Whether the straight way between two places leaves the part alone, but for its beginning.
    fn is_free(&self, from: [f64; 3], to: [f64; 3], skip_mm: f64) -> bool {
        let length = (0..3)
            .map(|k| (to[k] - from[k]).powi(2))
            .sum::<f64>()
            .sqrt();
        let many = (length / (self.voxels.side * 0.5)).ceil().max(1.0);
        (0..=many as usize).all(|i| {
            let share = i as f64 / many;
            share * length < skip_mm
                || !self.is_solid(std::array::from_fn(|k| from[k] + (to[k] - from[k]) * share))
        })
    }

    /// The way of a column from a contact to the height of the lowest point: the contact, where
    /// the column begins, its bends, its foot. Nothing where the part is in the way all round.
    #[must_use]
    pub fn way_down(&self, contact: [f64; 3]) -> Option<Vec<[f64; 3]>> {
        let side = self.voxels.side;
        let reach = (NECK_MM / side).ceil() as isize;
        let middle: [isize; 3] =
            std::array::from_fn(|k| ((contact[k] - self.voxels.low[k]) / side).floor() as isize);
        let mut begins: Vec<(f64, usize)> = Vec::new();
        for z in (middle[2] - reach).max(0)..=middle[2] {
            for y in middle[1] - reach..=middle[1] + reach {
                for x in middle[0] - reach..=middle[0] + reach {
                    let p = [x, y, z];
                    if (0..3).any(|k| p[k] < 0 || p[k] >= self.voxels.many[k] as isize) {
                        continue;
                    }
                    let index = self.voxels.index(p.map(|c| c as usize));
                    if !self.ways[index].is_finite() {
                        continue;
                    }
                    let at = self.at(index);
                    let aside = (at[0] - contact[0]).hypot(at[1] - contact[1]);
                    let down = contact[2] - at[2];
                    // Necks lean by 60° at most.
                    if down <= 0.0 || aside > down * 1.73 || aside.hypot(down) > NECK_MM {
                        continue;
                    }
                    let cost = aside + 0.3 * down + 1.5 * f64::from(self.ways[index]) * side;
                    begins.push((cost, index));
                }
            }
        }
        begins.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        // A contact in a corner brushes the part at its very beginning.
        let begin = begins
            .iter()
            .take(600)
            .find(|(_, index)| self.is_free(contact, self.at(*index), 1.5 * side))?
            .1;
        Some(self.follow(contact, begin))
    }

    /// From a cube down along the fewest sideways steps; bends only.
    fn follow(&self, contact: [f64; 3], begin: usize) -> Vec<[f64; 3]> {
        let [nx, ny, _] = self.voxels.many;
        let mut cells = vec![begin];
        let mut here = begin;
        while here >= nx * ny {
            let [x, y, z] = self.voxels.place(here);
            let mut best = (self.ways[here - nx * ny], here - nx * ny);
            for (dx, dy) in SIDEWAYS {
                let (x, y) = (x.wrapping_add_signed(dx), y.wrapping_add_signed(dy));
                if x < nx && y < ny {
                    let step = if dx != 0 && dy != 0 { 1.5 } else { 1.0 };
                    let next = self.voxels.index([x, y, z - 1]);
                    if self.ways[next] + step < best.0 {
                        best = (self.ways[next] + step, next);
                    }
                }
            }
            here = best.1;
            cells.push(here);
        }
        let mut way = vec![contact];
        let step = |a: usize, b: usize| {
            let (p, q) = (self.voxels.place(a), self.voxels.place(b));
            [p[0] as isize - q[0] as isize, p[1] as isize - q[1] as isize]
        };
        for i in 0..cells.len() {
            let bends = i == 0
                || i + 1 == cells.len()
                || step(cells[i - 1], cells[i]) != step(cells[i], cells[i + 1]);
            if bends {
                way.push(self.at(cells[i]));
            }
        }
        way
    }

    /// Where a plumb line from a contact meets the part again below.
    #[must_use]
    pub fn ground_below(&self, contact: [f64; 3]) -> Option<[f64; 3]> {
        let side = self.voxels.side;
        let mut z = contact[2] - 1.5 * side;
        while z > self.voxels.low[2] {
            if self.is_solid([contact[0], contact[1], z]) {
                let index = self.cell([contact[0], contact[1], z])?;
                return Some([contact[0], contact[1], self.at(index)[2] + side / 2.0]);
            }
            z -= side / 2.0;
        }
        None
    }

    /// Distance from a place to the part, mm, to the nearest cube.
    #[must_use]
    pub fn clearance_mm(&self, at: [f64; 3]) -> f64 {
        self.cell(at)
            .map_or(f64::INFINITY, |i| f64::from(self.clear[i]))
    }
}

const SIDEWAYS: [(isize, isize); 8] = [
    (-1, 0),
    (1, 0),
    (0, -1),
    (0, 1),
    (-1, -1),
    (1, -1),
    (-1, 1),
    (1, 1),
];
