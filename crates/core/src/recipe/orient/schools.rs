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
    // Before the largest flat: a base is larger above than below, and yet stands on its sole.
    if has_flat_sole(solid) {
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

/// The file stands on a flat: a tenth of the surface at least within 3° of level, at its bottom.
fn has_flat_sole(solid: &Solid) -> bool {
    let level = 3f64.to_radians().cos();
    let bottom = solid.facts.low_mm[2] + solid.facts.size_mm()[2] / 100.0;
    let (mut sole, mut whole) = (0.0, 0.0);
    for (area, normal, at) in solid.normals() {
        whole += area;
        if normal[2] < -level && at[2] <= bottom {
            sole += area;
        }
    }
    whole > 0.0 && sole >= FLAT_SHARE * whole
}

/// Direction of the largest flat: a tenth of the surface at least within 3°.
fn largest_flat(solid: &Solid) -> Option<[f64; 3]> {
    let directions = sphere(600);
    let mut area = vec![0.0; directions.len()];
    let mut all = 0.0;
    let near = |n: &[f64; 3]| {
        let dot = |d: &[f64; 3]| d[0] * n[0] + d[1] * n[1] + d[2] * n[2];
        (0..directions.len()).max_by(|a, b| dot(&directions[*a]).total_cmp(&dot(&directions[*b])))
    };
    let faces: Vec<(f64, [f64; 3], [f64; 3])> = solid.normals().collect();
    // Many faces are looked at in samples: the sum needs no more.
    let step = faces.len().div_ceil(20_000).max(1);
    for (a, n, _) in faces.iter().step_by(step) {
        all += a;
        if let Some(at) = near(n) {
            area[at] += a;
        }
    }
    let best = (0..area.len()).max_by(|a, b| area[*a].total_cmp(&area[*b]))?;
    let rough = directions[best];
    let cos = 8f64.to_radians().cos();
    let mut sum = [0.0; 3];
    for (a, n, _) in &faces {
        if n[0] * rough[0] + n[1] * rough[1] + n[2] * rough[2] > cos {
            sum = std::array::from_fn(|k| sum[k] + a * n[k]);
        }
    }
    let length = distance(sum, [0.0; 3]);
    let flat = sum.map(|c| c / length.max(1e-12));
    let level = 3f64.to_radians().cos();
    let share: f64 = faces
        .iter()
        .filter(|(_, n, _)| n[0] * flat[0] + n[1] * flat[1] + n[2] * flat[2] > level)
        .map(|(a, ..)| a)
        .sum();
    let whole: f64 = faces.iter().map(|(a, ..)| a).sum();
    (all > 0.0 && share >= FLAT_SHARE * whole).then_some(flat)
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
