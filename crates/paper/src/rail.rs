//! The rail of finishing: batches on their way, step after step on one axis of time, with the hands
//! they need under them.

use svg::Document;
use svg::node::element::{Group, Rectangle};
use wembrit_core::finishing::{Station, Step, queue::Slot};

use crate::ink::{line, round, words};

const LEFT: f64 = 96.0;
const WIDTH: f64 = 860.0;
const TOP: f64 = 22.0;
const ROW: f64 = 34.0;

/// A batch on the rail.
#[derive(Debug, Clone, PartialEq)]
pub struct RailRow {
    /// What it is called.
    pub name: String,
    /// The step under way: from, to, ms since 1970.
    pub now: Option<(Step, i64, i64)>,
    /// What is before it.
    pub slots: Vec<Slot>,
}

/// Draws the rail from a time on; `clock` writes a time as a person reads it.
#[must_use]
pub fn draw_rail(rows: &[RailRow], now_ms: i64, clock: &dyn Fn(i64) -> String) -> String {
    if rows.is_empty() {
        return String::new();
    }
    let ends = rows.iter().flat_map(|r| {
        let slots = r.slots.iter().map(|s| s.to_ms);
        slots.chain(r.now.map(|(_, _, to)| to))
    });
    let end = ends.max().unwrap_or(now_ms).max(now_ms + 30 * 60_000);
    let minute = WIDTH / ((end - now_ms) as f64 / 60_000.0);
    let x = |ms: i64| LEFT + ((ms - now_ms).max(0) as f64 / 60_000.0) * minute;
    let bottom = TOP + (rows.len() + 1) as f64 * ROW;
    let mut all = Document::new()
        .set(
            "viewBox",
            (0, 0, round(LEFT + WIDTH + 14.0), round(bottom + 8.0)),
        )
        .set("class", "rail")
        .set("role", "img")
        .set("aria-label", "What is done with each batch, and when");
    // A mark every ten minutes, or as far apart as leaves room for the figures.
    let mut apart = 10.0;
    while apart * minute < 62.0 {
        apart *= if apart < 30.0 { 3.0 } else { 2.0 };
    }
    let mut at = now_ms;
    while at <= end {
        let here = x(at);
        all = all
            .add(line([here, TOP - 4.0], [here, bottom], "tick faint"))
            .add(words(&clock(at), [here, TOP - 9.0], "ruler middle"));
        at += (apart * 60_000.0) as i64;
    }
    for (index, row) in rows.iter().enumerate() {
        let y = TOP + index as f64 * ROW;
        all = all.add(words(&row.name, [0.0, y + 17.0], "name"));
        if let Some((step, from, to)) = row.now {
            all = all.add(block(
                step,
                x(from.max(now_ms)),
                x(to.max(now_ms)).max(x(now_ms) + 3.0),
                y,
                true,
            ));
        }
        for slot in &row.slots {
            all = all.add(block(slot.step, x(slot.from_ms), x(slot.to_ms), y, false));
        }
    }
    let y = TOP + rows.len() as f64 * ROW;
    all = all.add(words("Your hands", [0.0, y + 17.0], "name"));
    for slot in rows.iter().flat_map(|r| &r.slots) {
        if slot.step.station() == Station::Hands {
            let bar = Rectangle::new()
                .set("x", round(x(slot.from_ms)))
                .set("y", round(y + 6.0))
                .set("width", round((x(slot.to_ms) - x(slot.from_ms)).max(1.0)))
                .set("height", 12)
                .set("class", "is-hands");
            all = all.add(bar);
        }
    }
    all.to_string()
}

fn block(step: Step, from: f64, to: f64, y: f64, now: bool) -> Group {
    let class = match step.station() {
        Station::Hands => "is-hands",
        Station::Wash | Station::Lamp => "is-station",
        Station::Shelf => "is-shelf",
    };
    let wide = (to - from).max(1.0);
    let bar = Rectangle::new()
        .set("x", round(from))
        .set("y", round(y + 3.0))
        .set("width", round(wide))
        .set("height", 20)
        .set(
            "class",
            if now {
                format!("{class} is-now")
            } else {
                class.to_owned()
            },
        );
    let group = Group::new().add(bar);
    let name = step.as_str();
    if wide > 7.0 * name.len() as f64 + 6.0 {
        group.add(words(
            name,
            [from + 5.0, y + 17.0],
            &format!("label on-{class}"),
        ))
    } else {
        group
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use wembrit_core::ids::BatchId;

    /// Twice as long is twice as wide, on one axis; hands stand once more under all of it.
    #[test]
    fn steps_stand_on_one_axis_of_time() {
        let slot = |step, from: i64, to: i64| Slot {
            batch: BatchId(1),
            at: 0,
            step,
            from_ms: from * 60_000,
            to_ms: to * 60_000,
        };
        let row = RailRow {
            name: "plate 3".into(),
            now: Some((Step::Dry, -5 * 60_000, 10 * 60_000)),
            slots: vec![slot(Step::SupportsOff, 10, 22), slot(Step::Cure, 22, 46)],
        };
        let drawing = draw_rail(&[row], 0, &|ms| format!("{}", ms / 60_000));
        let widths: Vec<f64> = drawing
            .split("width=\"")
            .skip(1)
            .filter_map(|w| w.split('"').next()?.parse().ok())
            .collect();
        // Dry, supports off, cure, hands.
        assert_eq!(widths.len(), 4);
        assert!((widths[2] / widths[1] - 2.0).abs() < 0.01, "{widths:?}");
        assert_eq!(widths[3], widths[1]);
        assert!(drawing.contains("supports off") && drawing.contains("Your hands"));
        assert_eq!(draw_rail(&[], 0, &|_| String::new()), "");
    }
}
