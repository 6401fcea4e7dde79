//! An item as it is pressed: points along its outline, discs inside it, and how far from it
//! everything near is.

use crate::geometry::{Outline, Point};

/// Points of an outline to a group that is looked at together.
const GROUP: usize = 6;
/// Discs that stand for the inside of an outline, at most.
const MOST_DISCS: usize = 6;
/// How far beyond the clearance a field reaches, mm.
const SEEN_MM: f64 = 2.0;
/// Sides of an outline are no longer than this between two points, mm.
const BETWEEN_MM: f64 = 2.0;
/// What a circle drawn with corners may miss of a circle, as a share.
const ROUND: f64 = 0.012;

/// Distance to an outline about it, inside negative.
#[derive(Debug, Clone)]
pub(super) struct Field {
    low: [f32; 2],
    per_mm: f32,
    columns: usize,
    rows: usize,
    distance: Vec<f32>,
}

impl Field {
    fn new(corners: &[Point], reach: f64) -> Self {
        let (mut low, mut high) = ([f64::MAX; 2], [f64::MIN; 2]);
        for c in corners {
            for k in 0..2 {
                low[k] = low[k].min(c[k] - reach);
                high[k] = high[k].max(c[k] + reach);
            }
        }
        let longest = (high[0] - low[0]).max(high[1] - low[1]);
        let cell = (longest / 64.0).clamp(0.2, 0.6);
        let along = |k: usize| ((high[k] - low[k]) / cell).ceil() as usize + 2;
        let (columns, rows) = (along(0), along(1));
        let mut distance = Vec::with_capacity(columns * rows);
        for row in 0..rows {
            for column in 0..columns {
                let p = [low[0] + column as f64 * cell, low[1] + row as f64 * cell];
                distance.push(signed_distance(p, corners) as f32);
            }
        }
        Self {
            low: low.map(|v| v as f32),
            per_mm: (1.0 / cell) as f32,
            columns,
            rows,
            distance,
        }
    }

    /// Where a point lies: within its cell, and the distances at the corners of that.
    #[inline(always)]
    fn cell(&self, p: [f32; 2]) -> Option<([f32; 2], [f32; 4])> {
        let x = (p[0] - self.low[0]) * self.per_mm;
        let y = (p[1] - self.low[1]) * self.per_mm;
        if !(x >= 0.0 && y >= 0.0) {
            return None;
        }
        let (column, row) = (x as usize, y as usize);
        if column + 1 >= self.columns || row + 1 >= self.rows {
            return None;
        }
        let i = row * self.columns + column;
        let (low, high) = (&self.distance[i..], &self.distance[i + self.columns..]);
        let corners = [low[0], low[1], high[0], high[1]];
        Some(([x - column as f32, y - row as f32], corners))
    }

    /// Distance at a point; nothing far outside.
    #[inline(always)]
    pub(super) fn at(&self, p: [f32; 2]) -> Option<f32> {
        let ([u, v], [a, b, c, d]) = self.cell(p)?;
        let (low, high) = (a + (b - a) * u, c + (d - c) * u);
        Some(low + (high - low) * v)
    }

    /// A point is farther from the field than this.
    #[inline(always)]
    pub(super) fn beyond(&self, p: [f32; 2], radius: f32) -> bool {
        let off = |k: usize, cells: usize| {
            let high = self.low[k] + (cells - 1) as f32 / self.per_mm;
            (self.low[k] - p[k]).max(p[k] - high).max(0.0)
        };
        let (x, y) = (off(0, self.columns), off(1, self.rows));
        x * x + y * y > radius * radius
    }

    /// Some discs that fill most of the inside: never none.
    fn discs(&self) -> Vec<([f32; 2], f32)> {
        let mut found: Vec<([f32; 2], f32)> = Vec::new();
        while found.len() < MOST_DISCS {
            let mut best = ([0.0_f32; 2], 0.0_f32);
            for row in 0..self.rows {
                for column in 0..self.columns {
                    let radius = -self.distance[row * self.columns + column];
                    if radius <= best.1 {
                        continue;
                    }
                    let at = [
                        self.low[0] + column as f32 / self.per_mm,
                        self.low[1] + row as f32 / self.per_mm,
                    ];
                    let apart = found
                        .iter()
                        .all(|(c, r)| (at[0] - c[0]).hypot(at[1] - c[1]) > 0.9 * r);
                    if apart {
                        best = (at, radius);
                    }
                }
            }
            if best.1 <= 0.0 || found.first().is_some_and(|f| best.1 < 0.3 * f.1) {
                break;
            }
            found.push(best);
        }
        if found.is_empty() {
            found.push(([0.0; 2], 0.0));
        }
        found
    }

    /// Slope of the distance at a point; none far outside.
    #[inline]
    pub(super) fn slope(&self, p: [f32; 2]) -> [f32; 2] {
        self.cell(p).map_or([0.0; 2], |([u, v], [a, b, c, d])| {
            [
                ((b - a) * (1.0 - v) + (d - c) * v) * self.per_mm,
                ((c - a) * (1.0 - u) + (d - b) * u) * self.per_mm,
            ]
        })
    }
}

fn signed_distance(p: Point, corners: &[Point]) -> f64 {
    let (mut square, mut inside) = (f64::MAX, false);
    let mut a = corners[corners.len() - 1];
    for b in corners {
        let d = [b[0] - a[0], b[1] - a[1]];
        let length = (d[0] * d[0] + d[1] * d[1]).max(1e-18);
        let t = (((p[0] - a[0]) * d[0] + (p[1] - a[1]) * d[1]) / length).clamp(0.0, 1.0);
        let off = [p[0] - a[0] - t * d[0], p[1] - a[1] - t * d[1]];
        square = square.min(off[0] * off[0] + off[1] * off[1]);
        if (a[1] <= p[1]) != (b[1] <= p[1]) && p[0] < a[0] + (p[1] - a[1]) / d[1] * d[0] {
            inside = !inside;
        }
        a = *b;
    }
    if inside {
        -square.sqrt()
    } else {
        square.sqrt()
    }
}

#[derive(Debug, Clone, Copy)]
pub(super) struct Group {
    pub(super) middle: [f32; 2],
    pub(super) radius: f32,
    pub(super) from: u32,
    pub(super) to: u32,
}

/// A disc inside an outline, or a point along it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Mark {
    pub(super) at: [f32; 2],
    /// Nothing for a point.
    pub(super) radius: f32,
    /// Length of outline it stands for, mm.
    pub(super) weight: f32,
}

/// An item as it is pressed.
#[derive(Debug, Clone)]
pub(super) struct Shape {
    /// Middle of the circle around it, from its own origin, mm.
    pub(super) middle: Point,
    pub(super) radius: f64,
    /// Discs inside it, then points along its outline, about the middle.
    pub(super) points: Vec<Mark>,
    pub(super) groups: Vec<Group>,
    pub(super) field: Field,
    /// It is round, as a base is: then distances need no field.
    pub(super) round: bool,
    /// Its circumference or the length of its outline, mm.
    pub(super) around: f64,
}

impl Shape {
    /// Prepares an outline for a clearance, mm.
    pub(super) fn new(outline: &Outline, clearance: f64) -> Self {
        let (low, high) = outline.bounds();
        let middle = [(low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0];
        let corners: Vec<Point> = outline
            .corners()
            .iter()
            .map(|c| [c[0] - middle[0], c[1] - middle[1]])
            .collect();
        let radius = corners.iter().map(|c| c[0].hypot(c[1])).fold(0.0, f64::max);
        let field = Field::new(&corners, clearance + SEEN_MM);
        let around: f64 = (0..corners.len())
            .map(|i| {
                let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
                (a[0] - b[0]).hypot(a[1] - b[1])
            })
            .sum();
        let discs = field.discs();
        let weight = (around / discs.len().max(1) as f64) as f32;
        let mut points: Vec<Mark> = discs
            .into_iter()
            .map(|(at, radius)| Mark {
                at,
                radius: radius.min(SEEN_MM as f32),
                weight,
            })
            .collect();
        // Groups do not mix discs and points.
        while !points.len().is_multiple_of(GROUP) {
            points.push(points[0]);
        }
        let inner = points.len();
        for i in 0..corners.len() {
            let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
            let d = [b[0] - a[0], b[1] - a[1]];
            let parts = (d[0].hypot(d[1]) / BETWEEN_MM).ceil().max(1.0);
            for k in 0..parts as usize {
                let t = k as f64 / parts;
                points.push(Mark {
                    at: [(a[0] + t * d[0]) as f32, (a[1] + t * d[1]) as f32],
                    radius: 0.0,
                    weight: 0.0,
                });
            }
        }
        let along = points.len() - inner;
        points[inner..]
            .iter_mut()
            .for_each(|p| p.weight = (around / along as f64) as f32);
        let groups = points
            .chunks(GROUP)
            .enumerate()
            .map(|(i, chunk)| {
                let (mut low, mut high) = ([f32::MAX; 2], [f32::MIN; 2]);
                for p in chunk {
                    for k in 0..2 {
                        low[k] = low[k].min(p.at[k]);
                        high[k] = high[k].max(p.at[k]);
                    }
                }
                let middle = [(low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0];
                let far = |p: &Mark| p.radius + (p.at[0] - middle[0]).hypot(p.at[1] - middle[1]);
                Group {
                    middle,
                    radius: chunk.iter().map(far).fold(0.0, f32::max),
                    from: (i * GROUP) as u32,
                    to: (i * GROUP + chunk.len()) as u32,
                }
            })
            .collect();
        // A circle drawn with corners is taken for the circle around them.
        let flat = (0..corners.len())
            .map(|i| {
                let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
                ((a[0] + b[0]) / 2.0).hypot((a[1] + b[1]) / 2.0)
            })
            .fold(f64::INFINITY, f64::min);
        Self {
            round: flat > (1.0 - ROUND) * radius,
            around,
            middle,
            radius,
            points,
            groups,
            field,
        }
    }
}

impl Shape {
    /// About what it takes to move it.
    pub(super) const fn effort(&self) -> usize {
        if self.round { 8 } else { 2 * self.points.len() }
    }
}
