//! Plates as small pictures for lists: a plan with a skyline under it on the same x axis.

use std::collections::BTreeMap;

use svg::Document;
use svg::node::element::{Group, Rectangle};
use wembrit_core::geometry::Point;

use crate::ink::{RAMP, line, ramp_class, round, shape};
use crate::plate_sheet::{DrawnCopy, PlateDrawing};
use crate::shared::SharedOutlines;

/// Small pictures of some plates, and the outlines that all of them set down.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PlateThumbs {
    /// To stand on the page once, before them.
    pub outlines: String,
    /// A picture for each plate.
    pub each: Vec<String>,
}

/// An outline may be off by so much in so small a picture, mm.
const TOLERANCE_MM: f64 = 0.35;
/// Steps of the skyline over the width of the plate.
const STEPS: usize = 100;
/// A step of the skyline that is lower is not drawn, mm.
const LEAST_MM: f64 = 1.5;

/// Draws them.
///
/// # Shape
/// `prefix` begins the names of the outlines: no two calls for one page may share it.
#[must_use]
pub fn draw_plate_thumbs(prefix: &str, plates: &[PlateDrawing]) -> PlateThumbs {
    let mut outlines = SharedOutlines::new(prefix, 1.0, TOLERANCE_MM);
    let each = plates.iter().map(|p| draw(p, &mut outlines)).collect();
    let shared = Document::new()
        .set("width", 0)
        .set("height", 0)
        .set("class", "absolute")
        .set("aria-hidden", "true")
        .add(outlines.definitions());
    PlateThumbs {
        outlines: shared.to_string(),
        each,
    }
}

fn draw(plate: &PlateDrawing, outlines: &mut SharedOutlines<'_>) -> String {
    let tallest = plate.tallest().map_or(1.0, |t| t.height_mm).max(1.0);
    let up = (plate.depth_mm * 0.42 / tallest).min(1.0);
    let floor = plate.depth_mm * 1.08 + tallest * up;
    let frame = Rectangle::new()
        .set("class", "plate-edge")
        .set("x", 0)
        .set("y", 0)
        .set("width", round(plate.width_mm))
        .set("height", round(plate.depth_mm));
    let mut document = Document::new()
        .set(
            "viewBox",
            (-0.5, -0.5, round(plate.width_mm + 1.0), round(floor + 1.0)),
        )
        .set("class", "plate-thumb")
        .set("role", "img")
        .set("aria-label", "Plan and skyline of the plate")
        .add(frame);
    // What looks alike shares its class.
    let mut groups: BTreeMap<String, Group> = BTreeMap::new();
    for inked in plate.inked() {
        let (copy, class) = (inked.copy, inked.classes());
        let at =
            [copy.at_mm[0], plate.depth_mm - copy.at_mm[1]].map(|mm| (mm * 10.0).round() / 10.0);
        let group = groups.remove(&class).unwrap_or_default();
        groups.insert(
            class,
            group.add(outlines.set_down(&copy.outline, copy.rotation_deg, at)),
        );
    }
    for (class, group) in groups {
        document = document.add(group.set("class", class));
    }
    document = document.add(line([0.0, floor], [plate.width_mm, floor], "floor"));
    for (class, points) in skylines(plate, tallest) {
        let points: Vec<Point> = points.iter().map(|p| [p[0], floor - p[1] * up]).collect();
        document = document.add(shape(&points, &class));
    }
    document.to_string()
}

/// Copies of about one height as one skyline, the tallest behind; then the tallest of all.
fn skylines(plate: &PlateDrawing, tallest_mm: f64) -> Vec<(String, Vec<Point>)> {
    let mut all = Vec::new();
    let class = |copy: &DrawnCopy| ramp_class(copy.height_mm, tallest_mm);
    for step in (0..RAMP).rev() {
        let step = format!("h{step}");
        let of_step = plate.copies.iter().filter(|c| class(c) == step);
        let points = skyline(of_step, plate.width_mm);
        if !points.is_empty() {
            all.push((format!("copy {step}"), points));
        }
    }
    if let Some(tallest) = plate.tallest() {
        let points = skyline(std::iter::once(tallest), plate.width_mm);
        all.insert(
            1.min(all.len()),
            (format!("copy {} is-tallest", class(tallest)), points),
        );
    }
    all
}

/// The height of what stands there over the width of the plate, mm; empty where nothing does.
fn skyline<'a>(copies: impl Iterator<Item = &'a DrawnCopy>, width_mm: f64) -> Vec<Point> {
    let step_mm = width_mm / STEPS as f64;
    let mut tops = [0.0f64; STEPS];
    for copy in copies {
        for band in copy.profile.0.iter() {
            let Some((from, to)) = band.span_mm(copy.rotation_deg) else {
                continue;
            };
            let cell = |mm: f64| ((copy.at_mm[0] + mm * copy.scale) / step_mm).max(0.0);
            let (from, to) = (cell(from).floor() as usize, cell(to).ceil() as usize);
            let top = band.to_mm * copy.scale;
            for cell in tops.iter_mut().take(to).skip(from) {
                *cell = cell.max(top);
            }
        }
    }
    let mut points: Vec<Point> = Vec::new();
    let mut now = 0.0;
    for (index, top) in tops.iter().chain(&[0.0]).enumerate() {
        // Steps too low to be seen are left out.
        if (top - now).abs() > LEAST_MM || (*top == 0.0) != (now == 0.0) {
            let x = index as f64 * step_mm;
            points.extend([[x, now], [x, *top]]);
            now = *top;
        }
    }
    points
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::plate_sheet::tests::{copy, plate};

    /// Seen from the film an L keeps its hand: its long leg goes up at the left, and page y runs
    /// downward.
    #[test]
    fn the_plan_keeps_the_hand_of_a_part() {
        let drawn = draw_plate_thumbs("t", &[plate()]);
        assert!(
            drawn
                .outlines
                .contains("M0,0 L20,0 L20,-6 L6,-6 L6,-24 L0,-24 z"),
            "{}",
            drawn.outlines
        );
        assert!(
            drawn.each[0].contains("translate(10 40)"),
            "{}",
            drawn.each[0]
        );
    }

    /// A hundred copies of one part on two plates are one outline.
    #[test]
    fn an_outline_stands_on_a_page_once() {
        let one = copy("1", [10.0, 10.0], 12.0, false);
        let with = |turn: f64| PlateDrawing {
            copies: (0..50)
                .map(|i| DrawnCopy {
                    outline: Arc::clone(&one.outline),
                    rotation_deg: turn * f64::from(i),
                    ..one.clone()
                })
                .collect(),
            ..plate()
        };
        let drawn = draw_plate_thumbs("t", &[with(0.0), with(7.0)]);
        assert_eq!(drawn.outlines.matches("<path").count(), 1);
        for each in &drawn.each {
            assert_eq!(each.matches("<use href=\"#t0\"").count(), 50);
            assert!(each.len() < 50 * 80 + 1500, "{} bytes", each.len());
        }
        assert!(drawn.each[1].contains("rotate(-7)"));
    }

    /// Two boxes of 10 mm, 12 and 31 mm tall: their tops, and nothing between them.
    #[test]
    fn a_skyline_is_as_high_as_what_stands_there() {
        let points = skyline(plate().copies.iter(), 100.0);
        assert_eq!(
            points,
            [
                [5.0, 0.0],
                [5.0, 12.0],
                [15.0, 12.0],
                [15.0, 0.0],
                [45.0, 0.0],
                [45.0, 31.0],
                [55.0, 31.0],
                [55.0, 0.0],
            ]
        );
    }
}
