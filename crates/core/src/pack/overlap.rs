//! How deep two copies lie in each other, and which way they get apart.
//!
//! Overlap is measured where outlines run through each other's fields of distance; round bases
//! need none.

use super::shape::{Mark, Shape};
use crate::geometry::Point;

/// What is kept beyond what has to be, mm.
pub(super) const SPARE_MM: f64 = 0.006;
/// Depth that is no overlap any more, mm.
pub(super) const NOTHING_MM: f64 = 0.004;

/// Where a copy is.
#[derive(Debug, Clone, Copy)]
pub(super) struct Pose {
    pub(super) at: Point,
    pub(super) turn: f64,
    sin: f64,
    cos: f64,
}

impl Pose {
    pub(super) fn new(at: Point, turn: f64) -> Self {
        let (sin, cos) = turn.sin_cos();
        Self { at, turn, sin, cos }
    }

    /// The pose of a copy by where its own origin stands and its turn in degrees.
    pub(super) fn of(shape: &Shape, at_mm: Point, rotation_deg: f64) -> Self {
        let mut pose = Self::new([0.0, 0.0], rotation_deg.to_radians());
        let m = pose.turned(shape.middle);
        pose.at = [at_mm[0] + m[0], at_mm[1] + m[1]];
        pose
    }

    /// Where the copy's own origin stands and its turn in degrees.
    pub(super) fn origin(&self, shape: &Shape) -> (Point, f64) {
        let m = self.turned(shape.middle);
        (
            [self.at[0] - m[0], self.at[1] - m[1]],
            self.turn.to_degrees().rem_euclid(360.0),
        )
    }

    pub(super) fn turned(&self, p: Point) -> Point {
        [
            self.cos * p[0] - self.sin * p[1],
            self.sin * p[0] + self.cos * p[1],
        ]
    }
}

/// Overlap of one copy with what it must not touch, and how it changes with shift and turn.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Push {
    pub(super) energy: f64,
    pub(super) slope: [f64; 3],
    /// Of the squares: xx, xy, xt, yy, yt, tt.
    pub(super) bend: [f64; 6],
}

impl Push {
    #[inline]
    pub(super) fn add(&mut self, depth: f64, weight: f64, j: [f64; 3]) {
        self.energy += 0.5 * weight * depth * depth;
        let wd = weight * depth;
        for (slope, j) in self.slope.iter_mut().zip(j) {
            *slope += wd * j;
        }
        self.bend[0] += weight * j[0] * j[0];
        self.bend[1] += weight * j[0] * j[1];
        self.bend[2] += weight * j[0] * j[2];
        self.bend[3] += weight * j[1] * j[1];
        self.bend[4] += weight * j[1] * j[2];
        self.bend[5] += weight * j[2] * j[2];
    }

    /// The damped Gauss-Newton step.
    pub(super) fn step(&self, damping: f64) -> [f64; 3] {
        let [a, b, c, d, e, f] = self.bend;
        let lift = damping * (a + d + f).max(1e-9) + 1e-9;
        let (a, d, f) = (a + lift, d + lift, f + lift);
        // By Cramer's rule: the matrix is small and positive.
        let minors = [d * f - e * e, c * e - b * f, b * e - c * d];
        let whole = a * minors[0] + b * minors[1] + c * minors[2];
        let s = self.slope;
        [
            -(minors[0] * s[0] + minors[1] * s[1] + minors[2] * s[2]) / whole,
            -(minors[1] * s[0] + (a * f - c * c) * s[1] + (b * c - a * e) * s[2]) / whole,
            -(minors[2] * s[0] + (b * c - a * e) * s[1] + (a * d - b * b) * s[2]) / whole,
        ]
    }
}

/// A copy on the plate.
#[derive(Debug, Clone, Copy)]
pub(super) struct Pressed {
    pub(super) item: usize,
    pub(super) pose: Pose,
}

/// Calls for every depth between two copies, at least one of them round: how deep, what it weighs,
/// the direction in which the first one gets out, and where it is touched about its middle.
#[inline]
pub(super) fn round_pair(
    a: Pressed,
    b: Pressed,
    of: &Shape,
    on: &Shape,
    apart: f64,
    found: &mut impl FnMut(f64, f64, Point, Point),
) {
    let between = [a.pose.at[0] - b.pose.at[0], a.pose.at[1] - b.pose.at[1]];
    if of.round && on.round {
        let square = between[0] * between[0] + between[1] * between[1];
        let length = square.sqrt();
        let depth = of.radius + on.radius + apart - length;
        if depth > NOTHING_MM {
            let off = if length > 1e-9 {
                [between[0] / length, between[1] / length]
            } else {
                [1.0, 0.0]
            };
            found(depth, of.around.min(on.around), off, [0.0, 0.0]);
        }
        return;
    }
    // The points of the one that is not round, from the middle of the other.
    let (shape, pose, disc, sign) = if of.round {
        (on, b.pose, of, -1.0)
    } else {
        (of, a.pose, on, 1.0)
    };
    let reach = disc.radius + apart;
    let from = between.map(|v| v * sign);
    for group in &shape.groups {
        let m = pose.turned(group.middle.map(f64::from));
        let m = [m[0] + from[0], m[1] + from[1]];
        let far = reach + f64::from(group.radius);
        if m[0] * m[0] + m[1] * m[1] > far * far {
            continue;
        }
        for p in &shape.points[group.from as usize..group.to as usize] {
            let r = pose.turned(p.at.map(f64::from));
            let v = [r[0] + from[0], r[1] + from[1]];
            let least = reach + f64::from(p.radius);
            let square = v[0] * v[0] + v[1] * v[1];
            if square >= least * least {
                continue;
            }
            let length = square.sqrt().max(1e-9);
            let depth = least - length;
            if depth > NOTHING_MM {
                let off = [sign * v[0] / length, sign * v[1] / length];
                let touched = if of.round { [0.0, 0.0] } else { r };
                found(depth, f64::from(p.weight), off, touched);
            }
        }
    }
}

/// One copy as seen from another.
pub(super) struct Seen {
    pub(super) turn: [f32; 2],
    pub(super) shift: Point,
    pub(super) shift_back: Point,
}

impl Seen {
    /// Nothing where the circles around them are apart.
    #[inline]
    pub(super) fn new(of: &Shape, on: &Shape, a: Pose, b: Pose, apart: f64) -> Option<Self> {
        let between = [a.at[0] - b.at[0], a.at[1] - b.at[1]];
        let reach = of.radius + on.radius + apart;
        if between[0] * between[0] + between[1] * between[1] >= reach * reach {
            return None;
        }
        let back = |pose: Pose, v: Point| {
            [
                pose.cos * v[0] + pose.sin * v[1],
                -pose.sin * v[0] + pose.cos * v[1],
            ]
        };
        let cos = a.cos * b.cos + a.sin * b.sin;
        let sin = a.sin * b.cos - a.cos * b.sin;
        Some(Self {
            turn: [cos as f32, sin as f32],
            shift: back(b, between),
            shift_back: back(a, between.map(|v| -v)),
        })
    }

    pub(super) const fn turn_back(&self) -> [f32; 2] {
        [self.turn[0], -self.turn[1]]
    }
}

/// Calls for every point of one outline that lies too deep in the field of the other: its depth,
/// itself, and where it lies there; as long as it is told to go on.
#[inline]
pub(super) fn through(
    of: &Shape,
    on: &Shape,
    [cos, sin]: [f32; 2],
    shift: Point,
    apart: f64,
    mut found: impl FnMut(f64, &Mark, [f32; 2]) -> bool,
) -> bool {
    let (x, y, apart) = (shift[0] as f32, shift[1] as f32, apart as f32);
    let seen = |p: [f32; 2]| [cos * p[0] - sin * p[1] + x, sin * p[0] + cos * p[1] + y];
    for group in &of.groups {
        let q = seen(group.middle);
        // Distance falls by a millimetre a millimetre at most.
        match on.field.at(q) {
            Some(d) if d > apart + group.radius => continue,
            None if on.field.beyond(q, group.radius) => continue,
            _ => {}
        }
        for p in &of.points[group.from as usize..group.to as usize] {
            let q = seen(p.at);
            if let Some(d) = on.field.at(q) {
                let depth = apart + p.radius - d;
                if depth > NOTHING_MM as f32 && !found(f64::from(depth), p, q) {
                    return false;
                }
            }
        }
    }
    true
}
