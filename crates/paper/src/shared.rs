//! Outlines and skylines drawn once and set down by every copy of them: a page of many copies stays small.

use std::collections::HashMap;
use std::hash::Hash;
use std::sync::Arc;

use svg::node::element::{Definitions, Path, Use};
use wembrit_core::geometry::{Outline, Point, fewer_corners};
use wembrit_core::layers::HeightProfile;

use crate::ink::{path_data, round};
use crate::plate_sheet::DrawnCopy;

/// Shapes, each kept once.
struct Shapes<'a, K> {
    /// What their names begin with: no two drawings of a page may use the same.
    prefix: &'a str,
    /// A shape may be off by so much, pixels.
    tolerance: f64,
    known: HashMap<K, usize>,
    paths: Vec<Path>,
}

impl<'a, K: Eq + Hash> Shapes<'a, K> {
    fn new(prefix: &'a str, tolerance: f64) -> Self {
        Self {
            prefix,
            tolerance,
            known: HashMap::new(),
            paths: Vec::new(),
        }
    }

    /// The shape known by a key, to be set down; its corners are asked for once.
    fn set_down(&mut self, key: K, corners: impl FnOnce() -> Vec<Point>) -> Use {
        let fresh = self.paths.len();
        let index = *self.known.entry(key).or_insert(fresh);
        let name = format!("{}{index}", self.prefix);
        let href = format!("#{name}");
        if index == fresh {
            // To a tenth: hundreds of shapes are half of the page they stand on.
            let tenth = |p: &Point| p.map(|n| (n * 10.0).round() / 10.0);
            let corners = fewer_corners(&corners(), self.tolerance);
            let data = path_data(&corners.iter().map(tenth).collect::<Vec<_>>());
            self.paths.push(Path::new().set("id", name).set("d", data));
        }
        Use::new().set("href", href)
    }

    fn definitions(self) -> Definitions {
        let all = Definitions::new();
        self.paths.into_iter().fold(all, Definitions::add)
    }
}

/// Outlines of some copies, each kept once.
pub(crate) struct SharedOutlines<'a> {
    /// Pixels to a millimetre.
    scale: f64,
    shapes: Shapes<'a, *const Outline>,
}

impl<'a> SharedOutlines<'a> {
    pub(crate) fn new(prefix: &'a str, scale: f64, tolerance: f64) -> Self {
        Self {
            scale,
            shapes: Shapes::new(prefix, tolerance),
        }
    }

    /// An outline turned by so many degrees at a place on the page; y runs downward there, so its turn does too.
    pub(crate) fn set_down(&mut self, outline: &Arc<Outline>, turn_deg: f64, at: Point) -> Use {
        let place = |p: &Point| [p[0] * self.scale, -p[1] * self.scale];
        let shape = self.shapes.set_down(Arc::as_ptr(outline), || {
            outline.corners().iter().map(place).collect()
        });
        let [x, y] = at.map(round);
        let turn = round(-turn_deg);
        let mut transform = format!("translate({x} {y})");
        if turn != 0.0 {
            transform += &format!("rotate({turn})");
        }
        shape.set("transform", transform)
    }

    /// What has to stand on the page once.
    pub(crate) fn definitions(self) -> Definitions {
        self.shapes.definitions()
    }
}

/// Profile, turn and scale of a copy.
type Seen = (*const HeightProfile, u64, u64);

/// Skylines of some copies as an elevation shows them, each kept once: copies of one sculpt that are turned alike look
/// alike from the side.
pub(crate) struct SharedSkylines<'a> {
    /// Pixels to a millimetre across, and upward.
    scale: [f64; 2],
    shapes: Shapes<'a, Seen>,
}

impl<'a> SharedSkylines<'a> {
    pub(crate) fn new(prefix: &'a str, scale: [f64; 2], tolerance: f64) -> Self {
        Self {
            scale,
            shapes: Shapes::new(prefix, tolerance),
        }
    }

    /// A copy with its origin so far along the floor, pixels.
    pub(crate) fn set_down(&mut self, copy: &DrawnCopy, along: f64) -> Use {
        let (turn, scale) = (copy.rotation_deg, copy.scale);
        let seen = (Arc::as_ptr(&copy.profile), turn.to_bits(), scale.to_bits());
        let place = |p: Point| [p[0] * self.scale[0], -p[1] * self.scale[1]];
        let shape = self.shapes.set_down(seen, || {
            let skyline = copy.profile.skyline(turn, scale);
            skyline.into_iter().map(place).collect()
        });
        shape.set("x", round(along))
    }

    /// What has to stand on the page once.
    pub(crate) fn definitions(self) -> Definitions {
        self.shapes.definitions()
    }
}
