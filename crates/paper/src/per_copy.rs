//! Minutes and cost of one copy against the copies on its plate.

use svg::Document;
use svg::node::element::path::Data;
use svg::node::element::{Circle, Group, Path};
use wembrit_core::plan::per_copy::PerCopy;

use crate::ink::{line, round, words};

const WIDTH: f64 = 420.0;
const HEIGHT: f64 = 190.0;
const LEFT: f64 = 52.0;
const TOP: f64 = 28.0;
const FOOT: f64 = 34.0;

/// Two drawings side by side: minutes, and money with what buying costs. Nothing to draw is no
/// drawing.
#[must_use]
pub fn draw_per_copy(
    curve: &[PerCopy],
    bought_minor: Option<&[f64]>,
    from: Option<u64>,
    minor_in_one: i64,
) -> String {
    if curve.is_empty() {
        return String::new();
    }
    let minutes: Vec<f64> = curve.iter().map(|p| p.minutes).collect();
    let one = minor_in_one as f64;
    let money: Vec<f64> = curve.iter().map(|p| p.cost_minor / one).collect();
    let bought: Option<Vec<f64>> = bought_minor.map(|b| b.iter().map(|m| m / one).collect());
    Document::new()
        .set(
            "viewBox",
            (0, 0, round(2.0 * WIDTH + 40.0), round(TOP + HEIGHT + FOOT)),
        )
        .set("class", "per-copy")
        .set("role", "img")
        .set(
            "aria-label",
            "Printer minutes and cost of one copy by how many share the plate",
        )
        .add(draw(0.0, "MINUTES OF ONE COPY", &minutes, None, None))
        .add(draw(
            WIDTH + 40.0,
            "COST OF ONE COPY",
            &money,
            bought.as_deref(),
            from,
        ))
        .to_string()
}

fn draw(
    left: f64,
    caption: &str,
    values: &[f64],
    other: Option<&[f64]>,
    from: Option<u64>,
) -> Group {
    let most = values
        .iter()
        .chain(other.into_iter().flatten())
        .copied()
        .fold(1e-9, f64::max);
    let wide = (values.len().max(2) - 1) as f64;
    let floor = TOP + HEIGHT;
    let across = WIDTH - LEFT - 10.0;
    let at = |index: usize, value: f64| {
        [
            left + LEFT + index as f64 / wide * across,
            floor - value / most * HEIGHT,
        ]
    };
    let mut group = Group::new()
        .add(words(caption, [left + LEFT, TOP - 12.0], "caption"))
        .add(line(
            [left + LEFT, floor],
            [left + LEFT + across, floor],
            "floor",
        ));
    for share in [0.25, 0.5, 0.75, 1.0] {
        let y = floor - share * HEIGHT;
        group = group
            .add(line([left + LEFT, y], [left + LEFT + across, y], "grid"))
            .add(words(
                &label(share * most),
                [left + LEFT - 8.0, y + 4.0],
                "ruler end",
            ));
    }
    let path = |values: &[f64], class: &str| {
        let mut data = Data::new();
        for (index, value) in values.iter().enumerate() {
            let [x, y] = at(index, *value);
            let point = (round(x), round(y));
            data = if index == 0 {
                data.move_to(point)
            } else {
                data.line_to(point)
            };
        }
        Path::new().set("class", class).set("d", data)
    };
    group = group.add(path(values, "load-pull"));
    if let Some(other) = other {
        group = group.add(path(other, "load-cap is-line"));
    }
    for copies in marks(values.len()) {
        let [x, _] = at(copies - 1, 0.0);
        group = group
            .add(line([x, floor], [x, floor + 5.0], "tick"))
            .add(words(
                &copies.to_string(),
                [x, floor + 18.0],
                "ruler middle",
            ));
    }
    if let Some(from) = from.filter(|n| *n as usize <= values.len()) {
        let [x, y] = at(from as usize - 1, values[from as usize - 1]);
        let dot = Circle::new()
            .set("class", "load-peak")
            .set("cx", round(x))
            .set("cy", round(y))
            .set("r", 4);
        group = group.add(dot).add(words(
            &format!("pays from {from}"),
            [x + 8.0, (y - 8.0).max(TOP + 12.0)],
            "note",
        ));
    }
    group
}

fn label(value: f64) -> String {
    if value >= 20.0 {
        format!("{value:.0}")
    } else {
        format!("{value:.2}")
    }
}

/// Round numbers of copies along the axis, with the first and the last.
fn marks(most: usize) -> Vec<usize> {
    let step = [1, 2, 5, 10, 20, 50, 100]
        .into_iter()
        .find(|s| most / s <= 7)
        .unwrap_or(100);
    let mut marks: Vec<usize> = (1..most).filter(|n| *n == 1 || n % step == 0).collect();
    if marks.last().is_some_and(|last| most - last <= step / 2) {
        marks.pop();
    }
    marks.push(most);
    marks
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_curve_says_from_when_it_pays() {
        let curve: Vec<PerCopy> = (1..=12)
            .map(|copies| PerCopy {
                copies,
                minutes: 60.0 / copies as f64,
                cost_minor: 40.0 + 700.0 / copies as f64,
            })
            .collect();
        let drawing = draw_per_copy(&curve, Some(&[400.0; 12]), Some(2), 100);
        assert!(drawing.contains("pays from 2"));
        assert_eq!(marks(12), vec![1, 2, 4, 6, 8, 10, 12]);
        assert_eq!(marks(1), vec![1]);
        assert!(draw_per_copy(&curve[..1], None, None, 100).contains("MINUTES"));
        assert!(draw_per_copy(&[], None, None, 100).is_empty());
    }
}
