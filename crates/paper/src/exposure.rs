//! Tests of an exposure along a scale, and the piece they are made with.

use svg::Document;
use svg::node::element::{Circle, Group, Polygon, Rectangle};
use wembrit_core::exposure::{FeatureKind, TestPiece};
use wembrit_core::learn::Verdict;

use crate::ink::{line, round, words};

const WIDTH: f64 = 520.0;
const LEFT: f64 = 24.0;
const FLOOR: f64 = 96.0;
const FOOT: f64 = 44.0;
/// Marks of one exposure stand over each other, so far apart.
const STACK: f64 = 16.0;

/// A test on the scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ExposureMark {
    /// How long it was exposed, s.
    pub exposure_s: f64,
    /// How it came out.
    pub verdict: Verdict,
    /// It was before film or resin changed: it counts no more.
    pub past: bool,
}

/// Tests by how long they were exposed, on a scale of ratios: too little points up, too much down, right
/// is a disc. What is in use is a line, what is to be tried next an open ring.
#[must_use]
pub fn draw_exposures(marks: &[ExposureMark], in_use_s: f64, next_s: Option<f64>) -> String {
    let all = || {
        marks
            .iter()
            .map(|m| m.exposure_s)
            .chain([in_use_s])
            .chain(next_s)
    };
    let low = all().fold(f64::INFINITY, f64::min) / 1.5;
    let high = all().fold(0.0, f64::max) * 1.5;
    let at = |s: f64| LEFT + (s / low).ln() / (high / low).ln().max(1e-9) * (WIDTH - 2.0 * LEFT);
    let mut drawing = Document::new()
        .set("viewBox", (0, 0, round(WIDTH), round(FLOOR + FOOT)))
        .set("class", "exposures")
        .set("role", "img")
        .set("aria-label", "Tests by how long they were exposed")
        .add(line([LEFT, FLOOR], [WIDTH - LEFT, FLOOR], "floor"));
    for tick in ticks(low, high) {
        let x = at(tick);
        drawing = drawing
            .add(line([x, FLOOR], [x, FLOOR + 5.0], "tick"))
            .add(words(
                &format!("{tick} s"),
                [x, FLOOR + 18.0],
                "ruler middle",
            ));
    }
    let x = at(in_use_s);
    drawing = drawing
        .add(line([x, 18.0], [x, FLOOR], "sets-hours"))
        .add(words("in use", [x, 12.0], "note middle"));
    for (i, mark) in marks.iter().enumerate() {
        let same = |m: &&ExposureMark| (m.exposure_s / mark.exposure_s - 1.0).abs() < 0.01;
        let below = marks[..i].iter().filter(same).count().min(4) as f64;
        let past = if mark.past { " is-past" } else { "" };
        let place = [at(mark.exposure_s), FLOOR - 12.0 - below * STACK];
        drawing = drawing.add(draw_mark(mark.verdict, place, past));
    }
    if let Some(next) = next_s {
        let x = at(next);
        drawing = drawing
            .add(
                Circle::new()
                    .set("class", "next")
                    .set("cx", round(x))
                    .set("cy", FLOOR - 12.0)
                    .set("r", 8),
            )
            .add(words(
                &format!("next {next} s"),
                [x, FLOOR + 36.0],
                "note middle",
            ));
    }
    drawing.to_string()
}

fn draw_mark(verdict: Verdict, [x, y]: [f64; 2], past: &str) -> Group {
    let class = format!("test is-{verdict}{past}");
    let triangle = |tip: f64, foot: f64| {
        let points = format!(
            "{:.1},{:.1} {:.1},{:.1} {:.1},{:.1}",
            x,
            y + tip,
            x - 6.0,
            y + foot,
            x + 6.0,
            y + foot
        );
        Polygon::new().set("points", points)
    };
    let group = Group::new().set("class", class);
    match verdict {
        Verdict::Under => group.add(triangle(-6.0, 5.0)),
        Verdict::Over => group.add(triangle(6.0, -5.0)),
        Verdict::Right => group.add(
            Circle::new()
                .set("cx", round(x))
                .set("cy", round(y))
                .set("r", 5.5),
        ),
    }
}

/// Round exposures between two.
fn ticks(low: f64, high: f64) -> Vec<f64> {
    let all = [
        0.2, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 7.0, 10.0, 15.0, 20.0, 30.0, 40.0, 50.0, 70.0,
        100.0, 150.0, 200.0, 300.0,
    ];
    all.into_iter()
        .filter(|t| (low..=high).contains(t))
        .collect()
}

/// The test piece from above, with the sizes of what stands on it.
#[must_use]
pub fn draw_test_piece() -> String {
    const MM: f64 = 9.0;
    let [wide, deep, _] = TestPiece.size_mm();
    let at = |x: f64, y: f64| [(x + 0.5) * MM, (deep - y + 0.5) * MM];
    let block = |x0: f64, y0: f64, x1: f64, y1: f64, class: &str| {
        let [left, top] = at(x0, y1);
        Rectangle::new()
            .set("class", class)
            .set("x", round(left))
            .set("y", round(top))
            .set("width", round((x1 - x0) * MM))
            .set("height", round((y1 - y0) * MM))
    };
    let mut drawing = Document::new()
        .set(
            "viewBox",
            (0, 0, round((wide + 1.0) * MM), round((deep + 1.0) * MM)),
        )
        .set("class", "test-piece")
        .set("role", "img")
        .set("aria-label", "The test piece from above")
        .add(block(0.0, 0.0, wide, deep, "plate-edge"));
    for feature in TestPiece.features() {
        let ([x, y], s) = (feature.at_mm, feature.size_mm);
        let (below, text) = match feature.kind {
            FeatureKind::Pin => {
                let [cx, cy] = at(x, y);
                let r = round(s / 2.0 * MM);
                drawing = drawing.add(
                    Circle::new()
                        .set("class", "holds")
                        .set("cx", round(cx))
                        .set("cy", round(cy))
                        .set("r", r),
                );
                (1.2, format!("{s}"))
            }
            FeatureKind::Wall => {
                drawing = drawing.add(block(x - 2.0, y - s / 2.0, x + 2.0, y + s / 2.0, "holds"));
                (1.2, format!("{s}"))
            }
            FeatureKind::Gap => {
                for from in [x - s / 2.0 - 2.0, x + s / 2.0] {
                    drawing = drawing.add(block(from, y - 2.0, from + 2.0, y + 2.0, "holds"));
                }
                (2.6, format!("{s}"))
            }
            FeatureKind::Step => {
                drawing = drawing.add(block(x - 2.0, y - 2.0, x + 2.0, y + 2.0, "step"));
                (2.6, format!("{s}"))
            }
            FeatureKind::Shelf => {
                drawing = drawing
                    .add(block(x - 2.0, y - 2.0, x, y + 2.0, "holds"))
                    .add(block(x, y - 2.0, x + 4.0, y + 2.0, "step"));
                (2.6, format!("shelf {s}"))
            }
        };
        let [tx, ty] = at(x, y - below);
        drawing = drawing.add(words(&text, [tx, ty + 8.0], "ruler middle"));
    }
    drawing.to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_test_has_its_mark_and_the_next_is_named() {
        let mark = |exposure_s, verdict| ExposureMark {
            exposure_s,
            verdict,
            past: false,
        };
        let marks = [
            mark(1.5, Verdict::Under),
            mark(1.5, Verdict::Right),
            mark(1.9, Verdict::Over),
        ];
        let drawing = draw_exposures(&marks, 2.0, Some(1.69));
        assert_eq!(drawing.matches("<polygon").count(), 2);
        assert!(drawing.contains("next 1.69 s") && drawing.contains("1.5 s"));
        assert!(draw_exposures(&[], 2.0, None).contains("in use"));
        let piece = draw_test_piece();
        assert_eq!(piece.matches("holds").count(), 6 + 6 + 12 + 1);
    }
}
