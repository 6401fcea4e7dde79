//! Printers as their build volumes, to one scale, beside a 100 mm bar.

use svg::Document;
use svg::node::element::Group;
use wembrit_core::geometry::Point;

use crate::ink::{line, shape, words};

/// A printer's build volume, mm.
#[derive(Debug, Clone, PartialEq)]
pub struct Volume {
    /// Its name.
    pub name: String,
    /// Plate width.
    pub width_mm: f64,
    /// Plate depth.
    pub depth_mm: f64,
    /// Tallest part.
    pub height_mm: f64,
}

const WIDTH: f64 = 760.0;
const HEIGHT: f64 = 190.0;
const TOP: f64 = 24.0;
/// How far a millimetre of depth goes to the right and up.
const SLANT: Point = [0.42, 0.30];

/// Draws the volumes side by side.
#[must_use]
pub fn draw_volumes(volumes: &[Volume]) -> String {
    let breadth = |v: &Volume| v.width_mm + v.depth_mm * SLANT[0];
    let rise = |v: &Volume| v.height_mm + v.depth_mm * SLANT[1];
    let across: f64 = volumes.iter().map(breadth).sum::<f64>() + 60.0;
    let highest = volumes.iter().map(rise).fold(1.0, f64::max);
    let gaps = 36.0 * (volumes.len() as f64 + 1.0);
    let scale = ((WIDTH - gaps).max(80.0) / across).min(HEIGHT / highest);
    let floor = TOP + HEIGHT;
    let mut document = Document::new()
        .set("viewBox", (0, 0, WIDTH, floor + 44.0))
        .set("class", "volumes")
        .set("role", "img")
        .set("aria-label", "Build volumes of the printers to one scale");
    let mut x = 4.0;
    for volume in volumes {
        document = document.add(draw_box(volume, [x, floor], scale));
        x += breadth(volume) * scale + 36.0;
    }
    let end = x + 100.0 * scale;
    document
        .add(line([x, floor], [end, floor], "scale-bar"))
        .add(words("100 mm", [x, floor + 16.0], "ruler"))
        .to_string()
}

fn draw_box(v: &Volume, at: Point, scale: f64) -> Group {
    let [x, y] = at;
    let (w, h) = (v.width_mm * scale, v.height_mm * scale);
    let back = [v.depth_mm * scale * SLANT[0], v.depth_mm * scale * SLANT[1]];
    let corner = |right: bool, up: bool, behind: bool| {
        let b = if behind { back } else { [0.0, 0.0] };
        [
            x + if right { w } else { 0.0 } + b[0],
            y - if up { h } else { 0.0 } - b[1],
        ]
    };
    let face = |corners: [(bool, bool, bool); 4], class: &str| {
        shape(&corners.map(|(r, u, b)| corner(r, u, b)), class)
    };
    Group::new()
        .add(face(
            [
                (false, false, false),
                (true, false, false),
                (true, true, false),
                (false, true, false),
            ],
            "box-front",
        ))
        .add(face(
            [
                (true, false, false),
                (true, false, true),
                (true, true, true),
                (true, true, false),
            ],
            "box-side",
        ))
        // The plate hangs at the top.
        .add(face(
            [
                (false, true, false),
                (true, true, false),
                (true, true, true),
                (false, true, true),
            ],
            "box-plate",
        ))
        .add(words(&v.name, [x, y + 16.0], "caption"))
        .add(words(
            &format!("{:.0} × {:.0} × {:.0}", v.width_mm, v.depth_mm, v.height_mm),
            [x, y + 31.0],
            "ruler",
        ))
}
