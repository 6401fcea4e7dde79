//! A part as it hangs, from the front: its picture, the planned columns, the raft, the starts to
//! look at.

use svg::Document;
use svg::node::element::path::Data;
use svg::node::element::{Circle, Image, Path};
use wembrit_core::recipe::SetupDrawing;

use crate::ink::{line, round, ruler_step, words};

const WIDTH: f64 = 560.0;
const HEIGHT: f64 = 400.0;
const LEFT: f64 = 46.0;
const TOP: f64 = 20.0;
const FOOT: f64 = 34.0;
/// BuildVolume beside the drawing for the letters of the starts.
const RIGHT: f64 = 70.0;

/// Draws a part on its supports. The plate is at the bottom, as in every elevation.
#[must_use]
pub fn draw_setup(d: &SetupDrawing, picture: &str, height_mm: f64) -> String {
    let xs = d.columns.iter().flatten().map(|p| p[0]);
    let xs = xs
        .chain([d.picture_mm[0], d.picture_mm[2]])
        .chain(d.raft_mm.into_iter().flatten());
    let (low, high) = xs.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), x| {
        (a.min(x), b.max(x))
    });
    let scale = ((WIDTH - LEFT - RIGHT) / (high - low).max(0.1))
        .min((HEIGHT - TOP - FOOT) / height_mm.max(0.1));
    let floor = TOP + height_mm * scale;
    let middle = LEFT + (WIDTH - LEFT - RIGHT) / 2.0;
    let at = |p: [f64; 2]| {
        [
            middle + (p[0] - (low + high) / 2.0) * scale,
            floor - p[1] * scale,
        ]
    };
    let [x0, z0, x1, z1] = d.picture_mm;
    let corner = at([x0, z1]);
    let mut document = Document::new()
        .set("viewBox", (0, 0, WIDTH, round(floor + FOOT)))
        .set("class", "setup")
        .set("role", "img")
        .set(
            "aria-label",
            format!("The part from the front, {height_mm:.1} mm above the plate"),
        )
        .add(line(
            [LEFT - 8.0, floor],
            [WIDTH - RIGHT + 8.0, floor],
            "scale-bar",
        ));
    document = add_ruler(document, height_mm, floor, scale);
    document = document.add(
        Image::new()
            .set("class", "side")
            .set("href", picture)
            .set("x", round(corner[0]))
            .set("y", round(corner[1]))
            .set("width", round((x1 - x0) * scale))
            .set("height", round((z1 - z0) * scale))
            .set("preserveAspectRatio", "none"),
    );
    let mut columns = Data::new();
    for column in &d.columns {
        for (index, p) in column.iter().enumerate() {
            let [x, y] = at(*p).map(round);
            columns = if index == 0 {
                columns.move_to((x, y))
            } else {
                columns.line_to((x, y))
            };
        }
    }
    if !d.columns.is_empty() {
        document = document.add(Path::new().set("class", "column").set("d", columns));
    }
    if let Some([a, b]) = d.raft_mm {
        let (a, b) = (at([a, 0.4]), at([b, 0.4]));
        document = document.add(line(a, b, "raft"));
    }
    let risky: Vec<[f64; 2]> = d.riskiest.iter().map(|p| at(*p)).collect();
    document = add_risky(document, &risky);
    document
        .add(words("PLATE", [LEFT - 8.0, floor + 18.0], "caption"))
        .to_string()
}

/// The letter of a start: A is the riskiest.
#[must_use]
pub fn letter(index: usize) -> &'static str {
    ["A", "B", "C", "D", "E"].get(index).copied().unwrap_or("…")
}

/// The heights at the left.
fn add_ruler(mut document: Document, height_mm: f64, floor: f64, scale: f64) -> Document {
    let step = ruler_step(height_mm, 6.0);
    let mut z = 0.0;
    while z <= height_mm {
        let y = floor - z * scale;
        document = document
            .add(line([LEFT - 14.0, y], [LEFT - 8.0, y], "tick"))
            .add(words(
                &format!("{z:.0}"),
                [LEFT - 18.0, y + 4.0],
                "ruler end",
            ));
        z += step;
    }
    document
}

/// Letters for the starts that hang on one contact.
fn add_risky(mut document: Document, starts: &[[f64; 2]]) -> Document {
    let mut last = f64::NEG_INFINITY;
    let mut letters: Vec<(usize, [f64; 2])> = starts.iter().copied().enumerate().collect();
    letters.sort_by(|a, b| a.1[1].total_cmp(&b.1[1]));
    for (index, p) in letters {
        // Letters stand in a column at the right, apart even where starts lie close.
        let y = p[1].max(last + 18.0);
        last = y;
        let end = WIDTH - RIGHT + 22.0;
        document = document
            .add(line(p, [end, y], "leader"))
            .add(
                Circle::new()
                    .set("class", "start")
                    .set("cx", round(p[0]))
                    .set("cy", round(p[1]))
                    .set("r", 3.5),
            )
            .add(words(letter(index), [end + 6.0, y + 5.0], "note"));
    }
    document
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_reach_the_plate_and_starts_are_lettered_apart() {
        let d = SetupDrawing {
            picture_mm: [-5.0, 6.0, 5.0, 36.0],
            columns: vec![vec![[0.0, 6.0], [0.5, 4.0], [0.5, 0.0]]],
            raft_mm: Some([-2.0, 2.0]),
            riskiest: vec![[0.0, 6.0], [1.0, 6.2]],
        };
        let drawing = draw_setup(&d, "/parts/3/prepared/9", 36.0);
        assert!(drawing.contains("/parts/3/prepared/9") && drawing.contains("raft"));
        assert_eq!(drawing.matches("class=\"start\"").count(), 2);
        let figure = |letter: &str| -> f64 {
            let before = drawing.split(&format!("{letter}\n</text>")).next();
            let y = before.and_then(|b| b.rsplit(" y=\"").next());
            y.and_then(|y| y.split('"').next()?.parse().ok())
                .expect("a letter")
        };
        assert!((figure("A") - figure("B")).abs() >= 17.9);
        // 36 mm are as high as the drawing allows: 346 px.
        let bare = draw_setup(
            &SetupDrawing {
                picture_mm: d.picture_mm,
                ..SetupDrawing::default()
            },
            "/p",
            36.0,
        );
        assert!(!bare.contains("column") && bare.contains("PLATE"));
    }
}
