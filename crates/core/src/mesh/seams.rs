//! Seams that exporters left open by a hair: corners of open edges that are the same place are
//! joined before anything is measured. An exporter that writes each triangle apart, with its own
//! rounding, leaves every edge open.

use glam::DVec3;
use rustc_hash::FxHashMap;

use super::Mesh;
use super::topology::Topology;
use crate::union_find::{apart, find, join};

/// Corners farther apart are never joined, as a share of the longest side: so the unit of the
/// file does not matter. At 24 mm it is the pixel of a screen.
const SHARE_OF_SIDE: f64 = 0.0025;
/// Nor farther than this, in the unit of the file: about the pixel of a screen, and the layer.
const MOST_APART: f64 = 0.06;
/// Nor farther than this share of the shortest open edge at either: no triangle may collapse.
const SHARE_OF_EDGE: f64 = 0.45;
/// From the smallest gaps to the largest, as shares of the largest.
const STEPS: [f64; 4] = [1e-3, 1e-2, 0.1, 1.0];
/// Open edges at most whose neighbours are looked for along them: more are no seam.
const MOST_SPLIT: usize = 100_000;
/// Corners in one cell that are compared: where more lie within a hair it is no seam.
const MOST_IN_CELL: usize = 48;

/// A mesh with its seams joined.
#[derive(Debug, Clone)]
pub(super) struct Joined {
    pub(super) mesh: Mesh,
    pub(super) topology: Topology,
    /// The widest gap that was closed, in the unit of the file; 0 when nothing was.
    pub(super) widest: f64,
}

/// Joins corners of open edges that lie within a hair, then open corners to the open edges they
/// lie on. What is closed already is never touched.
pub(super) fn join_seams(mesh: Mesh, topology: Topology) -> Joined {
    let mut joined = Joined {
        mesh,
        topology,
        widest: 0.0,
    };
    let (low, high) = joined.mesh.bounds();
    let longest = (0..3).map(|k| high[k] - low[k]).fold(0.0, f64::max);
    let most = (longest * SHARE_OF_SIDE).min(MOST_APART);
    for share in STEPS {
        if joined.topology.open.is_empty() {
            return joined;
        }
        joined.join_corners(most * share);
    }
    let many = joined.topology.open.len();
    if (1..=MOST_SPLIT).contains(&many) {
        joined.split_edges(most);
        // Points on one edge from both sides have met their like now.
        joined.join_corners(most);
    }
    joined
}

impl Joined {
    fn at(&self, corner: u32) -> DVec3 {
        DVec3::from_array(self.mesh.corners[corner as usize].map(f64::from))
    }

    /// Every open corner with the length of its shortest open edge, in order.
    fn open_corners(&self) -> Vec<(u32, f64)> {
        let mut shortest: FxHashMap<u32, f64> = FxHashMap::default();
        for [a, b] in &self.topology.open {
            let length = self.at(*a).distance(self.at(*b));
            for corner in [a, b] {
                let least = shortest.entry(*corner).or_insert(f64::INFINITY);
                *least = least.min(length);
            }
        }
        let mut corners: Vec<(u32, f64)> = shortest.into_iter().collect();
        corners.sort_unstable_by_key(|(corner, _)| *corner);
        corners
    }

    fn join_corners(&mut self, within: f64) {
        let open = self.open_corners();
        let at: Vec<DVec3> = open.iter().map(|(corner, _)| self.at(*corner)).collect();
        let cells = Cells::new(&at, within);
        let mut pairs: Vec<(f64, u32, u32)> = Vec::new();
        for (i, place) in at.iter().enumerate() {
            cells.near(*place, |j| {
                let apart = place.distance(at[j]);
                let shortest = open[i].1.min(open[j].1);
                if j > i && apart <= within.min(SHARE_OF_EDGE * shortest) {
                    pairs.push((apart, i as u32, j as u32));
                }
            });
        }
        if pairs.is_empty() {
            return;
        }
        pairs.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)).then(a.2.cmp(&b.2)));
        let mut root = apart(open.len());
        for (_, i, j) in &pairs {
            join(&mut root, *i, *j);
        }
        // Those that meet do so halfway.
        let mut sums = vec![(DVec3::ZERO, 0.0); open.len()];
        for (i, place) in at.iter().enumerate() {
            let sum = &mut sums[find(&mut root, i as u32) as usize];
            *sum = (sum.0 + *place, sum.1 + 1.0);
        }
        let mut to: Vec<u32> = (0..self.mesh.corners.len() as u32).collect();
        for (i, (corner, _)) in open.iter().enumerate() {
            let head = find(&mut root, i as u32) as usize;
            let (sum, many) = sums[head];
            to[*corner as usize] = open[head].0;
            self.mesh.corners[*corner as usize] = (sum / many).as_vec3().to_array();
        }
        for triangle in &mut self.mesh.triangles {
            *triangle = triangle.map(|corner| to[corner as usize]);
        }
        self.mesh
            .triangles
            .retain(|[a, b, c]| a != b && b != c && c != a);
        self.topology = Topology::of(&self.mesh);
        self.widest = pairs.last().map_or(self.widest, |p| self.widest.max(p.0));
    }

    /// Cuts triangles at open corners that lie on their open edges: one side of the seam has more
    /// corners than the other.
    fn split_edges(&mut self, within: f64) {
        let open = self.open_corners();
        let at: Vec<DVec3> = open.iter().map(|(corner, _)| self.at(*corner)).collect();
        let spans: Vec<f64> = (self.topology.open.iter())
            .map(|[a, b]| self.at(*a).distance(self.at(*b)))
            .collect();
        // Cells as long as the middling edge: few are walked along, few corners lie in one.
        let mean = spans.iter().sum::<f64>() / spans.len().max(1) as f64;
        let cells = Cells::new(&at, mean.max(within));
        let mut cuts: FxHashMap<[u32; 2], Vec<(f64, u32)>> = FxHashMap::default();
        for ([b, a], span) in self.topology.open.iter().zip(&spans) {
            // The triangle runs its edge the other way round.
            let (from, to) = (self.at(*a), self.at(*b));
            let along = (to - from) / *span;
            let reach = within.min(SHARE_OF_EDGE * span);
            let mut on: Vec<(f64, u32)> = Vec::new();
            cells.along(from, to, |i| {
                let way = (at[i] - from).dot(along);
                let off = at[i].distance(from + along * way);
                if off <= reach && way > reach && way < span - reach {
                    self.widest = self.widest.max(off);
                    on.push((way, open[i].0));
                }
            });
            on.sort_unstable_by(|x, y| x.0.total_cmp(&y.0).then(x.1.cmp(&y.1)));
            on.dedup_by_key(|(_, corner)| *corner);
            if !on.is_empty() {
                cuts.insert([*a, *b], on);
            }
        }
        if cuts.is_empty() {
            return;
        }
        let mut whole = std::mem::take(&mut self.mesh.triangles);
        while let Some(triangle) = whole.pop() {
            let [a, b, c] = triangle;
            let cut = [[a, b, c], [b, c, a], [c, a, b]]
                .into_iter()
                .find_map(|[a, b, c]| Some((cuts.remove(&[a, b])?, [a, b, c])));
            let Some((on, [a, b, c])) = cut else {
                self.mesh.triangles.push(triangle);
                continue;
            };
            let mut ends: Vec<u32> = vec![a];
            ends.extend(on.iter().map(|(_, corner)| *corner).filter(|k| *k != c));
            ends.push(b);
            whole.extend(ends.windows(2).map(|e| [e[0], e[1], c]));
        }
        self.mesh.triangles.reverse();
        self.topology = Topology::of(&self.mesh);
    }
}

/// Places sorted into cells.
struct Cells {
    side: f64,
    of: FxHashMap<[i64; 3], Vec<usize>>,
}

impl Cells {
    fn new(places: &[DVec3], side: f64) -> Self {
        let mut of: FxHashMap<[i64; 3], Vec<usize>> = FxHashMap::default();
        for (index, place) in places.iter().enumerate() {
            of.entry(cell(*place, side)).or_default().push(index);
        }
        of.retain(|_, here| here.len() <= MOST_IN_CELL);
        Self { side, of }
    }

    /// Calls for every place in the cells around one.
    fn near(&self, place: DVec3, mut call: impl FnMut(usize)) {
        let [x, y, z] = cell(place, self.side);
        for i in x - 1..=x + 1 {
            for j in y - 1..=y + 1 {
                for k in z - 1..=z + 1 {
                    if let Some(here) = self.of.get(&[i, j, k]) {
                        here.iter().for_each(|index| call(*index));
                    }
                }
            }
        }
    }

    /// Calls for every place in the cells along a line, some of them more than once.
    fn along(&self, from: DVec3, to: DVec3, mut call: impl FnMut(usize)) {
        const MOST_STEPS: f64 = 4096.0;
        let steps = (from.distance(to) / self.side)
            .ceil()
            .clamp(1.0, MOST_STEPS);
        for step in 0..=steps as usize {
            self.near(from.lerp(to, step as f64 / steps), &mut call);
        }
    }
}

fn cell(place: DVec3, side: f64) -> [i64; 3] {
    // Far out cells are as large as the numbers are coarse.
    let far = i64::MAX as f64 / 4.0;
    (place / side)
        .floor()
        .to_array()
        .map(|c| c.clamp(-far, far) as i64)
}
