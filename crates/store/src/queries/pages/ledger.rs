//! The ledger of a project, the odds of the workshop, and what one model costs.

use std::collections::BTreeMap;
use std::sync::Arc;

use diesel::prelude::*;
use wembrit_core::army::{Army, ArmyModel, ArmyPart};
use wembrit_core::cost::Charges;
use wembrit_core::cost_parts::CostParts;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{ModelId, PartId, PrinterId, ProjectId, RecipeId};
use wembrit_core::ledger::{
    LedgerCopy, LedgerPlate, Looks, PlateTotals, Since, SpareCost, SparesFacts,
};
use wembrit_core::odds::Judged;
use wembrit_core::workshop::Printer;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::bundles::{self, Bundle};
use crate::queries::{
    army, charges, hands, judged, ledger, muster, plans, plates, prepared_parts, printers, spent,
    workshop,
};
use crate::rows::PlacementRow;
use crate::schema::{placements, recipe_versions as rv};
use crate::until_written::kept;

/// The ledger of a project.
#[derive(Debug, Clone, PartialEq)]
pub struct LedgerPage {
    /// The army, with what its models cost.
    pub army: Arc<Army>,
    /// Its accepted plates, with what they took.
    pub plates: Arc<Vec<LedgerPlate>>,
    /// Its printed copies.
    pub copies: Vec<LedgerCopy>,
    /// The same by each way to look at them.
    pub looks: Looks,
    /// Who pays for what failed.
    pub charges: Charges,
    /// What was bought of files.
    pub bundles: Vec<Bundle>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, project: ProjectId) -> Result<Arc<LedgerPage>, StoreError> {
    kept(conn, ("ledger", &[project.0]), |conn| {
        let copies = ledger::copies(conn, Some(project))?;
        Ok(LedgerPage {
            looks: Looks::of(&copies),
            army: army::load(conn, project)?,
            plates: spent::plates_of(conn, project)?,
            copies,
            charges: charges::load(conn, project)?.charges,
            bundles: bundles::list(conn)?,
        })
    })
}

/// A version of a recipe that copies were printed by.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct VersionSaid {
    /// Its recipe.
    pub recipe: RecipeId,
    /// Its number.
    pub version: i64,
    /// What it changed.
    pub changed: String,
}

/// The odds of the workshop.
#[derive(Debug, Clone, PartialEq)]
pub struct OddsPage {
    /// All printed copies, of every project.
    pub copies: Vec<LedgerCopy>,
    /// The same by each way to look at them.
    pub looks: Looks,
    /// Recipes before and since they were changed.
    pub since: Vec<Since>,
    /// How all copies of the workshop came out.
    pub workshop: Judged,
    /// Plates that held, and those lost whole.
    pub plates_lost: Judged,
    /// All printers.
    pub printers: BTreeMap<PrinterId, Printer>,
    /// What versions of recipes changed.
    pub versions: Vec<VersionSaid>,
}

/// Loads it.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn odds(conn: &mut Conn) -> Result<Arc<OddsPage>, StoreError> {
    kept(conn, ("odds", &[]), |conn| {
        let rows: Vec<(i64, i64, String)> = rv::table
            .filter(rv::version.gt(1).and(rv::changed.ne("")))
            .order((rv::recipe_id, rv::version))
            .select((rv::recipe_id, rv::version, rv::changed))
            .load(conn)?;
        let said = |(recipe, version, changed)| VersionSaid {
            recipe: RecipeId(recipe),
            version,
            changed,
        };
        let copies = ledger::copies(conn, None)?;
        Ok(OddsPage {
            looks: Looks::of(&copies),
            since: Since::of(&copies),
            copies,
            workshop: judged::of_workshop(conn)?,
            plates_lost: judged::plates_lost(conn)?,
            printers: printers::list_all(conn)?
                .into_iter()
                .map(|p| (p.id, p))
                .collect(),
            versions: rows.into_iter().map(said).collect(),
        })
    })
}

/// A plate with the copies of each part on it.
pub type PlateWith = (Plate, BTreeMap<PartId, u64>);

/// What one model costs, and how many of its parts to print.
#[derive(Debug, Clone, PartialEq)]
pub struct ModelCostPage {
    /// Its project.
    pub project: ProjectId,
    /// Name of its unit.
    pub unit: String,
    /// The model, with its parts.
    pub model: ArmyModel,
    /// What is known for advice on its spares.
    pub facts: SparesFacts,
    /// Plates that wait, with the copies of each part on them: of the open plan, else those accepted.
    pub waiting: Vec<PlateWith>,
    /// What plates took against what was planned.
    pub totals: PlateTotals,
}

/// What one copy more of each part costs: by its living copies, else by those of the open plan.
fn spare_costs(
    conn: &mut Conn,
    model: &ArmyModel,
    drafts: &[Plate],
) -> Result<BTreeMap<PartId, SpareCost>, StoreError> {
    let ids: Vec<i64> = drafts.iter().map(|p| p.id.0).collect();
    let placed: Vec<PlacementRow> = placements::table
        .filter(placements::plate_id.eq_any(ids))
        .select(PlacementRow::as_select())
        .load(conn)?;
    let mut drafted: BTreeMap<PartId, (CostParts, u64)> = BTreeMap::new();
    for row in &placed {
        let of = drafted.entry(PartId(row.part_id)).or_default();
        *of = (of.0 + row.cost(), of.1 + 1);
    }
    let parts = model.parts.iter();
    let keys = parts.filter_map(|p| Some((p.part.sculpt?, p.recipe.id)));
    let held = prepared_parts::held(conn, keys)?;
    let hands = hands::learned(conn)?;
    let hour = workshop::load(conn)?.rates.hands_on_per_hour;
    let cost = |p: &ArmyPart| {
        let contacts = p.part.sculpt.and_then(|s| held.get(&(s, p.recipe.id)));
        let contacts = contacts.map_or(0.0, |(n, _)| *n as f64);
        let living = (p.counts.living, u64::from(p.counts.alive()));
        let of = Some(living)
            .filter(|l| l.1 > 0)
            .or_else(|| drafted.get(&p.part.id).copied());
        let (cost, copies) = of?;
        Some((
            p.part.id,
            SpareCost::of(&cost, copies, contacts, &hands, hour)?,
        ))
    };
    Ok(model.parts.iter().filter_map(cost).collect())
}

fn on_plates(conn: &mut Conn, all: Vec<Plate>) -> Result<Vec<PlateWith>, StoreError> {
    let ids: Vec<i64> = all.iter().map(|p| p.id.0).collect();
    let rows: Vec<(i64, i64)> = placements::table
        .filter(placements::plate_id.eq_any(ids))
        .select((placements::plate_id, placements::part_id))
        .load(conn)?;
    let mut on: BTreeMap<i64, BTreeMap<PartId, u64>> = BTreeMap::new();
    for (plate, part) in rows {
        *on.entry(plate)
            .or_default()
            .entry(PartId(part))
            .or_default() += 1;
    }
    Ok(all
        .into_iter()
        .map(|p| {
            let parts = on.remove(&p.id.0).unwrap_or_default();
            (p, parts)
        })
        .collect())
}

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn of_model(conn: &mut Conn, id: ModelId) -> Result<Arc<ModelCostPage>, StoreError> {
    kept(conn, ("cost of a model", &[id.0]), |conn| {
        let of = muster::model(conn, id)?;
        let project = muster::unit(conn, of.unit)?.project;
        let army = army::load(conn, project)?;
        let units = army.units.iter();
        let found = units
            .flat_map(|u| {
                u.models
                    .iter()
                    .map(move |m| (u.unit.name.clone(), m.clone()))
            })
            .find(|(_, m)| m.model.id == id);
        let (unit, model) = found.ok_or(StoreError::NotFound { what: "model" })?;
        let accepted = plates::accepted(conn, project)?;
        let mean = |plates: &[Plate]| {
            let all: CostParts = plates.iter().map(|p| p.costs).sum();
            all.share(plates.len() as u64)
        };
        let mut waiting = plans::draft_plates(conn, project)?;
        let spare = spare_costs(conn, &model, &waiting)?;
        let plate = mean(if accepted.is_empty() {
            &waiting
        } else {
            &accepted
        });
        let open = accepted
            .into_iter()
            .filter(|p| p.state == PlateState::Planned);
        waiting.extend(open);
        Ok(ModelCostPage {
            facts: SparesFacts {
                judged: judged::by_part(conn)?,
                workshop: judged::of_workshop(conn)?,
                plates_lost: judged::plates_lost(conn)?,
                plate,
                spare,
            },
            waiting: on_plates(conn, waiting)?,
            totals: PlateTotals::of(&spent::plates_of(conn, project)?),
            project,
            unit,
            model,
        })
    })
}
