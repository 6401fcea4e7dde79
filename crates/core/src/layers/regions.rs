//! Connected regions of a layer, and which regions of two layers lie over each other.

use super::slice::{Grid, Runs};
use crate::union_find::{apart, find, join};

/// One connected region of a layer with its moments.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub(super) struct Region {
    /// mm².
    pub(super) area: f64,
    /// First moments about the middle of the box, mm³.
    pub(super) sum: [f64; 2],
    /// Second moments about the middle of the box: xx, yy, xy, mm⁴.
    pub(super) second: [f64; 3],
    /// It reaches the edge of the drawn field.
    pub(super) at_edge: bool,
}

impl Region {
    fn add(&mut self, [a, b]: [f64; 2], y: f64, pitch: f64) {
        let area = (b - a) * pitch;
        let x_sum = (b * b - a * a) / 2.0 * pitch;
        self.area += area;
        self.sum[0] += x_sum;
        self.sum[1] += y * area;
        self.second[0] += (b * b * b - a * a * a) / 3.0 * pitch;
        self.second[1] += (y * y + pitch * pitch / 12.0) * area;
        self.second[2] += y * x_sum;
    }

    /// Centre, mm.
    pub(super) fn centre(&self) -> [f64; 2] {
        [self.sum[0] / self.area, self.sum[1] / self.area]
    }

    /// Second moments about its own centre: xx, yy, xy, mm⁴.
    fn central(&self) -> [f64; 3] {
        let c = self.centre();
        [
            self.second[0] - c[0] * c[0] * self.area,
            self.second[1] - c[1] * c[1] * self.area,
            self.second[2] - c[0] * c[1] * self.area,
        ]
    }

    /// Polar second moment about its centre, mm⁴.
    pub(super) fn polar(&self) -> f64 {
        let [xx, yy, _] = self.central();
        (xx + yy).max(0.0)
    }

    /// Width across its shorter principal axis, mm: that of the rectangle with the same moments.
    pub(super) fn width(&self) -> f64 {
        let [xx, yy, xy] = self.central().map(|m| m / self.area);
        let half = (xx + yy) / 2.0;
        let least = half - ((xx - yy) / 2.0).hypot(xy);
        (12.0 * least.max(0.0)).sqrt()
    }
}

/// The regions of a layer, and which run belongs to which.
#[derive(Debug, Clone, Default)]
pub(super) struct Regions {
    pub(super) of_run: Vec<u32>,
    pub(super) regions: Vec<Region>,
}

/// Finds the connected regions: runs on neighbouring lines that share a stretch of x.
pub(super) fn find_regions(
    runs: &Runs,
    lines: usize,
    grid: &Grid,
    first_line: f64,
    edge: Option<[f64; 2]>,
) -> Regions {
    let mut root = apart(runs.runs.len());
    for line in 1..lines {
        overlaps(runs, line - 1, runs, line, |a, b| join(&mut root, a, b));
    }
    let middle = (grid.low[0] + grid.high[0]) / 2.0;
    let mut number = vec![u32::MAX; runs.runs.len()];
    let mut found = Regions {
        of_run: Vec::with_capacity(runs.runs.len()),
        regions: Vec::new(),
    };
    for line in 0..lines {
        let y = (first_line + line as f64 + 0.5 - grid.lines as f64 / 2.0) * grid.pitch;
        let outer_line = edge.is_some() && (line == 0 || line + 1 == lines);
        for index in runs.range(line) {
            let at = find(&mut root, index as u32) as usize;
            if number[at] == u32::MAX {
                number[at] = found.regions.len() as u32;
                found.regions.push(Region::default());
            }
            let region = &mut found.regions[number[at] as usize];
            let run = runs.runs[index];
            region.add(run.map(|x| x - middle), y, grid.pitch);
            region.at_edge |= outer_line || edge.is_some_and(|e| run[0] <= e[0] || run[1] >= e[1]);
            found.of_run.push(number[at]);
        }
    }
    found
}

/// Calls for every pair of runs of two lines that share a stretch of x.
pub(super) fn overlaps(
    a: &Runs,
    line_a: usize,
    b: &Runs,
    line_b: usize,
    mut meet: impl FnMut(u32, u32),
) {
    let (mut i, mut j) = (a.starts[line_a], b.starts[line_b]);
    let (end_a, end_b) = (a.starts[line_a + 1], b.starts[line_b + 1]);
    while i < end_a && j < end_b {
        let (p, q) = (a.runs[i as usize], b.runs[j as usize]);
        if p[0] < q[1] && q[0] < p[1] {
            meet(i, j);
        }
        if p[1] < q[1] { i += 1 } else { j += 1 }
    }
}

/// Pairs of regions of two layers that lie over each other, each once, in order.
pub(super) fn region_pairs(
    below: (&Runs, &Regions),
    here: (&Runs, &Regions),
    lines: usize,
) -> Vec<(u32, u32)> {
    let mut pairs = Vec::new();
    for line in 0..lines {
        overlaps(below.0, line, here.0, line, |a, b| {
            let pair = (here.1.of_run[b as usize], below.1.of_run[a as usize]);
            if pairs.last() != Some(&pair) {
                pairs.push(pair);
            }
        });
    }
    pairs.sort_unstable();
    pairs.dedup();
    pairs
}

/// The air of a layer in a field one millimetre wider than the box, with one line more on either
/// side: the complement of its runs.
pub(super) fn air(runs: &Runs, grid: &Grid) -> (Runs, [f64; 2]) {
    let field = [grid.low[0] - 1.0, grid.high[0] + 1.0];
    let mut air = Runs {
        starts: Vec::with_capacity(grid.lines + 3),
        runs: Vec::with_capacity(runs.runs.len() + grid.lines + 2),
        ..Runs::default()
    };
    air.starts.push(0);
    air.runs.push(field);
    air.starts.push(1);
    for line in 0..grid.lines {
        let mut from = field[0];
        for run in runs.line(line) {
            air.runs.push([from, run[0]]);
            from = run[1];
        }
        air.runs.push([from, field[1]]);
        air.starts.push(air.runs.len() as u32);
    }
    air.runs.push(field);
    air.starts.push(air.runs.len() as u32);
    (air, field)
}
