//! Plates as they came off over time, and when the rest may come: a stair, and a fan that opens forward.

use svg::node::element::Group;
use wembrit_core::progress::Expected;

use crate::ink::{block, curve, line, shape, sheet, words};

/// What is drawn.
#[derive(Debug, Clone, PartialEq)]
pub struct BurnUp {
    /// Days from the first plate on the printer to each that held, in order.
    pub off_days: Vec<f64>,
    /// Days that passed.
    pub today: f64,
    /// Plates that are left.
    pub left: u32,
    /// When they are done, from today.
    pub expected: Option<Expected>,
    /// When it is wanted, days from the first plate.
    pub wanted: Option<f64>,
    /// Words under the axis: first day, today, when half of the belief is over, when it is wanted.
    pub words: [String; 4],
}

const WIDTH: f64 = 320.0;
const HEIGHT: f64 = 130.0;
const LEFT: f64 = 26.0;

/// Draws it.
#[must_use]
pub fn draw_burn_up(of: &BurnUp) -> String {
    let done = of.off_days.len() as f64;
    let all = done + f64::from(of.left);
    let last = of.expected.map_or(of.today, |e| of.today + e.range[1]);
    let days = last.max(of.wanted.unwrap_or(0.0)).max(1.0) * 1.04;
    let x = |d: f64| LEFT + d.min(days) / days * (WIDTH - LEFT - 16.0);
    let y = |n: f64| 20.0 + HEIGHT * (1.0 - n / all.max(1.0));
    let mut group = Group::new()
        .add(line([LEFT, y(0.0)], [WIDTH - 16.0, y(0.0)], "grid"))
        .add(line([LEFT, y(all)], [WIDTH - 16.0, y(all)], "grid"))
        .add(words(
            &format!("{all:.0}"),
            [LEFT - 6.0, y(all) + 4.0],
            "ruler end",
        ))
        .add(words("0", [LEFT - 6.0, y(0.0) + 4.0], "ruler end"));
    if let Some(e) = of.expected.filter(|_| of.left > 0) {
        let fan = [
            [x(of.today), y(done)],
            [x(of.today + e.range[0]), y(all)],
            [x(of.today + e.range[1]), y(all)],
        ];
        group = group
            .add(shape(&fan, "fan"))
            .add(line(
                [x(of.today), y(done)],
                [x(of.today + e.median), y(all)],
                "median",
            ))
            .add(words(
                &of.words[2],
                [x(of.today + e.median), 13.0],
                "ruler middle",
            ));
    }
    let mut stair = vec![[x(0.0), y(0.0)]];
    for (n, day) in of.off_days.iter().enumerate() {
        stair.push([x(*day), y(n as f64)]);
        stair.push([x(*day), y(n as f64 + 1.0)]);
    }
    stair.push([x(of.today), y(done)]);
    group = group
        .add(curve(&stair, "stair"))
        .add(line([x(of.today), 20.0], [x(of.today), y(0.0)], "now"))
        .add(block(
            [x(of.today) - 2.5, y(done) - 2.5],
            [5.0, 5.0],
            "actual",
        ));
    let foot = y(0.0) + 16.0;
    group = group.add(words(&of.words[0], [LEFT, foot], "ruler"));
    if of.today / days > 0.3 {
        group = group.add(words(&of.words[1], [x(of.today), foot], "ruler middle"));
    }
    if let Some(wanted) = of.wanted.filter(|w| *w >= 0.0) {
        group = group
            .add(line([x(wanted), 20.0], [x(wanted), y(0.0)], "wanted"))
            .add(words(
                &of.words[3],
                [x(wanted), foot + 14.0],
                "ruler middle",
            ));
    }
    sheet(
        WIDTH,
        foot + 22.0,
        "burn-up",
        "Plates that held, as they came off, and when the rest may come",
    )
    .add(group)
    .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// All that is drawn lies on its sheet, with and without a past, a range and a date.
    #[test]
    fn it_stays_on_its_sheet() {
        let expected = wembrit_core::progress::plates_left(2, 10.0, 3);
        let of = |off: &[f64], left, expected, wanted| BurnUp {
            off_days: off.to_vec(),
            today: 10.0,
            left,
            expected,
            wanted,
            words: ["1 May", "today", "half", "wanted"].map(str::to_owned),
        };
        let some = draw_burn_up(&of(&[3.0, 9.0], 3, expected, Some(25.0)));
        assert!(some.contains("class=\"fan\"") && some.contains("wanted"));
        let none = draw_burn_up(&of(&[], 0, None, None));
        assert!(!none.contains("fan") && !none.contains("NaN"));
        // Its head names a year.
        let drawn = some.split_once("<g>").expect("a group").1;
        let numbers = drawn.split(|c: char| !(c.is_ascii_digit() || c == '.' || c == '-'));
        let beyond = numbers
            .filter_map(|n| n.parse::<f64>().ok())
            .filter(|n| *n > 321.0);
        assert_eq!(beyond.count(), 0);
    }
}
