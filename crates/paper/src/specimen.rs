//! A sculpt as a specimen plate: front, side and outline at one scale, beside a scale bar.

use svg::Document;
use wembrit_core::geometry::{Outline, Point};
use wembrit_core::layers::Reach;

use crate::ink::{line, ruler_step, shape, words};

const HEIGHT: f64 = 250.0;
const WIDTH: f64 = 720.0;
const TOP: f64 = 26.0;
const GAP: f64 = 46.0;

/// Draws a sculpt of this size (width, depth, height in mm).
#[must_use]
pub fn draw_specimen(outline: &Outline, reach: &Reach, size_mm: [f64; 3]) -> String {
    let [width, depth, height] = size_mm;
    let across = 2.0 * width + depth;
    let scale = ((WIDTH - 2.0 * GAP - 30.0) / across.max(0.01))
        .min((HEIGHT - 20.0) / height.max(depth).max(0.01));
    let floor = TOP + HEIGHT;
    let mut document = Document::new()
        .set("viewBox", (0, 0, WIDTH, floor + 40.0))
        .set("class", "specimen")
        .set("role", "img")
        .set("aria-label", "Front, side and outline")
        .add(line([0.0, floor], [WIDTH, floor], "floor"));
    let mut x = 10.0;
    for (name, turn, wide) in [("FRONT", 0.0, width), ("SIDE", 90.0, depth)] {
        let middle = x + wide * scale / 2.0;
        let points: Vec<Point> = reach
            .skyline(turn, 1.0)
            .iter()
            .map(|p| [middle + p[0] * scale, floor - p[1] * scale])
            .collect();
        document = document
            .add(words(name, [x, TOP - 12.0], "caption"))
            .add(shape(&points, "copy h4"))
            .add(words(
                &format!("{wide:.1}"),
                [middle, floor + 16.0],
                "ruler middle",
            ));
        x += wide * scale + GAP;
    }
    let middle = [x + width * scale / 2.0, floor - depth * scale / 2.0];
    let points: Vec<Point> = outline
        .corners()
        .iter()
        .map(|p| [middle[0] + p[0] * scale, middle[1] - p[1] * scale])
        .collect();
    let step = ruler_step(height, 6.0);
    let end = [10.0 + step * scale, floor + 30.0];
    document
        .add(words("OUTLINE", [x, TOP - 12.0], "caption"))
        .add(shape(&points, "copy h2"))
        .add(words(
            &format!("{width:.1} × {depth:.1}"),
            [middle[0], floor + 16.0],
            "ruler middle",
        ))
        .add(line([10.0, floor + 30.0], end, "scale-bar"))
        .add(words(
            &format!("{step:.0} mm"),
            [end[0] + 6.0, end[1] + 4.0],
            "ruler",
        ))
        .to_string()
}
