//! A sculpt as a specimen plate: front, side and outline at one scale, beside a scale bar.

use svg::Document;
use svg::node::element::{Circle, Image};
use wembrit_core::geometry::{Outline, Point};
use wembrit_core::layers::HeightProfile;

use crate::ink::{line, round, ruler_step, shape, words};

const HEIGHT: f64 = 250.0;
const WIDTH: f64 = 860.0;
const TOP: f64 = 26.0;
const GAP: f64 = 30.0;
/// Width of the area curve.
const CURVE: f64 = 110.0;
/// Width of the column between views and outline in which marked heights stand.
const MARGIN: f64 = 24.0;
/// Least distance of two marked heights' figures.
const LEADING: f64 = 13.0;

/// What is drawn of a sculpt.
#[derive(Debug, Clone, Copy)]
pub struct Specimen<'a> {
    /// Its outline on the plate.
    pub outline: &'a Outline,
    /// Its skyline.
    pub profile: &'a HeightProfile,
    /// Width, depth and height, mm.
    pub size_mm: [f64; 3],
    /// Section area from the lowest layer to the highest in equal steps; empty for none.
    pub area_mm2: &'a [f64],
    /// Where its pictures are, without the side; without one its skylines stand in.
    pub pictures: Option<&'a str>,
    /// Heights to mark, mm.
    pub heights: &'a [f64],
    /// Places to mark in every view, about the middle of the box and above its lowest point, mm.
    pub places_mm: &'a [[f64; 3]],
    /// Diameter of the base it stands on, mm.
    pub base_mm: Option<f64>,
}

/// Draws the four sides of a sculpt on one baseline with its base and a scale bar, its outline,
/// and its section area over the same height.
#[must_use]
pub fn draw_specimen(s: &Specimen<'_>) -> String {
    let [width, depth, height] = s.size_mm;
    let views = 4.0;
    let across = 2.0 * s.slot_mm(width) + 2.0 * s.slot_mm(depth) + width;
    let scale = ((WIDTH - (views + 1.5) * GAP - MARGIN - CURVE) / across.max(0.01))
        .min((HEIGHT - 20.0) / height.max(0.01));
    let floor = TOP + 14.0 + height.max(depth) * scale;
    let mut document = Document::new()
        .set("viewBox", (0, 0, WIDTH, floor + 40.0))
        .set("class", "specimen")
        .set("role", "img")
        .set(
            "aria-label",
            "The four sides, the outline and the section area",
        )
        .add(line([0.0, floor], [WIDTH, floor], "floor"));
    let mut x = 10.0;
    let sides = [
        ("FRONT", "front", 0.0, width),
        ("RIGHT", "right", 90.0, depth),
        ("BACK", "back", 180.0, width),
        ("LEFT", "left", 270.0, depth),
    ];
    for (name, side, turn, wide) in sides {
        let slot = s.slot_mm(wide) * scale;
        let foot = [x + slot / 2.0, floor];
        document = draw_view(document, s, (side, turn, wide), foot, scale);
        for [px, py, pz] in s.places_mm {
            let (sin, cos) = f64::to_radians(turn).sin_cos();
            let aside = (px * cos + py * sin) * scale;
            let mark = Circle::new()
                .set("class", "spot")
                .set("cx", round(foot[0] + aside))
                .set("cy", round(floor - pz * scale))
                .set("r", 6);
            document = document.add(mark);
        }
        document = document
            .add(words(name, [x, TOP - 12.0], "caption"))
            .add(words(
                &format!("{wide:.1}"),
                [foot[0], floor + 18.0],
                "ruler middle",
            ));
        x += slot + GAP;
    }
    let margin = x - GAP / 2.0;
    x += MARGIN;
    if !s.area_mm2.is_empty() {
        let left = WIDTH - CURVE - 10.0;
        document = draw_curve(document, s.area_mm2, [left, floor], height * scale);
    }
    document = draw_heights(document, s.heights, scale, floor, margin);
    document = draw_outline(document, s, [x, floor], scale);
    let step = ruler_step(height, 6.0);
    let end = [10.0 + step * scale, floor + 30.0];
    document
        .add(line([10.0, floor + 30.0], end, "scale-bar"))
        .add(words(
            &format!("{step:.0} mm"),
            [end[0] + 6.0, end[1] + 4.0],
            "ruler",
        ))
        .to_string()
}

impl Specimen<'_> {
    /// A view is as wide as what stands in it, its base included.
    fn slot_mm(&self, wide: f64) -> f64 {
        wide.max(self.base_mm.unwrap_or(0.0))
    }
}

/// One side, by its name, turn and width, on its base.
fn draw_view(
    mut document: Document,
    s: &Specimen<'_>,
    (side, turn, wide): (&str, f64, f64),
    [middle, floor]: Point,
    scale: f64,
) -> Document {
    if let Some(base) = s.base_mm.filter(|b| *b > 0.0) {
        let half = base * scale / 2.0;
        document = document.add(line(
            [middle - half, floor + 2.5],
            [middle + half, floor + 2.5],
            "base-disc",
        ));
    }
    let height = s.size_mm[2];
    match s.pictures {
        Some(address) => document.add(
            Image::new()
                .set("class", "side")
                .set("href", format!("{address}/{side}"))
                .set("x", round(middle - wide * scale / 2.0))
                .set("y", round(floor - height * scale))
                .set("width", round(wide * scale))
                .set("height", round(height * scale))
                .set("preserveAspectRatio", "none"),
        ),
        None => {
            let points: Vec<Point> = s
                .profile
                .skyline(turn, 1.0)
                .iter()
                .map(|p| [middle + p[0] * scale, floor - p[1] * scale])
                .collect();
            document.add(shape(&points, "copy h4"))
        }
    }
}

/// The outline on the floor, its left end at a place.
fn draw_outline(document: Document, s: &Specimen<'_>, [x, floor]: Point, scale: f64) -> Document {
    let [width, depth, _] = s.size_mm;
    let middle = [x + width * scale / 2.0, floor - depth * scale / 2.0];
    let points: Vec<Point> = s
        .outline
        .corners()
        .iter()
        .map(|p| [middle[0] + p[0] * scale, middle[1] - p[1] * scale])
        .collect();
    document
        .add(words("OUTLINE", [x, TOP - 12.0], "caption"))
        .add(shape(&points, "copy h2"))
        .add(words(
            &format!("{width:.1} × {depth:.1}"),
            [middle[0], floor + 18.0],
            "ruler middle",
        ))
}

/// Dashed lines through the views and the curve, their figures in the column beside the views,
/// apart even where the heights are close.
fn draw_heights(
    mut document: Document,
    heights: &[f64],
    scale: f64,
    floor: f64,
    margin: f64,
) -> Document {
    let mut upward = heights.to_vec();
    upward.sort_by(f64::total_cmp);
    let mut lowest = f64::INFINITY;
    let curve = WIDTH - CURVE - 10.0;
    for height in upward {
        let y = floor - height * scale;
        lowest = (y + 4.0).min(lowest - LEADING);
        document = document
            .add(line([10.0, y], [margin, y], "sets-hours"))
            .add(line([curve, y], [curve + CURVE, y], "sets-hours"))
            .add(words(
                &format!("{height:.1}"),
                [margin + 4.0, round(lowest)],
                "note",
            ));
    }
    document
}

/// Area to the right, height upward, on the sculpt's own scale.
fn draw_curve(document: Document, area_mm2: &[f64], foot: Point, height: f64) -> Document {
    let largest = area_mm2.iter().copied().fold(0.01, f64::max);
    let mut points = vec![foot];
    for (index, area) in area_mm2.iter().enumerate() {
        let up = (index as f64 + 0.5) / area_mm2.len() as f64 * height;
        points.push([foot[0] + area / largest * CURVE, foot[1] - up]);
    }
    points.push([foot[0], foot[1] - height]);
    document
        .add(words("SECTION", [foot[0], TOP - 12.0], "caption"))
        .add(shape(&points, "curve"))
        .add(line(foot, [foot[0], foot[1] - height], "tick"))
        .add(words(
            &format!("{largest:.0} mm²"),
            [foot[0] + CURVE, foot[1] + 16.0],
            "ruler end",
        ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::layers::ProfileBand;

    #[test]
    fn the_curve_stands_on_the_same_ground_as_the_views() {
        let outline = Outline::rectangle(20.0, 10.0);
        let band = ProfileBand {
            from_mm: 0.0,
            to_mm: 30.0,
            reach_mm: vec![5.0; 36],
        };
        let profile = HeightProfile(vec![band].into());
        let specimen = Specimen {
            outline: &outline,
            profile: &profile,
            size_mm: [20.0, 10.0, 30.0],
            area_mm2: &[],
            pictures: None,
            heights: &[],
            places_mm: &[],
            base_mm: None,
        };
        let bare = draw_specimen(&specimen);
        // Two heights a quarter of a millimetre apart keep their figures apart.
        let marked = draw_specimen(&Specimen {
            heights: &[15.3, 15.0],
            ..specimen
        });
        let figure_at = |figure: &str| -> f64 {
            let before = marked.split(&format!("{figure}\n</text>")).next();
            let y = before.and_then(|b| b.rsplit(" y=\"").next());
            y.and_then(|y| y.split('"').next()?.parse().ok())
                .unwrap_or_else(|| panic!("{figure} in {marked}"))
        };
        assert!(figure_at("15.0") - figure_at("15.3") >= LEADING - 0.1);
        assert_eq!(bare.matches("copy h4").count(), 4);
        // A place to the right of the front stands to the left of the back, and in the middle of
        // both sides.
        let placed = draw_specimen(&Specimen {
            places_mm: &[[6.0, 0.0, 15.0]],
            ..specimen
        });
        let across: Vec<f64> = placed
            .split("class=\"spot\" cx=\"")
            .skip(1)
            .filter_map(|p| p.split('"').next()?.parse().ok())
            .collect();
        let slots: Vec<f64> = bare
            .split("ruler middle\" x=\"")
            .skip(1)
            .filter_map(|p| p.split('"').next()?.parse().ok())
            .collect();
        let aside: Vec<f64> = across.iter().zip(&slots).map(|(a, s)| a - s).collect();
        assert!(
            aside.len() == 4 && aside[0] > 5.0 && (aside[0] + aside[2]).abs() < 0.1,
            "{aside:?}"
        );
        assert!(aside[1].abs() < 0.1 && aside[3].abs() < 0.1, "{aside:?}");
        let pictured = draw_specimen(&Specimen {
            pictures: Some("/sculpts/7/side"),
            base_mm: Some(25.0),
            ..specimen
        });
        assert!(
            pictured.contains("/sculpts/7/side/back") && pictured.matches("base-disc").count() == 4
        );
        let drawing = draw_specimen(&Specimen {
            area_mm2: &[10.0, 200.0, 50.0],
            ..specimen
        });
        assert!(!bare.contains("SECTION") && drawing.contains("200 mm²"));
        // The largest area reaches the full width of the curve.
        assert!(
            drawing.contains(&format!("L{},", WIDTH - 10.0)),
            "{drawing}"
        );
    }
}
