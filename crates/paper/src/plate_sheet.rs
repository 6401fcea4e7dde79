//! A plate as a workshop drawing: the plan, and the elevation under it on the same x axis.

use std::sync::Arc;

use svg::Document;
use svg::node::element::{Group, Rectangle, Title};
use wembrit_core::geometry::{Outline, Point};
use wembrit_core::layers::Reach;

use crate::ink::{RAMP, line, ramp_class, round, ruler_step, shape, words};

/// How a copy is marked beside its height.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CopyMark {
    /// Nothing special.
    Plain,
    /// Judged good.
    Good,
    /// Lost.
    Failed,
}

/// One copy on the plate.
#[derive(Debug, Clone)]
pub struct DrawnCopy {
    /// What the page knows it by.
    pub key: String,
    /// Its name for people.
    pub label: String,
    /// Outline about its own origin at print scale, mm.
    pub outline: Arc<Outline>,
    /// Skyline at file scale.
    pub reach: Arc<Reach>,
    /// Its scale.
    pub scale: f64,
    /// Where its origin stands on the plate, mm.
    pub at_mm: Point,
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Its height, mm.
    pub height_mm: f64,
    /// Its mark.
    pub mark: CopyMark,
}

/// A plate with what stands on it.
#[derive(Debug, Clone)]
pub struct PlateDrawing {
    /// Width of the plate, mm.
    pub width_mm: f64,
    /// Depth of the plate, mm.
    pub depth_mm: f64,
    /// Rim that stays free, mm.
    pub margin_mm: f64,
    /// The copies.
    pub copies: Vec<DrawnCopy>,
}

impl PlateDrawing {
    fn tallest(&self) -> Option<&DrawnCopy> {
        self.copies
            .iter()
            .max_by(|a, b| a.height_mm.total_cmp(&b.height_mm))
    }

    fn class(&self, copy: &DrawnCopy) -> String {
        let tallest = self.tallest();
        let mut class = format!(
            "copy {}",
            ramp_class(copy.height_mm, tallest.map_or(0.0, |t| t.height_mm))
        );
        if tallest.is_some_and(|t| t.key == copy.key) {
            class.push_str(" is-tallest");
        }
        match copy.mark {
            CopyMark::Plain => {}
            CopyMark::Good => class.push_str(" is-good"),
            CopyMark::Failed => class.push_str(" is-failed"),
        }
        class
    }
}

const LEFT: f64 = 44.0;
const RIGHT: f64 = 12.0;
const TOP: f64 = 26.0;
const PLAN_WIDTH: f64 = 800.0;
const PLAN_HEIGHT: f64 = 400.0;
const BETWEEN: f64 = 52.0;
const ELEVATION: f64 = 150.0;
const FOOT: f64 = 10.0;

/// The whole sheet: plan seen from the film, elevation turned upright under it.
#[must_use]
pub fn draw_plate_sheet(plate: &PlateDrawing) -> String {
    let scale = (PLAN_WIDTH / plate.width_mm).min(PLAN_HEIGHT / plate.depth_mm);
    let (width, depth) = (plate.width_mm * scale, plate.depth_mm * scale);
    let floor = TOP + depth + BETWEEN + ELEVATION;
    let document = Document::new()
        .set(
            "viewBox",
            (0, 0, round(LEFT + width + RIGHT), round(floor + FOOT)),
        )
        .set("class", "plate-sheet")
        .set("role", "group")
        .set("aria-label", "Plan and elevation of the plate")
        .add(draw_plan(plate, scale))
        .add(draw_elevation(plate, scale, floor));
    document.to_string()
}

/// A small plan for lists.
#[must_use]
pub fn draw_plate_thumb(plate: &PlateDrawing) -> String {
    let frame = Rectangle::new()
        .set("class", "plate-edge")
        .set("x", 0)
        .set("y", 0)
        .set("width", round(plate.width_mm))
        .set("height", round(plate.depth_mm));
    let mut document = Document::new()
        .set(
            "viewBox",
            (
                -0.5,
                -0.5,
                round(plate.width_mm + 1.0),
                round(plate.depth_mm + 1.0),
            ),
        )
        .set("class", "plate-thumb")
        .set("role", "img")
        .set("aria-label", "Plan of the plate")
        .add(frame);
    for copy in &plate.copies {
        let points = to_page(copy, |p| [p[0], plate.depth_mm - p[1]]);
        document = document.add(shape(&points, &plate.class(copy)));
    }
    document.to_string()
}

/// A small skyline for lists, to go under the small plan: at most so many mm are drawn upward.
#[must_use]
pub fn draw_plate_skyline(plate: &PlateDrawing) -> String {
    let tallest = plate.tallest().map_or(1.0, |t| t.height_mm).max(1.0);
    let up = (plate.depth_mm * 0.45 / tallest).min(1.0);
    let top = round(tallest * up);
    let mut document = Document::new()
        .set(
            "viewBox",
            (-0.5, -1, round(plate.width_mm + 1.0), round(top + 2.0)),
        )
        .set("class", "plate-skyline")
        .set("role", "img")
        .set("aria-label", "Skyline of the plate")
        .add(line([0.0, top], [plate.width_mm, top], "floor"));
    let mut copies: Vec<&DrawnCopy> = plate.copies.iter().collect();
    copies.sort_by(|a, b| b.height_mm.total_cmp(&a.height_mm));
    for copy in copies {
        let points: Vec<Point> = copy
            .reach
            .skyline(copy.rotation_deg, copy.scale)
            .into_iter()
            .map(|p| [copy.at_mm[0] + p[0], top - p[1] * up])
            .collect();
        document = document.add(shape(&points, &plate.class(copy)));
    }
    document.to_string()
}

fn to_page(copy: &DrawnCopy, place: impl Fn(Point) -> Point) -> Vec<Point> {
    let placed = copy.outline.placed(copy.rotation_deg, copy.at_mm);
    placed.corners().iter().map(|p| place(*p)).collect()
}

fn draw_plan(plate: &PlateDrawing, scale: f64) -> Group {
    let place = |p: Point| [LEFT + p[0] * scale, TOP + (plate.depth_mm - p[1]) * scale];
    let edge = |inset: f64, class: &str| {
        let from = place([inset, plate.depth_mm - inset]);
        Rectangle::new()
            .set("class", class)
            .set("x", round(from[0]))
            .set("y", round(from[1]))
            .set("width", round((plate.width_mm - 2.0 * inset) * scale))
            .set("height", round((plate.depth_mm - 2.0 * inset) * scale))
    };
    let mut group = Group::new()
        .set("class", "plan")
        .add(words("PLAN", [LEFT, TOP - 10.0], "caption"))
        .add(words(
            "seen from the film, mm",
            [LEFT + 38.0, TOP - 10.0],
            "caption-soft",
        ))
        .add(draw_ramp(plate, LEFT + plate.width_mm * scale))
        .add(edge(0.0, "plate-edge"))
        .add(edge(plate.margin_mm, "plate-margin"));
    let step = ruler_step(plate.width_mm, 12.0);
    for mark in 0..=(plate.width_mm / step).floor() as usize {
        let x = mark as f64 * step;
        let at = place([x, 0.0]);
        group = group.add(line(at, [at[0], at[1] + 5.0], "tick")).add(words(
            &format!("{x:.0}"),
            [at[0], at[1] + 17.0],
            "ruler middle",
        ));
    }
    for mark in 0..=(plate.depth_mm / step).floor() as usize {
        let y = mark as f64 * step;
        let at = place([0.0, y]);
        group = group.add(line([at[0] - 5.0, at[1]], at, "tick")).add(words(
            &format!("{y:.0}"),
            [at[0] - 9.0, at[1] + 4.0],
            "ruler end",
        ));
    }
    for copy in &plate.copies {
        let title = format!("{}, {:.1} mm tall", copy.label, copy.height_mm);
        let shape = shape(&to_page(copy, place), &plate.class(copy))
            .set("data-copy", copy.key.as_str())
            .add(Title::new(title));
        group = group.add(shape);
    }
    group
}

/// What the tints mean: pale is low, deep is the tallest part of this plate.
fn draw_ramp(plate: &PlateDrawing, right: f64) -> Group {
    let tallest = plate.tallest().map_or(0.0, |t| t.height_mm);
    let (step, y) = (14.0, TOP - 19.0);
    let left = right - 92.0 - step * RAMP as f64;
    let mut group =
        Group::new()
            .set("class", "key")
            .add(words("0", [left - 6.0, y + 9.0], "ruler end"));
    for index in 0..RAMP {
        let patch = Rectangle::new()
            .set("class", format!("h{index} key-edge"))
            .set("x", round(left + step * index as f64))
            .set("y", y)
            .set("width", step)
            .set("height", 10);
        group = group.add(patch);
    }
    group.add(words(
        &format!("{tallest:.0} mm tall"),
        [right, y + 9.0],
        "ruler end",
    ))
}

fn draw_elevation(plate: &PlateDrawing, scale: f64, floor: f64) -> Group {
    let width = plate.width_mm * scale;
    let tallest = plate.tallest();
    let height = tallest.map_or(10.0, |t| t.height_mm);
    let up = scale.min((ELEVATION - 26.0) / height);
    let caption = floor - ELEVATION - 4.0;
    let mut group = Group::new()
        .set("class", "elevation")
        .add(words("ELEVATION", [LEFT, caption], "caption"))
        .add(words(
            "as it hangs, turned upright",
            [LEFT + 78.0, caption],
            "caption-soft",
        ));
    let step = ruler_step(height, 6.0);
    for mark in 0..=((ELEVATION - 12.0) / up / step).floor() as usize {
        let z = mark as f64 * step;
        let y = floor - z * up;
        group = group
            .add(line(
                [LEFT, y],
                [LEFT + width, y],
                if mark == 0 { "floor" } else { "grid" },
            ))
            .add(words(
                &format!("{z:.0}"),
                [LEFT - 9.0, y + 4.0],
                "ruler end",
            ));
    }
    let mut copies: Vec<&DrawnCopy> = plate.copies.iter().collect();
    copies.sort_by(|a, b| b.height_mm.total_cmp(&a.height_mm));
    for copy in &copies {
        let points: Vec<Point> = copy
            .reach
            .skyline(copy.rotation_deg, copy.scale)
            .into_iter()
            .map(|p| [LEFT + (copy.at_mm[0] + p[0]) * scale, floor - p[1] * up])
            .collect();
        group = group.add(shape(&points, &plate.class(copy)).set("data-copy", copy.key.as_str()));
    }
    if let Some(copy) = tallest {
        let y = floor - copy.height_mm * up;
        let left = copy.at_mm[0] > plate.width_mm / 2.0;
        let (x, class) = if left {
            (LEFT + 4.0, "note start")
        } else {
            (LEFT + width - 4.0, "note end")
        };
        group = group
            .add(line([LEFT, y], [LEFT + width, y], "sets-hours"))
            .add(words(
                &format!("{:.1} mm sets the hours: {}", copy.height_mm, copy.label),
                [x, y - 6.0],
                class,
            ));
    }
    group
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::layers::{Reach, ReachBand};

    fn copy(key: &str, at_mm: Point, height_mm: f64, mark: CopyMark) -> DrawnCopy {
        let corners = vec![
            [0.0, 0.0],
            [20.0, 0.0],
            [20.0, 6.0],
            [6.0, 6.0],
            [6.0, 24.0],
            [0.0, 24.0],
        ];
        let band = ReachBand {
            from_mm: 0.0,
            to_mm: height_mm,
            reach_mm: vec![5.0; 36],
        };
        DrawnCopy {
            key: key.into(),
            label: format!("ell & <{key}>"),
            outline: Arc::new(Outline::try_new(corners).unwrap()),
            reach: Arc::new(Reach(vec![band])),
            scale: 1.0,
            at_mm,
            rotation_deg: 0.0,
            height_mm,
            mark,
        }
    }

    fn plate() -> PlateDrawing {
        PlateDrawing {
            width_mm: 100.0,
            depth_mm: 50.0,
            margin_mm: 3.0,
            copies: vec![
                copy("1", [10.0, 10.0], 12.0, CopyMark::Plain),
                copy("2", [50.0, 10.0], 31.0, CopyMark::Failed),
            ],
        }
    }

    #[test]
    fn every_copy_stands_in_plan_and_elevation_and_names_are_escaped() {
        let drawing = draw_plate_sheet(&plate());
        for key in ["1", "2"] {
            assert_eq!(drawing.matches(&format!("data-copy=\"{key}\"")).count(), 2);
        }
        assert!(drawing.contains("31.0 mm sets the hours"));
        assert!(!drawing.contains("<2>"), "names are text, not markup");
        assert!(
            !drawing.contains("style="),
            "inline styles are blocked by the page's policy"
        );
    }

    #[test]
    fn the_tallest_and_the_lost_are_marked() {
        let drawing = draw_plate_sheet(&plate());
        assert!(drawing.contains("copy h7 is-tallest is-failed"));
        assert!(drawing.contains("copy h3\""));
    }

    /// Seen from the film an L keeps its hand: its long leg goes up at the left, and page y runs
    /// downward.
    #[test]
    fn the_plan_keeps_the_hand_of_a_part() {
        let drawing = draw_plate_thumb(&plate());
        assert!(
            drawing.contains("M10,40 L30,40 L30,34 L16,34 L16,16 L10,16 z"),
            "{drawing}"
        );
    }
}
