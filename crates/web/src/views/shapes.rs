//! What stands on plates, ready to be drawn: shapes shared between the copies of a sculpt.

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::sync::Arc;

use wembrit_core::flow::Stage;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::{PartId, RecipeVersionId, SculptId};
use wembrit_core::layers::HeightProfile;
use wembrit_core::layers::Loads;
use wembrit_core::plan::layout::load;
use wembrit_core::units::PULL_SLAB_MM;
use wembrit_paper::{CopyMark, DrawnCopy, DrawnLoad, PlateDrawing};
use wembrit_store::queries::army::Army;
use wembrit_store::queries::plates::PlateCopy;
use wembrit_store::queries::{demand, hung};
use wembrit_store::rows::{HungFacts, Printer, SculptFacts};
use wembrit_store::{Conn, StoreError};

type Shape = (Arc<Outline>, Arc<HeightProfile>, f64);

/// Shapes of parts as they hang, shared between their copies.
pub(super) struct Shapes {
    facts: HashMap<SculptId, SculptFacts>,
    hung: HashMap<(SculptId, RecipeVersionId), HungFacts>,
    known: HashMap<(SculptId, RecipeVersionId), Shape>,
}

impl Shapes {
    pub(super) fn load(c: &mut Conn, spots: &[&PlateCopy]) -> Result<Self, StoreError> {
        let mut sculpts: Vec<SculptId> = spots.iter().map(|s| s.placement.sculpt_id).collect();
        sculpts.sort_unstable();
        sculpts.dedup();
        let mut versions: Vec<RecipeVersionId> = spots
            .iter()
            .map(|s| s.placement.recipe_version_id)
            .collect();
        versions.sort_unstable();
        versions.dedup();
        Ok(Self {
            facts: demand::facts_of(c, &sculpts)?,
            hung: hung::of_versions(c, &sculpts, &versions)?,
            known: HashMap::new(),
        })
    }

    /// Outline, skyline and height of what stands there; the file's own where it was planned
    /// before it was measured as it hangs.
    pub(super) fn of(&mut self, spot: &PlateCopy) -> Result<Shape, StoreError> {
        let key = (spot.placement.sculpt_id, spot.placement.recipe_version_id);
        let shape = match self.known.entry(key) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(free) => free.insert(match self.hung.get(&key) {
                Some(h) => (Arc::new(h.outline()?), Arc::new(h.reach()?), h.height_mm),
                None => {
                    let facts = self
                        .facts
                        .get(&key.0)
                        .ok_or(StoreError::NotFound { what: "sculpt" })?;
                    let scaled = |reach: HeightProfile| Arc::new(reach.scaled(spot.scale));
                    (
                        Arc::new(facts.outline()?.scaled(spot.scale)),
                        scaled(facts.reach()?),
                        facts.height_mm * spot.scale,
                    )
                }
            }),
        };
        Ok(shape.clone())
    }

    pub(super) fn drawing(
        &mut self,
        printer: &Printer,
        spots: &[PlateCopy],
    ) -> Result<PlateDrawing, StoreError> {
        let copies: Result<Vec<DrawnCopy>, StoreError> =
            spots.iter().map(|s| self.drawn(s)).collect();
        Ok(PlateDrawing {
            width_mm: printer.width_mm,
            depth_mm: printer.depth_mm,
            margin_mm: printer.margin_mm,
            copies: copies?,
            load: None,
            by_hand: false,
        })
    }

    /// Load of what stands on a plate, where all of it was measured as it hangs.
    pub(super) fn load_of(
        &self,
        printer: &Printer,
        spots: &[PlateCopy],
    ) -> Result<Option<DrawnLoad>, StoreError> {
        let mut counts: HashMap<(SculptId, RecipeVersionId), u64> = HashMap::new();
        for spot in spots {
            let p = &spot.placement;
            *counts
                .entry((p.sculpt_id, p.recipe_version_id))
                .or_default() += 1;
        }
        let mut loads = Vec::new();
        for (key, copies) in counts {
            let Some(loads_of) = self.hung.get(&key).map(HungFacts::loads).transpose()? else {
                return Ok(None);
            };
            if loads_of.pull.is_empty() {
                return Ok(None);
            }
            loads.push((loads_of, copies));
        }
        let sum = |of: fn(&Loads) -> &[f64]| {
            let all: Vec<(&[f64], u64)> = loads.iter().map(|(l, n)| (of(l), *n)).collect();
            load(&all)
        };
        Ok(Some(DrawnLoad {
            slab_mm: PULL_SLAB_MM,
            area_mm2: sum(|l| &l.area_mm2),
            pull: sum(|l| &l.pull),
            cap: Some(printer.plate_pull).filter(|cap| *cap > 0.0),
        }))
    }

    fn drawn(&mut self, spot: &PlateCopy) -> Result<DrawnCopy, StoreError> {
        let p = &spot.placement;
        let (outline, reach, height_mm) = self.of(spot)?;
        Ok(DrawnCopy {
            key: key(spot),
            label: label(spot),
            outline,
            reach,
            scale: 1.0,
            at_mm: [p.x_mm, p.y_mm],
            rotation_deg: p.rotation_deg,
            height_mm,
            mark: match spot.copy.as_ref().map(|c| c.stage) {
                Some(Stage::Failed) => CopyMark::Failed,
                Some(Stage::Good) => CopyMark::Good,
                _ => CopyMark::Plain,
            },
            pinned: p.pinned(),
        })
    }
}

/// What a page knows a copy by: its identity once it has one.
pub(super) fn key(spot: &PlateCopy) -> String {
    match spot.placement.copy_id() {
        Some(copy) => copy.to_string(),
        None => format!("s{}", spot.placement.seq),
    }
}

/// What a page calls a part of an army: its model and its name.
pub(super) fn part_name(army: &Army, part: PartId) -> String {
    let found = army.parts().find(|(_, _, p)| p.part.id == part);
    found.map_or_else(
        || "a part".to_owned(),
        |(_, m, p)| format!("{}, {}", m.model.name, p.part.name.to_lowercase()),
    )
}

pub(super) fn label(spot: &PlateCopy) -> String {
    match &spot.copy {
        Some(copy) => format!(
            "{}, {} {}",
            spot.model,
            spot.part.to_lowercase(),
            copy.number
        ),
        None => format!("{}, {}", spot.model, spot.part.to_lowercase()),
    }
}
