//! Moved, turned and scaled: what carries points to points.

use glam::{DMat3, DVec3};

/// Factor, rotation and shift that carry one shape to another.
pub(super) type Similarity = (f64, DMat3, DVec3);

/// The similarity that carries points to points best (S. Umeyama, IEEE Trans. Pattern Anal. 13,
/// 1991, from memory; the rotation as the polar factor of the covariance by N. Higham's
/// iteration, SIAM J. Sci. Stat. Comput. 7, 1986, from memory).
pub(super) fn similarity(pairs: &[(DVec3, DVec3)]) -> Option<(f64, DMat3, DVec3)> {
    let many = pairs.len() as f64;
    let mean = |f: fn(&(DVec3, DVec3)) -> DVec3| pairs.iter().map(f).sum::<DVec3>() / many;
    let (a, b) = (mean(|p| p.0), mean(|p| p.1));
    let (mut covariance, mut spread) = (DMat3::ZERO, 0.0);
    for (p, q) in pairs {
        let (u, v) = (*p - a, *q - b);
        covariance += DMat3::from_cols(v * u.x, v * u.y, v * u.z);
        spread += u.length_squared();
    }
    // Three points lie in a plane: the normals give the third direction.
    if pairs.len() == 3 {
        let normal = |f: fn(&(DVec3, DVec3)) -> DVec3| {
            let [p, q, r] = [f(&pairs[0]), f(&pairs[1]), f(&pairs[2])];
            (q - p).cross(r - p).normalize_or_zero()
        };
        let (n, m) = (normal(|p| p.0), normal(|p| p.1));
        let weight = spread / 2.0;
        covariance += DMat3::from_cols(m * n.x, m * n.y, m * n.z) * weight;
    }
    let mut turn = covariance;
    for _ in 0..60 {
        if turn.determinant().abs() < 1e-30 {
            return None;
        }
        let inverse = turn.inverse().transpose();
        // Scaled so that it converges at once from any size.
        let size = (norm(&inverse) / norm(&turn)).sqrt();
        let next = (turn * size + inverse * (1.0 / size)) * 0.5;
        let moved = norm(&(next - turn));
        turn = next;
        if moved < 1e-12 {
            break;
        }
    }
    if turn.determinant() < 0.0 {
        return None;
    }
    let along: f64 = pairs
        .iter()
        .map(|(p, q)| (turn * (*p - a)).dot(*q - b))
        .sum();
    let scale = along / spread;
    (scale.is_finite() && scale > 0.0).then(|| (scale, turn, b - turn * a * scale))
}

fn norm(m: &DMat3) -> f64 {
    m.to_cols_array().iter().map(|x| x * x).sum::<f64>().sqrt()
}
