//! A plate on the scale.

use wembrit_core::army::part_name;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::PlateId;
use wembrit_core::recipe::PreparedPart;
use wembrit_core::stores::{WeighedPart, WeighedPlate};
use wembrit_core::workshop::Resin;

use super::plates::shown;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{hollows, plates, resins, weighings};

pub use crate::queries::weighings::Weighing;

/// A plate that is put on the scale.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighingPage {
    /// The plate.
    pub plate: Plate,
    /// Its resin, with what prints of it weighed so far.
    pub resin: Resin,
    /// What stands on it, by part.
    pub on_it: WeighedPlate,
    /// What was weighed of it, newest first.
    pub weighed: Vec<Weighing>,
}

impl WeighingPage {
    /// It was printed to its end, so that it weighs something.
    #[must_use]
    pub fn can_be_weighed(&self) -> bool {
        matches!(self.plate.state, PlateState::Printed | PlateState::Done)
    }
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlateId) -> Result<WeighingPage, StoreError> {
    let plate = plates::load(conn, id)?;
    let all = shown(conn, vec![plate.clone()])?;
    let mut parts: Vec<WeighedPart> = Vec::new();
    for copy in all.on(id) {
        if let Some(known) = parts.iter_mut().find(|p| p.part == copy.placed.part) {
            known.copies += 1;
            continue;
        }
        let kept = all.prepared.get(&(copy.sculpt, copy.recipe_version));
        let Some(facts) = all.facts.get(&copy.sculpt) else {
            continue;
        };
        let body = PreparedPart::or_file(kept.map(|k| &k.part), facts, copy.scale).body();
        let found = hollows::of_sculpt(conn, copy.sculpt)?;
        let hollows = found.iter().flat_map(|h| &h.hollows);
        let hollow_ml = hollows.map(|h| h.volume_mm3).sum::<f64>() / 1000.0;
        parts.push(WeighedPart {
            part: copy.placed.part,
            name: part_name(&copy.model_name, &copy.part_name),
            copies: 1,
            body,
            hollow_ml: hollow_ml * copy.scale.powi(3),
        });
    }
    Ok(WeighingPage {
        resin: resins::load(conn, plate.resin)?,
        on_it: WeighedPlate(parts),
        weighed: weighings::of_plate(conn, id)?,
        plate,
    })
}
