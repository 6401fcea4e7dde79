//! Directions spread over a sphere, and how far apart they are.

/// Directions spread evenly over the sphere (the golden-angle spiral; R. Swinbank, R. Purser,
/// Q. J. R. Meteorol. Soc. 132, 2006, from memory).
#[must_use]
pub fn sphere(many: usize) -> Vec<[f64; 3]> {
    let golden = std::f64::consts::PI * (3.0 - 5f64.sqrt());
    (0..many)
        .map(|i| {
            let z = 1.0 - (2.0 * i as f64 + 1.0) / many as f64;
            let (sin, cos) = (golden * i as f64).sin_cos();
            let r = (1.0 - z * z).max(0.0).sqrt();
            [r * cos, r * sin, z]
        })
        .collect()
}

pub(super) fn distance(a: [f64; 3], b: [f64; 3]) -> f64 {
    (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt()
}
