//! How all parts of a project hang: what a sheet of them is drawn from.

use std::collections::HashMap;

use wembrit_core::army::Army;
use wembrit_core::ids::{ProjectId, RecipeVersionId, SculptId};
use wembrit_core::recipe::{KeptPart, PartSetup, Setup};
use wembrit_core::sculpt::{LayerFacts, Sculpt, SculptFacts};
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::practice::Practice;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{army, demand, layer_facts, practices, prepared_parts, resins, sculpts};

/// The parts of a project with what their practice is asked with.
#[derive(Debug, Clone, PartialEq)]
pub struct SetupsPage {
    /// The army.
    pub army: Army,
    /// Its practice.
    pub practice: Practice,
    /// The sculpts its parts name.
    pub sculpts: HashMap<SculptId, Sculpt>,
    /// What was measured on them.
    pub facts: HashMap<SculptId, SculptFacts>,
    /// What their layers tell as the files stand.
    pub layers: HashMap<SculptId, LayerFacts>,
    /// Parts as their recipes hold them now.
    pub prepared: HashMap<(SculptId, RecipeVersionId), KeptPart>,
    /// All resins.
    pub resins: Vec<Resin>,
}

/// Loads the parts of a project.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(conn: &mut Conn, project: ProjectId) -> Result<SetupsPage, StoreError> {
    let army = army::load(conn, project)?;
    let mut of: Vec<SculptId> = army.parts().filter_map(|(_, _, p)| p.part.sculpt).collect();
    of.sort_unstable();
    of.dedup();
    let versions: Vec<_> = army.parts().map(|(_, _, p)| p.recipe.id).collect();
    Ok(SetupsPage {
        practice: practices::load(conn, Some(project))?,
        sculpts: sculpts::some(conn, &of)?,
        facts: demand::facts_of(conn, &of)?,
        layers: layer_facts::of_files(conn, &of)?,
        prepared: prepared_parts::of_versions(conn, &of, &versions)?,
        resins: resins::list_all(conn)?,
        army,
    })
}

/// A part as it would be held, and whether that is being measured.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn as_held(
    conn: &mut Conn,
    sculpt: &Sculpt,
    of: &PartSetup,
    setup: Setup,
) -> Result<(Option<KeptPart>, bool), StoreError> {
    let what = PartSetup { setup, ..*of };
    let kept = prepared_parts::of(conn, &what)?;
    let task = layer_facts::task(conn, sculpt, &what)?;
    Ok((kept, task.is_some_and(|t| t.open_percent().is_some())))
}
