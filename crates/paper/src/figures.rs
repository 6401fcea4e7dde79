//! A unit as a row of small upright figures, one for each model wanted.

use svg::Document;
use svg::node::element::{Definitions, Group, Path, Rectangle, Use};
use wembrit_core::geometry::{Point, fewer_corners};
use wembrit_core::layers::HeightProfile;

use crate::ink::{line, path_data, round};

/// How many figures stand in which state.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct FigureCounts {
    /// Every piece good.
    pub complete: u64,
    /// Every piece at least on a plate.
    pub under_way: u64,
    /// Wanted again because pieces failed.
    pub failed: u64,
    /// Not planned.
    pub open: u64,
}

/// Figures drawn at most; the page says how many more there are.
const MOST: usize = 48;
const HEIGHT: f64 = 26.0;
/// A shape may be off by so much, pixels.
const TOLERANCE: f64 = 0.3;

/// Draws the figures: full, half full, hatched, open.
///
/// # Shape
/// `name` is that of the shape on its page, and of nothing else there. Without a skyline a plain
/// post stands for each model.
#[must_use]
pub fn draw_figures(name: &str, profile: Option<&HeightProfile>, counts: FigureCounts) -> String {
    let skyline = profile.map(|r| r.skyline(0.0, 1.0)).filter(|s| s.len() > 3);
    let skyline =
        skyline.unwrap_or_else(|| vec![[-4.0, 0.0], [-4.0, 24.0], [4.0, 24.0], [4.0, 0.0]]);
    let tall = skyline.iter().map(|p| p[1]).fold(0.1, f64::max);
    let low = skyline.iter().map(|p| p[0]).fold(f64::INFINITY, f64::min);
    let high = skyline
        .iter()
        .map(|p| p[0])
        .fold(f64::NEG_INFINITY, f64::max);
    let scale = (HEIGHT / tall).min(3.0 * HEIGHT / (high - low).max(0.1));
    let step = ((high - low) * scale + 4.0).max(9.0);
    let states = [
        ("is-complete", counts.complete),
        ("is-under-way", counts.under_way),
        ("is-again", counts.failed),
        ("is-open", counts.open),
    ];
    let classes: Vec<&str> = states
        .iter()
        .flat_map(|(class, n)| {
            std::iter::repeat_n(*class, usize::try_from(*n).unwrap_or(MOST).min(MOST))
        })
        .take(MOST)
        .collect();
    let width = step * classes.len().max(1) as f64;
    let mut document = Document::new()
        .set("viewBox", (0, 0, width.round(), HEIGHT + 3.0))
        .set("width", width.round())
        .set("height", HEIGHT + 3.0)
        .set("class", "figures")
        .set("aria-hidden", "true");
    // Drawn once, set down by every model.
    let points: Vec<Point> = skyline
        .iter()
        .map(|p| [2.0 + (p[0] - low) * scale, HEIGHT + 1.0 - p[1] * scale])
        .collect();
    let points = fewer_corners(&points, TOLERANCE);
    // Half: the lower half of the figure is inked.
    let middle = HEIGHT / 2.0 + 1.0;
    let half: Vec<Point> = points.iter().map(|p| [p[0], p[1].max(middle)]).collect();
    let (whole, lower) = (format!("f{name}"), format!("f{name}h"));
    if !classes.is_empty() {
        let path =
            |id: &str, points: &[Point]| Path::new().set("id", id).set("d", path_data(points));
        let mut shapes = Definitions::new().add(path(&whole, &points));
        if counts.under_way > 0 {
            shapes = shapes.add(path(&lower, &half));
        }
        document = document.add(shapes);
    }
    let set_down = |id: &str, x: f64| Use::new().set("href", format!("#{id}")).set("x", round(x));
    let mut index = 0;
    for (class, many) in classes.chunk_by(|a, b| a == b).map(|c| (c[0], c.len())) {
        let at = |i: usize| (index + i) as f64 * step;
        let mut group = Group::new().set("class", format!("figure {class}"));
        for i in 0..many {
            group = group.add(set_down(&whole, at(i)));
        }
        document = document.add(group);
        if class == "is-under-way" {
            let mut group = Group::new().set("class", "figure is-half");
            for i in 0..many {
                group = group.add(set_down(&lower, at(i)));
            }
            document = document.add(group);
        }
        if class == "is-again" {
            for x in (0..many).map(|i| at(i) + 2.0) {
                let right = x + (high - low) * scale;
                document = document.add(line([x - 1.0, HEIGHT], [right + 1.0, 3.0], "struck"));
            }
        }
        index += many;
    }
    if classes.is_empty() {
        document = document.add(Rectangle::new().set("width", 0).set("height", 0));
    }
    document.to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(FigureCounts { complete: 3, under_way: 2, failed: 1, open: 4 }, [3, 2, 1, 4])]
    #[case(FigureCounts::default(), [0, 0, 0, 0])]
    #[case(FigureCounts { complete: 5000, ..FigureCounts::default() }, [48, 0, 0, 0])]
    fn every_model_is_a_figure_up_to_a_limit(
        #[case] counts: FigureCounts,
        #[case] drawn: [usize; 4],
    ) {
        let drawing = draw_figures("1", None, counts);
        let states = ["is-complete", "is-under-way", "is-again", "is-open"];
        let found = states.map(|state| {
            let group = drawing.split(state).nth(1);
            group.map_or(0, |g| {
                g.split("</g>").next().unwrap().matches("<use").count()
            })
        });
        assert_eq!(found, drawn);
        // The shape itself stands there once, and half of it where somebody is half done.
        let shapes = u64::from(drawn.iter().any(|n| *n > 0)) + u64::from(counts.under_way > 0);
        assert_eq!(drawing.matches("<path").count() as u64, shapes);
    }
}
