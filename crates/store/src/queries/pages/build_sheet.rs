//! The build sheet of a unit.

use std::collections::{HashMap, HashSet};

use wembrit_core::army::ArmyUnit;
use wembrit_core::army::miniatures::Miniature;
use wembrit_core::ids::{ModelId, SculptId, UnitId};
use wembrit_core::sculpt::SculptFacts;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, demand, hollows, miniatures};

/// What the sheet shows.
#[derive(Debug, Clone, PartialEq)]
pub struct BuildSheetPage {
    /// The unit.
    pub unit: ArmyUnit,
    /// Its miniatures, by model.
    pub miniatures: HashMap<ModelId, Vec<Miniature>>,
    /// What was measured on its sculpts.
    pub facts: HashMap<SculptId, SculptFacts>,
    /// Sculpts that have a picture.
    pub pictured: HashSet<SculptId>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: UnitId) -> Result<BuildSheetPage, StoreError> {
    let unit = army::unit(conn, id)?;
    let models: Vec<ModelId> = unit.models.iter().map(|m| m.model.id).collect();
    let parts = unit.models.iter().flat_map(|m| &m.parts);
    let sculpts: Vec<SculptId> = parts.filter_map(|p| p.part.sculpt).collect();
    Ok(BuildSheetPage {
        miniatures: miniatures::of_models(conn, &models)?,
        facts: demand::facts_of(conn, &sculpts)?,
        pictured: hollows::pictured(conn, &sculpts)?,
        unit,
    })
}
