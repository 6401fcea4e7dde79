//! Drawings for telling parts apart after the wash: a numbered plan, and single silhouettes.

use std::sync::Arc;

use svg::Document;
use svg::node::element::{Group, Rectangle, Text};
use wembrit_core::geometry::{Outline, Point};

use crate::ink::{round, shape};
use crate::shared::SharedOutlines;

/// A copy with its number on the plate.
#[derive(Debug, Clone)]
pub struct NumberedCopy {
    /// Its number.
    pub number: i64,
    /// Its outline about its own origin, mm; copies that look alike share it.
    pub outline: Arc<Outline>,
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Where its origin stands on the plate, mm.
    pub at_mm: Point,
}

impl NumberedCopy {
    /// Its outline as it stands, mm.
    #[must_use]
    pub fn placed(&self) -> Outline {
        self.outline.placed(self.rotation_deg, self.at_mm)
    }
}

/// An outline may be off by so much, pixels.
const TOLERANCE: f64 = 0.25;

/// The plan of a plate with a number on every copy.
#[must_use]
pub fn draw_numbered_plan(size_mm: [f64; 2], copies: &[NumberedCopy]) -> String {
    let [width, depth] = size_mm;
    let scale = 900.0 / width;
    let page = |p: &Point| [p[0] * scale, (depth - p[1]) * scale];
    let document = Document::new()
        .set(
            "viewBox",
            (
                -1,
                -1,
                round(width * scale + 2.0),
                round(depth * scale + 2.0),
            ),
        )
        .set("class", "sorting-plan")
        .set("role", "img")
        .set("aria-label", "Plan of the plate, copies numbered")
        .add(
            Rectangle::new()
                .set("class", "plate-edge")
                .set("width", round(width * scale))
                .set("height", round(depth * scale)),
        );
    let mut outlines = SharedOutlines::new("sorted-", scale, TOLERANCE);
    let mut drawn = Group::new().set("class", "silhouette");
    let mut numbers = Group::new().set("class", "number middle");
    for copy in copies {
        drawn = drawn.add(outlines.set_down(&copy.outline, copy.rotation_deg, page(&copy.at_mm)));
        let [x, y] = page(&copy.placed().label_point());
        let number = Text::new(copy.number.to_string())
            .set("x", round(x))
            .set("y", round(y + 4.5));
        numbers = numbers.add(number);
    }
    document
        .add(outlines.definitions())
        .add(drawn)
        .add(numbers)
        .to_string()
}

/// One silhouette, 2 pixels to a mm up to a size that fits a list.
#[must_use]
pub fn draw_silhouette(outline: &Outline) -> String {
    let (low, high) = outline.bounds();
    let size = [high[0] - low[0], high[1] - low[1]];
    let scale = (90.0 / size[0].max(size[1]).max(1.0)).min(2.0);
    let points: Vec<Point> = outline
        .corners()
        .iter()
        .map(|p| [(p[0] - low[0]) * scale, (high[1] - p[1]) * scale])
        .collect();
    Document::new()
        .set(
            "viewBox",
            (
                -1,
                -1,
                round(size[0] * scale + 2.0),
                round(size[1] * scale + 2.0),
            ),
        )
        .set("width", round(size[0] * scale + 2.0))
        .set("height", round(size[1] * scale + 2.0))
        .set("aria-hidden", "true")
        .add(shape(&points, "silhouette"))
        .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Hundreds of copies of some parts stay a small page.
    #[test]
    fn what_looks_alike_is_drawn_once() {
        let one = Arc::new(Outline::rectangle(9.0, 7.0));
        let copies: Vec<NumberedCopy> = (0..500)
            .map(|number| NumberedCopy {
                number,
                outline: Arc::clone(&one),
                rotation_deg: 15.0 * (number % 24) as f64,
                at_mm: [(number % 25) as f64 * 12.0, (number / 25) as f64 * 9.0],
            })
            .collect();
        let plan = draw_numbered_plan([330.0, 190.0], &copies);
        assert_eq!(plan.matches("<path").count(), 1);
        assert_eq!(plan.matches("#sorted-0").count(), 500);
        assert!(plan.len() < 80_000, "{}", plan.len());
    }

    #[test]
    fn every_copy_has_its_number_and_silhouettes_keep_their_hand() {
        let ell = Outline::try_new(vec![
            [0.0, 0.0],
            [20.0, 0.0],
            [20.0, 6.0],
            [6.0, 6.0],
            [6.0, 24.0],
            [0.0, 24.0],
        ])
        .expect("an outline");
        let shared = Arc::new(ell.clone());
        let copies = [1, 2].map(|number| NumberedCopy {
            number,
            outline: Arc::clone(&shared),
            rotation_deg: 0.0,
            at_mm: [30.0 * number as f64, 10.0],
        });
        let plan = draw_numbered_plan([90.0, 50.0], &copies);
        assert!(
            plan.contains(">\n1\n<") && plan.contains(">\n2\n<"),
            "{plan}"
        );
        // One shape, set down where each stands: 10 pixels to a mm, far edge up.
        assert_eq!(plan.matches("<path").count(), 1);
        for at in ["translate(300 400)", "translate(600 400)"] {
            assert!(plan.contains(at), "{plan}");
        }
        // Seen from the film: the long leg at the left goes up, where y is small on the page.
        let drawing = draw_silhouette(&ell);
        assert!(
            drawing.contains("M0,48 L40,48 L40,36 L12,36 L12,0 L0,0 z"),
            "{drawing}"
        );
    }
}
