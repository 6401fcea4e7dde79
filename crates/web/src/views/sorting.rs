//! The sorting sheet: which silhouette is which part, unit by unit.

use std::collections::BTreeMap;
use std::sync::Arc;

use askama::Template;
use wembrit_core::army::part_name;
use wembrit_core::flow::{Plate, PlateCopy};
use wembrit_core::ids::{PartId, PlateId};
use wembrit_paper::{NumberedCopy, draw_numbered_plan, draw_silhouette};
use wembrit_store::queries::pages::plates::PlatesShown;

use super::Page;
use super::shapes::Shapes;
use super::show::{count, tenth};

/// Silhouettes of a plate in plate order, unit by unit.
#[derive(Template)]
#[template(path = "plates/sorting.html")]
pub(crate) struct SortingView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) plan: String,
    pub(crate) units: Vec<SortingUnit>,
}

pub(crate) struct SortingUnit {
    pub(crate) name: String,
    pub(crate) copies: usize,
    pub(crate) rows: Vec<SortingRow>,
}

pub(crate) struct SortingRow {
    pub(crate) name: String,
    pub(crate) height: String,
    pub(crate) copies: String,
    pub(crate) numbers: String,
    pub(crate) drawing: String,
}

/// Depth of the rows in which copies are numbered, mm.
const ROW_MM: f64 = 25.0;

/// Copies of one part on a plate.
pub(crate) struct SortedPart<'a> {
    /// Their numbers, as one reads the plate.
    pub(crate) marks: Vec<i64>,
    /// One of them.
    copy: &'a PlateCopy,
}

impl SortedPart<'_> {
    pub(crate) fn name(&self) -> String {
        part_name(&self.copy.model_name, &self.copy.part_name)
    }
}

/// What stands on a plate, as one reads it: row by row from the far edge, each from the left.
pub(crate) struct Sorted<'a> {
    /// Outlines with their numbers.
    pub(crate) copies: Vec<NumberedCopy>,
    /// Units, and their parts in the order of their first copies.
    pub(crate) units: Vec<(String, Vec<SortedPart<'a>>)>,
}

impl<'a> Sorted<'a> {
    pub(crate) fn new(shown: &'a PlatesShown, plate: &Plate) -> Self {
        let printer = shown.printers.get(&plate.printer);
        let depth_mm = printer.map_or(0.0, |p| p.depth_mm);
        let shapes = Shapes::new(shown);
        let mut copies: Vec<&PlateCopy> = shown.on(plate.id).iter().collect();
        let row = |c: &PlateCopy| ((depth_mm - c.placed.at_mm[1]) / ROW_MM) as i64;
        copies.sort_by(|a, b| {
            (row(a).cmp(&row(b))).then(a.placed.at_mm[0].total_cmp(&b.placed.at_mm[0]))
        });
        let mut numbered = Vec::new();
        let mut by_unit: BTreeMap<&str, BTreeMap<PartId, SortedPart<'_>>> = BTreeMap::new();
        for copy in copies {
            let mark = copy.mark();
            let placed = &copy.placed;
            if let Some(shape) = shapes.of(copy) {
                numbered.push(NumberedCopy {
                    number: mark,
                    outline: Arc::clone(&shape.outline),
                    rotation_deg: placed.rotation_deg,
                    at_mm: placed.at_mm,
                });
            }
            let parts = by_unit.entry(&copy.unit_name).or_default();
            let part = parts.entry(placed.part).or_insert_with(|| SortedPart {
                marks: Vec::new(),
                copy,
            });
            part.marks.push(mark);
        }
        let unit = |(name, parts): (&str, BTreeMap<PartId, SortedPart<'a>>)| {
            let mut parts: Vec<SortedPart<'_>> = parts.into_values().collect();
            parts.sort_by_key(|part| part.marks[0]);
            (name.to_owned(), parts)
        };
        Self {
            copies: numbered,
            units: by_unit.into_iter().map(unit).collect(),
        }
    }
}

impl SortingView {
    pub(crate) fn new(page: Page, shown: &PlatesShown, plate: &Plate) -> Self {
        let printer = shown.printers.get(&plate.printer);
        let size_mm = printer.map_or([0.0; 2], |p| [p.width_mm, p.depth_mm]);
        let shapes = Shapes::new(shown);
        let sorted = Sorted::new(shown, plate);
        let unit = |(name, parts): &(String, Vec<SortedPart<'_>>)| SortingUnit {
            name: name.clone(),
            copies: parts.iter().map(|p| p.marks.len()).sum(),
            rows: parts.iter().map(|p| sorting_row(p, &shapes)).collect(),
        };
        Self {
            number: plate.number,
            resin: shown.resin(plate).to_owned(),
            plan: draw_numbered_plan(size_mm, &sorted.copies),
            printer: shown.printer(plate).to_owned(),
            units: sorted.units.iter().map(unit).collect(),
            id: plate.id,
            page,
        }
    }
}

fn sorting_row(part: &SortedPart<'_>, shapes: &Shapes<'_>) -> SortingRow {
    let (copy, numbers) = (part.copy, &part.marks);
    let words: Vec<String> = numbers.iter().map(i64::to_string).collect();
    SortingRow {
        name: part.name(),
        height: tenth(shapes.height_mm(copy)),
        copies: count(numbers.len() as u64, "copy", "copies"),
        numbers: words.join(" "),
        drawing: shapes.of(copy).map_or_else(String::new, |shape| {
            draw_silhouette(&shape.outline.placed(copy.placed.rotation_deg, [0.0, 0.0]))
        }),
    }
}
