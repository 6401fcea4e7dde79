//! The ruler of days: printers as lines, runs as bars on one axis of time, the hours in which
//! somebody is there shaded, and what the hands do under all of it.

use svg::Document;
use svg::node::element::{Anchor, Group, Rectangle, Title};

use crate::ink::{line, round, words};

const LEFT: f64 = 104.0;
const WIDTH: f64 = 1000.0;
const TOP: f64 = 48.0;
const ROW: f64 = 42.0;

/// A plate on the ruler, ms since 1970.
#[derive(Debug, Clone, PartialEq)]
pub struct RulerBar {
    /// Its number, as it is written on it.
    pub label: String,
    /// Which plate, for scripts and addresses.
    pub plate: i64,
    /// All of it in words.
    pub title: String,
    /// It is put on,
    pub load_ms: i64,
    /// prints,
    pub prints_ms: i64,
    /// is printed,
    pub printed_ms: i64,
    /// and off.
    pub end_ms: i64,
    /// It is on the printer already.
    pub runs: bool,
}

/// A printer on the ruler.
#[derive(Debug, Clone, PartialEq)]
pub struct RulerRow {
    /// What it is called.
    pub name: String,
    /// Which printer, for scripts.
    pub printer: i64,
    /// What it prints.
    pub bars: Vec<RulerBar>,
}

/// All that is drawn, ms since 1970.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Ruler {
    /// Where it begins and ends.
    pub span_ms: (i64, i64),
    /// Now.
    pub now_ms: i64,
    /// Printers.
    pub rows: Vec<RulerRow>,
    /// When somebody is there.
    pub attended: Vec<(i64, i64)>,
    /// When days begin, and what they are called.
    pub days: Vec<(i64, String)>,
    /// Hours between, and how they are written.
    pub hours: Vec<(i64, String)>,
    /// What the hands do.
    pub hands: Vec<(i64, i64)>,
    /// When something is wanted, and what.
    pub wanted: Vec<(i64, String)>,
}

/// Draws the ruler, its bars leading to their plates; nothing where there is no printer.
#[must_use]
pub fn draw_ruler(of: &Ruler) -> String {
    ruler(of, true).map_or_else(String::new, |(drawing, _)| drawing.to_string())
}

/// The ruler with its width and height; on paper its bars lead nowhere.
pub(crate) fn ruler(of: &Ruler, leads: bool) -> Option<(Document, [f64; 2])> {
    let (from, to) = of.span_ms;
    if of.rows.is_empty() || to <= from {
        return None;
    }
    let x = |ms: i64| LEFT + WIDTH * ((ms.clamp(from, to) - from) as f64 / (to - from) as f64);
    let bottom = TOP + (of.rows.len() as f64 + 1.0) * ROW;
    let size = [round(LEFT + WIDTH + 6.0), round(bottom + 4.0)];
    let mut all = Document::new()
        .set("viewBox", (0, 0, size[0], size[1]))
        .set("class", "ruler-of-days")
        .set("data-from", from)
        .set("data-to", to)
        .set("data-left", LEFT)
        .set("data-width", WIDTH)
        .set("role", "group")
        .set(
            "aria-label",
            "Which plate is on which printer, and when somebody is there",
        );
    for (begin, end) in &of.attended {
        if *end > from && *begin < to {
            let wide = x(*end) - x(*begin);
            all = all.add(rect([x(*begin), TOP], [wide, bottom - TOP], "attended"));
        }
    }
    let mut free = f64::MIN;
    for (at, name) in of.days.iter().filter(|(at, _)| *at <= to) {
        let here = x(*at);
        all = all.add(line([here, TOP - 12.0], [here, bottom], "day"));
        if here > free {
            all = all.add(words(name, [here + 4.0, TOP - 4.0], "ruler"));
            free = here + 8.0 * name.len() as f64;
        }
    }
    // As many of them as leave room for their figures.
    let mut last = f64::MIN;
    for (at, name) in of.hours.iter().filter(|(at, _)| (from..to).contains(at)) {
        let here = x(*at);
        all = all.add(line([here, TOP - 4.0], [here, TOP], "day"));
        if here > last + 30.0 {
            all = all.add(words(name, [here, TOP - 18.0], "hour middle"));
            last = here;
        }
    }
    for (index, row) in of.rows.iter().enumerate() {
        let y = TOP + index as f64 * ROW;
        all = all
            .add(line([LEFT, y + ROW], [LEFT + WIDTH, y + ROW], "row"))
            .add(words(&row.name, [0.0, y + 26.0], "name"));
        let mut group = Group::new()
            .set("data-printer", row.printer)
            .set("data-y", y);
        for bar in &row.bars {
            group = group.add(drawn(bar, leads, &x, y));
        }
        all = all.add(group);
    }
    let y = TOP + of.rows.len() as f64 * ROW;
    all = all.add(words("Your hands", [0.0, y + 26.0], "name"));
    for (begin, end) in &of.hands {
        let wide = (x(*end) - x(*begin)).max(2.0);
        all = all.add(rect([x(*begin), y + 8.0], [wide, 24.0], "is-hands"));
    }
    for (at, name) in &of.wanted {
        let here = x(*at);
        all = all
            .add(line([here, TOP - 12.0], [here, bottom], "wanted"))
            .add(words(
                name,
                [here - 4.0, TOP - 32.0],
                "ruler end wanted-name",
            ));
    }
    if (from..to).contains(&of.now_ms) {
        let here = x(of.now_ms);
        all = all.add(line([here, TOP - 12.0], [here, bottom], "now"));
    }
    Some((all, size))
}

/// Black ink on white, for paper.
pub(crate) const INK: &str = "text{font:12px sans-serif;fill:#000}.middle{text-anchor:middle}.end{text-anchor:end}.attended{fill:#e4e4e4}.row{stroke:#999;stroke-width:.6}.day{stroke:#666;stroke-width:.8}.now{stroke:#000;stroke-width:2}.wanted{stroke:#000;stroke-width:1.4;stroke-dasharray:5 3}.prints{fill:#fff;stroke:#000;stroke-width:1.2}.is-running .prints{fill:#ccc}.loads,.is-hands{fill:#000}.waits{fill:none;stroke:#000;stroke-width:.8;stroke-dasharray:3 2}";

fn rect([x, y]: [f64; 2], [width, height]: [f64; 2], class: &str) -> Rectangle {
    Rectangle::new()
        .set("x", round(x))
        .set("y", round(y))
        .set("width", round(width))
        .set("height", round(height))
        .set("class", class)
}

/// Put on, printed, waiting to be taken off: three widths of one bar.
fn drawn(bar: &RulerBar, leads: bool, x: &dyn Fn(i64) -> f64, y: f64) -> Anchor {
    let [load, prints, printed, end] =
        [bar.load_ms, bar.prints_ms, bar.printed_ms, bar.end_ms].map(x);
    let class = if bar.runs { "bar is-running" } else { "bar" };
    let mut all = Anchor::new();
    if leads {
        all = all.set("href", format!("/plates/{}", bar.plate));
    }
    all = all
        .set("class", class)
        .set("data-plate", bar.plate)
        .set("data-load", bar.load_ms)
        .add(Title::new(bar.title.clone()))
        .add(rect(
            [printed, y + 16.0],
            [(end - printed).max(1.0), 10.0],
            "waits",
        ))
        .add(rect(
            [prints, y + 8.0],
            [(printed - prints).max(2.0), 26.0],
            "prints",
        ));
    if prints > load {
        all = all.add(rect([load, y + 8.0], [prints - load, 26.0], "loads"));
    }
    if printed - prints > 9.0 * bar.label.len() as f64 {
        all = all.add(words(&bar.label, [prints + 4.0, y + 26.0], "label"));
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Twice as long is twice as wide; what waits to be taken off is drawn after it.
    #[test]
    fn bars_stand_on_one_axis_of_time() {
        let hour = 3_600_000;
        let bar = |plate, from: i64, hours: i64| RulerBar {
            label: plate_name(plate),
            plate,
            title: String::new(),
            load_ms: from * hour,
            prints_ms: from * hour,
            printed_ms: (from + hours) * hour,
            end_ms: (from + hours + 1) * hour,
            runs: false,
        };
        fn plate_name(plate: i64) -> String {
            plate.to_string()
        }
        let ruler = Ruler {
            span_ms: (0, 20 * hour),
            now_ms: hour,
            rows: vec![RulerRow {
                name: "Dunlin".into(),
                printer: 1,
                bars: vec![bar(3, 0, 4), bar(4, 6, 8)],
            }],
            attended: vec![(0, 10 * hour)],
            days: vec![(0, "Mon 23".into())],
            hours: vec![(6 * hour, "06".into())],
            hands: vec![(4 * hour, 5 * hour)],
            wanted: vec![(18 * hour, "Levy".into())],
        };
        let drawing = draw_ruler(&ruler);
        let widths: Vec<f64> = drawing
            .split("<rect class=\"prints\"")
            .skip(1)
            .filter_map(|r| r.split("width=\"").nth(1)?.split('"').next()?.parse().ok())
            .collect();
        assert_eq!(widths, [200.0, 400.0]);
        assert_eq!(drawing.matches("class=\"waits\"").count(), 2);
        assert!(drawing.contains("href=\"/plates/4\"") && drawing.contains("Dunlin"));
        assert_eq!(draw_ruler(&Ruler::default()), "");
    }
}
