//! The miniatures of one model.

use std::collections::BTreeMap;

use wembrit_core::army::miniatures::{Arrival, Free, Miniature};
use wembrit_core::army::surplus::Over;
use wembrit_core::army::{ArmyModel, Unit};
use wembrit_core::ids::{ModelId, PartId};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::surplus;
use crate::queries::{army, miniatures};

/// What the page shows.
#[derive(Debug, Clone, PartialEq)]
pub struct MiniaturesPage {
    /// Its unit.
    pub unit: Unit,
    /// The model.
    pub model: ArmyModel,
    /// Its miniatures.
    pub standing: Vec<Miniature>,
    /// Good copies nobody keeps.
    pub free: Free,
    /// What came from elsewhere.
    pub came: Vec<Arrival>,
    /// What is over elsewhere and fits.
    pub over: Vec<Over>,
}

impl MiniaturesPage {
    /// Names of its parts.
    #[must_use]
    pub fn names(&self) -> BTreeMap<PartId, &str> {
        let parts = self.model.parts.iter();
        parts.map(|p| (p.part.id, p.part.name.as_str())).collect()
    }
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: ModelId) -> Result<MiniaturesPage, StoreError> {
    let (unit, model) = army::model(conn, id)?;
    let standing = miniatures::of_models(conn, &[id])?.remove(&id);
    Ok(MiniaturesPage {
        unit,
        model,
        standing: standing.unwrap_or_default(),
        free: miniatures::free(conn, id)?,
        came: miniatures::arrivals_of(conn, id)?,
        over: surplus::for_model(conn, id)?,
    })
}
