//! Mesh files in and out, and what is read straight off the triangles.

mod drawn_unit;
mod facts;
mod faults;
mod read;
mod read_3mf;
mod read_error;
mod read_obj;
mod read_stl;
mod read_stl_text;
mod seams;
mod solid;
mod topology;
mod write_3mf;
mod write_plate;
mod write_stl;

pub use drawn_unit::{DrawnUnit, UnitDoubt, guess_unit};
pub use facts::MeshFacts;
pub use read::{Format, check_head, format_of, read_mesh, read_watched};
use read_3mf::read_3mf;
pub use read_error::{MAX_TRIANGLES, ReadError};
use read_obj::read_obj;
use read_stl::read_stl;
pub use solid::{Solid, measure_mesh};
pub use write_3mf::{WriteError, write_3mf};
pub use write_plate::{Arranged, ArrangedCopy, MOST_STL_TRIANGLES, PlateError};
pub use write_stl::write_stl;

use glam::DVec3;
use rustc_hash::FxHashMap;

use crate::pose::Pose;

/// A triangle mesh with shared corners.
///
/// # Units
/// mm, z up, as the file has them.
///
/// # Shape
/// Every index of `triangles` is below `corners.len()`; corners are finite; the three corners of
/// a triangle differ. Outward faces wind counter-clockwise, as far as the file is right.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Mesh {
    corners: Vec<[f32; 3]>,
    triangles: Vec<[u32; 3]>,
    dropped: u64,
    /// What should be said of the file beside its mesh.
    remark: Option<&'static str>,
}

impl Mesh {
    /// Welds equal corners of loose triangles; drops those with NaN or infinite corners or
    /// without area, and counts them.
    #[must_use]
    pub fn weld(loose: impl IntoIterator<Item = [[f32; 3]; 3]>) -> Self {
        let mut mesh = Self::default();
        let mut seen: FxHashMap<[u32; 3], u32> = FxHashMap::default();
        for triangle in loose {
            if triangle.iter().flatten().any(|c| !c.is_finite()) {
                mesh.dropped += 1;
                continue;
            }
            // Adding zero turns -0.0 into 0.0, so that the two weld.
            let indices = triangle.map(|corner| {
                let corner = corner.map(|c| c + 0.0);
                *seen.entry(corner.map(f32::to_bits)).or_insert_with(|| {
                    mesh.corners.push(corner);
                    (mesh.corners.len() - 1) as u32
                })
            });
            let [a, b, c] = indices;
            if a == b || b == c || c == a || has_no_area(triangle) {
                mesh.dropped += 1;
            } else {
                mesh.triangles.push(indices);
            }
        }
        mesh
    }

    /// Grown or shrunk about the origin.
    #[must_use]
    pub fn scaled(&self, factor: f64) -> Self {
        self.mapped(|c| c * factor)
    }

    /// As it hangs at a scale: grown about the origin, then turned.
    #[must_use]
    pub fn posed(&self, pose: Pose, scale: f64) -> Self {
        let turn = pose.matrix() * scale;
        self.mapped(|c| turn * c)
    }

    /// Every corner carried elsewhere.
    #[must_use]
    pub fn mapped(&self, carry: impl Fn(DVec3) -> DVec3) -> Self {
        let corner = |c: &[f32; 3]| {
            carry(DVec3::from_array(c.map(f64::from)))
                .as_vec3()
                .to_array()
        };
        Self {
            corners: self.corners.iter().map(corner).collect(),
            triangles: self.triangles.clone(),
            dropped: self.dropped,
            remark: self.remark,
        }
    }

    /// Everything shifted.
    #[must_use]
    pub fn shifted(&self, by: [f64; 3]) -> Self {
        self.mapped(|c| c + DVec3::from_array(by))
    }

    /// The triangles that hold, with all corners.
    #[must_use]
    pub fn only(&self, holds: impl Fn([[f64; 3]; 3]) -> bool) -> Self {
        let face = |t: &[u32; 3]| t.map(|i| self.corners[i as usize].map(f64::from));
        let kept = self.triangles.iter().filter(|t| holds(face(t)));
        Self {
            triangles: kept.copied().collect(),
            ..self.clone()
        }
    }

    /// This one and another beside or in it.
    #[must_use]
    pub fn with(&self, other: &Self) -> Self {
        let shift = self.corners.len() as u32;
        let moved = other.triangles.iter().map(|t| t.map(|i| i + shift));
        Self {
            corners: self.corners.iter().chain(&other.corners).copied().collect(),
            triangles: self.triangles.iter().copied().chain(moved).collect(),
            dropped: self.dropped + other.dropped,
            remark: self.remark.or(other.remark),
        }
    }

    /// The corners, each once.
    #[must_use]
    pub fn corners(&self) -> &[[f32; 3]] {
        &self.corners
    }

    /// Indices into the corners.
    #[must_use]
    pub fn triangles(&self) -> &[[u32; 3]] {
        &self.triangles
    }

    /// What should be said of the file beside its mesh.
    #[must_use]
    pub fn remark(&self) -> Option<&'static str> {
        self.remark
    }

    /// How many triangles of the file were no triangles.
    #[must_use]
    pub fn dropped(&self) -> u64 {
        self.dropped
    }

    /// The three corners of every triangle, in mm.
    pub fn faces(&self) -> impl Iterator<Item = [[f64; 3]; 3]> + '_ {
        self.triangles
            .iter()
            .map(|t| t.map(|i| self.corners[i as usize].map(f64::from)))
    }

    /// Lowest and highest corner of the upright box around the mesh; zeros when it is empty.
    #[must_use]
    pub fn bounds(&self) -> ([f64; 3], [f64; 3]) {
        let mut used = self.faces().flatten().peekable();
        let Some(first) = used.peek().copied() else {
            return ([0.0; 3], [0.0; 3]);
        };
        used.fold((first, first), |(low, high), c| {
            (
                std::array::from_fn(|k| low[k].min(c[k])),
                std::array::from_fn(|k| high[k].max(c[k])),
            )
        })
    }
}

/// The three corners lie on one line, as far as f64 can tell.
fn has_no_area(triangle: [[f32; 3]; 3]) -> bool {
    let [a, b, c] = triangle.map(|corner| corner.map(f64::from));
    let ab: [f64; 3] = std::array::from_fn(|k| b[k] - a[k]);
    let ac: [f64; 3] = std::array::from_fn(|k| c[k] - a[k]);
    let cross = facts::cross(ab, ac);
    facts::length(cross) <= 1e-12 * (facts::dot(ab, ab) + facts::dot(ac, ac))
}
