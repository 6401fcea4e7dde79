//! Outlines in the plane of the build plate.

use std::fmt;
use std::str::FromStr;

use crate::numbers::{self, NotNumbers, from_text, to_um};
use crate::words::words;

/// A corner or a shift, in mm.
pub type Point = [f64; 2];

words! {
    /// A quarter of a plate, seen from above with its front toward whoever looks.
    Quarter, "quarter" {
        /// In front, on the left.
        FrontLeft = "front left",
        /// In front, on the right.
        FrontRight = "front right",
        /// In the back, on the left.
        BackLeft = "back left",
        /// In the back, on the right.
        BackRight = "back right",
    }
}

impl Quarter {
    /// It is on the right, and in the back.
    #[must_use]
    pub const fn sides(self) -> [bool; 2] {
        match self {
            Self::FrontLeft => [false, false],
            Self::FrontRight => [true, false],
            Self::BackLeft => [false, true],
            Self::BackRight => [true, true],
        }
    }

    /// A place, from 0 to 1 over the plate, is in it.
    #[must_use]
    pub fn holds(self, at: Point) -> bool {
        at.map(|share| share >= 0.5) == self.sides()
    }

    /// The corner of the plate it reaches to, as such a place.
    #[must_use]
    pub fn corner(self) -> Point {
        self.sides().map(|far| if far { 1.0 } else { 0.0 })
    }
}

/// A closed outline without holes.
///
/// # Shape
/// At least three corners in mm, counter-clockwise, not repeated at the end, all finite.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Outline(Vec<Point>);

/// Why a list of corners is no outline.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum OutlineError {
    /// Fewer than three corners, or all on one line.
    #[error("an outline needs an area; these {corners} corners have none")]
    NoArea {
        /// How many corners were given.
        corners: usize,
    },
    /// A corner that is no number.
    #[error("corner {index} of the outline is not a number")]
    NotFinite {
        /// Which corner, from 0.
        index: usize,
    },
}

impl Outline {
    /// Takes corners of either winding.
    ///
    /// # Errors
    /// [`OutlineError`] for NaN, infinity or an outline without area.
    pub fn try_new(mut corners: Vec<Point>) -> Result<Self, OutlineError> {
        if let Some(index) = corners
            .iter()
            .position(|c| !c[0].is_finite() || !c[1].is_finite())
        {
            return Err(OutlineError::NotFinite { index });
        }
        let area = signed_area(&corners);
        if corners.len() < 3 || area.abs() < 1e-12 {
            return Err(OutlineError::NoArea {
                corners: corners.len(),
            });
        }
        if area < 0.0 {
            corners.reverse();
        }
        Ok(Self(corners))
    }

    /// An upright rectangle about the origin.
    ///
    /// # Panics
    /// When a side is not positive.
    #[must_use]
    pub fn rectangle(width_mm: f64, depth_mm: f64) -> Self {
        assert!(
            width_mm > 0.0 && depth_mm > 0.0,
            "a rectangle needs two sides"
        );
        let (x, y) = (width_mm / 2.0, depth_mm / 2.0);
        Self(vec![[-x, -y], [x, -y], [x, y], [-x, y]])
    }

    /// The corners, counter-clockwise.
    #[must_use]
    pub fn corners(&self) -> &[Point] {
        &self.0
    }

    /// Every edge as a pair of corners.
    pub fn edges(&self) -> impl Iterator<Item = (Point, Point)> + '_ {
        self.0
            .iter()
            .copied()
            .zip(self.0.iter().copied().cycle().skip(1))
    }

    /// # Units
    /// mm².
    #[must_use]
    pub fn area_mm2(&self) -> f64 {
        signed_area(&self.0)
    }

    /// Lowest and highest corner of the upright box around it.
    #[must_use]
    pub fn bounds(&self) -> (Point, Point) {
        bounds(&self.0)
    }

    /// A point well inside, for a label: the middle of the widest stretch of a few lines across.
    #[must_use]
    pub fn label_point(&self) -> Point {
        let (low, high) = self.bounds();
        let mut best = (0.0, [(low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0]);
        for share in [0.5, 0.4, 0.6, 0.25, 0.75] {
            let y = low[1] + share * (high[1] - low[1]) + 1e-7;
            let mut xs: Vec<f64> = self
                .edges()
                .filter(|(a, b)| (a[1] <= y) != (b[1] <= y))
                .map(|(a, b)| a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
                .collect();
            xs.sort_by(f64::total_cmp);
            for pair in xs.chunks_exact(2) {
                // The middle lines are the better ones: another has to be wider by a third.
                let width = (pair[1] - pair[0]) * if share == 0.5 { 1.3 } else { 1.0 };
                if width > best.0 {
                    best = (width, [(pair[0] + pair[1]) / 2.0, y]);
                }
            }
        }
        best.1
    }

    /// Grown or shrunk about the origin. `factor` must be positive.
    #[must_use]
    pub fn scaled(&self, factor: f64) -> Self {
        Self(
            self.0
                .iter()
                .map(|c| [c[0] * factor, c[1] * factor])
                .collect(),
        )
    }

    /// Turned about the origin, counter-clockwise, then shifted.
    #[must_use]
    pub fn placed(&self, rotation_deg: f64, at: Point) -> Self {
        let (sin, cos) = rotation_deg.to_radians().sin_cos();
        let place = |c: &Point| {
            [
                c[0] * cos - c[1] * sin + at[0],
                c[0] * sin + c[1] * cos + at[1],
            ]
        };
        Self(self.0.iter().map(place).collect())
    }

    /// True when no two edges cross or touch but neighbours at their common corner.
    #[must_use]
    pub fn is_simple(&self) -> bool {
        let edges: Vec<_> = self.edges().collect();
        let n = edges.len();
        for i in 0..n {
            for j in i + 1..n {
                let neighbours = j == i + 1 || (i == 0 && j == n - 1);
                if !neighbours && segments_touch(edges[i], edges[j]) {
                    return false;
                }
            }
        }
        true
    }
}

impl fmt::Display for Outline {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let corners: Vec<Point> = self.0.iter().map(|c| c.map(to_um)).collect();
        numbers::write(&corners, f)
    }
}

impl FromStr for Outline {
    type Err = NotNumbers;
    fn from_str(text: &str) -> Result<Self, NotNumbers> {
        Self::try_new(numbers::read(text)?).map_err(|e| NotNumbers(e.to_string()))
    }
}

from_text!(Outline);

/// Lowest and highest corner of the upright box around some points.
pub(crate) fn bounds(points: &[Point]) -> (Point, Point) {
    let mut low = [f64::INFINITY; 2];
    let mut high = [f64::NEG_INFINITY; 2];
    for point in points {
        for axis in 0..2 {
            low[axis] = low[axis].min(point[axis]);
            high[axis] = high[axis].max(point[axis]);
        }
    }
    (low, high)
}

/// The convex hull of points (monotone chain; A. M. Andrew, Information Processing Letters 9,
/// 1979, from memory). Empty when all points lie on one line.
#[must_use]
pub fn convex_hull(points: &[Point]) -> Vec<Point> {
    let mut sorted: Vec<Point> = points
        .iter()
        .copied()
        .filter(|p| p[0].is_finite() && p[1].is_finite())
        .collect();
    sorted.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    sorted.dedup();
    let chain = |points: &mut dyn Iterator<Item = Point>| {
        let mut hull: Vec<Point> = Vec::new();
        for p in points {
            while hull.len() >= 2 && cross(hull[hull.len() - 2], hull[hull.len() - 1], p) <= 0.0 {
                hull.pop();
            }
            hull.push(p);
        }
        hull.pop();
        hull
    };
    let mut hull = chain(&mut sorted.iter().copied());
    hull.extend(chain(&mut sorted.iter().rev().copied()));
    if hull.len() < 3 { Vec::new() } else { hull }
}

fn signed_area(corners: &[Point]) -> f64 {
    let next = corners.iter().cycle().skip(1);
    corners
        .iter()
        .zip(next)
        .map(|(a, b)| a[0] * b[1] - a[1] * b[0])
        .sum::<f64>()
        / 2.0
}

fn cross(o: Point, a: Point, b: Point) -> f64 {
    (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])
}

fn segments_touch(a: (Point, Point), b: (Point, Point)) -> bool {
    let side = |s: (Point, Point), p: Point| cross(s.0, s.1, p);
    let within = |s: (Point, Point), p: Point| {
        (0..2).all(|k| s.0[k].min(s.1[k]) <= p[k] && p[k] <= s.0[k].max(s.1[k]))
    };
    let (a0, a1) = (side(b, a.0), side(b, a.1));
    let (b0, b1) = (side(a, b.0), side(a, b.1));
    (a0 * a1 < 0.0 && b0 * b1 < 0.0)
        || (a0 == 0.0 && within(b, a.0))
        || (a1 == 0.0 && within(b, a.1))
        || (b0 == 0.0 && within(a, b.0))
        || (b1 == 0.0 && within(a, b.1))
}

/// Fewer corners, none further from the old edge than `tolerance` (D. Douglas, T. Peucker,
/// Cartographica 10(2), 1973, from memory), on the closed ring cut at its two farthest corners.
#[must_use]
pub fn fewer_corners(ring: &[Point], tolerance: f64) -> Vec<Point> {
    if ring.len() < 4 {
        return ring.to_vec();
    }
    let from_first = |p: &Point| (p[0] - ring[0][0]).hypot(p[1] - ring[0][1]);
    let far = (0..ring.len())
        .max_by(|a, b| from_first(&ring[*a]).total_cmp(&from_first(&ring[*b])))
        .unwrap_or(ring.len() / 2);
    let mut closed = ring.to_vec();
    closed.push(ring[0]);
    let mut kept = vec![false; closed.len()];
    kept[0] = true;
    kept[far] = true;
    let mut spans = vec![(0, far), (far, closed.len() - 1)];
    while let Some((from, to)) = spans.pop() {
        let (a, b) = (closed[from], closed[to]);
        let farthest = (from + 1..to)
            .map(|i| (i, distance_to_segment(closed[i], a, b)))
            .max_by(|x, y| x.1.total_cmp(&y.1));
        if let Some((i, distance)) = farthest
            && distance > tolerance
        {
            kept[i] = true;
            spans.extend([(from, i), (i, to)]);
        }
    }
    let last = closed.len() - 1;
    (0..last).filter(|i| kept[*i]).map(|i| closed[i]).collect()
}

pub(crate) fn distance_to_segment(p: Point, a: Point, b: Point) -> f64 {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let length2 = dx * dx + dy * dy;
    let t = if length2 == 0.0 {
        0.0
    } else {
        (((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / length2).clamp(0.0, 1.0)
    };
    (p[0] - a[0] - t * dx).hypot(p[1] - a[1] - t * dy)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A label stands on its shape, be it an ell, a hook or a thin pole askew.
    #[rstest::rstest]
    #[case::ell(vec![[0.0, 0.0], [20.0, 0.0], [20.0, 5.0], [5.0, 5.0], [5.0, 30.0], [0.0, 30.0]])]
    #[case::hook(vec![[0.0, 0.0], [30.0, 0.0], [30.0, 30.0], [25.0, 30.0], [25.0, 5.0], [5.0, 5.0], [5.0, 30.0], [0.0, 30.0]])]
    #[case::pole(vec![[0.0, 0.0], [2.0, 0.0], [41.0, 40.0], [39.0, 40.0]])]
    fn a_label_stands_on_its_shape(#[case] corners: Vec<Point>) {
        let outline = Outline::try_new(corners).unwrap();
        let [x, y] = outline.label_point();
        let crossings = outline
            .edges()
            .filter(|(a, b)| (a[1] <= y) != (b[1] <= y))
            .filter(|(a, b)| a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]) > x)
            .count();
        assert_eq!(crossings % 2, 1, "{x} {y}");
    }

    #[test]
    fn outlines_wind_counter_clockwise_and_keep_their_area() {
        let clockwise = vec![[0.0, 0.0], [0.0, 3.0], [4.0, 3.0], [4.0, 0.0]];
        let outline = Outline::try_new(clockwise).unwrap();
        assert_eq!(outline.area_mm2(), 12.0);
        let turned = outline.placed(37.0, [5.0, -2.0]);
        assert!((turned.area_mm2() - 12.0).abs() < 1e-9);
        assert_eq!(outline.scaled(2.0).area_mm2(), 48.0);
    }

    #[test]
    fn an_outline_without_area_is_refused() {
        let line = vec![[0.0, 0.0], [1.0, 1.0], [2.0, 2.0]];
        assert_eq!(
            Outline::try_new(line),
            Err(OutlineError::NoArea { corners: 3 })
        );
        let nan = vec![[0.0, 0.0], [f64::NAN, 1.0], [2.0, 2.0]];
        assert_eq!(
            Outline::try_new(nan),
            Err(OutlineError::NotFinite { index: 1 })
        );
    }

    #[test]
    fn a_bow_tie_is_not_simple() {
        let bow = Outline::try_new(vec![[0.0, 0.0], [2.0, 2.0], [2.0, 0.0], [0.0, 3.0]]).unwrap();
        assert!(!bow.is_simple());
        assert!(Outline::rectangle(2.0, 3.0).is_simple());
    }

    #[test]
    fn the_hull_drops_inner_points() {
        let points = [
            [0.0, 0.0],
            [2.0, 0.0],
            [1.0, 0.5],
            [2.0, 2.0],
            [0.0, 2.0],
            [1.0, 0.0],
        ];
        assert_eq!(
            convex_hull(&points),
            vec![[0.0, 0.0], [2.0, 0.0], [2.0, 2.0], [0.0, 2.0]]
        );
    }
}
