//! Whether a part falls in two where it is cut.

use glam::DVec3;
use rustc_hash::FxHashSet;

use super::chords::{Chord, Family};
use super::voxels::Voxels;

/// Cubes at most; their side follows from it.
const MOST_CUBES: f64 = 4_000_000.0;
/// What hangs on a neck is more than this, mm³.
const LEAST_MM3: f64 = 5.0;
/// Cuts through one place, turned against each other.
const WAYS: usize = 6;
/// Places closer than this are one, mm.
const APART_MM: f64 = 1.2;
/// Cubes looked through for all cuts together.
const MOST_LOOKED: usize = 6_000_000;

/// A solid in cubes, to be cut.
pub(super) struct Necks<'a> {
    family: &'a Family,
    step: f64,
    cubes: Voxels,
    seen: FxHashSet<[i32; 3]>,
    /// By which cut, and from which of its sides, a cube was reached last.
    reached: Vec<u32>,
    looked: usize,
    /// Places looked at so far.
    pub(super) tried: usize,
}

impl<'a> Necks<'a> {
    /// From the stretches along z: a cube is solid when one of them touches it, so that what is
    /// thin stays whole.
    pub(super) fn of(family: &'a Family, step: f64) -> Self {
        let places = || {
            family.chords.iter().map(|c| {
                (
                    DVec3::new(c.at[0], c.at[1], c.ends[0]),
                    DVec3::new(c.at[0], c.at[1], c.ends[1]),
                )
            })
        };
        let far = DVec3::splat(f64::INFINITY);
        let (low, high) =
            places().fold((far, -far), |(low, high), (a, b)| (low.min(a), high.max(b)));
        let size = (high - low).max(DVec3::ZERO);
        let side = (size.max(DVec3::splat(step)).element_product() / MOST_CUBES)
            .cbrt()
            .max(1.6 * step);
        let many = size.to_array().map(|s| {
            if s.is_finite() {
                (s / side) as usize + 1
            } else {
                1
            }
        });
        let cubes = Voxels {
            side,
            many,
            low: low.to_array(),
            solid: vec![false; many.iter().product()],
        };
        let mut necks = Self {
            family,
            step,
            reached: vec![0; cubes.solid.len()],
            cubes,
            seen: FxHashSet::default(),
            looked: 0,
            tried: 0,
        };
        for chord in &family.chords {
            let touched: Vec<usize> = necks.touched(chord).map(|t| t.0).collect();
            touched
                .into_iter()
                .for_each(|i| necks.cubes.solid[i] = true);
        }
        necks
    }

    /// The cubes a stretch lies in, and how much of it, mm.
    fn touched(&self, chord: &Chord) -> impl Iterator<Item = (usize, f64)> {
        let (low, side, many) = (self.cubes.low, self.cubes.side, self.cubes.many);
        let cell = move |k: usize, at: f64| (((at - low[k]) / side) as usize).min(many[k] - 1);
        let [x, y] = [0, 1].map(|k| cell(k, chord.at[k]));
        let [from, to] = chord.ends;
        (cell(2, from)..=cell(2, to)).map(move |z| {
            let [below, above] = [z, z + 1].map(|z| (low[2] + z as f64 * side).clamp(from, to));
            (x + many[0] * (y + many[1] * z), above - below)
        })
    }

    /// Volume of the solid in some cubes, mm³.
    fn volume(&self, holds: impl Fn(usize) -> bool + Copy) -> f64 {
        let chords = self.family.chords.iter();
        let lengths = chords.flat_map(|c| self.touched(c).filter(move |t| holds(t.0)));
        lengths.map(|t| t.1).sum::<f64>() * self.step * self.step
    }

    fn middle(&self, index: usize) -> DVec3 {
        let p = self.cubes.place(index).map(|c| c as f64 + 0.5);
        DVec3::from_array(self.cubes.low) + DVec3::from_array(p) * self.cubes.side
    }

    /// Whether a place close to this one was looked at.
    pub(super) fn knows(&self, at: DVec3) -> bool {
        self.seen.contains(&place(at))
    }

    /// What would hang on a place that is so thick, if the part falls in two there: the smaller
    /// piece, mm³. Of places close to each other only the first is looked at.
    pub(super) fn cut(&mut self, at: DVec3, across: DVec3, mm: f64) -> Option<f64> {
        if !self.seen.insert(place(at)) || self.looked > MOST_LOOKED {
            return None;
        }
        self.tried += 1;
        let u = across.any_orthonormal_vector();
        let v = across.cross(u);
        let reach = (1.6 * mm).max(3.0);
        let ways = (0..WAYS).filter_map(|i| {
            let (sin, cos) = (i as f64 / WAYS as f64 * std::f64::consts::PI).sin_cos();
            let way = u * cos + v * sin;
            Some((self.width(at, across.cross(way), reach)?, way))
        });
        // The narrowest cut is the one that goes straight across.
        let (wide, way) = ways.min_by(|a, b| a.0.total_cmp(&b.0))?;
        let (mut reached, mut looked) = (std::mem::take(&mut self.reached), self.looked);
        let work = (&mut reached[..], &mut looked);
        let fallen = self.fallen((at, way), (reach, wide.max(mm)), work);
        (self.reached, self.looked) = (reached, looked);
        fallen
    }

    /// How wide the solid is along a line through a place, mm; nothing where it goes on.
    fn width(&self, at: DVec3, along: DVec3, reach: f64) -> Option<f64> {
        let side = self.cubes.side;
        let is_solid = |p: DVec3| {
            let p = ((p - DVec3::from_array(self.cubes.low)) / side).floor();
            let inside = p.cmpge(DVec3::ZERO).all()
                && p.to_array()
                    .iter()
                    .zip(self.cubes.many)
                    .all(|(c, n)| *c < n as f64);
            inside && self.cubes.solid[self.cubes.index(p.to_array().map(|c| c as usize))]
        };
        let ends = [1.0, -1.0].map(|sign| {
            let steps = (1..).map(|i| f64::from(i) * side);
            let mut inside = steps.take_while(|d| *d <= reach);
            inside.find(|d| !is_solid(at + along * (sign * *d)))
        });
        Some(ends[0]? + ends[1]?)
    }

    /// Cuts with a disc, and looks through what is left from both its sides. What breaks off is
    /// longer than the cut is wide: corners of a slab are no necks.
    fn fallen(
        &self,
        (at, way): (DVec3, DVec3),
        (reach, wide): (f64, f64),
        (reached, looked): (&mut [u32], &mut usize),
    ) -> Option<f64> {
        let cubes = &self.cubes;
        let thick = cubes.side * 0.9;
        let along = |index: usize| (self.middle(index) - at).dot(way).abs();
        let cut = |index: usize| {
            let off = self.middle(index) - at;
            let along = off.dot(way);
            along.abs() <= thick && off.length_squared() - along * along <= reach * reach
        };
        let begin = thick + cubes.side;
        let starts = [begin, -begin].map(|by| self.start(at + way * by, &cut));
        let [Some(one), Some(other)] = starts else {
            return None;
        };
        let marks = [2 * self.tried as u32, 2 * self.tried as u32 + 1];
        let mut found = [vec![one], vec![other]];
        let mut done = [0, 0];
        (reached[one], reached[other]) = (marks[0], marks[1]);
        // Turn by turn: what is not cut through is found out near the cut.
        let piece = 'apart: loop {
            for turn in 0..2 {
                let Some(index) = found[turn].get(done[turn]).copied() else {
                    break 'apart Some(turn);
                };
                done[turn] += 1;
                for next in cubes.neighbours(index) {
                    if !cubes.solid[next] || reached[next] == marks[turn] || cut(next) {
                        continue;
                    }
                    if reached[next] == marks[1 - turn] {
                        break 'apart None;
                    }
                    reached[next] = marks[turn];
                    found[turn].push(next);
                }
            }
        };
        let long = piece.filter(|turn| found[*turn].iter().any(|i| along(*i) >= wide));
        let mm3 = long.map(|turn| self.volume(|i| reached[i] == marks[turn]));
        *looked += done[0] + done[1];
        mm3.filter(|mm3| *mm3 > LEAST_MM3)
    }

    /// A solid cube at a place or right beside it, which a cut leaves.
    fn start(&self, at: DVec3, cut: &impl Fn(usize) -> bool) -> Option<usize> {
        let cubes = &self.cubes;
        let p = ((at - DVec3::from_array(cubes.low)) / cubes.side).floor();
        let beside = |by: [f64; 3]| {
            let q = (p + DVec3::from_array(by)).to_array();
            let inside = (0..3).all(|k| q[k] >= 0.0 && q[k] < cubes.many[k] as f64);
            inside
                .then(|| cubes.index(q.map(|c| c as usize)))
                .filter(|i| cubes.solid[*i] && !cut(*i))
        };
        let near = [-1.0, 0.0, 1.0];
        let around = near.into_iter().flat_map(|x| {
            near.into_iter()
                .flat_map(move |y| near.into_iter().map(move |z| [x, y, z]))
        });
        beside([0.0; 3]).or_else(|| around.into_iter().find_map(beside))
    }
}

fn place(at: DVec3) -> [i32; 3] {
    (at / APART_MM).floor().to_array().map(|c| c as i32)
}
