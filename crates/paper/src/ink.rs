//! Strokes that several drawings share.

use svg::Document;
use svg::node::element::path::Data;
use svg::node::element::{Line, Path, Rectangle, Text};
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
    Path::new().set("class", class).set("d", path_data(points))
}

/// Corners as the data of a path. Written by hand: a plate has tens of thousands of corners, and is
/// drawn again after every change.
pub(crate) fn path_data(points: &[Point]) -> String {
    let mut data = String::with_capacity(points.len() * 16);
    for (index, [x, y]) in points.iter().enumerate() {
        data.push(if index == 0 { 'M' } else { 'L' });
        push_hundredths(&mut data, *x);
        data.push(',');
        push_hundredths(&mut data, *y);
        data.push(' ');
    }
    data.push('z');
    data
}

/// A number to the hundredth, without zeros that say nothing.
fn push_hundredths(text: &mut String, value: f64) {
    let hundredths = (value * 100.0).round() as i64;
    if hundredths < 0 {
        text.push('-');
    }
    let (whole, rest) = (
        hundredths.unsigned_abs() / 100,
        hundredths.unsigned_abs() % 100,
    );
    let digit = |n: u64| char::from(b'0' + (n % 10) as u8);
    let mut power = 1;
    while whole / power >= 10 {
        power *= 10;
    }
    while power > 0 {
        text.push(digit(whole / power));
        power /= 10;
    }
    if rest > 0 {
        text.push('.');
        text.push(digit(rest / 10));
        if rest % 10 > 0 {
            text.push(digit(rest));
        }
    }
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

/// A drawing that stands in a page's text, with its name for those who do not see it.
pub(crate) fn sheet(width: f64, height: f64, class: &str, label: &str) -> Document {
    Document::new()
        .set("viewBox", (0, 0, round(width), round(height)))
        .set("class", format!("ledger-drawing {class}"))
        .set("role", "img")
        .set("aria-label", label)
}

/// A rectangle by a corner and its sides.
pub(crate) fn block([x, y]: [f64; 2], [width, height]: [f64; 2], class: &str) -> Rectangle {
    Rectangle::new()
        .set("class", class)
        .set("x", round(x))
        .set("y", round(y))
        .set("width", round(width.max(0.0)))
        .set("height", round(height.max(0.0)))
}

/// A line through points.
pub(crate) fn curve(points: &[[f64; 2]], class: &str) -> Path {
    let mut data = Data::new();
    for (i, [x, y]) in points.iter().enumerate() {
        let to = (round(*x), round(*y));
        data = if i == 0 {
            data.move_to(to)
        } else {
            data.line_to(to)
        };
    }
    Path::new().set("class", class).set("d", data)
}

/// A round step of a ruler, so that about `marks` of them fit.
pub(crate) fn ruler_step(length_mm: f64, marks: f64) -> f64 {
    [5.0, 10.0, 20.0, 50.0, 100.0, 200.0]
        .into_iter()
        .find(|step| length_mm / step <= marks)
        .unwrap_or(500.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    proptest! {
        /// Against the formatting of the standard library.
        #[test]
        fn numbers_of_a_path_are_those_of_the_library(value in -40_000.0..40_000.0f64) {
            let mut text = String::new();
            push_hundredths(&mut text, value);
            let expected = round(value);
            // The library keeps the sign of a zero.
            prop_assert_eq!(text, (expected + 0.0).to_string());
        }
    }

    #[rstest]
    #[case(&[], "z")]
    #[case(&[[0.0, 0.0], [10.5, -2.25], [-0.004, 100.0]], "M0,0 L10.5,-2.25 L0,100 z")]
    #[case(&[[f64::NAN, 1.0]], "M0,1 z")]
    fn a_path_is_written_as_browsers_read_it(#[case] points: &[Point], #[case] data: &str) {
        assert_eq!(path_data(points), data);
    }

    #[rstest]
    #[case(0.0, 40.0, "h0")]
    #[case(20.0, 40.0, "h4")]
    #[case(40.0, 40.0, "h7")]
    #[case(90.0, 40.0, "h7")]
    #[case(10.0, 0.0, "h0")]
    fn the_tallest_is_the_darkest(#[case] height: f64, #[case] tallest: f64, #[case] class: &str) {
        assert_eq!(ramp_class(height, tallest), class);
    }

    /// As many marks as were asked for at most, and never so few that a ruler says nothing.
    #[rstest]
    #[case(32.0, 6.0, 10.0)]
    #[case(218.0, 6.0, 50.0)]
    #[case(4000.0, 6.0, 500.0)]
    fn a_ruler_has_round_steps(#[case] length: f64, #[case] marks: f64, #[case] step: f64) {
        assert_eq!(ruler_step(length, marks), step);
    }
}
