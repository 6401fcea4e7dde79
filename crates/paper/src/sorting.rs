//! Drawings for telling parts apart after the wash: a numbered plan, and single silhouettes.

use svg::Document;
use svg::node::element::Rectangle;
use wembrit_core::geometry::{Outline, Point};

use crate::ink::{round, shape, words};

/// A copy with its number on the plate.
#[derive(Debug, Clone)]
pub struct NumberedCopy {
    /// Its number.
    pub number: i64,
    /// Its outline as it stands, mm.
    pub outline: Outline,
}

/// The plan of a plate with a number on every copy.
#[must_use]
pub fn draw_numbered_plan(size_mm: [f64; 2], copies: &[NumberedCopy]) -> String {
    let [width, depth] = size_mm;
    let scale = 900.0 / width;
    let page = |p: &Point| [p[0] * scale, (depth - p[1]) * scale];
    let mut document = Document::new()
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
    for copy in copies {
        let points: Vec<Point> = copy.outline.corners().iter().map(page).collect();
        document = document.add(shape(&points, "silhouette"));
    }
    for copy in copies {
        let [x, y] = page(&copy.outline.label_point());
        document = document.add(words(
            &copy.number.to_string(),
            [x, y + 4.5],
            "number middle",
        ));
    }
    document.to_string()
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
        let copies = [1, 2].map(|number| NumberedCopy {
            number,
            outline: ell.placed(0.0, [30.0 * number as f64, 10.0]),
        });
        let plan = draw_numbered_plan([90.0, 50.0], &copies);
        assert!(
            plan.contains(">\n1\n<") && plan.contains(">\n2\n<"),
            "{plan}"
        );
        assert_eq!(plan.matches("silhouette").count(), 2);
        // Seen from the film: the long leg at the left goes up, where y is small on the page.
        let drawing = draw_silhouette(&ell);
        assert!(
            drawing.contains("M0,48 L40,48 L40,36 L12,36 L12,0 L0,0 z"),
            "{drawing}"
        );
    }
}
