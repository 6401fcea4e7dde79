//! What stands on plates, ready to be drawn: shapes shared between the copies of a sculpt.

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::sync::Arc;

use wembrit_core::flow::Stage;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::Reach;
use wembrit_paper::{CopyMark, DrawnCopy, PlateDrawing};
use wembrit_store::queries::demand;
use wembrit_store::queries::plates::Spot;
use wembrit_store::rows::{Printer, SculptFacts};
use wembrit_store::{Conn, StoreError};

/// Shapes of sculpts, shared between their copies.
pub(super) struct Shapes {
    facts: HashMap<SculptId, SculptFacts>,
    outlines: HashMap<(SculptId, u64), Arc<Outline>>,
    reaches: HashMap<SculptId, Arc<Reach>>,
}

impl Shapes {
    pub(super) fn load(c: &mut Conn, spots: &[&Spot]) -> Result<Self, StoreError> {
        let mut sculpts: Vec<SculptId> = spots.iter().map(|s| s.placement.sculpt_id).collect();
        sculpts.sort_unstable();
        sculpts.dedup();
        let facts = demand::facts_of(c, &sculpts)?;
        Ok(Self {
            facts,
            outlines: HashMap::new(),
            reaches: HashMap::new(),
        })
    }

    pub(super) fn of(
        &mut self,
        sculpt: SculptId,
        scale: f64,
    ) -> Result<(Arc<Outline>, Arc<Reach>, f64), StoreError> {
        let facts = self
            .facts
            .get(&sculpt)
            .ok_or(StoreError::NotFound { what: "sculpt" })?;
        let outline = match self.outlines.entry((sculpt, scale.to_bits())) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(free) => free.insert(Arc::new(facts.outline()?.scaled(scale))),
        };
        let reach = match self.reaches.entry(sculpt) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(free) => free.insert(Arc::new(facts.reach()?)),
        };
        Ok((outline.clone(), reach.clone(), facts.height_mm * scale))
    }

    pub(super) fn drawing(
        &mut self,
        printer: &Printer,
        spots: &[Spot],
    ) -> Result<PlateDrawing, StoreError> {
        let copies: Result<Vec<DrawnCopy>, StoreError> =
            spots.iter().map(|s| self.drawn(s)).collect();
        Ok(PlateDrawing {
            width_mm: printer.width_mm,
            depth_mm: printer.depth_mm,
            margin_mm: printer.margin_mm,
            copies: copies?,
        })
    }

    fn drawn(&mut self, spot: &Spot) -> Result<DrawnCopy, StoreError> {
        let p = &spot.placement;
        let (outline, reach, height_mm) = self.of(p.sculpt_id, spot.scale)?;
        Ok(DrawnCopy {
            key: key(spot),
            label: label(spot),
            outline,
            reach,
            scale: spot.scale,
            at_mm: [p.x_mm, p.y_mm],
            rotation_deg: p.rotation_deg,
            height_mm,
            mark: match spot.copy.as_ref().map(|c| c.stage) {
                Some(Stage::Failed) => CopyMark::Failed,
                Some(Stage::Good) => CopyMark::Good,
                _ => CopyMark::Plain,
            },
        })
    }
}

/// What a page knows a copy by: its identity once it has one.
pub(super) fn key(spot: &Spot) -> String {
    match spot.placement.copy_id() {
        Some(copy) => copy.to_string(),
        None => format!("s{}", spot.placement.seq),
    }
}

pub(super) fn label(spot: &Spot) -> String {
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
