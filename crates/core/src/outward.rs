//! Outlines with fewer corners that never cut into what they surround.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use crate::geometry::{Point, distance_to_segment};

/// A ring with fewer corners that contains it and lies nowhere further outside than `tolerance`.
///
/// Corners that look inward are left out, and edges between two that look outward give way to the
/// corner in which their neighbours meet; what adds least area comes first. (Greedy, after the
/// ordering of M. Visvalingam and J. Whyatt, Cartographic Journal 30(1), 1993, from memory; that
/// only outward changes are taken is ours.)
///
/// # Shape
/// Counter-clockwise. Narrow notches may close over each other: the caller looks whether the result
/// is simple.
#[must_use]
pub fn simplify_outward(ring: &[Point], tolerance: f64) -> Vec<Point> {
    let mut rim = Rim::new(ring, tolerance);
    // Steps of a grid become slopes first: shrinking their edges would make larger steps of them.
    for shrinks in [false, true] {
        rim.shrinks = shrinks;
        rim.run();
    }
    let kept = (0..ring.len()).filter(|v| rim.alive[*v]);
    kept.map(|v| rim.at[v]).collect()
}

/// Area in whole square nanometres orders alike on every machine.
type Offer = Reverse<(u64, usize, u32)>;

struct Rim<'a> {
    /// The ring it came from.
    ring: &'a [Point],
    at: Vec<Point>,
    /// The corners of the ring that each corner stands for, first and last.
    first: Vec<usize>,
    last: Vec<usize>,
    before: Vec<usize>,
    after: Vec<usize>,
    alive: Vec<bool>,
    stamp: Vec<u32>,
    heap: BinaryHeap<Offer>,
    many: usize,
    tolerance: f64,
    /// Edges may shrink.
    shrinks: bool,
}

/// What may be done at a corner.
enum Step {
    /// The corner goes.
    Drop,
    /// The edge that begins there shrinks to a point.
    Shrink(Point),
}

impl<'a> Rim<'a> {
    fn new(ring: &'a [Point], tolerance: f64) -> Self {
        let many = ring.len();
        Self {
            ring,
            at: ring.to_vec(),
            first: (0..many).collect(),
            last: (0..many).collect(),
            before: (0..many).map(|v| (v + many - 1) % many).collect(),
            after: (0..many).map(|v| (v + 1) % many).collect(),
            alive: vec![true; many],
            stamp: vec![0; many],
            heap: BinaryHeap::new(),
            many,
            tolerance,
            shrinks: false,
        }
    }

    fn run(&mut self) {
        for v in (0..self.ring.len())
            .filter(|v| self.alive[*v])
            .collect::<Vec<_>>()
        {
            self.offer(v);
        }
        while let Some(Reverse((_, v, stamp))) = self.heap.pop() {
            if self.many <= 3 {
                return;
            }
            if self.alive[v] && self.stamp[v] == stamp {
                self.take(v);
            }
        }
    }

    /// Corners of the ring from one to another, without the two: they belong to their own corners.
    fn between(&self, from: usize, to: usize) -> impl Iterator<Item = usize> + use<'_> {
        let many = self.ring.len();
        let steps = (to + many - from) % many;
        (1..steps).map(move |i| (from + i) % many)
    }

    /// What could be done at a corner, and the area it adds.
    fn step(&self, v: usize) -> Option<(f64, Step)> {
        const FLAT: f64 = 1e-12;
        let (p, w) = (self.before[v], self.after[v]);
        let n = self.after[w];
        let [a, b, c, d] = [p, v, w, n].map(|i| self.at[i]);
        let turn = cross(a, b, c);
        if turn <= FLAT {
            let mut within = self.between(self.last[p], self.first[w]);
            let near = within.all(|i| distance_to_segment(self.ring[i], a, c) <= self.tolerance);
            return near.then_some((turn.abs() / 2.0, Step::Drop));
        }
        if !self.shrinks || cross(b, c, d) <= FLAT {
            return None;
        }
        // Where the edges on either side meet beyond this one.
        let (along, back) = ([b[0] - a[0], b[1] - a[1]], [c[0] - d[0], c[1] - d[1]]);
        let across = along[0] * back[1] - along[1] * back[0];
        if across >= -FLAT {
            return None;
        }
        let t = ((c[0] - b[0]) * back[1] - (c[1] - b[1]) * back[0]) / across;
        let meet = [b[0] + along[0] * t, b[1] + along[1] * t];
        if t <= 0.0 || distance_to_segment(meet, b, c) > self.tolerance {
            return None;
        }
        let reach = |i: usize| {
            let to = |q, r| distance_to_segment(self.ring[i], q, r);
            to(a, meet).min(to(meet, d)) <= self.tolerance
        };
        let off = |i: usize| {
            let next = (i + 1) % self.ring.len();
            distance_to_segment(meet, self.ring[i], self.ring[next])
        };
        let mut within = self.between(self.last[p], self.first[n]);
        let near = within.all(reach)
            && self
                .between(self.last[p], self.first[n])
                .any(|i| off(i) <= self.tolerance);
        let area = cross(b, meet, c).abs() / 2.0;
        near.then_some((area, Step::Shrink(meet)))
    }

    fn offer(&mut self, v: usize) {
        self.stamp[v] += 1;
        if let Some((area, _)) = self.step(v) {
            let ordered = (area * 1e12).min(1e18) as u64;
            self.heap.push(Reverse((ordered, v, self.stamp[v])));
        }
    }

    fn take(&mut self, v: usize) {
        let Some((_, step)) = self.step(v) else {
            return;
        };
        let (p, w) = (self.before[v], self.after[v]);
        let here = match step {
            Step::Drop => {
                self.unlink(v);
                p
            }
            Step::Shrink(meet) => {
                self.at[v] = meet;
                self.last[v] = self.last[w];
                self.unlink(w);
                v
            }
        };
        // Steps look two corners onward and one back.
        let mut near = self.before[self.before[here]];
        for _ in 0..5 {
            self.offer(near);
            near = self.after[near];
        }
    }

    fn unlink(&mut self, v: usize) {
        let (p, w) = (self.before[v], self.after[v]);
        (self.after[p], self.before[w]) = (w, p);
        self.alive[v] = false;
        self.many -= 1;
    }
}

fn cross(a: Point, b: Point, c: Point) -> f64 {
    (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::Outline;
    use proptest::prelude::*;

    /// A circle of steps of a tenth of a millimetre becomes a polygon around it.
    #[test]
    fn steps_become_slopes() {
        let many = 2_000;
        let corner = |i: usize| {
            let turn = i as f64 / many as f64 * std::f64::consts::TAU;
            [turn.cos(), turn.sin()].map(|c| (c * 120.0).round() / 10.0)
        };
        let mut ring: Vec<Point> = Vec::new();
        for i in 0..many {
            let [x, y] = corner(i);
            if let Some(last) = ring.last().copied()
                && (last[0] - x).abs() > 1e-9
                && (last[1] - y).abs() > 1e-9
            {
                ring.push([last[0], y]);
            }
            ring.push([x, y]);
        }
        ring.dedup();
        let after = simplify_outward(&ring, 0.12);
        let area = |r: &[Point]| Outline::try_new(r.to_vec()).unwrap().area_mm2();
        assert!(after.len() < 100, "{} of {}", after.len(), ring.len());
        let (before, after) = (area(&ring), area(&after));
        assert!(after >= before && after < before * 1.02, "{before} {after}");
    }

    proptest! {
        /// Stars of any kind: the ring stays inside, or the result crosses itself, which the caller
        /// looks for.
        #[test]
        fn a_ring_stays_inside(reach in proptest::collection::vec(2.0..20.0f64, 5..60), tolerance in 0.05..2.0f64) {
            let many = reach.len() as f64;
            let ring: Vec<Point> = reach.iter().enumerate().map(|(i, r)| {
                let turn = i as f64 / many * std::f64::consts::TAU;
                [r * turn.cos(), r * turn.sin()]
            }).collect();
            let after = simplify_outward(&ring, tolerance);
            prop_assert!(after.len() <= ring.len());
            let Ok(outline) = Outline::try_new(after.clone()) else { return Ok(()) };
            if !outline.is_simple() {
                return Ok(());
            }
            let edges = |r: &[Point], p: Point| {
                let next = r.iter().cycle().skip(1);
                r.iter().zip(next).map(|(a, b)| distance_to_segment(p, *a, *b)).fold(f64::INFINITY, f64::min)
            };
            for p in &ring {
                let inside = after.iter().zip(after.iter().cycle().skip(1))
                    .filter(|(a, b)| (a[1] <= p[1]) != (b[1] <= p[1]))
                    .fold(false, |odd, (a, b)| odd ^ (p[0] < a[0] + (p[1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0])));
                prop_assert!(inside || edges(&after, *p) < 1e-6, "{p:?} is outside");
                prop_assert!(edges(&after, *p) < tolerance + 1e-6);
            }
        }
    }
}
