//! The parts of a model side by side, to one scale, beside the disc of its base.

use svg::Document;
use svg::node::element::{Anchor, Ellipse, Image};
use wembrit_core::geometry::Point;
use wembrit_core::layers::HeightProfile;

use crate::ink::{line, round, ruler_step, shape, words};

/// One part.
#[derive(Debug, Clone)]
pub struct KitPart<'a> {
    /// Its name, with how many each model takes.
    pub name: String,
    /// Where its own page is.
    pub address: String,
    /// Width and height as it is printed, mm.
    pub size_mm: [f64; 2],
    /// Its skyline at the size of the file, and the factor it is printed at.
    pub skyline: (&'a HeightProfile, f64),
    /// Where its picture from the front is; without one its skyline stands in.
    pub picture: Option<String>,
}

const WIDTH: f64 = 760.0;
const HEIGHT: f64 = 150.0;
const TOP: f64 = 10.0;
const GAP: f64 = 26.0;
/// Least room for a name, pixels.
const NAME: f64 = 64.0;
/// How much of its width the disc of a base seems deep.
const DEEP: f64 = 0.28;

/// Draws them on one floor; the base comes first.
///
/// # Units
/// `base_mm`: width and depth; nothing is drawn for a model without one.
#[must_use]
pub fn draw_kit(base_mm: [f64; 2], parts: &[KitPart<'_>]) -> String {
    let many = parts.len() as f64 + 1.0;
    let across: f64 = parts.iter().map(|p| p.size_mm[0]).sum::<f64>() + base_mm[0];
    let tallest = parts.iter().map(|p| p.size_mm[1]).fold(1.0, f64::max);
    let scale = ((WIDTH - many * GAP) / across.max(1.0))
        .min(HEIGHT / tallest)
        .min(6.0);
    let floor = TOP + tallest * scale;
    let mut x = 6.0;
    let mut document = Document::new();
    if base_mm[0] > 0.0 {
        let half = base_mm[0] * scale / 2.0;
        let disc = Ellipse::new()
            .set("class", "base-plate")
            .set("cx", round(x + half))
            .set("cy", round(floor - half * DEEP * base_mm[1] / base_mm[0]))
            .set("rx", round(half))
            .set("ry", round(half * DEEP * base_mm[1] / base_mm[0]));
        let size = if (base_mm[0] - base_mm[1]).abs() < 0.05 {
            format!("{} mm", round(base_mm[0]))
        } else {
            format!("{} × {} mm", round(base_mm[0]), round(base_mm[1]))
        };
        let slot = (2.0 * half).max(NAME);
        document = document
            .add(disc)
            .add(words("Base", [x + half, floor + 16.0], "caption middle"))
            .add(words(&size, [x + half, floor + 31.0], "ruler middle"));
        x += slot + GAP;
    }
    for part in parts {
        let [wide, high] = part.size_mm.map(|mm| mm * scale);
        let slot = wide.max(NAME);
        let middle = x + slot / 2.0;
        let link = Anchor::new().set("href", part.address.as_str());
        let link = match &part.picture {
            Some(address) => link.add(
                Image::new()
                    .set("class", "side")
                    .set("href", address.as_str())
                    .set("x", round(middle - wide / 2.0))
                    .set("y", round(floor - high))
                    .set("width", round(wide))
                    .set("height", round(high))
                    .set("preserveAspectRatio", "none"),
            ),
            None => {
                let (profile, factor) = part.skyline;
                let place = |p: &Point| [middle + p[0] * scale, floor - p[1] * scale];
                let points: Vec<Point> = profile.skyline(0.0, factor).iter().map(place).collect();
                link.add(shape(&points, "copy h4"))
            }
        };
        let tall = format!("{:.1} mm", part.size_mm[1]);
        document = document
            .add(link.add(words(
                &part.name,
                [middle, floor + 16.0],
                "caption-soft middle",
            )))
            .add(words(&tall, [middle, floor + 31.0], "ruler middle"));
        x += slot + GAP;
    }
    let step = ruler_step(tallest, 4.0);
    let end = [6.0 + step * scale, floor + 46.0];
    let width = x.max(WIDTH);
    document
        .add(line([0.0, floor], [width, floor], "floor"))
        .add(line([6.0, floor + 46.0], end, "scale-bar"))
        .add(words(
            &format!("{step:.0} mm"),
            [end[0] + 6.0, end[1] + 4.0],
            "ruler",
        ))
        .set("viewBox", (0, 0, round(width), round(floor + 54.0)))
        .set("class", "kit")
        .set("role", "group")
        .set("aria-label", "Its parts to one scale, beside its base")
        .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::layers::ProfileBand;

    /// A part twice as tall is drawn twice as tall, and a base as wide as a part is as wide.
    #[test]
    fn all_of_it_is_to_one_scale() {
        let band = ProfileBand {
            from_mm: 0.0,
            to_mm: 30.0,
            reach_mm: vec![12.5; 36],
        };
        let profile = HeightProfile(vec![band].into());
        let part = |size_mm: [f64; 2]| KitPart {
            name: "Body <1>".into(),
            address: "/parts/1".into(),
            size_mm,
            skyline: (&profile, 1.0),
            picture: Some("/sculpts/1/side/front".into()),
        };
        let drawn = draw_kit([25.0, 25.0], &[part([25.0, 30.0]), part([25.0, 15.0])]);
        let sizes = |name: &str| -> Vec<f64> {
            let before = format!(" {name}=\"");
            let all = drawn.match_indices(&before).map(|(i, s)| {
                drawn[i + s.len()..]
                    .split('"')
                    .next()
                    .unwrap()
                    .parse()
                    .unwrap()
            });
            all.collect()
        };
        let (heights, widths, radii) = (sizes("height"), sizes("width"), sizes("rx"));
        assert!((heights[0] / heights[1] - 2.0).abs() < 0.01, "{heights:?}");
        assert!(
            (2.0 * radii[0] - widths[0]).abs() < 0.05,
            "{widths:?} {radii:?}"
        );
        assert!(drawn.contains("Body &lt;1&gt;") && drawn.contains("href=\"/parts/1\""));
        // Without its picture the skyline stands there; without a base nothing of it.
        let bare = KitPart {
            picture: None,
            ..part([25.0, 30.0])
        };
        let drawn = draw_kit([0.0, 0.0], &[bare]);
        assert!(drawn.contains("copy h4") && !drawn.contains("base-plate"));
    }
}
