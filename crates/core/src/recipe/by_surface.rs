//! A design laid over a supported mesh whose triangles are others: by its surface.

use glam::{DMat3, DVec3};
use rustc_hash::FxHashMap;

use super::similarity::{Similarity, similarity};
use crate::mesh::Mesh;
use crate::watch::Watch;

/// Points on the surface of the supported mesh.
pub(super) const SAMPLES: usize = 60_000;
/// Points of the design that are laid over it: while it is looked for, and at the end.
const TRIED: [usize; 2] = [160, 3_000];
/// Turns about the vertical from which it is begun: parts keep their pose when they are supported.
const TURNS: usize = 36;
/// Share of the nearest pairs that are believed.
const BELIEVED: f64 = 0.8;
/// Steps of laying over: while it is looked for, and at the end.
const STEPS: [usize; 2] = [16, 90];
/// Points on the surface while it is looked for: far pairs are found in few cells.
const COARSE: usize = 5_000;
/// Cells in which the nearest point is looked for.
const REACH: i32 = 4;

/// A surface as points that are close together, by place.
pub(super) struct Surface {
    cells: FxHashMap<[i32; 3], Vec<DVec3>>,
    /// Side of a cell: no point of the surface is further from a sample, mm.
    pub(super) side: f64,
}

impl Surface {
    pub(super) fn of(mesh: &Mesh, samples: usize) -> Self {
        let faces: Vec<[DVec3; 3]> = mesh.faces().map(|f| f.map(DVec3::from_array)).collect();
        let area = |t: &[DVec3; 3]| (t[1] - t[0]).cross(t[2] - t[0]).length() / 2.0;
        let whole: f64 = faces.iter().map(area).sum();
        let side = (whole / samples.max(1) as f64).sqrt().max(1e-4) * 1.5;
        let mut cells: FxHashMap<[i32; 3], Vec<DVec3>> = FxHashMap::default();
        for face in &faces {
            for point in spread(face, side) {
                cells.entry(cell(point, side)).or_default().push(point);
            }
        }
        Self { cells, side }
    }

    /// The nearest sample within some cells.
    fn nearest(&self, at: DVec3, reach: i32) -> Option<DVec3> {
        let [x, y, z] = cell(at, self.side);
        let mut best: Option<(f64, DVec3)> = None;
        // Ring by ring: what is found within a ring is nearer than all beyond the next.
        for ring in 0..=reach {
            for dx in -ring..=ring {
                for dy in -ring..=ring {
                    for dz in -ring..=ring {
                        if dx.abs().max(dy.abs()).max(dz.abs()) != ring {
                            continue;
                        }
                        for p in self
                            .cells
                            .get(&[x + dx, y + dy, z + dz])
                            .into_iter()
                            .flatten()
                        {
                            let far = p.distance_squared(at);
                            if best.is_none_or(|b| far < b.0) {
                                best = Some((far, *p));
                            }
                        }
                    }
                }
            }
            let seen = f64::from(ring) * self.side;
            if best.is_some_and(|b| b.0 <= seen * seen) {
                break;
            }
        }
        best.map(|b| b.1)
    }

    /// A place lies on it, to the distance of two samples.
    pub(super) fn is_on(&self, at: DVec3) -> bool {
        let near = self.nearest(at, 1);
        near.is_some_and(|p| p.distance(at) <= self.side)
    }
}

fn cell(at: DVec3, side: f64) -> [i32; 3] {
    let c = (at / side).floor();
    [c.x as i32, c.y as i32, c.z as i32]
}

/// Points on a triangle, no further apart than a side.
fn spread([a, b, c]: &[DVec3; 3], side: f64) -> Vec<DVec3> {
    let longest = (*b - *a)
        .length()
        .max((*c - *b).length())
        .max((*a - *c).length());
    let many = ((longest / side).ceil() as usize).clamp(1, 2_000);
    let mut points = Vec::new();
    for i in 0..=many {
        for j in 0..=many - i {
            let (u, v) = (i as f64 / many as f64, j as f64 / many as f64);
            points.push(*a + (*b - *a) * u + (*c - *a) * v);
        }
    }
    points
}

/// The similarity under which most of the design lies on the supported mesh, with the share of it
/// that does.
///
/// Begun from turns about the vertical with the tops laid on each other, since supports reach no
/// higher than their part; then the nearest points are paired and laid over again and again (P. Besl,
/// N. McKay, IEEE Trans. Pattern Anal. 14, 1992; only the nearest pairs are believed: D. Chetverikov
/// et al., Image and Vision Computing 23, 2005; both from memory).
pub(super) fn by_surface(
    design: &Mesh,
    surface: &Surface,
    supported: &Mesh,
    watch: &dyn Watch,
) -> Option<(Similarity, f64)> {
    let [few, many] = TRIED.map(|n| on_surface(design, n));
    let (_, high) = supported.bounds();
    let top_of = |points: &[DVec3]| {
        let top = points.iter().map(|p| p.z).fold(f64::NEG_INFINITY, f64::max);
        let low = points.iter().map(|p| p.z).fold(f64::INFINITY, f64::min);
        let band: Vec<DVec3> = points
            .iter()
            .copied()
            .filter(|p| p.z >= top - 0.2 * (top - low))
            .collect();
        let many = band.len().max(1) as f64;
        (top, band.iter().sum::<DVec3>() / many)
    };
    let (_, low_high) = design.bounds();
    let (design_top, own) = top_of(&many);
    let height = low_high[2] - design.bounds().0[2];
    // Of the supported mesh only what the top of the design can be.
    let theirs: Vec<DVec3> = on_surface(supported, 20_000)
        .into_iter()
        .filter(|p| p.z >= high[2] - 0.2 * height)
        .collect();
    let middle = theirs.iter().sum::<DVec3>() / theirs.len().max(1) as f64;
    let coarse = Surface::of(supported, COARSE);
    let mut best: Option<(Similarity, f64)> = None;
    for turn in 0..TURNS {
        if watch.stopped() {
            return None;
        }
        let angle = turn as f64 / TURNS as f64 * std::f64::consts::TAU;
        let turn = DMat3::from_rotation_z(angle);
        let mut by = middle - turn * own;
        by.z = high[2] - design_top;
        let Some(found) = laid_over(&few, &coarse, (1.0, turn, by), STEPS[0]) else {
            continue;
        };
        let share = share_on(&few, &coarse, found);
        if best.is_none_or(|b| share > b.1) {
            best = Some((found, share));
        }
        if share > 0.97 {
            break;
        }
    }
    let (found, _) = best?;
    let found = laid_over(&many, surface, found, STEPS[1])?;
    Some((found, share_on(&many, surface, found)))
}

fn share_on(points: &[DVec3], surface: &Surface, (scale, turn, by): Similarity) -> f64 {
    let on = points
        .iter()
        .filter(|p| surface.is_on(turn * **p * scale + by));
    on.count() as f64 / points.len().max(1) as f64
}

fn laid_over(
    points: &[DVec3],
    surface: &Surface,
    begin: Similarity,
    steps: usize,
) -> Option<Similarity> {
    let mut now = begin;
    for _ in 0..steps {
        let (scale, turn, by) = now;
        let mut pairs: Vec<(f64, DVec3, DVec3)> = points
            .iter()
            .filter_map(|p| {
                let at = turn * *p * scale + by;
                let near = surface.nearest(at, REACH)?;
                Some((near.distance_squared(at), *p, near))
            })
            .collect();
        if pairs.len() * 2 < points.len() {
            return None;
        }
        pairs.sort_by(|a, b| a.0.total_cmp(&b.0));
        pairs.truncate((pairs.len() as f64 * BELIEVED) as usize);
        let pairs: Vec<(DVec3, DVec3)> = pairs.into_iter().map(|(_, p, q)| (p, q)).collect();
        now = similarity(&pairs)?;
    }
    // Another size altogether is another part.
    (0.5..=2.0).contains(&now.0).then_some(now)
}

/// About so many points spread over a surface.
fn on_surface(mesh: &Mesh, many: usize) -> Vec<DVec3> {
    let surface = Surface::of(mesh, many * 3);
    let mut all: Vec<DVec3> = surface.cells.into_values().flatten().collect();
    // By place, so that it is the same every time.
    all.sort_by(|a, b| {
        a.z.total_cmp(&b.z)
            .then(a.x.total_cmp(&b.x))
            .then(a.y.total_cmp(&b.y))
    });
    let step = (all.len() / many).max(1);
    all.into_iter().step_by(step).collect()
}
