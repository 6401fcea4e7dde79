//! Cuts a solid into layers. A layer is its section at mid-height, as runs along scan lines:
//! where the winding number is not zero there is solid, so shells sunk into each other count once.
//!
//! Exact along x; across y the scan lines are one pitch apart and tile the box without a rest. What
//! falls between two of them, such as a knife edge along x, is put on the nearer one: the area of
//! the layer stays exact, and nothing that is there goes unseen.

use crate::mesh::Solid;
use crate::units::{LayerHeight, layer_count};

/// Scan lines across a part at most, where the pitch allows.
const LINES: f64 = 480.0;
/// The finest pitch, mm.
const FINEST_MM: f64 = 0.05;
/// The coarsest pitch, mm, as long as the part fits a build plate.
const COARSEST_MM: f64 = 0.2;
/// Scan lines on all layers together at most: what is larger than any plate is seen coarsely.
const MOST_LINES: f64 = 6_000_000.0;
/// Layers cut by one task: enough that a triangle is rarely looked at twice.
const LAYERS_AT_ONCE: usize = 16;

/// How a solid is cut.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Grid {
    /// Lowest corner of the box, mm.
    pub(super) low: [f64; 3],
    /// Highest corner of the box, mm.
    pub(super) high: [f64; 3],
    /// Layer height, mm.
    pub(super) layer_mm: f64,
    /// How many layers.
    pub(super) layers: usize,
    /// Distance of scan lines, mm.
    pub(super) pitch: f64,
    /// How many scan lines.
    pub(super) lines: usize,
}

impl Grid {
    pub(super) fn new(solid: &Solid, layer: LayerHeight, scale: f64) -> Self {
        let low = solid.facts.low_mm.map(|c| c * scale);
        let high = solid.facts.high_mm.map(|c| c * scale);
        Self::around(low, high, layer)
    }

    /// A grid in a box.
    pub(super) fn around(low: [f64; 3], high: [f64; 3], layer: LayerHeight) -> Self {
        let depth = high[1] - low[1];
        let wanted = (depth / LINES).clamp(FINEST_MM, COARSEST_MM);
        let most = (MOST_LINES / f64::from(layer_count(high[2] - low[2], layer))).max(1.0);
        let lines = (depth / wanted).min(most).round().max(1.0);
        Self {
            low,
            high,
            layer_mm: layer.mm(),
            layers: layer_count(high[2] - low[2], layer) as usize,
            pitch: depth / lines,
            lines: lines as usize,
        }
    }

    /// Height at which a layer is cut, mm.
    fn cut_at(&self, layer: usize) -> f64 {
        let thick = self.thickness(layer);
        self.low[2] + layer as f64 * self.layer_mm + thick / 2.0
    }

    /// How thick a layer is: the last one only as thick as there is something left, mm.
    pub(super) fn thickness(&self, layer: usize) -> f64 {
        let left = self.high[2] - self.low[2] - layer as f64 * self.layer_mm;
        left.min(self.layer_mm).max(0.0)
    }

    /// Where a scan line runs, mm.
    pub(super) fn line_at(&self, line: usize) -> f64 {
        self.low[1] + (line as f64 + 0.5) * self.pitch
    }
}

/// Runs of one layer: those of line `i` are `runs[starts[i]..starts[i + 1]]`, in order of x,
/// apart from each other.
#[derive(Debug, Clone, Default)]
pub(super) struct Runs {
    pub(super) starts: Vec<u32>,
    pub(super) runs: Vec<[f64; 2]>,
    /// Scan lines on which the winding did not come back to zero: the mesh is open there.
    pub(super) unbalanced: u32,
    /// Scan lines that meet the mesh at all.
    pub(super) crossed: u32,
    /// What scan lines leave out or count too much of the section's exact area, mm². The area
    /// of all loops is exact; only where they overlap do the lines have to judge.
    pub(super) missed_mm2: f64,
}

impl Runs {
    pub(super) fn line(&self, line: usize) -> &[[f64; 2]] {
        &self.runs[self.range(line)]
    }

    pub(super) fn range(&self, line: usize) -> std::ops::Range<usize> {
        self.starts[line] as usize..self.starts[line + 1] as usize
    }
}

/// About how often the sections of a solid cross scan lines, and how often its triangles cover
/// the box around it from its most covered side: what cutting and drawing it will take.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Effort {
    /// Crossings on all layers together.
    pub crossings: f64,
    /// Of these on the layers that are cut at once.
    pub at_once: f64,
    /// Areas of all triangles as seen from one side, over that of the box.
    pub covered: f64,
}

impl Effort {
    /// Reckoned in one pass, before anything is cut.
    #[must_use]
    pub fn of(solid: &Solid, layer: LayerHeight, scale: f64) -> Self {
        let grid = Grid::new(solid, layer, scale);
        let chunks = grid.layers.div_ceil(LAYERS_AT_ONCE).max(1);
        let mut by_chunk = vec![0.0; chunks + 1];
        let mut seen = [0.0; 3];
        for face in solid.faces() {
            let of = |k: usize| face.map(|c| f64::from(c[k]) * scale);
            let ends = |v: [f64; 3]| [v[0].min(v[1]).min(v[2]), v[0].max(v[1]).max(v[2])];
            let [x, y, z] = [ends(of(0)), ends(of(1)), ends(of(2))];
            let span = |e: [f64; 2]| e[1] - e[0];
            // A section of a triangle is at most as deep as itself, and half as deep on the mean.
            let lines = 1.0 + span(y) / grid.pitch.max(1e-9) / 2.0;
            let chunk = |z: f64| ((z - grid.low[2]) / grid.layer_mm) as usize / LAYERS_AT_ONCE;
            let (from, to) = (chunk(z[0]).min(chunks - 1), chunk(z[1]).min(chunks - 1));
            let layers = (span(z) / grid.layer_mm).max(1.0);
            // As a step up and a step down: the sum over chunks is taken at the end.
            let each = lines * layers / (to - from + 1) as f64;
            by_chunk[from] += each;
            by_chunk[to + 1] -= each;
            seen[0] += span(y) * span(z);
            seen[1] += span(x) * span(z);
            seen[2] += span(x) * span(y);
        }
        let (mut here, mut all, mut at_once) = (0.0, 0.0, 0.0_f64);
        for step in by_chunk {
            here += step;
            all += here;
            at_once = at_once.max(here);
        }
        let size: [f64; 3] = std::array::from_fn(|k| grid.high[k] - grid.low[k]);
        let side = |k: usize| (size[(k + 1) % 3] * size[(k + 2) % 3]).max(1e-9);
        Self {
            crossings: all,
            at_once,
            covered: (0..3).map(|k| seen[k] / side(k)).fold(0.0, f64::max),
        }
    }
}

/// A solid with its triangles sorted by the layers they reach.
pub(super) struct Slicer<'a> {
    solid: &'a Solid,
    pub(super) grid: Grid,
    scale: f64,
    starts: Vec<u32>,
    triangles: Vec<u32>,
    /// What falls between scan lines is put on one.
    sees_slivers: bool,
}

/// Where a section crosses a scan line: line, x, up or down.
type Crossing = (u32, f64, i8);

/// A piece of a section that crosses no scan line: the line above it, its ends along x, and how
/// far it is from that line in pitches.
type Sliver = (u32, [f64; 2], f64);

/// One layer as it is cut.
#[derive(Default)]
struct Cut {
    crossings: Vec<Crossing>,
    slivers: Vec<Sliver>,
    exact_mm2: f64,
}

impl<'a> Slicer<'a> {
    pub(super) fn new(solid: &'a Solid, layer: LayerHeight, scale: f64) -> Self {
        Self::on(solid, Grid::new(solid, layer, scale), scale)
    }

    /// Cuts into cubes of one side instead of layers.
    pub(super) fn cubes(solid: &'a Solid, side_mm: f64, scale: f64) -> Self {
        let low = solid.facts.low_mm.map(|c| c * scale);
        let high = solid.facts.high_mm.map(|c| c * scale);
        let many = |k: usize| ((high[k] - low[k]) / side_mm).ceil().max(1.0) as usize;
        let grid = Grid {
            low,
            high,
            layer_mm: side_mm,
            layers: many(2),
            pitch: side_mm,
            lines: many(1),
        };
        Self {
            sees_slivers: false,
            ..Self::on(solid, grid, scale)
        }
    }

    /// Cuts into thick layers, scan lines as far apart as layers.
    pub(super) fn coarse(solid: &'a Solid, thick_mm: f64) -> Self {
        let (low, high) = (solid.facts.low_mm, solid.facts.high_mm);
        let many = |k: usize| ((high[k] - low[k]) / thick_mm).ceil().max(1.0);
        let grid = Grid {
            low,
            high,
            layer_mm: thick_mm,
            layers: many(2) as usize,
            pitch: (high[1] - low[1]) / many(1),
            lines: many(1) as usize,
        };
        Self::on(solid, grid, 1.0)
    }

    /// Cuts on a given grid.
    pub(super) fn on(solid: &'a Solid, grid: Grid, scale: f64) -> Self {
        let chunks = grid.layers.div_ceil(LAYERS_AT_ONCE);
        let span = |face: [[f32; 3]; 3]| {
            let z = face.map(|c| f64::from(c[2]) * scale);
            let [low, high] = [z[0].min(z[1]).min(z[2]), z[0].max(z[1]).max(z[2])];
            let at = |z: f64| ((z - grid.low[2]) / grid.layer_mm) as usize / LAYERS_AT_ONCE;
            at(low).min(chunks - 1)..=at(high).min(chunks - 1)
        };
        let mut starts = vec![0_u32; chunks + 1];
        if chunks > 0 {
            for face in solid.faces() {
                for chunk in span(face) {
                    starts[chunk + 1] += 1;
                }
            }
        }
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        let mut triangles = vec![0; starts.last().map_or(0, |n| *n as usize)];
        if chunks > 0 {
            for (index, face) in solid.faces().enumerate() {
                for chunk in span(face) {
                    triangles[next[chunk] as usize] = index as u32;
                    next[chunk] += 1;
                }
            }
        }
        Self {
            solid,
            grid,
            scale,
            starts,
            triangles,
            sees_slivers: true,
        }
    }

    /// How many chunks of layers there are.
    pub(super) fn chunks(&self) -> usize {
        self.starts.len() - 1
    }

    /// The first layer of a chunk.
    pub(super) fn first_layer(&self, chunk: usize) -> usize {
        chunk * LAYERS_AT_ONCE
    }

    /// Cuts the layers of one chunk.
    pub(super) fn cut(&self, chunk: usize) -> Vec<Runs> {
        let first = self.first_layer(chunk);
        self.cut_some(chunk, first, LAYERS_AT_ONCE.min(self.grid.layers - first))
    }

    /// Cuts one layer alone.
    pub(super) fn cut_layer(&self, layer: usize) -> Runs {
        self.cut_some(layer / LAYERS_AT_ONCE, layer, 1)
            .swap_remove(0)
    }

    /// Cuts layers of one chunk.
    fn cut_some(&self, chunk: usize, first: usize, many: usize) -> Vec<Runs> {
        let heights: Vec<f64> = (first..first + many).map(|k| self.grid.cut_at(k)).collect();
        let mut cuts: Vec<Cut> = Vec::new();
        cuts.resize_with(many, Cut::default);
        let middle = [0, 1].map(|k| (self.grid.low[k] + self.grid.high[k]) / 2.0);
        let mine = self.starts[chunk] as usize..self.starts[chunk + 1] as usize;
        for index in &self.triangles[mine] {
            let face = self
                .solid
                .face(*index)
                .map(|c| c.map(|c| f64::from(c) * self.scale));
            let low = face[0][2].min(face[1][2]).min(face[2][2]);
            let high = face[0][2].max(face[1][2]).max(face[2][2]);
            let from = heights.partition_point(|z| *z <= low);
            for (k, z) in heights.iter().enumerate().skip(from) {
                if *z > high {
                    break;
                }
                if let Some((from, to)) = section(face, *z) {
                    self.scan(from, to, &mut cuts[k]);
                    let [p, q] = [from, to].map(|c| [c[0] - middle[0], c[1] - middle[1]]);
                    cuts[k].exact_mm2 += (p[1] * q[0] - p[0] * q[1]) / 2.0;
                }
            }
        }
        cuts.into_iter().map(|cut| self.see(cut)).collect()
    }

    /// The runs of a layer, with those of what lies between scan lines.
    fn see(&self, mut cut: Cut) -> Runs {
        let runs = self.runs(&cut.crossings, cut.exact_mm2);
        let meets = |line: u32, ends: [f64; 2]| {
            let here = runs.line(line as usize);
            let n = here.partition_point(|r| r[1] < ends[0]);
            here.get(n).is_some_and(|r| r[0] <= ends[1])
        };
        let last = self.grid.lines as u32 - 1;
        let beside = |above: u32| [above.saturating_sub(1), above.min(last)];
        cut.slivers
            .retain(|(above, ends, _)| !beside(*above).iter().any(|line| meets(*line, *ends)));
        if cut.slivers.is_empty() {
            return runs;
        }
        cut.slivers
            .sort_unstable_by(|a, b| a.0.cmp(&b.0).then(a.1[0].total_cmp(&b.1[0])));
        let joined = |a: &Sliver, b: &Sliver| a.0 == b.0 && b.1[0] <= a.1[1];
        let mut whole: Vec<Sliver> = Vec::new();
        for sliver in cut.slivers {
            match whole.last_mut() {
                Some(before) if joined(before, &sliver) => {
                    before.1[1] = before.1[1].max(sliver.1[1]);
                }
                _ => whole.push(sliver),
            }
        }
        for (above, [from, to], off) in whole {
            let line = beside(above)[usize::from(off < 0.5)];
            cut.crossings.extend([(line, from, 1), (line, to, -1)]);
        }
        self.runs(&cut.crossings, cut.exact_mm2)
    }

    /// Where a piece of a section crosses scan lines. A line belongs to the lower end of a
    /// piece, not to the upper one, so that pieces that meet cross it once.
    fn scan(&self, from: [f64; 2], to: [f64; 2], cut: &mut Cut) {
        let (below, above, way) = if from[1] <= to[1] {
            (from, to, 1)
        } else {
            (to, from, -1)
        };
        let position = |y: f64| (y - self.grid.low[1]) / self.grid.pitch - 0.5;
        let first = position(below[1]).ceil().max(0.0) as usize;
        let slope = (above[0] - below[0]) / (above[1] - below[1]);
        let before = cut.crossings.len();
        for line in first.saturating_sub(1)..self.grid.lines {
            let y = self.grid.line_at(line);
            if y >= above[1] {
                break;
            }
            if y >= below[1] {
                cut.crossings
                    .push((line as u32, below[0] + (y - below[1]) * slope, way));
            }
        }
        if self.sees_slivers && cut.crossings.len() == before {
            let ends = [below[0].min(above[0]), below[0].max(above[0])];
            let off = first as f64 - position(below[1]);
            cut.slivers.push((first as u32, ends, off));
        }
    }

    fn runs(&self, crossings: &[Crossing], exact_mm2: f64) -> Runs {
        let lines = self.grid.lines;
        let mut starts = vec![0_u32; lines + 1];
        for (line, ..) in crossings.iter() {
            starts[*line as usize + 1] += 1;
        }
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        let mut sorted = vec![(0.0, 0_i8); crossings.len()];
        for (line, x, way) in crossings.iter() {
            let at = &mut next[*line as usize];
            sorted[*at as usize] = (*x, *way);
            *at += 1;
        }
        let mut runs = Runs {
            starts: Vec::with_capacity(lines + 1),
            ..Runs::default()
        };
        runs.starts.push(0);
        let sampled: f64 = crossings
            .iter()
            .map(|(_, x, way)| f64::from(-way) * x)
            .sum();
        for line in 0..lines {
            let here = &mut sorted[starts[line] as usize..starts[line + 1] as usize];
            here.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
            let end: i32 = here.iter().map(|(_, way)| i32::from(*way)).sum();
            runs.crossed += u32::from(!here.is_empty());
            runs.unbalanced += u32::from(end != 0);
            fill(here, end == 0, &mut runs.runs, runs.starts[line] as usize);
            runs.starts.push(runs.runs.len() as u32);
        }
        if runs.unbalanced == 0 {
            // Where shells lie over each other a loop's error counts for its share of the union.
            let seen: f64 = runs.runs.iter().map(|r| r[1] - r[0]).sum();
            let share = if sampled > 0.0 {
                (seen / sampled).min(1.0)
            } else {
                0.0
            };
            runs.missed_mm2 = (exact_mm2 - sampled * self.grid.pitch) * share;
        }
        runs
    }
}

/// Runs of one scan line. Where the winding does not come back to zero every other crossing is
/// taken for an end; a single one is left out.
fn fill(crossings: &[(f64, i8)], balanced: bool, runs: &mut Vec<[f64; 2]>, line_start: usize) {
    const THINNEST_MM: f64 = 1e-7;
    let mut winding = 0_i32;
    let mut from = 0.0;
    let mut add = |from: f64, to: f64| {
        if to - from < THINNEST_MM {
            return;
        }
        let touching =
            runs.len() > line_start && runs.last().is_some_and(|last| from - last[1] < THINNEST_MM);
        match runs.last_mut() {
            Some(last) if touching => last[1] = to,
            _ => runs.push([from, to]),
        }
    };
    if !balanced {
        let (pairs, _) = crossings.as_chunks::<2>();
        pairs.iter().for_each(|[a, b]| add(a.0, b.0));
        return;
    }
    for (x, way) in crossings {
        let before = winding;
        winding += i32::from(*way);
        if before == 0 {
            from = *x;
        } else if winding == 0 {
            add(from, *x);
        }
    }
}

/// The section of a triangle at a height, directed so that the solid lies on the same side of
/// all sections. A corner at that height counts as above.
fn section(face: [[f64; 3]; 3], z: f64) -> Option<([f64; 2], [f64; 2])> {
    let (mut up, mut down) = (None, None);
    for k in 0..3 {
        let (a, b) = (face[k], face[(k + 1) % 3]);
        match (a[2] < z, b[2] < z) {
            (true, false) => up = Some(at_height(a, b, z)),
            (false, true) => down = Some(at_height(b, a, z)),
            _ => {}
        }
    }
    up.zip(down)
}

/// Always from the lower corner to the higher one: both triangles of an edge get the same point.
fn at_height(lower: [f64; 3], higher: [f64; 3], z: f64) -> [f64; 2] {
    let share = (z - lower[2]) / (higher[2] - lower[2]);
    [
        lower[0] + (higher[0] - lower[0]) * share,
        lower[1] + (higher[1] - lower[1]) * share,
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn filled(crossings: &[(f64, i8)]) -> Vec<[f64; 2]> {
        let balanced = crossings.iter().map(|c| i32::from(c.1)).sum::<i32>() == 0;
        let mut runs = Vec::new();
        fill(crossings, balanced, &mut runs, 0);
        runs
    }

    #[rstest]
    #[case::one_shell(&[(0.0, -1), (4.0, 1)], &[[0.0, 4.0]])]
    #[case::sunk_into_each_other(&[(0.0, -1), (3.0, -1), (4.0, 1), (7.0, 1)], &[[0.0, 7.0]])]
    #[case::one_in_the_other(&[(0.0, -1), (1.0, -1), (2.0, 1), (7.0, 1)], &[[0.0, 7.0]])]
    #[case::a_hollow(&[(0.0, -1), (1.0, 1), (6.0, -1), (7.0, 1)], &[[0.0, 1.0], [6.0, 7.0]])]
    #[case::inside_out(&[(0.0, 1), (4.0, -1)], &[[0.0, 4.0]])]
    #[case::touching(&[(0.0, -1), (2.0, 1), (2.0, -1), (5.0, 1)], &[[0.0, 5.0]])]
    #[case::nothing(&[], &[])]
    #[case::thinner_than_rounding(&[(1.0, -1), (1.0, 1)], &[])]
    #[case::open_with_a_pair(&[(0.0, -1), (4.0, -1)], &[[0.0, 4.0]])]
    #[case::open_and_alone(&[(0.0, -1)], &[])]
    fn runs_are_where_the_winding_is_not_zero(
        #[case] crossings: &[(f64, i8)],
        #[case] expected: &[[f64; 2]],
    ) {
        assert_eq!(filled(crossings), expected);
    }

    /// A corner on the cut counts as above it, so a fan of triangles crosses it once.
    #[rstest]
    #[case::through([[0.0, 0.0, 0.0], [4.0, 0.0, 0.0], [0.0, 0.0, 4.0]], true)]
    #[case::corner_on_it_from_below([[0.0, 0.0, 0.0], [4.0, 0.0, 0.0], [2.0, 0.0, 2.0]], true)]
    #[case::corner_on_it_from_above([[0.0, 0.0, 4.0], [4.0, 0.0, 4.0], [2.0, 0.0, 2.0]], false)]
    #[case::all_above([[0.0, 0.0, 3.0], [4.0, 0.0, 4.0], [2.0, 0.0, 5.0]], false)]
    #[case::flat_on_it([[0.0, 0.0, 2.0], [4.0, 0.0, 2.0], [2.0, 3.0, 2.0]], false)]
    fn triangles_are_cut_half_open(#[case] face: [[f64; 3]; 3], #[case] cut: bool) {
        assert_eq!(section(face, 2.0).is_some(), cut);
    }

    proptest! {
        /// Both triangles of an edge get the same point, to the last digit.
        #[test]
        fn an_edge_is_cut_at_one_point(a in prop::array::uniform3(-9.0f64..9.0), b in prop::array::uniform3(-9.0f64..9.0), c in prop::array::uniform3(-9.0f64..9.0), d in prop::array::uniform3(-9.0f64..9.0), z in -9.0f64..9.0) {
            prop_assume!((a[2] < z) != (b[2] < z));
            let ends = |face| section(face, z).map(|(p, q)| vec![p, q]).unwrap_or_default();
            let (one, other) = (ends([a, b, c]), ends([b, a, d]));
            prop_assert!(one.iter().any(|p| other.contains(p)), "{one:?} {other:?}");
        }

        /// Runs are in order, apart, and no longer than from the first crossing to the last.
        #[test]
        fn runs_are_in_order_and_apart(raw in prop::collection::vec((-50.0f64..50.0, prop::bool::ANY), 0..14)) {
            let mut crossings: Vec<(f64, i8)> = raw.iter().map(|(x, up)| (*x, if *up { 1 } else { -1 })).collect();
            crossings.sort_by(|a, b| a.0.total_cmp(&b.0));
            let runs = filled(&crossings);
            for run in &runs {
                prop_assert!(run[0] < run[1]);
            }
            for pair in runs.windows(2) {
                prop_assert!(pair[0][1] < pair[1][0]);
            }
        }
    }
}
