//! A plate on the scale.

use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PartId, PlateId};
use wembrit_core::recipe::PreparedPart;
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::resin_use::Body;

use super::plates::{PlatesShown, shown};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{hollows, plates, resins, weighings};

/// A part on the plate.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighedPart {
    /// Which one.
    pub part: PartId,
    /// Its name, with that of its model.
    pub name: String,
    /// Copies on the plate.
    pub copies: u64,
    /// What is printed of one.
    pub body: Body,
    /// What the hollows in one hold, ml.
    pub hollow_ml: f64,
}

pub use crate::queries::weighings::Weighing;

/// A plate that is put on the scale.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighingPage {
    /// The plate.
    pub plate: Plate,
    /// Its resin, with what prints of it weighed so far.
    pub resin: Resin,
    /// What stands on it, by part.
    pub parts: Vec<WeighedPart>,
    /// What was weighed of it, newest first.
    pub weighed: Vec<Weighing>,
}

impl WeighingPage {
    /// It was printed to its end, so that it weighs something.
    #[must_use]
    pub fn can_be_weighed(&self) -> bool {
        matches!(self.plate.state, PlateState::Printed | PlateState::Done)
    }

    fn of(&self, part: Option<PartId>) -> impl Iterator<Item = &WeighedPart> {
        let is = move |p: &&WeighedPart| part.is_none_or(|id| p.part == id);
        self.parts.iter().filter(is)
    }

    /// Copies of a part, or of all.
    #[must_use]
    pub fn copies(&self, part: Option<PartId>) -> u64 {
        self.of(part).map(|p| p.copies).sum()
    }

    /// What is printed of so many copies of a part, or of everything on the plate.
    #[must_use]
    pub fn body(&self, part: Option<PartId>, copies: u64) -> Option<Body> {
        let bodies = self.of(part).map(|p| {
            let many = if part.is_some() { copies } else { p.copies };
            p.body.times(many)
        });
        let bodies: Vec<Body> = bodies.collect();
        (!bodies.is_empty()).then(|| Body::sum(&bodies))
    }

    /// What the hollows in so many copies of a part hold, or in everything on the plate, ml.
    #[must_use]
    pub fn hollow_ml(&self, part: Option<PartId>, copies: u64) -> f64 {
        let of = self.of(part).map(|p| {
            let many = if part.is_some() { copies } else { p.copies };
            p.hollow_ml * many as f64
        });
        of.sum()
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
        let found = hollows::of_sculpt(conn, copy.sculpt)?;
        let hollows = found.iter().flat_map(|h| &h.hollows);
        let hollow_ml = hollows.map(|h| h.volume_mm3).sum::<f64>() / 1000.0;
        parts.push(WeighedPart {
            part: copy.placed.part,
            name: wembrit_core::army::part_name(&copy.model_name, &copy.part_name),
            copies: 1,
            body: body_of(&all, copy),
            hollow_ml: hollow_ml * copy.scale.powi(3),
        });
    }
    Ok(WeighingPage {
        resin: resins::load(conn, plate.resin)?,
        parts,
        weighed: weighings::of_plate(conn, id)?,
        plate,
    })
}

fn body_of(all: &PlatesShown, copy: &wembrit_core::flow::PlateCopy) -> Body {
    let kept = all.prepared.get(&(copy.sculpt, copy.recipe_version));
    let facts = all.facts.get(&copy.sculpt);
    match (kept, facts) {
        (Some(kept), _) => kept.part.body(),
        (None, Some(facts)) => PreparedPart::of_file(facts, copy.scale).body(),
        (None, None) => Body::default(),
    }
}
