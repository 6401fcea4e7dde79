//! The solid of columns and raft: closed pieces sunk into each other.

use glam::DVec3;

use super::{RAFT_MM, RAFT_RIM_MM, SupportStyle, TIP_LENGTH_MM};
use crate::geometry::{Point, convex_hull};
use crate::mesh::Mesh;

/// Sides of a column.
const SIDES: usize = 10;
/// By how much each column is turned against the one before, in radians: the golden angle. Columns that
/// end in one foot would have all its corners in common otherwise, and edges of four faces.
const TURN: f64 = 2.399_963;
/// How far a tip reaches into the part, mm.
const SUNK_MM: f64 = 0.1;
/// How far a column begins within its cone, mm.
const OVERLAP_MM: f64 = 0.05;

/// Pieces of one column.
struct Pieces<'a> {
    faces: &'a mut Vec<[[f32; 3]; 3]>,
    /// Where its first corner lies, in radians.
    turned: f64,
}

impl Pieces<'_> {
    /// Triangles of a closed frustum between two points. With `flat` its end lies level, as a foot on
    /// the plate does, whichever way the column leans.
    fn frustum(&mut self, (a, ra): (DVec3, f64), (b, rb): (DVec3, f64), flat: bool) {
        let along = (b - a).normalize_or_zero();
        if along == DVec3::ZERO {
            return;
        }
        let u = along.any_orthonormal_vector();
        let v = along.cross(u);
        let ring = |at: DVec3, r: f64, i: usize| {
            let angle = i as f64 / SIDES as f64 * std::f64::consts::TAU;
            let (sin, cos) = (angle + self.turned).sin_cos();
            let out = (u * cos + v * sin) * r;
            let out = if flat && at == b {
                // Along the column down to the level of its end.
                out - along * (out.z / along.z)
            } else {
                out
            };
            (at + out).as_vec3().to_array()
        };
        let (a0, b0) = (a.as_vec3().to_array(), b.as_vec3().to_array());
        for i in 0..SIDES {
            let j = (i + 1) % SIDES;
            let (p, q, r, s) = (
                ring(a, ra, i),
                ring(a, ra, j),
                ring(b, rb, j),
                ring(b, rb, i),
            );
            self.faces
                .extend([[p, q, r], [p, r, s], [a0, q, p], [b0, s, r]]);
        }
    }
}

/// A column along its way from the contact to its foot, with a tip at the contact, and at the
/// foot too where it stands on the part; `index` tells it from the others.
pub(super) fn column(
    faces: &mut Vec<[[f32; 3]; 3]>,
    index: usize,
    way: &[[f64; 3]],
    on_part: bool,
    style: &SupportStyle,
) {
    let (thick, tip) = (style.column_mm() / 2.0, style.tip_mm / 2.0);
    let mut pieces = Pieces {
        faces,
        turned: index as f64 * TURN,
    };
    let points: Vec<DVec3> = way.iter().map(|p| DVec3::from_array(*p)).collect();
    let [first, second, ..] = points[..] else {
        return;
    };
    let toward = (second - first).normalize_or_zero();
    let neck = if on_part {
        (second - first).length() / 2.0
    } else {
        (second - first).length()
    };
    // Close above the plate the cone itself is the foot.
    let is_short = !on_part && points.len() == 2 && neck < TIP_LENGTH_MM + 2.0 * thick;
    let length = if is_short {
        neck
    } else {
        TIP_LENGTH_MM.min(neck)
    };
    // The cone widens to the column; where it is short the rest follows at full width.
    let cone_end = first + toward * length;
    pieces.frustum((first - toward * SUNK_MM, tip), (cone_end, thick), is_short);
    if is_short {
        return;
    }
    if on_part {
        pieces.frustum(
            (second + toward * SUNK_MM, tip),
            (second - toward * length, thick),
            false,
        );
        if (second - first).length() > 2.0 * length + 1e-6 {
            pieces.frustum(
                (cone_end - toward * OVERLAP_MM, thick),
                (second - toward * (length - OVERLAP_MM), thick),
                false,
            );
        }
        return;
    }
    let mut from = cone_end - toward * OVERLAP_MM;
    for (index, to) in points.iter().enumerate().skip(1) {
        let is_foot = index + 1 == points.len();
        let along = (*to - from).normalize_or_zero();
        // Half its width further, so that bends stay whole; a foot ends on the plate.
        let further = if is_foot { 0.0 } else { thick * 0.5 };
        pieces.frustum((from, thick), (*to + along * further, thick), is_foot);
        from = *to - along * thick * 0.5;
    }
}

/// The raft under some feet, and its corners.
pub(super) fn raft(
    faces: &mut Vec<[[f32; 3]; 3]>,
    feet: &[Point],
    style: &SupportStyle,
) -> Vec<Point> {
    let reach = style.column_mm() / 2.0 + RAFT_RIM_MM;
    let round: Vec<Point> = feet
        .iter()
        .flat_map(|f| {
            (0..12).map(move |i| {
                let (sin, cos) = (f64::from(i) / 12.0 * std::f64::consts::TAU).sin_cos();
                [f[0] + reach * cos, f[1] + reach * sin]
            })
        })
        .collect();
    let hull = convex_hull(&round);
    let corner = |p: Point, z: f64| [p[0] as f32, p[1] as f32, z as f32];
    let many = hull.len();
    for i in 0..many {
        let (a, b) = (hull[i], hull[(i + 1) % many]);
        let (low_a, low_b) = (corner(a, 0.0), corner(b, 0.0));
        let (top_a, top_b) = (corner(a, RAFT_MM), corner(b, RAFT_MM));
        faces.extend([[low_a, low_b, top_b], [low_a, top_b, top_a]]);
        if i >= 1 && i + 1 < many {
            faces.push([corner(hull[0], 0.0), low_b, low_a]);
            faces.push([corner(hull[0], RAFT_MM), top_a, top_b]);
        }
    }
    hull
}

/// Loose triangles as a mesh.
pub(super) fn solid_of(faces: Vec<[[f32; 3]; 3]>) -> Mesh {
    Mesh::weld(faces)
}
