//! How triangles hang together: shells, open edges, and which way they face.

use super::Mesh;
use crate::union_find::{apart, find, join};

/// How the triangles of a mesh hang together.
#[derive(Debug, Clone)]
pub(super) struct Topology {
    /// For every triangle the shell it belongs to, counted from 0 in order of first triangle.
    pub(super) shell_of: Vec<u32>,
    /// How many shells.
    pub(super) shells: u32,
    /// Edges used an odd number of times, in the direction that would close them.
    pub(super) open: Vec<[u32; 2]>,
    /// For every open edge a triangle at it.
    pub(super) open_at: Vec<u32>,
    /// Edges of two triangles that both run the same way: one of the two faces the wrong way.
    pub(super) twisted: usize,
}

impl Topology {
    /// Finds shells and open edges. Triangles are one shell when they share an edge.
    pub(super) fn of(mesh: &Mesh) -> Self {
        let faces = mesh.triangles();
        let (starts, entries) = edges_by_lower_corner(mesh);
        let mut root = apart(faces.len());
        let (mut open, mut open_at, mut twisted) = (Vec::new(), Vec::new(), 0);
        let mut here: Vec<(u32, u32)> = Vec::new();
        for (corner, range) in starts.windows(2).enumerate() {
            here.clear();
            here.extend_from_slice(&entries[range[0] as usize..range[1] as usize]);
            here.sort_unstable();
            for group in here.chunk_by(|a, b| a.0 == b.0) {
                for pair in group.windows(2) {
                    join(&mut root, pair[0].1 >> 1, pair[1].1 >> 1);
                }
                if let [one, other] = group
                    && (one.1 ^ other.1) & 1 == 0
                {
                    twisted += 1;
                }
                if group.len() % 2 == 1 {
                    let forward = group.iter().filter(|e| e.1 & 1 == 0).count() * 2 > group.len();
                    let (a, b) = (corner as u32, group[0].0);
                    open.push(if forward { [b, a] } else { [a, b] });
                    open_at.push(group[0].1 >> 1);
                }
            }
        }
        let mut number = vec![u32::MAX; faces.len()];
        let mut shells = 0;
        let shell_of = (0..faces.len() as u32)
            .map(|face| {
                let at = find(&mut root, face) as usize;
                if number[at] == u32::MAX {
                    number[at] = shells;
                    shells += 1;
                }
                number[at]
            })
            .collect();
        Self {
            shell_of,
            shells,
            open,
            open_at,
            twisted,
        }
    }
}

/// Turns triangles that face another way than their neighbours, where an edge has two: of every
/// piece that hangs together so, the smaller part. How many were turned.
pub(super) fn turn_by_neighbours(mesh: &mut Mesh) -> u64 {
    // The neighbours of every triangle over edges that two share: × 2, + 1 where they disagree.
    let (starts, entries) = edges_by_lower_corner(mesh);
    let mut beside = vec![[u32::MAX; 3]; mesh.triangles.len()];
    let mut put = |face: u32, other: u32, disagree: bool| {
        let free = beside[face as usize].iter_mut().find(|b| **b == u32::MAX);
        if let Some(free) = free {
            *free = other << 1 | u32::from(disagree);
        }
    };
    let mut here: Vec<(u32, u32)> = Vec::new();
    for range in starts.windows(2) {
        here.clear();
        here.extend_from_slice(&entries[range[0] as usize..range[1] as usize]);
        here.sort_unstable();
        for group in here.chunk_by(|a, b| a.0 == b.0) {
            if let [one, other] = group {
                let disagree = (one.1 ^ other.1) & 1 == 0;
                put(one.1 >> 1, other.1 >> 1, disagree);
                put(other.1 >> 1, one.1 >> 1, disagree);
            }
        }
    }
    drop((starts, entries));
    // Whether each faces the other way than the first triangle of its piece.
    let mut turned: Vec<Option<bool>> = vec![None; mesh.triangles.len()];
    let mut count = 0;
    for first in 0..mesh.triangles.len() as u32 {
        if turned[first as usize].is_some() {
            continue;
        }
        turned[first as usize] = Some(false);
        let mut piece = vec![first];
        let mut at = 0;
        while let Some(face) = piece.get(at).copied() {
            at += 1;
            let mine = turned[face as usize];
            for other in beside[face as usize].iter().filter(|b| **b != u32::MAX) {
                let side = &mut turned[(other >> 1) as usize];
                if side.is_none() {
                    piece.push(other >> 1);
                    *side = mine.map(|mine| mine ^ (other & 1 == 1));
                }
            }
        }
        let against = piece
            .iter()
            .filter(|f| turned[**f as usize] == Some(true))
            .count();
        let fewer = against * 2 <= piece.len();
        for face in piece {
            if turned[face as usize] == Some(fewer) {
                mesh.triangles[face as usize].swap(1, 2);
                count += 1;
            }
        }
    }
    count
}

/// For every corner its edges to higher corners: the other corner, and triangle × 2 + 1 when the
/// triangle runs the edge downward. In one pass of counting, without sorting the whole.
fn edges_by_lower_corner(mesh: &Mesh) -> (Vec<u32>, Vec<(u32, u32)>) {
    let edges = |t: &[u32; 3]| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])];
    let mut starts = vec![0_u32; mesh.corners().len() + 1];
    for t in mesh.triangles() {
        for (a, b) in edges(t) {
            starts[a.min(b) as usize + 1] += 1;
        }
    }
    for i in 1..starts.len() {
        starts[i] += starts[i - 1];
    }
    let mut next = starts.clone();
    let mut entries = vec![(0, 0); mesh.triangles().len() * 3];
    for (face, t) in mesh.triangles().iter().enumerate() {
        for (a, b) in edges(t) {
            let at = &mut next[a.min(b) as usize];
            entries[*at as usize] = (a.max(b), (face as u32) << 1 | u32::from(a > b));
            *at += 1;
        }
    }
    (starts, entries)
}

/// Rings of open edges, each corner once; edges that form no ring are left out.
pub(super) fn rings(topology: &Topology) -> Vec<Vec<usize>> {
    let mut from: Vec<(u32, usize)> = topology
        .open
        .iter()
        .enumerate()
        .map(|(i, e)| (e[0], i))
        .collect();
    from.sort_unstable();
    let next = |corner: u32| {
        let at = from.partition_point(|(c, _)| *c < corner);
        let several = from.get(at + 1).is_some_and(|(c, _)| *c == corner);
        from.get(at)
            .filter(|(c, _)| *c == corner && !several)
            .map(|(_, i)| *i)
    };
    let mut used = vec![false; topology.open.len()];
    let mut rings = Vec::new();
    for start in 0..topology.open.len() {
        let mut ring = Vec::new();
        let mut at = Some(start);
        while let Some(edge) = at
            && !used[edge]
        {
            used[edge] = true;
            ring.push(edge);
            at = next(topology.open[edge][1]);
        }
        if at == Some(start) && ring.len() >= 3 {
            rings.push(ring);
        }
    }
    rings
}
