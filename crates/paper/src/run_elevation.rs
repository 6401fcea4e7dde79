//! A plate that prints, from the front: filled up to the layer that is done.

use svg::Document;
use svg::node::element::{ClipPath, Definitions, Group, Rectangle};

use crate::ink::{line, round, ruler_step, words};
use crate::plate_sheet::PlateDrawing;
use crate::shared::SharedSkylines;

const LEFT: f64 = 34.0;
const RIGHT: f64 = 64.0;
const TOP: f64 = 16.0;
const FOOT: f64 = 8.0;
const WIDTH: f64 = 460.0;
const HEIGHT: f64 = 190.0;
/// A shape may be off by so much, pixels.
const TOLERANCE: f64 = 0.25;

/// What hangs on a plate, turned upright, with what is done up to a height above the plate, mm; `held` where nothing
/// goes on from there.
#[must_use]
pub fn draw_run_elevation(plate: &PlateDrawing, done_mm: f64, held: bool) -> String {
    let tallest = plate.tallest().map_or(10.0, |t| t.height_mm).max(1.0);
    let across = WIDTH / plate.width_mm.max(1.0);
    let up = (HEIGHT / tallest).min(across * 1.6);
    let floor = TOP + tallest * up;
    let z = done_mm.clamp(0.0, tallest);
    let level = floor - z * up;
    let right = LEFT + plate.width_mm * across;
    let on_floor = format!("translate({LEFT} {})", round(floor));
    let mut outlines = Group::new()
        .set("class", "run-to-come")
        .set("transform", on_floor.as_str());
    let mut done = Group::new().set("transform", on_floor);
    let mut skylines = SharedSkylines::new("run-", [across, up], TOLERANCE);
    for inked in plate.inked() {
        let shape = skylines.set_down(inked.copy, inked.copy.at_mm[0] * across);
        outlines = outlines.add(shape.clone());
        done = done.add(shape.set("class", inked.classes()));
    }
    // The clip is in pixels of the page, what it clips is in those of the floor.
    let done = Group::new()
        .set("class", "run-done")
        .set("clip-path", "url(#run-done)")
        .add(done);
    let clip = ClipPath::new().set("id", "run-done").add(
        Rectangle::new()
            .set("x", 0)
            .set("y", round(level))
            .set("width", round(right + RIGHT))
            .set("height", round(floor - level + 1.0)),
    );
    let mut document = Document::new()
        .set("viewBox", (0, 0, round(right + RIGHT), round(floor + FOOT)))
        .set("class", "run-elevation")
        .set("role", "img")
        .set(
            "aria-label",
            format!("{z:.1} of {tallest:.1} mm are printed"),
        )
        .add(Definitions::new().add(clip))
        .add(skylines.definitions());
    let step = ruler_step(tallest, 5.0);
    for mark in 0..=(tallest / step).floor() as usize {
        let height = mark as f64 * step;
        let y = floor - height * up;
        let class = if mark == 0 { "floor" } else { "grid" };
        document = document.add(line([LEFT, y], [right, y], class)).add(words(
            &format!("{height:.0}"),
            [LEFT - 7.0, y + 4.0],
            "ruler end",
        ));
    }
    let class = if held {
        "run-level is-held"
    } else {
        "run-level"
    };
    document
        .add(outlines)
        .add(done)
        .add(line([LEFT, level], [right + 6.0, level], class))
        .add(words(
            &format!("{z:.1} mm"),
            [right + 10.0, level + 4.0],
            "note",
        ))
        .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plate_sheet::tests::plate;

    /// The line stands at its height on the ruler: half way up it is half way between floor and top.
    #[test]
    fn it_is_filled_up_to_its_layer() {
        let level = |z: f64| -> f64 {
            let drawing = draw_run_elevation(&plate(), z, false);
            let at = drawing.split("<clipPath").nth(1).unwrap();
            let y = at.split("y=\"").nth(1).unwrap();
            y.split('"').next().unwrap().parse().unwrap()
        };
        let (floor, half, top) = (level(0.0), level(15.5), level(31.0));
        assert!(
            (half - (floor + top) / 2.0).abs() < 0.11,
            "{floor} {half} {top}"
        );
        assert_eq!((level(-3.0), level(99.0)), (floor, top));
        let drawing = draw_run_elevation(&plate(), 15.5, true);
        assert!(drawing.contains("15.5 of 31.0 mm are printed") && drawing.contains("is-held"));
        // Two boxes, each as an outline and as what is done of it.
        for shape in ["#run-0\"", "#run-1\""] {
            assert_eq!(drawing.matches(shape).count(), 2, "{drawing}");
        }
    }
}
