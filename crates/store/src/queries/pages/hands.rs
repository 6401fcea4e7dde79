//! Hands on a plate, and on all plates.

use wembrit_core::flow::Plate;
use wembrit_core::ids::PlateId;
use wembrit_core::learn::Hands;
use wembrit_core::workshop::Workshop;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::hands::{self, HandSpell, TimedHands};
use crate::queries::{plates, workshop};

/// Hands on one plate.
#[derive(Debug, Clone, PartialEq)]
pub struct PlateHands {
    /// The plate.
    pub plate: Plate,
    /// Copies and contacts on it.
    pub shape: (f64, f64),
    /// What was timed.
    pub spells: Vec<HandSpell>,
    /// What hands take here.
    pub hands: Hands,
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn of_plate(conn: &mut Conn, id: PlateId) -> Result<PlateHands, StoreError> {
    let shape = hands::shapes(conn, &[id])?.remove(&id);
    Ok(PlateHands {
        plate: plates::load(conn, id)?,
        shape: shape.unwrap_or_default(),
        spells: hands::spells(conn, id)?,
        hands: hands::learned(conn)?,
    })
}

/// Hands in the workshop.
#[derive(Debug, Clone, PartialEq)]
pub struct AllHands {
    /// The workshop, with what it takes for a plate.
    pub workshop: Workshop,
    /// What was timed, oldest first.
    pub log: Vec<TimedHands>,
    /// What hands take here.
    pub hands: Hands,
}

/// Loads it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn all(conn: &mut Conn) -> Result<AllHands, StoreError> {
    Ok(AllHands {
        workshop: workshop::load(conn)?,
        log: hands::log(conn)?,
        hands: hands::learned(conn)?,
    })
}
