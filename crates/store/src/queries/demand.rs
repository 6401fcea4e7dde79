//! Everything a plan is made from, loaded in one go.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PartId, PrinterId, ProjectId, SculptId, UnitId};
use wembrit_core::plan::{PlanFacts, first_copies_missing, limits_pull};
use wembrit_core::recipe::{PartSetup, Setup};
use wembrit_core::sculpt::{Sculpt, SculptFacts};

use super::{
    hollows, layer_facts, paces, practices, prepared_parts, printers, recipes, resins, sculpts,
    settings, workshop,
};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, SculptFactsRow};
use crate::schema::{models, parts, plates, sculpt_facts, units};

/// Setups in these lines that are not as their file stands, or anyhow where a printer limits pull,
/// and have not been prepared: a plan has to wait for them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn unprepared(
    conn: &mut Conn,
    lines: &[DemandLine],
) -> Result<Vec<(Sculpt, PartSetup)>, StoreError> {
    let mut waiting: Vec<(Sculpt, PartSetup)> = Vec::new();
    let limited = limits_pull(&printers::list(conn)?);
    for line in lines {
        let version = recipes::version(conn, line.recipe_version)?;
        let sculpt = sculpts::load(conn, line.sculpt)?;
        let what = PartSetup::of(&sculpt, &version);
        let asked = waiting.iter().any(|(_, other)| *other == what);
        let matters = limited || version.setup != Setup::PLAIN;
        if matters && !asked && prepared_parts::of(conn, &what)?.is_none() {
            waiting.push((sculpt, what));
        }
    }
    Ok(waiting)
}

/// Everything a plan for these lines is made from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plan_facts(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
) -> Result<PlanFacts, StoreError> {
    let of: Vec<SculptId> = lines.iter().map(|l| l.sculpt).collect();
    let versions: Vec<_> = lines.iter().map(|l| l.recipe_version).collect();
    Ok(PlanFacts {
        printers: printers::list(conn)?,
        accepted_s: accepted_seconds(conn)?,
        slots: Default::default(),
        settings: settings::list(conn)?,
        resins: resins::list(conn)?,
        rates: workshop::load(conn)?.rates,
        practice: practices::load(conn, Some(project))?,
        sculpts: facts_of(conn, &of)?,
        versions: recipes::versions_of(conn, &versions)?,
        prepared: prepared_parts::of_versions(
            conn,
            lines.iter().map(|l| (l.sculpt, l.recipe_version)),
        )?,
        proofs: recipes::proofs(conn, &versions)?,
        parts: parts_in_order(conn, lines)?,
    })
}

/// Parts of these lines of which one copy first would tell, since nobody has tried their recipe.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn untried(conn: &mut Conn, lines: &[DemandLine]) -> Result<Vec<PartId>, StoreError> {
    let of: Vec<_> = lines.iter().map(|l| l.recipe_version).collect();
    let versions = recipes::versions_of(conn, &of)?;
    let proofs = recipes::proofs(conn, &of)?;
    let settings = settings::list(conn)?;
    Ok(first_copies_missing(lines, &versions, &proofs, &settings))
}

/// Parts of these lines in the order of the army, with unit and priority.
fn parts_in_order(
    conn: &mut Conn,
    lines: &[DemandLine],
) -> Result<Vec<(PartId, UnitId, i64)>, StoreError> {
    let ids: Vec<i64> = lines.iter().map(|l| l.part.0).collect();
    let rows: Vec<(i64, i64, i64)> = parts::table
        .inner_join(models::table.inner_join(units::table))
        .filter(parts::id.eq_any(ids))
        .order((
            (units::priority, units::position, units::id),
            (models::position, models::id),
            (parts::position, parts::id),
        ))
        .select((parts::id, units::id, units::priority))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(part, unit, priority)| (PartId(part), UnitId(unit), priority))
        .collect())
}

/// What was measured on these sculpts.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn facts_of(
    conn: &mut Conn,
    sculpts: &[SculptId],
) -> Result<HashMap<SculptId, SculptFacts>, StoreError> {
    let ids: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let facts = sculpt_facts::table
        .filter(sculpt_facts::sculpt_id.eq_any(ids))
        .select(SculptFactsRow::as_select())
        .nouns::<SculptFactsRow>(conn)?;
    let hollow = hollows::of_sculpts(conn, sculpts)?;
    let layers = layer_facts::of_files(conn, sculpts)?;
    let with = |f: SculptFacts| {
        let (hollow, layers) = (hollow.get(&f.sculpt), layers.get(&f.sculpt));
        (f.sculpt, f.with_hollows(hollow, layers))
    };
    Ok(facts.into_iter().map(with).collect())
}

/// How long each plate prints that is accepted for a printer, s.
fn accepted_seconds(conn: &mut Conn) -> Result<BTreeMap<PrinterId, Vec<f64>>, StoreError> {
    let open = [PlateState::Planned.as_str(), PlateState::Running.as_str()];
    let paces = paces::load(conn)?;
    let rows: Vec<(i64, f64, Option<f64>)> = plates::table
        .filter(plates::state.eq_any(open))
        .select((plates::printer_id, plates::seconds, plates::told_seconds))
        .load(conn)?;
    let mut accepted: BTreeMap<PrinterId, Vec<f64>> = BTreeMap::new();
    for (printer, seconds, told) in rows {
        let printer = PrinterId(printer);
        let time = paces.expect(printer, seconds, told);
        accepted.entry(printer).or_default().push(time.seconds());
    }
    Ok(accepted)
}
