//! Size, surface and tightness, straight from the triangles.

use super::Mesh;
use super::topology::Topology;

/// What the triangles of a file tell before any layer is cut.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct MeshFacts {
    /// Triangles of the file that are triangles.
    pub triangles: u64,
    /// Triangles left out: NaN, infinite or without area.
    pub dropped: u64,
    /// Lowest corner of the box around it, mm.
    pub low_mm: [f64; 3],
    /// Highest corner of the box around it, mm.
    pub high_mm: [f64; 3],
    /// Sum over the shells: an inner shell that faces inward is taken off, any other counts as
    /// solid whichever way it faces. Where shells are sunk into each other the overlap counts in
    /// each of them; see the layers for the volume that counts it once.
    pub volume_mm3: f64,
    /// Area of all triangles, mm².
    pub surface_mm2: f64,
    /// Pieces that hang together over shared edges.
    pub shells: u32,
    /// Shells turned inside out, that are counted as solid.
    pub inverted_shells: u32,
    /// Inner shells facing inward: sealed hollows.
    pub inner_shells: u32,
    /// Length of the edges where a face is missing, mm, after seams were joined.
    pub open_edge_mm: f64,
    /// Length of the edges that were open by a hair and were joined, mm.
    pub joined_edge_mm: f64,
    /// The widest of these gaps, mm.
    pub widest_seam_mm: f64,
    /// Triangles that faced the other way than their neighbours, and were turned.
    pub turned: u64,
    /// What should be said of the file beside its mesh.
    pub remark: Option<String>,
}

impl MeshFacts {
    /// Width, depth and height, mm.
    #[must_use]
    pub fn size_mm(&self) -> [f64; 3] {
        std::array::from_fn(|k| self.high_mm[k] - self.low_mm[k])
    }

    /// No edge of the file is used an odd number of times.
    #[must_use]
    pub fn watertight(&self) -> bool {
        self.open_edge_mm == 0.0 && self.joined_edge_mm == 0.0
    }
}

/// Length of the open edges, mm.
pub(super) fn open_edge_mm(mesh: &Mesh, topology: &Topology) -> f64 {
    let corner = |i: u32| mesh.corners()[i as usize].map(f64::from);
    let span = |e: &[u32; 2]| {
        let (a, b) = (corner(e[0]), corner(e[1]));
        length(std::array::from_fn(|k| b[k] - a[k]))
    };
    // A sum of nothing is -0.0.
    topology.open.iter().map(span).sum::<f64>() + 0.0
}

/// Figures that need no shells; [`super::Solid`] fills in what does.
pub(super) fn of_file(mesh: &Mesh) -> MeshFacts {
    let (low, high) = mesh.bounds();
    MeshFacts {
        triangles: mesh.triangles().len() as u64,
        dropped: mesh.dropped(),
        low_mm: low,
        high_mm: high,
        volume_mm3: 0.0,
        surface_mm2: mesh.faces().map(area).sum(),
        shells: 0,
        inverted_shells: 0,
        inner_shells: 0,
        open_edge_mm: 0.0,
        joined_edge_mm: 0.0,
        widest_seam_mm: 0.0,
        turned: 0,
        remark: mesh.remark().map(str::to_owned),
    }
}

fn area(face: [[f64; 3]; 3]) -> f64 {
    let [a, b, c] = face;
    let ab = std::array::from_fn(|k| b[k] - a[k]);
    let ac = std::array::from_fn(|k| c[k] - a[k]);
    length(cross(ab, ac)) / 2.0
}

pub(super) fn cross(a: [f64; 3], b: [f64; 3]) -> [f64; 3] {
    [
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    ]
}

pub(super) fn dot(a: [f64; 3], b: [f64; 3]) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

pub(super) fn length(a: [f64; 3]) -> f64 {
    dot(a, a).sqrt()
}
