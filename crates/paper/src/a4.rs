//! Sheets for the wall beside the printer: one page of A4 each, in black on white.

use std::fmt::Write as _;

use svg::Document;
use svg::node::element::{Rectangle, Style};
use wembrit_core::geometry::Point;

use crate::ink::{line, round, shape, words};
use crate::ruler::{INK, Ruler, ruler};
use crate::sorting::NumberedCopy;

/// A part on a plate, with the numbers of its copies.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SheetPart {
    /// Its name.
    pub name: String,
    /// Numbers of its copies on the plate.
    pub marks: Vec<i64>,
}

/// A plate on a page of its own.
#[derive(Debug, Clone, Default)]
pub struct PlatePage {
    /// What it is called.
    pub title: String,
    /// What its file is called by.
    pub code: String,
    /// Labels and figures of the title block.
    pub figures: Vec<(String, String)>,
    /// Width and depth of the plate, mm.
    pub size_mm: [f64; 2],
    /// Where each copy stands.
    pub copies: Vec<NumberedCopy>,
    /// Units, with their parts.
    pub units: Vec<(String, Vec<SheetPart>)>,
    /// What is to be kept in mind.
    pub notes: Vec<String>,
}

/// Times on a page of its own.
#[derive(Debug, Clone, Default)]
pub struct SchedulePage {
    /// What it is called.
    pub title: String,
    /// The ruler.
    pub ruler: Ruler,
    /// Days, and what a person does then: the time, and the words.
    pub days: Vec<(String, Vec<(String, String)>)>,
}

const PORTRAIT: [f64; 2] = [210.0, 297.0];
const LANDSCAPE: [f64; 2] = [297.0, 210.0];
/// What printers of offices leave white.
const EDGE: f64 = 14.0;
/// Height of the title block.
const BLOCK: f64 = 14.0;
/// Notes that are written out.
const NOTES: usize = 6;
/// A line of a list.
const LINE: f64 = 4.2;
/// Width of a letter, by the height of the script: of the figures, and about of the words.
const MONO: f64 = 0.6;
const SANS: f64 = 0.52;

/// Everything in mm.
const SHEET: &str = "text{font-family:Archivo,sans-serif;font-size:3.1px;fill:#000}\
.title{font-size:6.4px;font-weight:700}.code{font-family:'Spline Sans Mono',monospace;font-size:4.4px}\
.unit{font-weight:700}.mono{font-family:'Spline Sans Mono',monospace;font-size:3px}\
.label{font-size:2.5px}.middle{text-anchor:middle}.end{text-anchor:end}\
.edge{fill:none;stroke:#000;stroke-width:.5}.silhouette{fill:#eee;stroke:#000;stroke-width:.18}\
.rule{stroke:#000;stroke-width:.25}.number{font-family:'Spline Sans Mono',monospace}";

fn page([width, height]: Point, style: &str) -> Document {
    Document::new()
        .set("viewBox", (0, 0, width, height))
        .set("width", format!("{width}mm"))
        .set("height", format!("{height}mm"))
        .add(Style::new(style))
        .add(
            Rectangle::new()
                .set("width", width)
                .set("height", height)
                .set("fill", "#fff"),
        )
}

/// No longer than so many letters.
fn cut(text: &str, letters: f64) -> String {
    let most = letters.max(4.0) as usize;
    if text.chars().count() <= most {
        return text.to_owned();
    }
    let kept: String = text.chars().take(most - 1).collect();
    format!("{}…", kept.trim_end())
}

/// Numbers in lines of so many letters.
fn in_lines(marks: &[i64], letters: f64) -> Vec<String> {
    let mut lines = vec![String::new()];
    for mark in marks {
        let word = mark.to_string();
        let line = lines.last().map_or(0, String::len);
        if line > 0 && (line + 1 + word.len()) as f64 > letters {
            lines.push(word);
        } else if let Some(last) = lines.last_mut() {
            let gap = if last.is_empty() { "" } else { " " };
            let _ = write!(last, "{gap}{word}");
        }
    }
    lines
}

/// A line of a list: what it is inked as, and its words.
type Listed = (&'static str, String);

/// Lists in columns under each other, as large as they go in; what goes in no more is counted.
fn in_columns(
    mut document: Document,
    list: &[Listed],
    ([left, top], [right, bottom]): (Point, Point),
    columns: usize,
) -> Document {
    let rows = (((bottom - top) / LINE) as usize).max(1);
    let room = rows * columns;
    let shown = if list.len() > room {
        room - 1
    } else {
        list.len()
    };
    let wide = (right - left) / columns as f64;
    let at = |index: usize| {
        let (column, row) = (index / rows, index % rows);
        [
            left + column as f64 * wide,
            top + (row as f64 + 1.0) * LINE - 1.0,
        ]
    };
    for (index, (class, text)) in list[..shown].iter().enumerate() {
        document = document.add(words(text, at(index), class));
    }
    if shown < list.len() {
        let more = format!("and {} more lines", list.len() - shown);
        document = document.add(words(&more, at(shown), "unit"));
    }
    document
}

/// The figures along the lower edge, in the frame of a workshop drawing.
fn title_block(mut document: Document, figures: &[(String, String)]) -> Document {
    let [width, height] = PORTRAIT;
    let (left, top) = (EDGE, height - EDGE - BLOCK);
    let cells = figures.len().max(1) as f64;
    let wide = (width - 2.0 * EDGE) / cells;
    document = document.add(frame([left, top], [width - 2.0 * EDGE, BLOCK]));
    for (index, (label, figure)) in figures.iter().enumerate() {
        let x = left + index as f64 * wide;
        if index > 0 {
            document = document.add(line([x, top], [x, top + BLOCK], "rule"));
        }
        let figure = cut(figure, (wide - 3.0) / (3.0 * MONO));
        document = document
            .add(words(label, [x + 1.6, top + 4.4], "label"))
            .add(words(&figure, [x + 1.6, top + 10.4], "mono"));
    }
    document
}

fn frame([x, y]: Point, [width, height]: Point) -> Rectangle {
    Rectangle::new()
        .set("class", "edge")
        .set("x", round(x))
        .set("y", round(y))
        .set("width", round(width))
        .set("height", round(height))
}

/// A plate as an SVG of one page: the plan with every copy's number, seen from the film, and which
/// numbers are which part.
#[must_use]
pub fn write_plate_page(of: &PlatePage) -> String {
    let [width, height] = PORTRAIT;
    let room = width - 2.0 * EDGE;
    let scale = (room / of.size_mm[0].max(1.0)).min(118.0 / of.size_mm[1].max(1.0));
    let [wide, deep] = of.size_mm.map(|side| side * scale);
    let top = EDGE + 14.0;
    let left = EDGE + (room - wide) / 2.0;
    let on = |p: &Point| [left + p[0] * scale, top + (of.size_mm[1] - p[1]) * scale];
    let mut document = page(PORTRAIT, SHEET)
        .add(words(
            &cut(&of.title, 100.0 / (6.4 * SANS)),
            [EDGE, EDGE + 6.0],
            "title",
        ))
        .add(words(&of.code, [width - EDGE, EDGE + 6.0], "code end"))
        .add(frame([left, top], [wide, deep]))
        .add(words(
            "as seen from the film",
            [left, top + deep + 4.0],
            "label",
        ));
    for copy in &of.copies {
        let corners: Vec<Point> = copy.placed().corners().iter().map(on).collect();
        document = document.add(shape(&corners, "silhouette"));
    }
    for copy in &of.copies {
        let placed = copy.placed();
        let (low, high) = placed.bounds();
        let narrow = (high[0] - low[0]).min(high[1] - low[1]) * scale;
        let script = (narrow * 0.5).clamp(1.6, 3.4);
        let [x, y] = on(&placed.label_point());
        let number = words(
            &copy.number.to_string(),
            [x, y + script * 0.35],
            "number middle",
        );
        document = document.add(number.set("style", format!("font-size:{}px", round(script))));
    }
    let mut list: Vec<Listed> = Vec::new();
    let letters = (room / 2.0 - 4.0) / (3.0 * MONO);
    for (unit, parts) in &of.units {
        if !list.is_empty() {
            list.push(("", String::new()));
        }
        list.push(("unit", cut(unit, (room / 2.0 - 4.0) / (3.1 * SANS))));
        for part in parts {
            let many = part.marks.len();
            let name = cut(&part.name, (room / 2.0 - 14.0) / (3.1 * SANS));
            list.push(("", format!("{name} ({many})")));
            let lines = in_lines(&part.marks, letters);
            list.extend(lines.into_iter().map(|line| ("mono", line)));
        }
    }
    let mut under = top + deep + 7.0;
    for note in of.notes.iter().take(NOTES) {
        under += LINE;
        let note = cut(note, room / (3.1 * SANS));
        document = document.add(words(&note, [EDGE, under], ""));
    }
    if of.notes.len() > NOTES {
        under += LINE;
        let more = format!("and {} more to keep in mind", of.notes.len() - NOTES);
        document = document.add(words(&more, [EDGE, under], ""));
    }
    let from = [EDGE, under + 3.0];
    let to = [width - EDGE, height - EDGE - BLOCK - 12.0];
    document = in_columns(document, &list, (from, to), 2);
    // To be filled in with a pencil.
    let y = height - EDGE - BLOCK - 4.0;
    for (index, what) in ["Put on", "Taken off", "Lost, by number"]
        .iter()
        .enumerate()
    {
        let x = EDGE + [0.0, 42.0, 84.0][index];
        let ends = [EDGE + 39.0, EDGE + 81.0, width - EDGE][index];
        let from = x + what.len() as f64 * 3.1 * SANS + 2.0;
        document = document.add(words(what, [x, y], "")).add(line(
            [from, y + 0.6],
            [ends, y + 0.6],
            "rule",
        ));
    }
    title_block(document, &of.figures).to_string()
}

/// Times as an SVG of one page: the ruler, and day by day what a person does.
#[must_use]
pub fn write_schedule_page(of: &SchedulePage) -> String {
    let [width, height] = LANDSCAPE;
    let room = width - 2.0 * EDGE;
    let mut tall = 0.0;
    let placed = ruler(&of.ruler, false).map(|(drawing, [w, h])| {
        // As tall as it is for its width.
        tall = (room * h / w).min(90.0);
        drawing
            .set("x", EDGE)
            .set("y", EDGE + 12.0)
            .set("width", room)
            .set("height", round(tall))
            .set("class", "times")
    });
    // The ruler's own units are smaller than those of the page.
    let times = INK.replace("text{", ".times text{");
    let mut document = page(LANDSCAPE, &format!("{SHEET}{times}")).add(words(
        &cut(&of.title, room / (6.4 * SANS)),
        [EDGE, EDGE + 6.0],
        "title",
    ));
    if let Some(placed) = placed {
        document = document.add(placed);
    }
    let columns = 4;
    let letters = (room / columns as f64 - 4.0) / (3.1 * SANS);
    let mut list: Vec<Listed> = Vec::new();
    for (day, acts) in &of.days {
        list.push(("unit", day.clone()));
        let act = |(at, what): &(String, String)| ("", cut(&format!("{at}  {what}"), letters));
        list.extend(acts.iter().map(act));
    }
    let from = [EDGE, EDGE + 18.0 + tall];
    in_columns(
        document,
        &list,
        (from, [width - EDGE, height - EDGE]),
        columns,
    )
    .to_string()
}

#[cfg(test)]
#[path = "a4_tests.rs"]
mod a4_tests;
