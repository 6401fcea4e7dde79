//! From the triangles of a file to something that has an inside: holes closed, shells outward.

use std::sync::Arc;

use glam::DVec3;
use rustc_hash::FxHashMap;

use super::facts::{cross, dot};
use super::seams::{Joined, join_seams};
use super::topology::{Topology, rings, turn_by_neighbours};
use super::{Mesh, MeshFacts, facts};
use crate::pose::Pose;

/// A mesh made ready for its layers.
#[derive(Debug, Clone)]
pub struct Solid {
    /// What the file itself is.
    pub facts: MeshFacts,
    corners: Vec<[f32; 3]>,
    triangles: Arc<[[u32; 3]]>,
    /// Every corner belongs to a triangle.
    all_used: bool,
}

/// One shell.
#[derive(Debug, Clone, Copy, Default)]
struct Shell {
    volume: f64,
    low: [f64; 3],
    high: [f64; 3],
    faces: u64,
    first: u32,
}

/// Tests of corners against triangles that are done at most, for shells that face inward.
const MOST_TESTS: usize = 400_000_000;
/// Corners of a shell that are tested.
const SAMPLES: usize = 9;

impl Solid {
    /// Joins seams that are open by a hair, turns triangles that face another way than their
    /// neighbours, closes rings of open edges with a fan, and turns outward every shell that faces
    /// inward without lying inside another. What lies inside and faces inward stays: it is a
    /// hollow.
    #[must_use]
    pub fn new(mesh: &Mesh) -> Self {
        let topology = Topology::of(mesh);
        let mut facts = facts::of_file(mesh);
        let open_before_mm = facts::open_edge_mm(mesh, &topology);
        let Joined {
            mut mesh,
            mut topology,
            widest,
        } = join_seams(mesh.clone(), topology);
        facts.open_edge_mm = facts::open_edge_mm(&mesh, &topology);
        facts.joined_edge_mm = if widest > 0.0 {
            (open_before_mm - facts.open_edge_mm).max(0.0)
        } else {
            0.0
        };
        facts.widest_seam_mm = widest;
        if topology.twisted > 0 {
            facts.turned = turn_by_neighbours(&mut mesh);
            topology = Topology::of(&mesh);
        }
        facts.shells = topology.shells;
        let Mesh {
            mut corners,
            mut triangles,
            ..
        } = mesh;
        let mut shell_of = topology.shell_of.clone();
        for ring in rings(&topology) {
            let edges: Vec<[u32; 2]> = ring.iter().map(|e| topology.open[*e]).collect();
            let middle: [f64; 3] = std::array::from_fn(|k| {
                let sum: f64 = edges
                    .iter()
                    .map(|e| f64::from(corners[e[0] as usize][k]))
                    .sum();
                sum / edges.len() as f64
            });
            let tip = corners.len() as u32;
            corners.push(middle.map(|c| c as f32));
            let shell = topology.shell_of[topology.open_at[ring[0]] as usize];
            for [a, b] in edges {
                triangles.push([a, b, tip]);
                shell_of.push(shell);
            }
        }
        let shells = measure_shells(&corners, &triangles, &shell_of, topology.shells);
        let mut solid = Self {
            facts,
            corners,
            triangles: triangles.into(),
            all_used: false,
        };
        let hollow = solid.hollows(&shells, &shell_of);
        solid.facts.inner_shells = hollow.iter().filter(|h| **h).count() as u32;
        let inward = |i: usize| shells[i].volume < 0.0 && !hollow[i];
        solid.facts.inverted_shells = (0..shells.len()).filter(|i| inward(*i)).count() as u32;
        solid.facts.volume_mm3 = (0..shells.len())
            .map(|i| {
                if inward(i) {
                    -shells[i].volume
                } else {
                    shells[i].volume
                }
            })
            .sum();
        if (0..shells.len()).any(inward) {
            let turned = solid.triangles.iter().zip(&shell_of).map(|(face, shell)| {
                let [a, b, c] = *face;
                if inward(*shell as usize) {
                    [a, c, b]
                } else {
                    [a, b, c]
                }
            });
            solid.triangles = turned.collect();
        }
        solid
    }

    /// As it hangs: turned about the origin, its box measured again.
    #[must_use]
    pub fn posed(&self, pose: Pose) -> Self {
        let turn = pose.matrix();
        let corners: Vec<[f32; 3]> = self
            .corners
            .iter()
            .map(|c| {
                (turn * DVec3::from_array(c.map(f64::from)))
                    .as_vec3()
                    .to_array()
            })
            .collect();
        let mut facts = self.facts.clone();
        (facts.low_mm, facts.high_mm) = if self.all_used {
            bounds(corners.iter())
        } else {
            bounds(
                self.triangles
                    .iter()
                    .flatten()
                    .map(|i| &corners[*i as usize]),
            )
        };
        Self {
            facts,
            corners,
            triangles: self.triangles.clone(),
            all_used: self.all_used,
        }
    }

    /// Corners that share a cube become one at their mean; what loses its area goes. A closed
    /// surface stays closed (J. Rossignac, P. Borrel, Geometric Modeling in Computer Graphics,
    /// 1993, from memory), so insides stay insides.
    #[must_use]
    pub fn clustered(&self, side_mm: f64) -> Self {
        let mut cubes: FxHashMap<[i32; 3], u32> = FxHashMap::default();
        let mut sums: Vec<(DVec3, f64)> = Vec::new();
        let mut of = vec![u32::MAX; self.corners.len()];
        let mut triangles = Vec::new();
        for triangle in self.triangles.iter() {
            let [a, b, c] = triangle.map(|i| {
                if of[i as usize] == u32::MAX {
                    let at = DVec3::from_array(self.corners[i as usize].map(f64::from));
                    let cube = (at / side_mm).floor().as_ivec3().to_array();
                    let mine = *cubes.entry(cube).or_insert_with(|| {
                        sums.push((DVec3::ZERO, 0.0));
                        sums.len() as u32 - 1
                    });
                    let sum = &mut sums[mine as usize];
                    *sum = (sum.0 + at, sum.1 + 1.0);
                    of[i as usize] = mine;
                }
                of[i as usize]
            });
            if a != b && b != c && c != a {
                triangles.push([a, b, c]);
            }
        }
        Self {
            facts: self.facts.clone(),
            corners: sums
                .iter()
                .map(|(sum, n)| (*sum / *n).as_vec3().to_array())
                .collect(),
            triangles: triangles.into(),
            all_used: true,
        }
    }

    /// The corners of every triangle.
    pub(crate) fn faces(&self) -> impl ExactSizeIterator<Item = [[f32; 3]; 3]> + '_ {
        self.triangles
            .iter()
            .map(|t| t.map(|i| self.corners[i as usize]))
    }

    /// Area, unit normal and middle of every triangle, mm.
    pub(crate) fn normals(&self) -> impl Iterator<Item = (f64, [f64; 3], [f64; 3])> + '_ {
        self.faces().filter_map(|face| {
            let [a, b, c] = face.map(|p| DVec3::from_array(p.map(f64::from)));
            let normal = (b - a).cross(c - a);
            let length = normal.length();
            (length > 0.0).then(|| {
                let middle = (a + b + c) / 3.0;
                (
                    length / 2.0,
                    (normal / length).to_array(),
                    middle.to_array(),
                )
            })
        })
    }

    /// The corners of one triangle.
    pub(crate) fn face(&self, index: u32) -> [[f32; 3]; 3] {
        self.triangles[index as usize].map(|i| self.corners[i as usize])
    }

    /// Which shells face inward and lie inside the solid of the others.
    fn hollows(&self, shells: &[Shell], shell_of: &[u32]) -> Vec<bool> {
        let within = |inner: &Shell, outer: &Shell| {
            (0..3).all(|k| outer.low[k] <= inner.low[k] && inner.high[k] <= outer.high[k])
        };
        let outer: Vec<&Shell> = shells.iter().filter(|o| o.volume > 0.0).collect();
        let mut tests = 0;
        shells
            .iter()
            .enumerate()
            .map(|(index, shell)| {
                if shell.volume >= 0.0 || tests > MOST_TESTS {
                    return false;
                }
                tests += outer.len();
                let boxed = outer.iter().any(|o| within(shell, o));
                if !boxed {
                    return false;
                }
                tests += self.triangles.len() * SAMPLES;
                tests > MOST_TESTS || self.is_inside(index as u32, shells, shell_of)
            })
            .collect()
    }

    /// Every sampled corner of a shell is inside the shells that face outward.
    fn is_inside(&self, shell: u32, shells: &[Shell], shell_of: &[u32]) -> bool {
        let own: Vec<u32> = (0..self.triangles.len() as u32)
            .filter(|i| shell_of[*i as usize] == shell)
            .collect();
        let step = (own.len() / SAMPLES).max(1);
        own.iter().step_by(step).take(SAMPLES).all(|face| {
            let [a, b, c] = self.face(*face).map(|c| c.map(f64::from));
            let at: [f64; 3] = std::array::from_fn(|k| (a[k] + b[k] + c[k]) / 3.0);
            let mut winding = 0;
            for (other, of) in self.faces().zip(shell_of) {
                if *of != shell && shells[*of as usize].volume > 0.0 {
                    winding += crossing_above(other, at);
                }
            }
            winding != 0
        })
    }
}

fn bounds<'a>(corners: impl Iterator<Item = &'a [f32; 3]>) -> ([f64; 3], [f64; 3]) {
    let start = ([f32::INFINITY; 3], [f32::NEG_INFINITY; 3]);
    let (low, high) = corners.fold(start, |(low, high), c| {
        (
            std::array::from_fn(|k| low[k].min(c[k])),
            std::array::from_fn(|k| high[k].max(c[k])),
        )
    });
    (low.map(f64::from), high.map(f64::from))
}

fn measure_shells(
    corners: &[[f32; 3]],
    triangles: &[[u32; 3]],
    shell_of: &[u32],
    many: u32,
) -> Vec<Shell> {
    let mut shells = vec![Shell::default(); many as usize];
    for (index, (t, of)) in triangles.iter().zip(shell_of).enumerate() {
        let shell = &mut shells[*of as usize];
        let face = t.map(|i| corners[i as usize].map(f64::from));
        if shell.faces == 0 {
            (shell.low, shell.high, shell.first) = (face[0], face[0], index as u32);
        }
        shell.faces += 1;
        // Against a corner of the shell itself: far from the origin nothing cancels.
        let origin = corners[triangles[shell.first as usize][0] as usize].map(f64::from);
        let at: [[f64; 3]; 3] = face.map(|c| std::array::from_fn(|k| c[k] - origin[k]));
        shell.volume += dot(at[0], cross(at[1], at[2])) / 6.0;
        for corner in face {
            shell.low = std::array::from_fn(|k| shell.low[k].min(corner[k]));
            shell.high = std::array::from_fn(|k| shell.high[k].max(corner[k]));
        }
    }
    shells
}

/// 1 when the vertical upward from a point leaves through a triangle, −1 when it enters, else 0.
fn crossing_above(face: [[f32; 3]; 3], at: [f64; 3]) -> i32 {
    let [a, b, c] = face.map(|p| p.map(f64::from));
    if a[2].max(b[2]).max(c[2]) <= at[2] {
        return 0;
    }
    let side =
        |p: [f64; 3], q: [f64; 3]| (q[0] - p[0]) * (at[1] - p[1]) - (q[1] - p[1]) * (at[0] - p[0]);
    let (u, v, w) = (side(b, c), side(c, a), side(a, b));
    let area = u + v + w;
    let inside = if area > 0.0 {
        u > 0.0 && v > 0.0 && w > 0.0
    } else {
        u < 0.0 && v < 0.0 && w < 0.0
    };
    if !inside {
        return 0;
    }
    let z = (u * a[2] + v * b[2] + w * c[2]) / area;
    if z > at[2] {
        if area > 0.0 { 1 } else { -1 }
    } else {
        0
    }
}

/// Measures a mesh.
///
/// # Source
/// Volume as the sum of signed tetrahedra (divergence theorem; C. Zhang, T. Chen, "Efficient
/// feature extraction for 2D/3D objects in mesh representation", ICIP 2001, eq. 5, from memory).
#[must_use]
pub fn measure_mesh(mesh: &Mesh) -> MeshFacts {
    Solid::new(mesh).facts
}
