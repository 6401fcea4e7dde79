//! The sorting sheet: which silhouette is which part, unit by unit.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::ids::{PartId, PlateId};
use wembrit_paper::{NumberedCopy, draw_numbered_plan, draw_silhouette};
use wembrit_store::queries::plates::{self, PlateCopy};
use wembrit_store::queries::{printers, resins};
use wembrit_store::{Conn, StoreError};

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
    pub(crate) fn load(c: &mut Conn, page: Page, id: PlateId) -> Result<Self, StoreError> {
        let plate = plates::load(c, id)?;
        let printer = printers::load(c, plate.printer_id)?;
        let mut spots = plates::spots(c, &[id])?.remove(&id).unwrap_or_default();
        // As one reads: row by row from the far edge, each from the left.
        let row = |s: &PlateCopy| ((printer.depth_mm - s.placement.y_mm) / ROW_MM) as i64;
        spots.sort_by(|a, b| {
            (row(a).cmp(&row(b))).then(a.placement.x_mm.total_cmp(&b.placement.x_mm))
        });
        let mut shapes = Shapes::load(c, &spots.iter().collect::<Vec<_>>())?;
        let mut numbered = Vec::new();
        type Group<'a> = (Vec<usize>, &'a PlateCopy);
        let mut by_unit: BTreeMap<&str, BTreeMap<PartId, Group<'_>>> = BTreeMap::new();
        for (index, spot) in spots.iter().enumerate() {
            let p = &spot.placement;
            let (outline, _, _) = shapes.of(spot)?;
            numbered.push(NumberedCopy {
                number: index + 1,
                outline: outline.placed(p.rotation_deg, [p.x_mm, p.y_mm]),
            });
            let parts = by_unit.entry(&spot.unit).or_default();
            let group = parts.entry(p.part_id).or_insert_with(|| (Vec::new(), spot));
            group.0.push(index + 1);
        }
        let mut units = Vec::new();
        for (name, parts) in &by_unit {
            let mut rows = Vec::new();
            for (numbers, spot) in parts.values() {
                let (outline, _, height_mm) = shapes.of(spot)?;
                let words: Vec<String> = numbers.iter().map(usize::to_string).collect();
                rows.push((
                    numbers[0],
                    SortingRow {
                        name: format!("{}, {}", spot.model, spot.part.to_lowercase()),
                        height: tenth(height_mm),
                        copies: count(numbers.len() as u64, "copy", "copies"),
                        numbers: words.join(" "),
                        drawing: draw_silhouette(
                            &outline.placed(spot.placement.rotation_deg, [0.0, 0.0]),
                        ),
                    },
                ));
            }
            rows.sort_by_key(|(first, _)| *first);
            units.push(SortingUnit {
                name: (*name).to_owned(),
                copies: parts.values().map(|(n, _)| n.len()).sum(),
                rows: rows.into_iter().map(|(_, row)| row).collect(),
            });
        }
        Ok(Self {
            number: plate.number,
            resin: resins::load(c, plate.resin_id)?.name,
            plan: draw_numbered_plan([printer.width_mm, printer.depth_mm], &numbered),
            printer: printer.name,
            page,
            id,
            units,
        })
    }
}
