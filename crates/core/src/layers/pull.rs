//! How hard a layer pulls on the film.
//!
//! Resin that flows in under a flat section as it is lifted follows the thin-film equation of
//! Reynolds: ∇²p = −12 μ v / h³ with p = 0 on the edge. Saint-Venant's torsion of a bar of the
//! same section is ∇²φ = −2 with φ = 0 on the edge. So the force is F = 3 μ v J / h³ with J the
//! torsion constant, and every handbook of torsion checks it. For the disc, J = πR⁴/2, it is
//! Stefan's law F = 3 π μ v R⁴ / (2 h³) (J. Stefan, Sitzungsber. Akad. Wiss. Wien 69, 1874, from
//! memory). A hole that is open to the resin around has p = 0 on its edge; a sealed one floats
//! at one pressure, as φ does in the torsion of a hollow bar.
//!
//! A rigid upper model: film flexes and peels from the edge, so this is an index, not newtons.

use super::regions::{Region, Regions, air, find_regions};
use super::slice::{Grid, Runs};

/// Torsion constant of the disc of 20 mm diameter, πR⁴/2, mm⁴: the pull index 1.
pub const PULL_OF_DISC: f64 = std::f64::consts::PI * 10_000.0 / 2.0;

/// Saint-Venant's approximation for compact pieces without holes, J ≈ A⁴ / (40 I_p), mm⁴
/// (A. de Saint-Venant 1879, as given in S. Timoshenko, J. Goodier, Theory of Elasticity, §110,
/// from memory).
fn compact(area: f64, polar: f64) -> f64 {
    if polar > 0.0 {
        area.powi(4) / (40.0 * polar)
    } else {
        0.0
    }
}

/// Holes of a layer: the piece each lies in, and whether it is sealed.
#[derive(Debug, Clone, Default)]
pub(super) struct Holes {
    /// For every region of air: the region of solid around it, for holes.
    pub(super) inside: Vec<Option<u32>>,
    /// For every region of air: no resin reaches it.
    pub(super) sealed: Vec<bool>,
    /// For every hole all that lies within its edge: its air, and pieces that stand in it.
    within: Vec<Region>,
    /// Every hole with the piece it lies in, in order of pieces.
    by_piece: Vec<(u32, u32)>,
}

impl Holes {
    /// Which piece each region of air lies in: its leftmost point has that piece on its left.
    pub(super) fn find(solid: (&Runs, &Regions), air: (&Runs, &Regions), lines: usize) -> Self {
        let mut leftmost = vec![(f64::INFINITY, None); air.1.regions.len()];
        // Of every piece the air on the left of its leftmost point.
        let mut around = vec![(f64::INFINITY, 0); solid.1.regions.len()];
        for line in 0..lines {
            let here = solid.0.range(line);
            // Air run n of a line has solid run n − 1 on its left.
            for (n, index) in air.0.range(line + 1).enumerate().skip(1) {
                let of = air.1.of_run[index] as usize;
                let from = air.0.runs[index][0];
                if n <= here.len() && from < leftmost[of].0 {
                    leftmost[of] = (from, Some(solid.1.of_run[here.start + n - 1]));
                }
            }
            for (n, index) in here.enumerate() {
                let of = solid.1.of_run[index] as usize;
                let from = solid.0.runs[index][0];
                if from < around[of].0 {
                    around[of] = (from, air.1.of_run[air.0.range(line + 1).start + n]);
                }
            }
        }
        let inside: Vec<Option<u32>> = leftmost
            .into_iter()
            .zip(&air.1.regions)
            .map(|((_, piece), region)| piece.filter(|_| !region.at_edge))
            .collect();
        let of = |(hole, piece): (usize, &Option<u32>)| piece.map(|piece| (piece, hole as u32));
        let mut by_piece: Vec<(u32, u32)> = inside.iter().enumerate().filter_map(of).collect();
        by_piece.sort_unstable();
        let mut holes = Self {
            sealed: vec![false; air.1.regions.len()],
            within: air.1.regions.clone(),
            by_piece,
            inside,
        };
        if holes.any() {
            let around: Vec<u32> = around.into_iter().map(|(_, air)| air).collect();
            holes.add_what_stands_in_them(solid.1, air.1, &around);
        }
        holes
    }

    /// Every piece and every air counts in all the holes around it, from the inside out.
    fn add_what_stands_in_them(&mut self, solid: &Regions, air: &Regions, around: &[u32]) {
        // The hole that a piece stands in, and the hole that a hole lies in.
        let hole_of = |piece: u32| {
            let air = around[piece as usize] as usize;
            self.inside[air].is_some().then_some(air)
        };
        let mut add: Vec<(usize, Region)> = Vec::new();
        let mut up = |mut at: Option<usize>, what: &Region| {
            // A hole lies in no more holes than there are.
            for _ in 0..air.regions.len() {
                let Some(hole) = at else { break };
                add.push((hole, *what));
                at = self.inside[hole].and_then(hole_of);
            }
        };
        for (piece, region) in solid.regions.iter().enumerate() {
            up(hole_of(piece as u32), region);
        }
        for (hole, region) in air.regions.iter().enumerate() {
            up(self.inside[hole].and_then(hole_of), region);
        }
        for (hole, what) in add {
            self.within[hole] = self.within[hole].and(&what);
        }
    }

    pub(super) fn any(&self) -> bool {
        !self.by_piece.is_empty()
    }

    /// The holes of a piece, sealed or vented.
    fn of_piece(&self, piece: usize, sealed: bool) -> impl Iterator<Item = usize> + '_ {
        let from = self
            .by_piece
            .partition_point(|(p, _)| (*p as usize) < piece);
        self.by_piece[from..]
            .iter()
            .take_while(move |(p, _)| *p as usize == piece)
            .map(|(_, hole)| *hole as usize)
            .filter(move |hole| self.sealed[*hole] == sealed)
    }
}

/// Pull of a layer, summed over its pieces, by the fast form.
///
/// A sealed hole takes its own compact value off that of the filled piece: exact for a ring. With
/// vented holes a piece is a band of mean width t, J ≈ A t²/3 (thin open sections, W. Young,
/// R. Budynas, Roark's Formulas for Stress and Strain, table 10.1, from memory), where that is
/// less.
pub(super) fn fast(solid: &Regions, air: &Regions, holes: &Holes, pitch: f64) -> f64 {
    let mut total = 0.0;
    for (index, region) in solid.regions.iter().enumerate() {
        let within = || holes.of_piece(index, true).map(|h| holes.within[h]);
        let filled = within().fold(*region, |sum, hole| sum.and(&hole));
        let hollow: f64 = within().map(|h| compact(h.area, h.polar())).sum();
        let mut j = compact(filled.area, filled.polar()) - hollow;
        let vented = holes.of_piece(index, false);
        let vented: f64 = vented.map(|h| f64::from(air.regions[h].runs)).sum();
        if vented > 0.0 {
            // Every run has two ends; edges run in all directions alike.
            let ends = 2.0 * f64::from(region.runs) * pitch;
            let width = 2.0 * region.area / (ends * std::f64::consts::FRAC_PI_2);
            j = j.min(region.area * width * width / 3.0);
        }
        total += j.max(0.0);
    }
    total / PULL_OF_DISC
}

/// What a layer cannot pull harder than, summed over its pieces: the least of two bounds, both
/// exact for the disc. No section of an area has a larger torsion constant than the disc, with
/// holes at p = 0 or none; with sealed holes none exceeds the ring of the same areas (G. Pólya,
/// A. Weinstein, Ann. of Math. 52, 1950, from memory). And the torsion constant is the least of
/// ∫ (ψ_x − y)² + (ψ_y + x)² over all warpings ψ: with ψ = c·xy on the principal axes it is at most
/// 4 I₁ I₂ / (I₁ + I₂) (Saint-Venant; G. Pólya, G. Szegő, Isoperimetric Inequalities in
/// Mathematical Physics, 1951, from memory).
pub(super) fn most(solid: &Regions, holes: &Holes) -> f64 {
    let of = |(index, region): (usize, &Region)| {
        let sealed = holes.of_piece(index, true);
        let hollow: f64 = sealed.map(|h| holes.within[h].area).sum();
        let ring = ((region.area + hollow).powi(2) - hollow.powi(2)) / std::f64::consts::TAU;
        ring.min(region.warping_bound())
    };
    solid.regions.iter().enumerate().map(of).sum::<f64>() / PULL_OF_DISC
}

/// How closely a section is solved.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Closeness {
    /// Within some per cent, quickly.
    Rough,
    /// As it is told.
    Close,
}

impl Closeness {
    /// Nodes a section is solved on, about.
    const fn nodes(self) -> f64 {
        match self {
            Self::Rough => 900.0,
            Self::Close => 8_000.0,
        }
    }
}

/// Sweeps at most.
const SWEEPS: usize = 3000;

/// A node of the section: its neighbours to west, east, south and north, and how far they are.
struct Node {
    at: [f64; 4],
    to: [Side; 4],
}

/// What lies beside a node.
#[derive(Clone, Copy, PartialEq)]
enum Side {
    /// Another node.
    Node(u32),
    /// An edge at the pressure of the resin around.
    Edge,
    /// The edge of a sealed hole.
    Hole(u32),
}

/// Pull of a layer, summed over its pieces, by solving Poisson's equation ∇²φ = −2 on it:
/// J = 2 ∫ φ + 2 Σ φ_hole A_hole, with φ = 0 on every edge that resin reaches, and on the edge of
/// a sealed hole one value, such that the slope around it balances its area (S. Timoshenko,
/// J. Goodier, Theory of Elasticity, §115, from memory). Differences of second order, with the
/// true distances to the edge (G. Shortley, R. Weller, J. Appl. Phys. 9, 1938, from memory), by
/// successive over-relaxation.
pub(super) fn solve(runs: &Runs, grid: &Grid, sealed: &[bool], closeness: Closeness) -> f64 {
    let (air_runs, field) = air(runs, grid);
    let air_regions = find_regions(&air_runs, grid.lines + 2, grid, -1.0, Some(field));
    let area: f64 = runs.runs.iter().map(|r| r[1] - r[0]).sum::<f64>() * grid.pitch;
    if area <= 0.0 {
        return 0.0;
    }
    let every = ((area / closeness.nodes()).sqrt() / grid.pitch)
        .round()
        .max(1.0) as usize;
    let section = Section {
        runs,
        air_runs: &air_runs,
        grid,
        every,
        hole_of: |air_run: usize| {
            let region = air_regions.of_run[air_run] as usize;
            let is_hole = sealed.get(region) == Some(&true) && !air_regions.regions[region].at_edge;
            is_hole.then_some(region as u32)
        },
    };
    let mesh = Lattice::new(&section);
    let hole_areas: Vec<f64> = air_regions.regions.iter().map(|r| r.area).collect();
    mesh.torsion_constant(&hole_areas) / PULL_OF_DISC
}

/// A layer and the air around it, as the nodes of a lattice see it.
struct Section<'a, F> {
    runs: &'a Runs,
    air_runs: &'a Runs,
    grid: &'a Grid,
    /// Lines from one row of nodes to the next.
    every: usize,
    /// The sealed hole that a run of air belongs to.
    hole_of: F,
}

impl<F: Fn(usize) -> Option<u32>> Section<'_, F> {
    /// The run a place lies in: which one of its line, and its ends.
    fn run_at(&self, line: usize, x: f64) -> Option<(usize, [f64; 2])> {
        let here = self.runs.line(line);
        let n = here.partition_point(|r| r[1] <= x);
        here.get(n).filter(|r| r[0] < x).map(|r| (n, *r))
    }

    /// The edge of a run of air.
    fn edge(&self, air_line: usize, n: usize) -> Side {
        let run = self.air_runs.starts[air_line] as usize + n;
        (self.hole_of)(run).map_or(Side::Edge, Side::Hole)
    }

    /// What lies beside a node along y, and how far: the node of the next row, or the edge on the
    /// first line on which its place is in air.
    fn vertical(&self, line: usize, x: f64, up: bool, next: Option<u32>) -> (f64, Side) {
        let pitch = self.grid.pitch;
        for step in 1..=self.every {
            let to = if up {
                line.checked_add(step)
            } else {
                line.checked_sub(step)
            };
            let Some(to) = to.filter(|l| *l < self.grid.lines) else {
                return (pitch * (step as f64 - 0.5), Side::Edge);
            };
            if self.run_at(to, x).is_some() {
                continue;
            }
            let here = if up { to - 1 } else { to + 1 };
            let Some((_, run)) = self.run_at(here, x) else {
                break;
            };
            let there = self.runs.line(to);
            let n = there.partition_point(|r| r[1] <= x);
            // The edge runs from the end of a run here to that of the run it goes on in.
            let mut share: f64 = 0.0;
            if let Some(left) = n.checked_sub(1).map(|n| there[n])
                && left[1] > run[0]
            {
                share = share.max((run[1] - x) / (run[1] - left[1]).max(1e-12));
            }
            if let Some(right) = there.get(n)
                && right[0] < run[1]
            {
                share = share.max((x - run[0]) / (right[0] - run[0]).max(1e-12));
            }
            let share = if share > 0.0 { share.min(1.0) } else { 0.5 };
            return (pitch * (step as f64 - 1.0 + share), self.edge(to + 1, n));
        }
        let h = pitch * self.every as f64;
        (h, next.map_or(Side::Edge, Side::Node))
    }
}

struct Lattice {
    h: f64,
    nodes: Vec<Node>,
}

impl Lattice {
    fn new<F: Fn(usize) -> Option<u32>>(section: &Section<'_, F>) -> Self {
        let (grid, every) = (section.grid, section.every);
        let h = grid.pitch * every as f64;
        let first = (every - 1) / 2;
        let columns = ((grid.high[0] - grid.low[0]) / h).ceil() as usize + 2;
        let x_at = |i: usize| grid.low[0] + (i as f64 - 0.5) * h;
        let rows: Vec<usize> = (first..grid.lines).step_by(every).collect();
        let mut number = vec![u32::MAX; columns * rows.len()];
        let mut places = Vec::new();
        for (row, line) in rows.iter().enumerate() {
            for i in 0..columns {
                if section.run_at(*line, x_at(i)).is_some() {
                    number[row * columns + i] = places.len() as u32;
                    places.push((row, i));
                }
            }
        }
        let nodes = places
            .iter()
            .map(|(row, i)| {
                let (line, x) = (rows[*row], x_at(*i));
                let (n, run) = section.run_at(line, x).unwrap_or((0, [x, x]));
                let to = |row: Option<usize>, i: usize| {
                    let at = row.filter(|r| *r < rows.len())?;
                    Some(number[at * columns + i]).filter(|n| *n != u32::MAX)
                };
                let along = |toward: usize, edge: f64, air: usize| {
                    if (edge - x).abs() >= h
                        && let Some(node) = to(Some(*row), toward)
                    {
                        return (h, Side::Node(node));
                    }
                    ((edge - x).abs(), section.edge(line + 1, air))
                };
                let west = along(i.wrapping_sub(1).min(columns - 1), run[0], n);
                let east = along((i + 1).min(columns - 1), run[1], n + 1);
                let south = section.vertical(line, x, false, to(row.checked_sub(1), *i));
                let north = section.vertical(line, x, true, to(Some(row + 1), *i));
                let all = [west, east, south, north];
                Node {
                    at: all.map(|(d, _)| d.clamp(0.02 * h, h)),
                    to: all.map(|(_, s)| s),
                }
            })
            .collect();
        Self { h, nodes }
    }

    fn torsion_constant(&self, hole_areas: &[f64]) -> f64 {
        let h = self.h;
        let mut phi = vec![0.0_f64; self.nodes.len()];
        let mut hole = vec![0.0_f64; hole_areas.len()];
        let across = (self.nodes.len() as f64).sqrt().max(2.0);
        let over = 2.0 / (1.0 + (std::f64::consts::PI / across).sin());
        // Slopes around holes: of each node beside one, its hole and h/d.
        let mut rims: Vec<(usize, usize, f64)> = Vec::new();
        for (index, node) in self.nodes.iter().enumerate() {
            for (to, d) in node.to.iter().zip(node.at) {
                if let Side::Hole(of) = to {
                    rims.push((index, *of as usize, h / d));
                }
            }
        }
        let mut weight = vec![0.0; hole.len()];
        rims.iter().for_each(|(_, of, w)| weight[*of] += w);
        for sweep in 0..SWEEPS {
            let (mut moved, mut largest) = (0.0_f64, 0.0_f64);
            for index in 0..self.nodes.len() {
                let Node {
                    at: [w, e, s, n],
                    to,
                } = &self.nodes[index];
                let value = |side: Side| match side {
                    Side::Node(other) => phi[other as usize],
                    Side::Edge => 0.0,
                    Side::Hole(of) => hole[of as usize],
                };
                let x = (value(to[0]) / w + value(to[1]) / e) / (w + e);
                let y = (value(to[2]) / s + value(to[3]) / n) / (s + n);
                let new = (1.0 + x + y) / (1.0 / (w * e) + 1.0 / (s * n));
                let by = new - phi[index];
                phi[index] += over * by;
                moved = moved.max(by.abs());
                largest = largest.max(phi[index].abs());
            }
            if !rims.is_empty() {
                let mut sum: Vec<f64> = hole_areas.iter().map(|a| 2.0 * a).collect();
                for (index, of, w) in &rims {
                    sum[*of] += phi[*index] * w;
                }
                for (of, value) in hole.iter_mut().enumerate() {
                    if weight[of] > 0.0 {
                        let by = sum[of] / weight[of] - *value;
                        *value += over * by;
                        moved = moved.max(by.abs());
                    }
                }
            }
            if sweep > 8 && moved <= 1e-5 * largest {
                break;
            }
        }
        let pressed: f64 = hole.iter().zip(hole_areas).map(|(c, a)| c * a).sum();
        2.0 * (phi.iter().sum::<f64>() * h * h + pressed)
    }
}

/// Pull of one region alone by the fast form, for a coarse look.
pub(super) fn of_region(region: &Region) -> f64 {
    compact(region.area, region.polar()) / PULL_OF_DISC
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use std::f64::consts::PI;

    fn grid(half: f64, lines: usize) -> Grid {
        Grid {
            low: [-half, -half, 0.0],
            high: [half, half, 1.0],
            layer_mm: 0.05,
            layers: 1,
            pitch: 2.0 * half / lines as f64,
            lines,
        }
    }

    /// Runs of a shape on scan lines: for each y the stretches inside.
    fn section(grid: &Grid, shape: impl Fn(f64) -> Vec<[f64; 2]>) -> Runs {
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

    fn disc(r: f64, y: f64) -> Option<[f64; 2]> {
        let half = (r * r - y * y).max(0.0).sqrt();
        (half > 0.0).then_some([-half, half])
    }

    /// Fast, solved and bounded as torsion constants, mm⁴; every hole sealed or vented.
    fn all(shape: impl Fn(f64) -> Vec<[f64; 2]>, half: f64, sealed: bool) -> (f64, f64, f64) {
        let grid = grid(half, 400);
        let runs = section(&grid, shape);
        let solid = find_regions(&runs, grid.lines, &grid, 0.0, None);
        let (air_runs, field) = air(&runs, &grid);
        let air_regions = find_regions(&air_runs, grid.lines + 2, &grid, -1.0, Some(field));
        let mut holes = Holes::find((&runs, &solid), (&air_runs, &air_regions), grid.lines);
        holes.sealed.fill(sealed);
        (
            fast(&solid, &air_regions, &holes, grid.pitch) * PULL_OF_DISC,
            solve(&runs, &grid, &holes.sealed, Closeness::Close) * PULL_OF_DISC,
            most(&solid, &holes) * PULL_OF_DISC,
        )
    }

    fn polygon(corners: &[[f64; 2]]) -> impl Fn(f64) -> Vec<[f64; 2]> {
        let corners = corners.to_vec();
        move |y| {
            let mut xs: Vec<f64> = (0..corners.len())
                .filter_map(|i| {
                    let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
                    ((a[1] <= y) != (b[1] <= y))
                        .then(|| a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]))
                })
                .collect();
            xs.sort_by(f64::total_cmp);
            xs.chunks_exact(2).map(|p| [p[0], p[1]]).collect()
        }
    }

    fn turned(corners: &[[f64; 2]], degrees: f64) -> Vec<[f64; 2]> {
        let (s, c) = degrees.to_radians().sin_cos();
        corners
            .iter()
            .map(|[x, y]| [x * c - y * s, x * s + y * c])
            .collect()
    }

    /// Torsion constants from W. Young, R. Budynas, Roark's Formulas for Stress and Strain, 7th
    /// ed., table 10.1 (and S. Timoshenko, J. Goodier, Theory of Elasticity, 3rd ed., §109, for
    /// the rectangles' coefficients), from memory: circle πR⁴/2, square 0.1406 a⁴, ellipse
    /// πa³b³/(a²+b²), equilateral triangle √3 a⁴/80, rectangle 0.229 a b³ at 2 : 1 and
    /// 0.263 a b³ at 3 : 1.
    #[rstest]
    #[case::circle(PI * 10_000.0 / 2.0, all(|y| disc(10.0, y).into_iter().collect(), 10.0, false))]
    #[case::square(0.1406 * 160_000.0, all(polygon(&[[-10.0, -10.0], [10.0, -10.0], [10.0, 10.0], [-10.0, 10.0]]), 10.0, false))]
    #[case::square_on_its_corner(0.1406 * 10_000.0, all(polygon(&turned(&[[-5.0, -5.0], [5.0, -5.0], [5.0, 5.0], [-5.0, 5.0]], 37.0)), 10.0, false))]
    #[case::ellipse(PI * 1000.0 * 125.0 / 125.0, all(|y| disc(5.0, y).map(|r| r.map(|x| 2.0 * x)).into_iter().collect(), 10.0, false))]
    #[case::triangle(3f64.sqrt() * 16f64.powi(4) / 80.0, all(polygon(&[[-8.0, -5.0], [8.0, -5.0], [0.0, -5.0 + 8.0 * 3f64.sqrt()]]), 10.0, false))]
    #[case::rectangle_2(0.2287 * 16.0 * 512.0, all(polygon(&[[-8.0, -4.0], [8.0, -4.0], [8.0, 4.0], [-8.0, 4.0]]), 10.0, false))]
    #[case::rectangle_3(0.2633 * 15.0 * 125.0, all(polygon(&turned(&[[-7.5, -2.5], [7.5, -2.5], [7.5, 2.5], [-7.5, 2.5]], 20.0)), 10.0, false))]
    fn torsion_constants_are_those_of_the_handbook(
        #[case] expected: f64,
        #[case] (fast, solved, most): (f64, f64, f64),
    ) {
        assert!(most > 0.995 * expected, "bound {most}, handbook {expected}");
        assert!(
            (solved / expected - 1.0).abs() < 0.01,
            "solved {solved}, handbook {expected}"
        );
        assert!(
            (fast / expected - 1.0).abs() < 0.13,
            "fast {fast}, handbook {expected}"
        );
    }

    /// The ring of 18 and 22 mm in diameter: sealed π/2 (R⁴ − r⁴) = 12,692 mm⁴ (Roark, table
    /// 10.1, from memory). Vented it is slit: the thin-film equation between two circles at
    /// p = 0 has the solution of the annular duct, J = π/2 (R⁴ − r⁴ − (R² − r²)² / ln(R/r)) =
    /// 168 mm⁴ (B. Bird, W. Stewart, E. Lightfoot, Transport Phenomena, §2.4, from memory).
    #[rstest]
    #[case::sealed(true, PI / 2.0 * (11f64.powi(4) - 9f64.powi(4)), 12_692.0)]
    #[case::vented(false, PI / 2.0 * (11f64.powi(4) - 9f64.powi(4) - 40f64.powi(2) / (11.0 / 9.0f64).ln()), 168.0)]
    fn a_ring_pulls_by_what_its_pocket_is(
        #[case] sealed: bool,
        #[case] formula: f64,
        #[case] handbook: f64,
    ) {
        assert!((formula - handbook).abs() < 0.5, "{formula}");
        let ring = |y: f64| match (disc(11.0, y), disc(9.0, y)) {
            (Some(o), Some(i)) => vec![[o[0], i[0]], [i[1], o[1]]],
            (Some(o), None) => vec![o],
            _ => Vec::new(),
        };
        let (fast, solved, most) = all(ring, 11.0, sealed);
        assert!(most > 0.995 * handbook, "bound {most}, handbook {handbook}");
        assert!(
            (solved / handbook - 1.0).abs() < 0.01,
            "solved {solved}, handbook {handbook}"
        );
        assert!(
            (fast / handbook - 1.0).abs() < 0.03,
            "fast {fast}, handbook {handbook}"
        );
    }

    /// Stefan's law, F ∝ R⁴: twice the diameter pulls 16 times; twice the area of one shape 4
    /// times; two equal pieces apart twice.
    #[test]
    fn double_diameter_is_sixteen_double_area_is_four_and_two_apart_are_two() {
        let of = |r: f64| all(move |y| disc(r, y).into_iter().collect(), 10.0, false).1;
        let one = of(4.0);
        assert!((of(8.0) / one - 16.0).abs() < 0.1);
        assert!((of(4.0 * 2f64.sqrt()) / one - 4.0).abs() < 0.05);
        let apart = |y: f64| match disc(4.0, y) {
            Some(r) => vec![[r[0] - 4.5, r[1] - 4.5], [r[0] + 4.5, r[1] + 4.5]],
            None => Vec::new(),
        };
        assert!((all(apart, 10.0, false).1 / one - 2.0).abs() < 0.02);
    }
}
