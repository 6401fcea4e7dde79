//! What plates take on a printer against what was reckoned of them.

use svg::Document;
use svg::node::element::path::Data;
use svg::node::element::{Circle, Path};
use wembrit_core::learn::{LoggedRun, Pace, TOLD_LEVEL};

use crate::ink::{line, round, words};

const WIDTH: f64 = 760.0;
const HEIGHT: f64 = 260.0;
const LEFT: f64 = 64.0;
const RIGHT: f64 = 24.0;
const TOP: f64 = 30.0;
const FOOT: f64 = 42.0;
/// What is drawn at least, h and min.
const LEAST_HOURS: f64 = 8.0;
const LEAST_MINUTES: f64 = 15.0;

/// Where hours and minutes stand on the paper.
struct Scale {
    hours: f64,
    /// Minutes at the foot, and at the top.
    minutes: [f64; 2],
}

impl Scale {
    fn at(&self, hours: f64, minutes: f64) -> [f64; 2] {
        let across = WIDTH - LEFT - RIGHT;
        let [foot, top] = self.minutes;
        [
            LEFT + hours / self.hours * across,
            TOP + HEIGHT * (top - minutes) / (top - foot),
        ]
    }
}

/// The line of a printer over reckoned hours, in minutes more or less than those, with the range that
/// nine of ten further runs keep to; every run a dot, those before its last change hollow.
#[must_use]
pub fn draw_pace(pace: &Pace, log: &[LoggedRun]) -> String {
    let hours = |r: &LoggedRun| r.time.reckoned_s / 3600.0;
    let more = |r: &LoggedRun| (r.time.actual_s - r.time.reckoned_s) / 60.0;
    let near: Vec<&LoggedRun> = log.iter().filter(|r| r.is_near()).collect();
    let longest = near.iter().map(|r| hours(r)).fold(LEAST_HOURS, f64::max);
    let scale_hours = (longest * 1.2).ceil();
    // Line and range at an hour, in minutes more than were reckoned.
    let of = |h: f64| {
        let told = pace.line().predict(h * 3600.0, TOLD_LEVEL);
        [told.seconds, told.low_s, told.high_s].map(|s| (s - h * 3600.0) / 60.0)
    };
    let edges = of(scale_hours).into_iter().chain(of(0.0));
    let shown: Vec<f64> = near.iter().map(|r| more(r)).chain(edges).collect();
    let far = |side: f64| {
        let most = shown.iter().map(|m| m * side).fold(LEAST_MINUTES, f64::max);
        side * step(most / 2.0) * 2.0
    };
    let scale = Scale {
        hours: scale_hours,
        minutes: [far(-1.0), far(1.0)],
    };
    let steps = 40;
    let all: Vec<(f64, [f64; 3])> = (0..=steps)
        .map(|i| f64::from(i) / f64::from(steps) * scale.hours)
        .map(|h| (h, of(h)))
        .collect();
    let there = all.iter().map(|(h, [_, low, _])| scale.at(*h, *low));
    let back = all
        .iter()
        .rev()
        .map(|(h, [_, _, high])| scale.at(*h, *high));
    let band = path(there.chain(back)).close();
    let middle = path(all.iter().map(|(h, [at, _, _])| scale.at(*h, *at)));
    let mut drawing = Document::new()
        .set("viewBox", (0, 0, round(WIDTH), round(TOP + HEIGHT + FOOT)))
        .set("class", "pace")
        .set("role", "img")
        .set(
            "aria-label",
            "Minutes that plates take beyond what was reckoned, by reckoned hours",
        )
        .add(words(
            "MINUTES MORE THAN RECKONED",
            [LEFT, TOP - 14.0],
            "caption",
        ));
    drawing = drawing.add(Path::new().set("class", "band").set("d", band));
    drawing = axes(drawing, &scale);
    drawing = drawing
        .add(words(
            "reckoned",
            [WIDTH - RIGHT, TOP + HEIGHT + 36.0],
            "ruler end",
        ))
        .add(Path::new().set("class", "load-pull").set("d", middle));
    let since = pace.change().map_or(i64::MIN, |c| c.since_ms);
    for run in near {
        let [x, y] = scale.at(hours(run), more(run));
        let class = if run.at_ms < since {
            "run is-before"
        } else {
            "run"
        };
        drawing = drawing.add(
            Circle::new()
                .set("class", class)
                .set("cx", round(x))
                .set("cy", round(y))
                .set("r", 4),
        );
    }
    drawing.to_string()
}

/// Lines of minutes across, and hours along the foot.
fn axes(mut drawing: Document, scale: &Scale) -> Document {
    let [foot, top] = scale.minutes;
    for minutes in [foot, foot / 2.0, 0.0, top / 2.0, top] {
        let [x, y] = scale.at(0.0, minutes);
        let class = if minutes == 0.0 { "floor" } else { "grid" };
        drawing = drawing.add(line([x, y], [WIDTH - RIGHT, y], class));
        // Names of lines that lie close would run into each other.
        if minutes != foot / 2.0 || foot * -3.0 > top {
            let text = format!("{minutes:+.0}");
            let text = if minutes == 0.0 { "0" } else { text.as_str() };
            drawing = drawing.add(words(text, [x - 8.0, y + 4.0], "ruler end"));
        }
    }
    let every = step(scale.hours / 10.0).max(1.0);
    let mut h = 0.0;
    while h <= scale.hours {
        let [x, y] = scale.at(h, foot);
        drawing = drawing.add(line([x, y], [x, y + 5.0], "tick")).add(words(
            &format!("{h:.0} h"),
            [x, y + 18.0],
            "ruler middle",
        ));
        h += every;
    }
    drawing
}

/// A line through points.
fn path(points: impl Iterator<Item = [f64; 2]>) -> Data {
    points.enumerate().fold(Data::new(), |data, (i, [x, y])| {
        let point = (round(x), round(y));
        if i == 0 {
            data.move_to(point)
        } else {
            data.line_to(point)
        }
    })
}

/// The next round number: 1, 2 or 5 and noughts.
fn step(value: f64) -> f64 {
    let tens = 10_f64.powf(value.max(1e-9).log10().floor());
    let found = [1.0, 2.0, 5.0, 10.0]
        .into_iter()
        .find(|s| s * tens >= value);
    found.unwrap_or(10.0) * tens
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::learn::TimedRun;

    #[test]
    fn every_run_is_a_dot_and_what_cannot_be_is_left_out() {
        let run = |at_ms, reckoned_s, actual_s| LoggedRun {
            at_ms,
            time: TimedRun {
                reckoned_s,
                actual_s,
            },
            room_c: None,
        };
        let log = [
            run(1, 3600.0, 4000.0),
            run(2, 20_000.0, 21_000.0),
            run(3, 3600.0, 40_000.0),
        ];
        let drawing = draw_pace(&Pace::learned(&log), &log);
        assert_eq!(drawing.matches("<circle").count(), 2);
        assert!(drawing.contains("8 h") && drawing.contains("band"));
        assert!(draw_pace(&Pace::unlogged(), &[]).contains("band"));
        assert_eq!([step(7.0), step(0.3), step(20.0)], [10.0, 0.5, 20.0]);
    }
}
