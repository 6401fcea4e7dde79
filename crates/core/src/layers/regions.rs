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
    /// Runs it consists of.
    pub(super) runs: u32,
    /// Length of its longest run, and the middle of it: a point that lies in it, mm.
    pub(super) longest: (f64, [f64; 2]),
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
        self.runs += 1;
        if b - a > self.longest.0 {
            self.longest = (b - a, [(a + b) / 2.0, y]);
        }
    }

    /// Both as one figure.
    pub(super) fn and(&self, other: &Self) -> Self {
        Self {
            area: self.area + other.area,
            sum: [0, 1].map(|k| self.sum[k] + other.sum[k]),
            second: [0, 1, 2].map(|k| self.second[k] + other.second[k]),
            runs: self.runs + other.runs,
            longest: if self.longest.0 >= other.longest.0 {
                self.longest
            } else {
                other.longest
            },
            at_edge: self.at_edge || other.at_edge,
        }
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

    /// What its torsion constant cannot exceed, 4 I₁ I₂ / (I₁ + I₂) with the principal moments
    /// about its centre, mm⁴.
    pub(super) fn warping_bound(&self) -> f64 {
        let [xx, yy, xy] = self.central();
        if xx + yy > 0.0 {
            4.0 * (xx * yy - xy * xy).max(0.0) / (xx + yy)
        } else {
            0.0
        }
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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;
    use std::f64::consts::PI;

    /// A field of scan lines a tenth of a millimetre apart about the origin.
    fn grid(half: f64) -> Grid {
        Grid {
            low: [-half, -half, 0.0],
            high: [half, half, 1.0],
            layer_mm: 0.05,
            layers: 1,
            pitch: 0.05,
            lines: (2.0 * half / 0.05).round() as usize,
        }
    }

    /// Runs of a shape: for each line the stretches it covers.
    fn runs(grid: &Grid, shape: impl Fn(f64) -> Vec<[f64; 2]>) -> Runs {
        let mut runs = Runs {
            starts: vec![0],
            ..Runs::default()
        };
        for line in 0..grid.lines {
            runs.runs.extend(shape(grid.line_at(line)));
            runs.starts.push(runs.runs.len() as u32);
        }
        runs
    }

    fn regions(shape: impl Fn(f64) -> Vec<[f64; 2]>) -> Vec<Region> {
        let grid = grid(8.0);
        find_regions(&runs(&grid, shape), grid.lines, &grid, 0.0, None).regions
    }

    fn ellipse(a: f64, b: f64, at: [f64; 2]) -> impl Fn(f64) -> Vec<[f64; 2]> {
        move |y| {
            let up = (y - at[1]) / b;
            let half = a * (1.0 - up * up).max(0.0).sqrt();
            if half > 0.0 {
                vec![[at[0] - half, at[0] + half]]
            } else {
                Vec::new()
            }
        }
    }

    fn rectangle(w: f64, h: f64) -> impl Fn(f64) -> Vec<[f64; 2]> {
        move |y| {
            if y.abs() < h / 2.0 {
                vec![[-w / 2.0, w / 2.0]]
            } else {
                Vec::new()
            }
        }
    }

    fn close(value: f64, expected: f64) {
        assert!(
            (value - expected).abs() < 0.005 * expected,
            "{value} is not {expected}"
        );
    }

    /// Polar second moments of plane figures about their centre, from the tables of any
    /// handbook (Dubbel, Roark; from memory): disc πR⁴/2, ellipse πab(a²+b²)/4, rectangle
    /// wh(w²+h²)/12.
    #[rstest]
    #[case::disc(PI * 25.0, PI * 625.0 / 2.0, regions(ellipse(5.0, 5.0, [0.0, 0.0])))]
    #[case::ellipse(PI * 18.0, PI * 18.0 * 45.0 / 4.0, regions(ellipse(6.0, 3.0, [1.0, -2.0])))]
    #[case::rectangle(32.0, 32.0 * (64.0 + 16.0) / 12.0, regions(rectangle(8.0, 4.0)))]
    fn moments_are_those_of_the_handbook(
        #[case] area: f64,
        #[case] polar: f64,
        #[case] found: Vec<Region>,
    ) {
        assert_eq!(found.len(), 1);
        close(found[0].area, area);
        close(found[0].polar(), polar);
    }

    #[test]
    fn the_centre_is_where_the_figure_is() {
        let [x, y] = regions(ellipse(2.0, 2.0, [3.0, -4.0]))[0].centre();
        assert!((x - 3.0).abs() < 0.01 && (y + 4.0).abs() < 0.01, "{x} {y}");
    }

    /// A strip is as wide as it is, whichever way it lies.
    #[rstest]
    #[case(0.0)]
    #[case(30.0)]
    #[case(45.0)]
    #[case(80.0)]
    fn a_strip_keeps_its_width_when_it_turns(#[case] degrees: f64) {
        let (sin, cos) = f64::to_radians(degrees).sin_cos();
        let strip = move |y: f64| {
            // |x cos + y sin| < 5 along, |y cos − x sin| < 0.4 across.
            let along = if cos.abs() > 1e-9 {
                [(-5.0 - y * sin) / cos, (5.0 - y * sin) / cos]
            } else {
                [-9.0, 9.0]
            };
            let across = if sin.abs() > 1e-9 {
                [(y * cos - 0.4) / sin, (y * cos + 0.4) / sin]
            } else if y.abs() < 0.4 {
                [-9.0, 9.0]
            } else {
                [1.0, -1.0]
            };
            let run = [along[0].max(across[0]), along[1].min(across[1])];
            if run[0] < run[1] {
                vec![run]
            } else {
                Vec::new()
            }
        };
        let found = regions(strip);
        assert_eq!(found.len(), 1);
        assert!(
            (found[0].width() - 0.8).abs() < 0.04,
            "{}",
            found[0].width()
        );
    }

    /// Side to side is connected, corner to corner is not.
    #[rstest]
    #[case::apart([[0.0, 1.0], [2.0, 3.0]], 2)]
    #[case::side_to_side([[0.0, 1.5], [1.0, 3.0]], 1)]
    #[case::corner_to_corner([[0.0, 1.0], [1.0, 3.0]], 2)]
    fn neighbours_share_a_stretch(#[case] lines: [[f64; 2]; 2], #[case] many: usize) {
        let grid = grid(8.0);
        let shape = |y: f64| match (y / grid.pitch).floor() as i64 {
            0 => vec![lines[0]],
            1 => vec![lines[1]],
            _ => Vec::new(),
        };
        assert_eq!(regions(shape).len(), many);
    }

    #[test]
    fn the_air_around_a_ring_is_outside_and_the_air_in_it_is_not() {
        let grid = grid(8.0);
        let ring = |y: f64| {
            let (outer, inner) = (
                ellipse(6.0, 6.0, [0.0, 0.0])(y),
                ellipse(4.0, 4.0, [0.0, 0.0])(y),
            );
            match (outer.first(), inner.first()) {
                (Some(o), Some(i)) => vec![[o[0], i[0]], [i[1], o[1]]],
                (Some(o), None) => vec![*o],
                _ => Vec::new(),
            }
        };
        let solid = runs(&grid, ring);
        let (air_runs, field) = air(&solid, &grid);
        let found = find_regions(&air_runs, grid.lines + 2, &grid, -1.0, Some(field));
        let mut edges: Vec<bool> = found.regions.iter().map(|r| r.at_edge).collect();
        edges.sort_unstable();
        assert_eq!(edges, [false, true]);
        let inner = found.regions.iter().find(|r| !r.at_edge).expect("the hole");
        close(inner.area, PI * 16.0);
    }

    proptest! {
        /// Runs and the air between them fill the field, line by line.
        #[test]
        fn solid_and_air_fill_the_field(cuts in proptest::collection::vec(-7.9f64..7.9, 0..12)) {
            let grid = grid(8.0);
            let mut cuts = cuts;
            cuts.sort_by(f64::total_cmp);
            cuts.dedup();
            let (pairs, _) = cuts.as_chunks::<2>();
            let stretches = pairs.to_vec();
            let solid = runs(&grid, |_| stretches.clone());
            let (air_runs, field) = air(&solid, &grid);
            let length = |line: &[[f64; 2]]| line.iter().map(|r| r[1] - r[0]).sum::<f64>();
            for line in 0..grid.lines {
                let whole = length(solid.line(line)) + length(air_runs.line(line + 1));
                prop_assert!((whole - (field[1] - field[0])).abs() < 1e-9);
            }
        }
    }
}
