//! Pages for the wall beside the printer: what stands on them, from what pages show.

use jiff::tz::TimeZone;
use wembrit_core::flow::plate_code;
use wembrit_core::schedule::{Timetable, Work};
use wembrit_paper::{PlatePage, SchedulePage, SheetPart, write_plate_page, write_schedule_page};
use wembrit_store::queries::pages::plates::PlateSheet;
use wembrit_store::queries::pages::schedule::Scheduled;

use super::plates::in_mind;
use super::schedule::{in_words, ruler};
use super::show::{self, hours, tenth};
use super::sorting::Sorted;

/// A plate, as an SVG of one page.
pub(crate) fn plate_page(data: &PlateSheet) -> String {
    let (plate, shown) = (&data.plate, &data.shown);
    let sorted = Sorted::new(shown, plate);
    let printer = shown.printers.get(&plate.printer);
    let figure = |label: &str, words: String| (label.to_owned(), words);
    let units = sorted.units.into_iter().map(|(name, parts)| {
        let part = |part: super::sorting::SortedPart<'_>| SheetPart {
            name: part.name(),
            marks: part.marks,
        };
        (name, parts.into_iter().map(part).collect())
    });
    write_plate_page(&PlatePage {
        title: format!("Plate {}, {}", plate.number, shown.printer(plate)),
        code: plate_code(shown.on(plate.id)),
        figures: vec![
            figure("Resin", shown.resin(plate).to_owned()),
            figure("Layer, mm", format!("{}", plate.layer)),
            figure("Layers", plate.layers.to_string()),
            figure("Height, mm", tenth(plate.height_mm)),
            figure("Hours", hours(plate.seconds)),
            figure("Resin, ml", tenth(plate.resin_ml)),
            figure("Copies", sorted.copies.len().to_string()),
        ],
        size_mm: printer.map_or([0.0; 2], |p| [p.width_mm, p.depth_mm]),
        copies: sorted.copies,
        units: units.collect(),
        notes: in_mind(data),
    })
}

/// Times, as an SVG of one page.
pub(crate) fn schedule_page(
    data: &Scheduled,
    work: &Work,
    table: &Timetable,
    zone: &TimeZone,
) -> String {
    let mut days: Vec<(String, Vec<(String, String)>)> = Vec::new();
    for of in in_words(data, work, table) {
        let day = show::day(of.act.at_ms, zone);
        let words = format!("{}, {}", of.what, of.printer);
        let line = (show::clock(of.act.at_ms, zone), words);
        match days.last_mut() {
            Some((last, lines)) if *last == day => lines.push(line),
            _ => days.push((day, vec![line])),
        }
    }
    write_schedule_page(&SchedulePage {
        title: format!("Schedule from {}", show::when(work.now_ms, zone)),
        ruler: ruler(data, work, table, zone),
        days,
    })
}
