//! The sorting sheet: which silhouette is which part, unit by unit.

use std::collections::BTreeMap;

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

impl SortingView {
    pub(crate) fn new(page: Page, shown: &PlatesShown, plate: &Plate) -> Self {
        let depth_mm = shown
            .printers
            .get(&plate.printer)
            .map_or(0.0, |p| p.depth_mm);
        let width_mm = shown
            .printers
            .get(&plate.printer)
            .map_or(0.0, |p| p.width_mm);
        let shapes = Shapes::new(shown);
        let mut copies: Vec<&PlateCopy> = shown.on(plate.id).iter().collect();
        // As one reads: row by row from the far edge, each from the left.
        let row = |c: &PlateCopy| ((depth_mm - c.placed.at_mm[1]) / ROW_MM) as i64;
        copies.sort_by(|a, b| {
            (row(a).cmp(&row(b))).then(a.placed.at_mm[0].total_cmp(&b.placed.at_mm[0]))
        });
        let mut numbered = Vec::new();
        type Group<'a> = (Vec<i64>, &'a PlateCopy);
        let mut by_unit: BTreeMap<&str, BTreeMap<PartId, Group<'_>>> = BTreeMap::new();
        for copy in copies {
            let mark = copy.copy.as_ref().map_or(0, |c| c.mark);
            let placed = &copy.placed;
            if let Some(shape) = shapes.of(copy) {
                numbered.push(NumberedCopy {
                    number: mark,
                    outline: shape.outline.placed(placed.rotation_deg, placed.at_mm),
                });
            }
            let parts = by_unit.entry(&copy.unit_name).or_default();
            let group = parts
                .entry(placed.part)
                .or_insert_with(|| (Vec::new(), copy));
            group.0.push(mark);
        }
        let unit = |(name, parts): (&&str, &BTreeMap<PartId, Group<'_>>)| {
            let mut groups: Vec<&Group<'_>> = parts.values().collect();
            groups.sort_by_key(|(numbers, _)| numbers[0]);
            SortingUnit {
                name: (*name).to_owned(),
                copies: parts.values().map(|(n, _)| n.len()).sum(),
                rows: groups
                    .into_iter()
                    .map(|(numbers, copy)| sorting_row(numbers, copy, &shapes))
                    .collect(),
            }
        };
        Self {
            number: plate.number,
            resin: shown.resin(plate).to_owned(),
            plan: draw_numbered_plan([width_mm, depth_mm], &numbered),
            printer: shown.printer(plate).to_owned(),
            units: by_unit.iter().map(unit).collect(),
            id: plate.id,
            page,
        }
    }
}

fn sorting_row(numbers: &[i64], copy: &PlateCopy, shapes: &Shapes<'_>) -> SortingRow {
    let words: Vec<String> = numbers.iter().map(i64::to_string).collect();
    SortingRow {
        name: part_name(&copy.model_name, &copy.part_name),
        height: tenth(shapes.height_mm(copy)),
        copies: count(numbers.len() as u64, "copy", "copies"),
        numbers: words.join(" "),
        drawing: shapes.of(copy).map_or_else(String::new, |shape| {
            draw_silhouette(&shape.outline.placed(copy.placed.rotation_deg, [0.0, 0.0]))
        }),
    }
}
