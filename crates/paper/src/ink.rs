//! Strokes that several drawings share.

use svg::node::element::path::Data;
use svg::node::element::{Line, Path, Text};
use wembrit_core::geometry::Point;

/// Steps of the height ramp.
pub(crate) const RAMP: usize = 8;

/// The class of a height between nothing and the tallest: `h0` to `h7`.
#[must_use]
pub fn ramp_class(height_mm: f64, tallest_mm: f64) -> String {
    let share = if tallest_mm > 0.0 {
        (height_mm / tallest_mm).clamp(0.0, 1.0)
    } else {
        0.0
    };
    format!("h{}", (share * (RAMP - 1) as f64).round() as usize)
}

/// A closed shape.
pub(crate) fn shape(points: &[Point], class: &str) -> Path {
    let mut data = Data::new();
    for (index, point) in points.iter().enumerate() {
        let at = (round(point[0]), round(point[1]));
        data = if index == 0 {
            data.move_to(at)
        } else {
            data.line_to(at)
        };
    }
    Path::new().set("class", class).set("d", data.close())
}

/// A straight line.
pub(crate) fn line(from: Point, to: Point, class: &str) -> Line {
    Line::new()
        .set("class", class)
        .set("x1", round(from[0]))
        .set("y1", round(from[1]))
        .set("x2", round(to[0]))
        .set("y2", round(to[1]))
}

/// Words; the class also says how they are anchored.
pub(crate) fn words(text: &str, at: Point, class: &str) -> Text {
    Text::new(text)
        .set("class", class)
        .set("x", round(at[0]))
        .set("y", round(at[1]))
}

/// To the hundredth of a pixel: more would only make pages longer.
pub(crate) fn round(value: f64) -> f64 {
    (value * 100.0).round() / 100.0
}

/// A round step of a ruler, so that about `marks` of them fit.
pub(crate) fn ruler_step(length_mm: f64, marks: f64) -> f64 {
    [5.0, 10.0, 20.0, 50.0, 100.0, 200.0]
        .into_iter()
        .find(|step| length_mm / step <= marks)
        .unwrap_or(500.0)
}
