//! How all parts of a project hang: what a sheet of them is drawn from.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use wembrit_core::army::{Army, ArmyPart};
use wembrit_core::flow::TaskKind;
use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_core::recipe::supports::HoldingLimit;
use wembrit_core::recipe::{HeldFigures, PartSetup};
use wembrit_core::sculpt::{LayerFacts, Sculpt, SculptFacts};
use wembrit_core::workshop::Resin;
use wembrit_core::workshop::practice::Practice;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::sculpts::{self, MEASURE_VERSION};
use crate::queries::{
    army, demand, holding, layer_facts, practices, prepared_parts, resins, tasks,
};
use crate::until_written::kept;

/// The parts of a project with what their practice is asked with.
#[derive(Debug, Clone, PartialEq)]
pub struct SetupsPage {
    /// The army.
    pub army: Arc<Army>,
    /// Its practice.
    pub practice: Practice,
    /// The sculpts its parts name.
    pub sculpts: HashMap<SculptId, Sculpt>,
    /// What was measured on them.
    pub facts: HashMap<SculptId, SculptFacts>,
    /// What their layers tell as the files stand.
    pub layers: HashMap<SculptId, LayerFacts>,
    /// How these sculpts were held so far.
    pub held: HashMap<SculptId, Vec<HeldFigures>>,
    /// All resins.
    pub resins: Vec<Resin>,
    /// From which section of tips parts hold here.
    pub holds: HoldingLimit,
}

/// Loads the parts of a project.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn page(conn: &mut Conn, project: ProjectId) -> Result<Arc<SetupsPage>, StoreError> {
    kept(conn, ("setups", &[project.0]), |conn| {
        let army = army::load(conn, project)?;
        let mut of: Vec<SculptId> = army.parts().filter_map(|(_, _, p)| p.part.sculpt).collect();
        of.sort_unstable();
        of.dedup();
        Ok(SetupsPage {
            practice: practices::load(conn, Some(project))?,
            sculpts: sculpts::some(conn, &of)?,
            facts: demand::facts_of(conn, &of)?,
            layers: layer_facts::of_files(conn, &of)?,
            held: prepared_parts::figures(conn, &of)?,
            resins: resins::list_all(conn)?,
            holds: *holding::limit(conn)?,
            army,
        })
    })
}

/// Keys of what is being measured.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn asked(conn: &mut Conn) -> Result<HashSet<String>, StoreError> {
    let open = tasks::open_in(conn, TaskKind::Prepare.lane())?;
    Ok(open.into_iter().map(|t| t.input_key).collect())
}

impl SetupsPage {
    /// A part as it would be held, by the newest measuring.
    #[must_use]
    pub fn as_held(&self, sculpt: &Sculpt, of: &PartSetup) -> Option<&HeldFigures> {
        let is_it = |h: &&HeldFigures| h.setup == *of && h.measure_version == MEASURE_VERSION;
        let known = self.held.get(&sculpt.id);
        known.and_then(|all| all.iter().find(is_it))
    }

    /// A part as its recipe holds it now.
    #[must_use]
    pub fn present(&self, part: &ArmyPart) -> Option<&HeldFigures> {
        prepared_parts::newest(&self.held, part.part.sculpt?, &part.recipe)
    }
}
