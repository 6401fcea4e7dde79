//! Hollowing: what a hollow of a given wall saves, where it drains, what stays in it; and hollows
//! that a file already has.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use super::voxels::Voxels;

/// Pockets smaller than this are left solid: nothing is saved and nothing drains.
const LEAST_POCKET_MM3: f64 = 50.0;
/// Air that a ball of this radius does not reach from outside is inside, mm.
const MOUTH_MM: f64 = 2.5;
/// A hollow in a file is at least this large, mm³.
const LEAST_HOLLOW_MM3: f64 = 150.0;
/// Mouths are small against the inside of a hollow; a mere fold is open along its length.
const MOST_MOUTH_SHARE: f64 = 0.12;

/// A place for a drain, on the inside of the wall.
///
/// # Units
/// mm; x and y in the file's own coordinates, z above the lowest point.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drain {
    /// Where the inside of the hollow is nearest to it.
    pub at_mm: [f64; 3],
    /// It goes out at the sole, where the part stands: out of sight.
    pub hidden: bool,
}

/// What hollowing with a wall would do.
#[derive(Debug, Clone, PartialEq)]
pub struct Hollowing {
    /// The wall, mm.
    pub wall_mm: f64,
    /// Resin saved, mm³.
    pub saved_mm3: f64,
    /// How sure that is: plus or minus, mm³.
    pub uncertain_mm3: f64,
    /// Side of the cubes it was measured with, mm.
    pub pitch_mm: f64,
    /// Pockets apart from each other.
    pub pockets: usize,
    /// Drains it needs: two, and one for every further pocket.
    pub drains_needed: usize,
    /// Where they go, those out of sight first: for every pocket the lowest point as it hangs and
    /// the highest.
    pub drains: Vec<Drain>,
    /// Liquid resin shut in without drains, mm³.
    pub trapped_mm3: f64,
    /// Liquid that stays although those drains are there, as it hangs, mm³.
    pub left_hanging_mm3: f64,
    /// The same, stood on its sole.
    pub left_standing_mm3: f64,
}

/// Whether the resin saved is worth the drains, the washing inside and the marks: at least a
/// fifth of the part and a millilitre (common practice, no source).
#[must_use]
pub fn is_worth_it(saved_mm3: f64, volume_mm3: f64) -> bool {
    saved_mm3 >= 1000.0 && saved_mm3 >= 0.2 * volume_mm3
}

/// What a hollow of this wall would do. A hollow is everything further from the outside than the
/// wall.
#[must_use]
pub fn measure_hollowing(voxels: &Voxels, wall_mm: f64) -> Hollowing {
    let depth = voxels.distances(|i| !voxels.solid[i]);
    // From middle to middle; the surface lies half a cube before the first cube of air.
    let half = voxels.side / 2.0;
    let inside: Vec<bool> = depth
        .iter()
        .map(|d| d.is_finite() && f64::from(*d) - half > wall_mm)
        .collect();
    let cube = voxels.side.powi(3);
    let mut pockets = pieces(voxels, &inside);
    pockets.retain(|p| p.len() as f64 * cube >= LEAST_POCKET_MM3);
    pockets.sort_by_key(|p| Reverse(p.len()));
    let cells: usize = pockets.iter().map(Vec::len).sum();
    let skin = pockets
        .iter()
        .flatten()
        .filter(|i| voxels.neighbours(**i).any(|n| !inside[n]))
        .count();
    let mut drains = Vec::new();
    let (mut hanging, mut standing) = (0, 0);
    for pocket in &pockets {
        let lowest_hanging = pocket.iter().copied().max_by_key(|i| voxels.place(*i)[2]);
        let highest = pocket.iter().copied().min_by_key(|i| voxels.place(*i)[2]);
        let ends: Vec<usize> = lowest_hanging.into_iter().chain(highest).collect();
        hanging += stays(voxels, pocket, &ends, Pose::Hanging);
        standing += stays(voxels, pocket, &ends, Pose::Proof);
        drains.extend(ends.iter().map(|i| drain(voxels, *i, wall_mm)));
    }
    drains.sort_by_key(|d: &Drain| !d.hidden);
    Hollowing {
        wall_mm,
        saved_mm3: cells as f64 * cube,
        uncertain_mm3: skin as f64 * cube * 0.5,
        pitch_mm: voxels.side,
        pockets: pockets.len(),
        drains_needed: if pockets.is_empty() {
            0
        } else {
            pockets.len() + 1
        },
        drains,
        trapped_mm3: cells as f64 * cube,
        left_hanging_mm3: hanging as f64 * cube,
        left_standing_mm3: standing as f64 * cube,
    }
}

/// Which way is down while a part drains.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Pose {
    /// From the plate, as it was printed: the film side is down.
    Hanging,
    /// On its sole.
    Proof,
}

fn drain(voxels: &Voxels, index: usize, wall_mm: f64) -> Drain {
    let at_mm = voxels.middle(index);
    Drain {
        at_mm,
        hidden: at_mm[2] <= wall_mm + 2.0 * voxels.side,
    }
}

/// Cubes of a pocket from which liquid would have to rise to reach a drain (priority flood:
/// R. Barnes, C. Lehman, D. Mulla, Computers & Geosciences 62, 2014, from memory).
fn stays(voxels: &Voxels, pocket: &[usize], drains: &[usize], pose: Pose) -> usize {
    let height = |i: usize| {
        let z = voxels.place(i)[2];
        if pose == Pose::Hanging {
            voxels.many[2] - z
        } else {
            z
        }
    };
    let mut level = vec![usize::MAX; voxels.solid.len()];
    let mut member = vec![false; voxels.solid.len()];
    pocket.iter().for_each(|i| member[*i] = true);
    let mut open = BinaryHeap::new();
    for drain in drains {
        level[*drain] = height(*drain);
        open.push(Reverse((height(*drain), *drain)));
    }
    while let Some(Reverse((at, index))) = open.pop() {
        if at > level[index] {
            continue;
        }
        for next in voxels.neighbours(index).filter(|n| member[*n]) {
            let spill = at.max(height(next));
            if spill < level[next] {
                level[next] = spill;
                open.push(Reverse((spill, next)));
            }
        }
    }
    // A layer of cubes above the hole clings to the wall anyway.
    pocket
        .iter()
        .filter(|i| level[**i] > height(**i) + 1)
        .count()
}

/// Connected pieces of some cubes.
fn pieces(voxels: &Voxels, of: &[bool]) -> Vec<Vec<usize>> {
    let mut seen = vec![false; of.len()];
    let mut found = Vec::new();
    for start in 0..of.len() {
        if !of[start] || seen[start] {
            continue;
        }
        let mut piece = vec![start];
        seen[start] = true;
        let mut next = 0;
        while next < piece.len() {
            for other in voxels.neighbours(piece[next]) {
                if of[other] && !seen[other] {
                    seen[other] = true;
                    piece.push(other);
                }
            }
            next += 1;
        }
        found.push(piece);
    }
    found
}

/// A hole through the wall of a hollow.
///
/// # Units
/// mm; x and y in the file's own coordinates, z above the lowest point.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WayOut {
    /// Its middle.
    pub at_mm: [f64; 3],
    /// Diameter of the largest ball that goes through, to about the side of a cube; the largest that
    /// is told is that of a mouth.
    pub wide_mm: f64,
}

/// A hollow that is in the file already.
#[derive(Debug, Clone, PartialEq)]
pub struct Hollow {
    /// Its volume, mm³.
    pub volume_mm3: f64,
    /// Ways out, the widest first: none is sealed, one lets no air in.
    pub ways_out: Vec<WayOut>,
    /// Its lowest and its highest point above the lowest point of the part, mm.
    pub from_mm: f64,
    /// See `from_mm`.
    pub to_mm: f64,
}

/// The hollows a file has: air that no ball of 5 mm diameter reaches from outside, with mouths
/// that are small against the inside.
#[must_use]
pub fn find_hollows(voxels: &Voxels) -> Vec<Hollow> {
    let clearance = voxels.distances(|i| voxels.solid[i]);
    let ball = |i: usize| !clearance[i].is_finite() || f64::from(clearance[i]) >= MOUTH_MM;
    // The rim counts as open air whatever is near it.
    let rim = |i: usize| {
        let p = voxels.place(i);
        (0..3).any(|k| p[k] == 0 || p[k] + 1 == voxels.many[k])
    };
    let rims: Vec<usize> = (0..voxels.solid.len()).filter(|i| rim(*i)).collect();
    let centres = voxels.reach(rims, |i| !voxels.solid[i] && (rim(i) || ball(i)));
    // What the ball sweeps, measured through air: it does not reach through a wall.
    let swept = voxels.within(&centres, MOUTH_MM, |i| !voxels.solid[i]);
    let inside: Vec<bool> = (0..swept.len())
        .map(|i| !voxels.solid[i] && !swept[i])
        .collect();
    let cube = voxels.side.powi(3);
    let outside = |i: usize| swept[i];
    pieces(voxels, &inside)
        .into_iter()
        .filter(|piece| piece.len() as f64 * cube >= LEAST_HOLLOW_MM3)
        .filter_map(|piece| {
            let mut mouth = vec![false; voxels.solid.len()];
            let (mut skin, mut open) = (0, 0);
            for index in &piece {
                for next in voxels.neighbours(*index) {
                    if outside(next) {
                        mouth[*index] = true;
                        open += 1;
                    } else if voxels.solid[next] {
                        skin += 1;
                    }
                }
            }
            let heights = || piece.iter().map(|i| voxels.middle(*i)[2]);
            (f64::from(open) <= MOST_MOUTH_SHARE * f64::from(skin)).then(|| Hollow {
                volume_mm3: piece.len() as f64 * cube,
                ways_out: ways_out(voxels, &mouth, &clearance),
                from_mm: heights().fold(f64::INFINITY, f64::min) - voxels.side / 2.0,
                to_mm: heights().fold(0.0, f64::max) + voxels.side / 2.0,
            })
        })
        .collect()
}

/// The holes that some cubes of a mouth belong to. A mouth is stepped: what lies within a millimetre
/// is one way out.
fn ways_out(voxels: &Voxels, mouth: &[bool], clearance: &[f32]) -> Vec<WayOut> {
    let near = voxels.within(mouth, 1.0, |i| !voxels.solid[i]);
    let way = |piece: Vec<usize>| {
        let of_mouth: Vec<usize> = piece.into_iter().filter(|i| mouth[*i]).collect();
        let many = of_mouth.len().max(1) as f64;
        let middle = |k: usize| of_mouth.iter().map(|i| voxels.middle(*i)[k]).sum::<f64>() / many;
        let clear = of_mouth.iter().map(|i| f64::from(clearance[*i]));
        // From the middle of a cube to the middle of the first solid one: half a cube is wall.
        let reach = clear.filter(|c| c.is_finite()).fold(0.0, f64::max) - voxels.side / 2.0;
        WayOut {
            at_mm: [0, 1, 2].map(middle),
            wide_mm: (2.0 * reach).clamp(voxels.side, 2.0 * MOUTH_MM),
        }
    };
    let mut all: Vec<WayOut> = pieces(voxels, &near).into_iter().map(way).collect();
    all.sort_by(|a, b| b.wide_mm.total_cmp(&a.wide_mm));
    all
}
