//! A solid as cubes: coarse, but whole, for questions about walls and what is inside them.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use super::slice::Slicer;
use crate::mesh::Solid;

/// Cubes at most; their size follows from it.
const MOST_CELLS: f64 = 1_200_000.0;
/// The finest cube, mm.
const FINEST_MM: f64 = 0.2;
/// Air around the part, in cubes.
const RIM: usize = 2;

/// A solid cut into cubes. Cube (x, y, z) is at `x + nx · (y + ny · z)`.
#[derive(Debug, Clone)]
pub struct Voxels {
    /// Side of a cube, mm.
    pub(super) side: f64,
    /// Cubes along each axis, the rim included.
    pub(super) many: [usize; 3],
    /// Lowest corner of the rim, mm.
    pub(super) low: [f64; 3],
    pub(super) solid: Vec<bool>,
}

impl Voxels {
    /// Cuts a solid into cubes at a scale.
    #[must_use]
    pub fn of(solid: &Solid, scale: f64) -> Self {
        let size = solid.facts.size_mm().map(|s| s * scale);
        let volume: f64 = size.iter().product();
        let side = (volume / MOST_CELLS).cbrt().max(FINEST_MM);
        let slicer = Slicer::cubes(solid, side, scale);
        let grid = slicer.grid;
        let along = ((size[0] / side).ceil() as usize).max(1);
        let many = [along + 2 * RIM, grid.lines + 2 * RIM, grid.layers + 2 * RIM];
        let low = [0, 1, 2].map(|k| grid.low[k] - RIM as f64 * side);
        let mut voxels = Self {
            side,
            many,
            low,
            solid: vec![false; many.iter().product()],
        };
        for chunk in 0..slicer.chunks() {
            for (k, runs) in slicer.cut(chunk).into_iter().enumerate() {
                let z = slicer.first_layer(chunk) + k + RIM;
                for line in 0..grid.lines {
                    let row = voxels.index([0, line + RIM, z]);
                    for [from, to] in runs.line(line) {
                        // A cube is solid when its middle is.
                        let first = ((from - low[0]) / side - 0.5).ceil().max(0.0) as usize;
                        let last = ((to - low[0]) / side - 0.5).floor().max(-1.0) as isize;
                        for x in first..=(last.max(-1) as usize).min(many[0] - 1) {
                            if last >= 0 {
                                voxels.solid[row + x] = true;
                            }
                        }
                    }
                }
            }
        }
        voxels
    }

    pub(super) fn index(&self, [x, y, z]: [usize; 3]) -> usize {
        x + self.many[0] * (y + self.many[1] * z)
    }

    pub(super) fn place(&self, index: usize) -> [usize; 3] {
        let (x, rest) = (index % self.many[0], index / self.many[0]);
        [x, rest % self.many[1], rest / self.many[1]]
    }

    /// Middle of a cube, mm; the height above the lowest point of the part.
    pub(super) fn middle(&self, index: usize) -> [f64; 3] {
        let p = self.place(index);
        let at = |k: usize| self.low[k] + (p[k] as f64 + 0.5) * self.side;
        [at(0), at(1), (p[2] as f64 + 0.5 - RIM as f64) * self.side]
    }

    /// The cubes that share a face with one.
    pub(super) fn neighbours(&self, index: usize) -> impl Iterator<Item = usize> + use<> {
        let p = self.place(index);
        let (many, step) = (self.many, [1, self.many[0], self.many[0] * self.many[1]]);
        (0..3).flat_map(move |k| {
            let below = (p[k] > 0).then(|| index - step[k]);
            let above = (p[k] + 1 < many[k]).then(|| index + step[k]);
            below.into_iter().chain(above)
        })
    }

    /// Every cube that can be reached from a start through cubes that hold.
    pub(super) fn reach(
        &self,
        start: impl IntoIterator<Item = usize>,
        holds: impl Fn(usize) -> bool,
    ) -> Vec<bool> {
        let mut seen = vec![false; self.solid.len()];
        let mut open: Vec<usize> = start.into_iter().filter(|i| holds(*i)).collect();
        open.iter().for_each(|i| seen[*i] = true);
        while let Some(at) = open.pop() {
            for next in self.neighbours(at) {
                if !seen[next] && holds(next) {
                    seen[next] = true;
                    open.push(next);
                }
            }
        }
        seen
    }

    /// Every cube no further than this from the marked ones, on a way through cubes that hold.
    /// Ways run over faces, edges and corners, so they are at most 8 % too long.
    pub(super) fn within(
        &self,
        marked: &[bool],
        most_mm: f64,
        holds: impl Fn(usize) -> bool,
    ) -> Vec<bool> {
        // In thousandths of a cube.
        let most = (most_mm / self.side * 1000.0) as u32;
        let mut way = vec![u32::MAX; marked.len()];
        let mut open = BinaryHeap::new();
        for start in (0..marked.len()).filter(|i| marked[*i]) {
            way[start] = 0;
            // Cubes in the midst of marked ones lead nowhere new.
            if self.neighbours(start).any(|n| !marked[n]) {
                open.push(Reverse((0, start)));
            }
        }
        while let Some(Reverse((far, at))) = open.pop() {
            if far > way[at] {
                continue;
            }
            let p = self.place(at).map(|c| c as isize);
            for z in -1..=1 {
                for y in -1..=1 {
                    for x in -1..=1 {
                        let q = [p[0] + x, p[1] + y, p[2] + z];
                        if (0..3).any(|k| q[k] < 0 || q[k] >= self.many[k] as isize) {
                            continue;
                        }
                        let next = self.index(q.map(|c| c as usize));
                        let step = [0, 1000, 1414, 1732][(x * x + y * y + z * z) as usize];
                        if far + step <= most && far + step < way[next] && holds(next) {
                            way[next] = far + step;
                            open.push(Reverse((far + step, next)));
                        }
                    }
                }
            }
        }
        way.into_iter().map(|w| w != u32::MAX).collect()
    }

    /// For every cube the distance to the nearest one that is `far`, in mm between middles
    /// (P. Felzenszwalb, D. Huttenlocher, Theory of Computing 8, 2012: squared distances axis by
    /// axis as lower envelopes of parabolas, from memory).
    pub(super) fn distances(&self, far: impl Fn(usize) -> bool) -> Vec<f32> {
        let mut squared: Vec<f32> = (0..self.solid.len())
            .map(|i| if far(i) { 0.0 } else { f32::INFINITY })
            .collect();
        let [nx, ny, nz] = self.many;
        let longest = nx.max(ny).max(nz);
        let mut line = Envelope::new(longest);
        for row in 0..ny * nz {
            line.sweep(&mut squared, row * nx, 1, nx);
        }
        for z in 0..nz {
            for x in 0..nx {
                line.sweep(&mut squared, x + nx * ny * z, nx, ny);
            }
        }
        for column in 0..nx * ny {
            line.sweep(&mut squared, column, nx * ny, nz);
        }
        squared
            .iter()
            .map(|d| d.sqrt() * self.side as f32)
            .collect()
    }
}

/// Working space of the distance transform along one line.
struct Envelope {
    values: Vec<f32>,
    apex: Vec<usize>,
    from: Vec<f32>,
}

impl Envelope {
    fn new(longest: usize) -> Self {
        Self {
            values: vec![0.0; longest],
            apex: vec![0; longest],
            from: vec![0.0; longest + 1],
        }
    }

    fn sweep(&mut self, squared: &mut [f32], start: usize, step: usize, many: usize) {
        for i in 0..many {
            self.values[i] = squared[start + i * step];
        }
        let mut count = 0;
        for q in (0..many).filter(|q| self.values[*q].is_finite()) {
            let height = |i: usize| self.values[i] + (i * i) as f32;
            let mut left = f32::NEG_INFINITY;
            while count > 0 {
                let p = self.apex[count - 1];
                left = (height(q) - height(p)) / (2.0 * (q - p) as f32);
                if left > self.from[count - 1] {
                    break;
                }
                count -= 1;
            }
            self.apex[count] = q;
            self.from[count] = if count == 0 { f32::NEG_INFINITY } else { left };
            count += 1;
        }
        if count == 0 {
            return;
        }
        let mut k = 0;
        for i in 0..many {
            while k + 1 < count && self.from[k + 1] < i as f32 {
                k += 1;
            }
            let away = i as f32 - self.apex[k] as f32;
            squared[start + i * step] = away * away + self.values[self.apex[k]];
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn cubes(many: [usize; 3], solid: Vec<bool>) -> Voxels {
        Voxels {
            side: 0.5,
            many,
            low: [0.0; 3],
            solid,
        }
    }

    /// The distance to the nearest marked cube, by looking at every one.
    fn by_hand(v: &Voxels, at: usize) -> f64 {
        let p = v.place(at);
        let far = |q: [usize; 3]| {
            (0..3)
                .map(|k| (p[k] as f64 - q[k] as f64).powi(2))
                .sum::<f64>()
                .sqrt()
                * v.side
        };
        (0..v.solid.len())
            .filter(|i| v.solid[*i])
            .map(|i| far(v.place(i)))
            .fold(f64::INFINITY, f64::min)
    }

    fn field() -> impl Strategy<Value = Voxels> {
        (1usize..7, 1usize..7, 1usize..7).prop_flat_map(|(x, y, z)| {
            proptest::collection::vec(proptest::bool::weighted(0.15), x * y * z)
                .prop_map(move |solid| cubes([x, y, z], solid))
        })
    }

    proptest! {
        #[test]
        fn distances_are_those_of_looking_at_every_cube(v in field()) {
            let found = v.distances(|i| v.solid[i]);
            for (i, d) in found.iter().enumerate() {
                let expected = by_hand(&v, i);
                prop_assert!((f64::from(*d) - expected).abs() < 1e-4 || (d.is_infinite() && expected.is_infinite()), "{d} {expected}");
            }
        }

        /// Through open air a way is as long as the distance, or 8 % longer at most.
        #[test]
        fn ways_through_air_are_hardly_longer_than_distances(v in field(), most in 0.4f64..3.0) {
            let within = v.within(&v.solid, most, |_| true);
            for (i, reached) in within.iter().enumerate() {
                let far = by_hand(&v, i);
                prop_assert!(!reached || far <= most + 1e-6, "{far} is reached within {most}");
                prop_assert!(*reached || far * 1.13 > most, "{far} is not reached within {most}");
            }
        }

        #[test]
        fn places_and_indices_are_one(x in 1usize..9, y in 1usize..9, z in 1usize..9) {
            let v = cubes([x, y, z], vec![false; x * y * z]);
            for i in 0..x * y * z {
                prop_assert_eq!(v.index(v.place(i)), i);
                for n in v.neighbours(i) {
                    let (a, b) = (v.place(i), v.place(n));
                    prop_assert_eq!((0..3).map(|k| a[k].abs_diff(b[k])).sum::<usize>(), 1);
                }
            }
        }
    }

    /// A wall with a gap: the other side is reached through the gap only.
    #[test]
    fn ways_go_round_walls() {
        let many = [9, 9, 1];
        let wall = |i: usize| i % 9 == 4 && i / 9 != 8;
        let v = cubes(many, (0..81).map(wall).collect());
        let mut start = vec![false; 81];
        start[3] = true;
        let reached = |most| v.within(&start, most, |i| !v.solid[i]);
        assert!(!reached(5.0)[5], "straight through it would be 1 mm");
        assert!(reached(9.0)[5]);
        let all = v.reach([3], |i| !v.solid[i]);
        assert_eq!(all.iter().filter(|a| **a).count(), 81 - 8);
    }
}
