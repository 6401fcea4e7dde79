//! The ledger's drawings: planned and actual as paired ticks, spending as plates came off, where resin went, causes,
//! where on the plate copies fail, and the curve of copies against chance.

use svg::node::element::path::Data;
use svg::node::element::{Circle, Group, Path};
use wembrit_core::geometry::Quarter;
use wembrit_core::odds::Stood;

use crate::ink::{block, curve, line, round, sheet, words};

/// A round step for a scale up to so much, in about five.
fn step(most: f64) -> f64 {
    let rough = (most / 5.0).max(f64::MIN_POSITIVE);
    let ten = 10_f64.powf(rough.log10().floor());
    let times = [1.0, 2.0, 5.0, 10.0];
    ten * times.into_iter().find(|t| t * ten >= rough).unwrap_or(10.0)
}

/// One line of paired ticks.
#[derive(Debug, Clone, PartialEq)]
pub struct Paired {
    /// What stands at the left.
    pub name: String,
    /// As it was planned.
    pub planned: f64,
    /// As it came; nothing where that is not known.
    pub actual: Option<f64>,
}

const WIDTH: f64 = 720.0;
const ROW: f64 = 20.0;
const LEFT: f64 = 96.0;

/// Planned and actual on one line each: planned an open tick under the line, actual a full one over it, what lies
/// between them drawn through. `unit` stands at the foot; `label` says what is drawn.
#[must_use]
pub fn draw_paired(rows: &[Paired], unit: &str, label: &str) -> String {
    let most = rows
        .iter()
        .map(|r| r.planned.max(r.actual.unwrap_or(0.0)))
        .fold(0.0, f64::max);
    let by = step(most.max(1e-9));
    let top = (most / by).ceil().max(1.0) * by;
    let x = |v: f64| LEFT + v / top * (WIDTH - LEFT - 24.0);
    let foot = 22.0 + ROW * rows.len() as f64;
    let mut all = Group::new();
    let marks = (top / by).round() as usize;
    for mark in 0..=marks {
        let v = mark as f64 * by;
        let text = if by < 1.0 {
            format!("{v:.2}")
        } else {
            format!("{v:.0}")
        };
        all = all.add(line([x(v), 16.0], [x(v), foot], "grid")).add(words(
            &text,
            [x(v), foot + 16.0],
            "ruler middle",
        ));
    }
    for (i, row) in rows.iter().enumerate() {
        let y = 28.0 + ROW * i as f64;
        all = all
            .add(words(&row.name, [LEFT - 10.0, y + 4.0], "name end"))
            .add(line([x(0.0), y], [WIDTH - 24.0, y], "row"))
            .add(line(
                [x(row.planned), y],
                [x(row.planned), y + 7.0],
                "planned",
            ));
        if let Some(actual) = row.actual {
            let over = if actual > row.planned {
                "apart is-over"
            } else {
                "apart"
            };
            all = all
                .add(line([x(row.planned), y], [x(actual), y], over))
                .add(line([x(actual), y - 8.0], [x(actual), y], "actual"));
        }
    }
    sheet(WIDTH, foot + 24.0, "paired", label)
        .add(all)
        .add(words(unit, [WIDTH - 24.0, 11.0], "caption end"))
        .to_string()
}

/// Two lines of spending over plates as they came off: day and number, planned and actual so far.
#[must_use]
pub fn draw_spent(points: &[(String, f64, f64)], unit: &str) -> String {
    let most = points.iter().map(|p| p.1.max(p.2)).fold(1e-9, f64::max);
    let by = step(most);
    let top = (most / by).ceil().max(1.0) * by;
    let (height, head) = (190.0, 20.0);
    let apart = (WIDTH - LEFT - 48.0) / points.len().max(1) as f64;
    let x = |i: usize| LEFT + apart * i as f64;
    let y = |v: f64| head + height * (1.0 - v / top);
    let line_of = |of: &dyn Fn(&(String, f64, f64)) -> f64| {
        let start = [[x(0), y(0.0)]];
        let rest = points.iter().enumerate().map(|(i, p)| [x(i + 1), y(of(p))]);
        start.into_iter().chain(rest).collect::<Vec<_>>()
    };
    let mut all = Group::new();
    let marks = (top / by).round() as usize;
    for mark in 0..=marks {
        let v = mark as f64 * by;
        all = all
            .add(line([LEFT, y(v)], [WIDTH - 24.0, y(v)], "grid"))
            .add(words(
                &format!("{v:.0}"),
                [LEFT - 10.0, y(v) + 4.0],
                "ruler end",
            ));
    }
    let every = (points.len() / 8).max(1);
    for (i, (name, _, _)) in points.iter().enumerate() {
        if (i + 1).is_multiple_of(every) {
            all = all.add(words(
                name,
                [x(i + 1), head + height + 18.0],
                "ruler middle",
            ));
        }
    }
    sheet(
        WIDTH,
        head + height + 28.0,
        "spent",
        "What was spent as plates came off, planned and actual",
    )
    .add(all)
    .add(curve(&line_of(&|p| p.1), "planned-line"))
    .add(curve(&line_of(&|p| p.2), "actual-line"))
    .add(words(unit, [LEFT, 12.0], "caption"))
    .to_string()
}

/// What left the vats, as a band that splits by where it went. `each` is name and ml; the first goes straight on.
#[must_use]
pub fn draw_flow(each: &[(&str, f64)]) -> String {
    let all_ml: f64 = each.iter().map(|e| e.1).sum();
    let tall = 150.0;
    let per_ml = if all_ml > 0.0 { tall / all_ml } else { 0.0 };
    let (left, right, top) = (130.0, 430.0, 18.0);
    let gap = 20.0;
    let mut from = top;
    let mut to = top;
    let mut group = Group::new();
    for (i, (name, ml)) in each.iter().enumerate() {
        let h = ml * per_ml;
        let middle = f64::midpoint(left, right);
        let data = Data::new()
            .move_to((left, round(from)))
            .cubic_curve_to((
                (middle, round(from)),
                (middle, round(to)),
                (right, round(to)),
            ))
            .line_to((right, round(to + h)))
            .cubic_curve_to((
                (middle, round(to + h)),
                (middle, round(from + h)),
                (left, round(from + h)),
            ))
            .close();
        let class = match i {
            0 => "stream is-good",
            1 => "stream is-failed",
            _ => "stream",
        };
        let share = if all_ml > 0.0 {
            ml / all_ml * 100.0
        } else {
            0.0
        };
        let text = format!("{name}  {ml:.1} ml, {share:.0} %");
        group = group
            .add(Path::new().set("class", class).set("d", data))
            .add(words(&text, [right + 10.0, to + (h / 2.0) + 4.0], "name"));
        from += h;
        to += h.max(2.0) + gap;
    }
    let whole = block([left - 8.0, top], [8.0, tall], "whole");
    sheet(
        WIDTH,
        to.max(top + tall) + 12.0,
        "flow",
        "Where the resin of printed plates went",
    )
    .add(whole)
    .add(group)
    .add(words(
        &format!("{all_ml:.1} ml"),
        [left - 16.0, top + tall / 2.0],
        "name end",
    ))
    .add(words(
        "left the vats",
        [left - 16.0, top + tall / 2.0 + 16.0],
        "ruler end",
    ))
    .to_string()
}

/// Bars with a name, a length and words behind.
#[must_use]
pub fn draw_bars(rows: &[(String, f64, String)], label: &str) -> String {
    let most = rows.iter().map(|r| r.1).fold(1e-9, f64::max);
    let left = 210.0;
    let wide = WIDTH - left - 190.0;
    let mut all = Group::new();
    for (i, (name, value, text)) in rows.iter().enumerate() {
        let y = 6.0 + 24.0 * i as f64;
        let w = value / most * wide;
        all = all
            .add(words(name, [left - 10.0, y + 14.0], "name end"))
            .add(block([left, y + 2.0], [w.max(1.0), 16.0], "length"))
            .add(words(text, [left + w + 8.0, y + 14.0], "ruler"));
    }
    sheet(WIDTH, 12.0 + 24.0 * rows.len() as f64, "bars", label)
        .add(all)
        .to_string()
}

/// A plate from above with every copy that was judged on it: good ones open, failed ones full; the worst quarter
/// ruled round where there is one. Front is below, as on the plate's sheet.
#[must_use]
pub fn draw_stood(
    copies: &[Stood],
    [width_mm, depth_mm]: [f64; 2],
    worst: Option<Quarter>,
) -> String {
    let wide = 300.0;
    let tall = wide * (depth_mm / width_mm.max(1.0)).clamp(0.2, 2.0);
    let at = |p: [f64; 2]| [8.0 + p[0] * wide, 8.0 + (1.0 - p[1]) * tall];
    let mut all = Group::new().add(block([8.0, 8.0], [wide, tall], "bed"));
    if let Some([right, back]) = worst.map(Quarter::sides) {
        let x = if right { 8.0 + wide / 2.0 } else { 8.0 };
        let y = if back { 8.0 } else { 8.0 + tall / 2.0 };
        all = all.add(block([x, y], [wide / 2.0, tall / 2.0], "worst"));
    }
    all = all
        .add(line(
            [8.0 + wide / 2.0, 8.0],
            [8.0 + wide / 2.0, 8.0 + tall],
            "grid",
        ))
        .add(line(
            [8.0, 8.0 + tall / 2.0],
            [8.0 + wide, 8.0 + tall / 2.0],
            "grid",
        ));
    // Failed ones last, so that none is hidden.
    for failed in [false, true] {
        for copy in copies.iter().filter(|c| c.failed == failed) {
            let [x, y] = at(copy.at);
            let class = if failed { "stood is-failed" } else { "stood" };
            all = all.add(
                Circle::new()
                    .set("class", class)
                    .set("cx", round(x))
                    .set("cy", round(y))
                    .set("r", if failed { 4.0 } else { 2.5 }),
            );
        }
    }
    sheet(
        wide + 16.0,
        tall + 32.0,
        "stood-on",
        "Where judged copies stood on the plate, failed ones full",
    )
    .add(all)
    .add(words(
        "front",
        [8.0 + wide / 2.0, tall + 26.0],
        "ruler middle",
    ))
    .to_string()
}

/// Copies printed against the chance that enough are good, in steps; what is advised is marked.
#[must_use]
pub fn draw_chance(points: &[(u64, f64)], advised: u64) -> String {
    let (wide, tall, left, head) = (300.0, 110.0, 40.0, 14.0);
    let first = points.first().map_or(0, |p| p.0);
    let last = points.last().map_or(1, |p| p.0).max(first + 1);
    let x = |n: u64| left + (n.saturating_sub(first)) as f64 / (last - first) as f64 * wide;
    let y = |p: f64| head + tall * (1.0 - p);
    let mut all = Group::new();
    for p in [0.0, 0.5, 0.9, 1.0] {
        all = all
            .add(line([left, y(p)], [left + wide, y(p)], "grid"))
            .add(words(
                &format!("{:.0}", p * 100.0),
                [left - 6.0, y(p) + 4.0],
                "ruler end",
            ));
    }
    let every = ((last - first) / 6).max(1);
    for (n, p) in points {
        if (n - first).is_multiple_of(every) {
            all = all.add(words(
                &n.to_string(),
                [x(*n), head + tall + 16.0],
                "ruler middle",
            ));
        }
        let class = if *n == advised {
            "point is-advised"
        } else {
            "point"
        };
        all = all.add(
            Circle::new()
                .set("class", class)
                .set("cx", round(x(*n)))
                .set("cy", round(y(*p)))
                .set("r", if *n == advised { 5.0 } else { 2.5 }),
        );
    }
    let line_of: Vec<[f64; 2]> = points.iter().map(|(n, p)| [x(*n), y(*p)]).collect();
    sheet(
        left + wide + 16.0,
        head + tall + 22.0,
        "chance",
        "Copies printed, and the chance in percent that enough are good",
    )
    .add(curve(&line_of, "actual-line"))
    .add(all)
    .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn scales_go_in_round_steps() {
        for (most, by) in [(4.2, 1.0), (0.9, 0.2), (130.0, 50.0), (1000.0, 200.0)] {
            assert!((step(most) - by).abs() < 1e-9, "{most}: {}", step(most));
        }
    }

    /// Nothing of a drawing is no number, whatever is drawn.
    #[test]
    fn empty_ledgers_are_drawn() {
        let stood = Stood {
            at: [0.2, 0.9],
            height_mm: 20.0,
            neighbour_mm: None,
            failed: true,
        };
        for drawing in [
            draw_paired(&[], "EUR", "nothing"),
            draw_paired(
                &[Paired {
                    name: "1".into(),
                    planned: 0.0,
                    actual: Some(0.0),
                }],
                "EUR",
                "zero",
            ),
            draw_spent(&[], "EUR"),
            draw_spent(&[("1".into(), 2.0, 3.0)], "EUR"),
            draw_flow(&[("good", 0.0), ("failed", 0.0)]),
            draw_bars(&[], "causes"),
            draw_stood(&[stood], [120.0, 68.0], Some(Quarter::BackLeft)),
            draw_chance(&[(3, 0.4)], 3),
            draw_chance(&[], 0),
        ] {
            assert!(
                drawing.starts_with("<svg") && !drawing.contains("NaN") && !drawing.contains("inf"),
                "{drawing}"
            );
        }
    }
}
