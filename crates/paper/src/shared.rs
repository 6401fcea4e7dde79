//! Outlines drawn once and set down by every copy of them: a page of many copies stays small.

use std::collections::HashMap;
use std::sync::Arc;

use svg::node::element::{Definitions, Path, Use};
use wembrit_core::geometry::{Outline, Point, fewer_corners};

use crate::ink::{path_data, round};
use crate::plate_sheet::DrawnCopy;

/// Outlines of some copies, each kept once.
pub(crate) struct SharedOutlines<'a> {
    /// What their names begin with: no two drawings of a page may use the same.
    prefix: &'a str,
    /// Pixels to a millimetre.
    scale: f64,
    /// An outline may be off by so much, pixels.
    tolerance: f64,
    known: HashMap<*const Outline, usize>,
    paths: Vec<Path>,
}

impl<'a> SharedOutlines<'a> {
    pub(crate) fn new(prefix: &'a str, scale: f64, tolerance: f64) -> Self {
        Self {
            prefix,
            scale,
            tolerance,
            known: HashMap::new(),
            paths: Vec::new(),
        }
    }

    /// A copy at a place on the page; y runs downward there, so its turn does too.
    pub(crate) fn set_down(&mut self, copy: &DrawnCopy, at: Point) -> Use {
        let fresh = self.paths.len();
        let index = *self
            .known
            .entry(Arc::as_ptr(&copy.outline))
            .or_insert(fresh);
        if index == fresh {
            let place = |p: &Point| [p[0] * self.scale, -p[1] * self.scale];
            let corners: Vec<Point> = copy.outline.corners().iter().map(place).collect();
            let path = Path::new()
                .set("id", format!("{}{index}", self.prefix))
                .set("d", path_data(&fewer_corners(&corners, self.tolerance)));
            self.paths.push(path);
        }
        let [x, y] = at.map(round);
        let turn = round(-copy.rotation_deg);
        let mut transform = format!("translate({x} {y})");
        if turn != 0.0 {
            transform += &format!("rotate({turn})");
        }
        Use::new()
            .set("href", format!("#{}{index}", self.prefix))
            .set("transform", transform)
    }

    /// What has to stand on the page once.
    pub(crate) fn definitions(self) -> Definitions {
        let all = Definitions::new();
        self.paths.into_iter().fold(all, Definitions::add)
    }
}
