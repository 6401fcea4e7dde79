//! Orientations of the schools, and what divides them.

use super::directions::{distance, sphere};
use super::score::Origin;
use crate::layers::measure_stack;
use crate::mesh::{Mesh, Solid};
use crate::pose::{BACK_DEG, Pose};
use crate::units::LayerHeight;
use crate::watch::Watch;

/// The candidates of the schools: upright, tilted, head down, on the side, flats.
#[must_use]
pub fn of_schools(solid: &Solid) -> Vec<(Pose, Origin)> {
    let mut poses = vec![
        (Pose::AS_IMPORTED, Origin::Imported),
        (Pose::new(5.0, BACK_DEG), Origin::Upright),
        (Pose::new(7.5, BACK_DEG), Origin::Upright),
        (Pose::new(10.0, BACK_DEG), Origin::Upright),
        (Pose::new(30.0, BACK_DEG), Origin::Tilted),
        (Pose::new(45.0, BACK_DEG), Origin::Tilted),
        (Pose::new(180.0, 0.0), Origin::HeadDown),
        (Pose::new(90.0, BACK_DEG), Origin::OnSide),
        (Pose::new(90.0, 0.0), Origin::OnSide),
    ];
    // As the file stands, even where it could lie on something larger.
    if rests_on(solid, [0.0, 0.0, -1.0]) >= FLAT_SHARE {
        poses.push((Pose::AS_IMPORTED, Origin::FlatDown));
    }
    if let Some(flat) = largest_flat(solid) {
        let down = flat.map(|c| -c);
        poses.push((Pose::with_up(down), Origin::FlatDown));
        // Toward the upper end of the file, or its back where the flat is the sole.
        let toward = if flat[2].abs() > 0.9 {
            [0.0, 1.0, 0.0]
        } else {
            [0.0, 0.0, 1.0]
        };
        let along: f64 = (0..3).map(|k| toward[k] * flat[k]).sum();
        let side: [f64; 3] = std::array::from_fn(|k| toward[k] - along * flat[k]);
        let length = distance(side, [0.0; 3]);
        for degrees in [20.0_f64, 45.0, 70.0] {
            let (sin, cos) = degrees.to_radians().sin_cos();
            let up = std::array::from_fn(|k| down[k] * cos + side[k] / length * sin);
            poses.push((Pose::with_up(up), Origin::FlatTurned));
        }
    }
    poses
}

/// Share of the surface that makes a flat.
const FLAT_SHARE: f64 = 0.1;

/// Share of the surface a part rests on when it is laid down in a direction: what is within 3° of
/// level there, and not above anything else.
fn rests_on(solid: &Solid, direction: [f64; 3]) -> f64 {
    let along = |p: [f64; 3]| (0..3).map(|k| p[k] * direction[k]).sum::<f64>();
    let corners = || solid.faces().flatten().map(|c| along(c.map(f64::from)));
    let furthest = corners().fold(f64::NEG_INFINITY, f64::max);
    let nearest = corners().fold(f64::INFINITY, f64::min);
    let ground = furthest - (furthest - nearest) / 100.0;
    let level = 3f64.to_radians().cos();
    let (mut flat, mut whole) = (0.0, 0.0);
    for (area, normal, at) in solid.normals() {
        whole += area;
        if along(normal) > level && along(at) >= ground {
            flat += area;
        }
    }
    if whole > 0.0 { flat / whole } else { 0.0 }
}

/// Directions that are looked at closely: those most of the surface faces.
const CLOSELY: usize = 6;

/// Direction of the largest flat that a part can lie on: a tenth of the surface at least.
fn largest_flat(solid: &Solid) -> Option<[f64; 3]> {
    let directions = sphere(600);
    let mut area = vec![0.0; directions.len()];
    let dot = |a: &[f64; 3], b: &[f64; 3]| a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    let near = |n: &[f64; 3]| {
        let nearer =
            |a: &usize, b: &usize| dot(&directions[*a], n).total_cmp(&dot(&directions[*b], n));
        (0..directions.len()).max_by(nearer)
    };
    let faces: Vec<(f64, [f64; 3], [f64; 3])> = solid.normals().collect();
    // Many faces are looked at in samples: the sum needs no more.
    let step = faces.len().div_ceil(20_000).max(1);
    for (a, n, _) in faces.iter().step_by(step) {
        if let Some(at) = near(n) {
            area[at] += a;
        }
    }
    let mut order: Vec<usize> = (0..area.len()).collect();
    order.sort_by(|a, b| area[*b].total_cmp(&area[*a]).then(a.cmp(b)));
    let cos = 8f64.to_radians().cos();
    let flats = order.into_iter().take(CLOSELY).map(|rough| {
        let mut sum = [0.0; 3];
        for (a, n, _) in &faces {
            if dot(n, &directions[rough]) > cos {
                sum = std::array::from_fn(|k| sum[k] + a * n[k]);
            }
        }
        let length = distance(sum, [0.0; 3]);
        let flat = sum.map(|c| c / length.max(1e-12));
        (rests_on(solid, flat), flat)
    });
    // The first of several as large.
    let best = flats.reduce(|a, b| if b.0 > a.0 { b } else { a })?;
    (best.0 >= FLAT_SHARE).then_some(best.1)
}

/// Height of a base joined to a figure, mm: common practice, no source.
const BASE_MM: f64 = 3.0;

/// A round base under a figure's sole, of this diameter, mm, sunk in a little.
#[must_use]
pub fn base_under(figure: &Mesh, diameter_mm: f64) -> Mesh {
    const SIDES: usize = 64;
    let (low, high) = figure.bounds();
    let middle = [0, 1].map(|k| (low[k] + high[k]) / 2.0);
    let (top, bottom) = (low[2] + 0.3, low[2] + 0.3 - BASE_MM);
    let rim = |i: usize, z: f64| {
        let (sin, cos) = (i as f64 / SIDES as f64 * std::f64::consts::TAU).sin_cos();
        let r = diameter_mm / 2.0;
        [
            (middle[0] + r * cos) as f32,
            (middle[1] + r * sin) as f32,
            z as f32,
        ]
    };
    let hub = |z: f64| [middle[0] as f32, middle[1] as f32, z as f32];
    Mesh::weld((0..SIDES).flat_map(|i| {
        let j = (i + 1) % SIDES;
        let (a, b, c, d) = (rim(i, bottom), rim(j, bottom), rim(j, top), rim(i, top));
        [[a, b, c], [a, c, d], [hub(bottom), b, a], [hub(top), d, c]]
    }))
}

/// Hardest pull of a part leaning back by 5° and by 45°, layer by layer: the two schools of
/// standing figures. Nothing when the watch says stop.
#[must_use]
pub fn tilted_pulls(mesh: &Mesh, watch: &dyn Watch) -> Option<[f64; 2]> {
    let solid = Solid::new(mesh);
    let pull = |degrees: f64| {
        let posed = solid.posed(Pose::new(degrees, BACK_DEG));
        measure_stack(&posed, LayerHeight::USUAL, 1.0, watch).map(|s| s.peak_pull().1)
    };
    Some([pull(5.0)?, pull(45.0)?])
}
