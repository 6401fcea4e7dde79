//! Size, volume, surface and tightness, straight from the triangles.

use std::collections::HashMap;

use super::Mesh;

/// What one pass over the triangles tells.
#[derive(Debug, Clone, PartialEq)]
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
    /// solid whichever way it faces. Where shells are sunk into each other the overlap counts
    /// in each of them.
    pub volume_mm3: f64,
    /// Area of all triangles, mm².
    pub surface_mm2: f64,
    /// Pieces that hang together over shared edges.
    pub shells: u32,
    /// Shells turned inside out, that are counted as solid.
    pub inverted_shells: u32,
    /// Inner shells facing inward: sealed hollows.
    pub inner_shells: u32,
    /// Length of the edges where a face is missing, mm; 0 when watertight.
    pub open_edge_mm: f64,
}

impl MeshFacts {
    /// Width, depth and height, mm.
    #[must_use]
    pub fn size_mm(&self) -> [f64; 3] {
        std::array::from_fn(|k| self.high_mm[k] - self.low_mm[k])
    }

    /// No edge is used an odd number of times.
    #[must_use]
    pub fn watertight(&self) -> bool {
        self.open_edge_mm == 0.0
    }
}

#[derive(Default, Clone)]
struct Shell {
    volume: f64,
    low: [f64; 3],
    high: [f64; 3],
    faces: u64,
}

impl Shell {
    fn encloses(&self, other: &Shell) -> bool {
        (0..3).all(|k| self.low[k] < other.low[k] && other.high[k] < self.high[k])
    }
}

/// Measures a mesh.
///
/// # Source
/// Volume as the sum of signed tetrahedra against a fixed point (divergence theorem; C. Zhang,
/// T. Chen, "Efficient feature extraction for 2D/3D objects in mesh representation", ICIP 2001,
/// eq. 5, from memory).
#[must_use]
pub fn measure_mesh(mesh: &Mesh) -> MeshFacts {
    let (low, high) = mesh.bounds();
    let middle: [f64; 3] = std::array::from_fn(|k| (low[k] + high[k]) / 2.0);
    let (shell_of, open_edge_mm) = shells_and_open_edges(mesh);
    let mut shells: HashMap<u32, Shell> = HashMap::new();
    let mut surface = 0.0;
    for (face, shell) in mesh.faces().zip(&shell_of) {
        surface += area(face);
        let at: [[f64; 3]; 3] = face.map(|c| std::array::from_fn(|k| c[k] - middle[k]));
        let shell = shells.entry(*shell).or_default();
        if shell.faces == 0 {
            (shell.low, shell.high) = (face[0], face[0]);
        }
        shell.faces += 1;
        shell.volume += dot(at[0], cross(at[1], at[2])) / 6.0;
        for corner in face {
            shell.low = std::array::from_fn(|k| shell.low[k].min(corner[k]));
            shell.high = std::array::from_fn(|k| shell.high[k].max(corner[k]));
        }
    }
    let mut sorted: Vec<(u32, Shell)> = shells.into_iter().collect();
    sorted.sort_by_key(|(root, _)| *root);
    let shells: Vec<Shell> = sorted.into_iter().map(|(_, shell)| shell).collect();
    let inward = |shell: &Shell| shell.volume < 0.0;
    let inner = |shell: &Shell| {
        inward(shell)
            && shells
                .iter()
                .any(|outer| !inward(outer) && outer.encloses(shell))
    };
    let inner_shells = shells.iter().filter(|s| inner(s)).count() as u32;
    let inward_shells = shells.iter().filter(|s| inward(s)).count() as u32;
    MeshFacts {
        triangles: mesh.triangles().len() as u64,
        dropped: mesh.dropped(),
        low_mm: low,
        high_mm: high,
        volume_mm3: shells
            .iter()
            .map(|s| if inner(s) { s.volume } else { s.volume.abs() })
            .sum(),
        surface_mm2: surface,
        shells: shells.len() as u32,
        inverted_shells: inward_shells - inner_shells,
        inner_shells,
        open_edge_mm,
    }
}

/// For every triangle the shell it belongs to; and the length of all edges used an odd number
/// of times.
fn shells_and_open_edges(mesh: &Mesh) -> (Vec<u32>, f64) {
    let mut edges: Vec<(u32, u32, u32)> = Vec::with_capacity(mesh.triangles().len() * 3);
    for (index, t) in mesh.triangles().iter().enumerate() {
        for (a, b) in [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])] {
            edges.push((a.min(b), a.max(b), index as u32));
        }
    }
    edges.sort_unstable();
    let mut root: Vec<u32> = (0..mesh.triangles().len() as u32).collect();
    let mut open_mm = 0.0;
    for group in edges.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
        for pair in group.windows(2) {
            let (a, b) = (find(&mut root, pair[0].2), find(&mut root, pair[1].2));
            root[a.max(b) as usize] = a.min(b);
        }
        if group.len() % 2 == 1 {
            let [a, b] =
                [group[0].0, group[0].1].map(|i| mesh.corners()[i as usize].map(f64::from));
            open_mm += length(std::array::from_fn(|k| b[k] - a[k]));
        }
    }
    let shells = (0..root.len() as u32).map(|i| find(&mut root, i)).collect();
    (shells, open_mm)
}

fn find(root: &mut [u32], mut i: u32) -> u32 {
    while root[i as usize] != i {
        root[i as usize] = root[root[i as usize] as usize];
        i = root[i as usize];
    }
    i
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
