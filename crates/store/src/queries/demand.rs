//! What is still wanted, and everything a plan is made from.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::PlateState;
use wembrit_core::ids::{PrinterId, ProjectId, ResinId, SculptId, UnitId};
use wembrit_core::plan::{PlanPart, PlanPrinter, PlanRequest, PlanSetting, Rates};
use wembrit_core::recipe::Proof;
use wembrit_core::workshop::practice::{
    APART, FEW_FIRST, Question, TOGETHER, TOGETHER_S, UNTRIED_COPIES,
};

use super::army::{self, Army, ArmyPart};
use super::prepared::Preparing;
use super::recipes::{self, Hang};
use super::{hung, practices, printers, resins, sculpts, settings, workshop};
use crate::db::Conn;
use crate::error::StoreError;
use crate::rows::{HungFacts, PlanScope, Sculpt, SculptFacts};
use crate::schema::{plates, sculpt_facts};

/// The demand of an army: one line for every part that is wanted and whose sculpt is measured.
#[must_use]
pub fn lines(army: &Army) -> Vec<DemandLine> {
    army.parts().filter_map(|(_, _, part)| line(part)).collect()
}

/// The part of an army's demand that a plan is asked for.
#[must_use]
pub fn lines_in(army: &Army, scope: &PlanScope) -> Vec<DemandLine> {
    army.parts()
        .filter(|(unit, _, part)| {
            PlanScope::takes(&scope.units, unit.unit.id.0)
                && PlanScope::takes(&scope.resins, part.recipe.resin_id.0)
        })
        .filter_map(|(_, _, part)| {
            let line = line(part)?;
            let spares = if scope.no_spares {
                part.need.wanted() - part.need.wanted_by_models()
            } else {
                0
            };
            Some(DemandLine {
                wanted: line.wanted - spares,
                ..line
            })
        })
        .filter(|line| line.wanted > 0)
        .collect()
}

fn line(part: &ArmyPart) -> Option<DemandLine> {
    let measured = matches!(
        part.sculpt,
        Some((_, wembrit_core::flow::SculptState::Measured))
    );
    let sculpt = part.part.sculpt_id().filter(|_| measured)?;
    let wanted = part.need.wanted();
    (wanted > 0).then_some(DemandLine {
        part: part.part.id,
        sculpt,
        recipe_version: part.recipe.id,
        wanted,
    })
}

/// Wanted parts that cannot be planned yet, because they have no measured sculpt.
#[must_use]
pub fn without_sculpt(army: &Army) -> Vec<&ArmyPart> {
    army.parts()
        .map(|(_, _, part)| part)
        .filter(|p| p.need.wanted() > 0 && line(p).is_none())
        .collect()
}

/// Versions of recipes in these lines that hang otherwise than their file stands, or anyhow where a
/// printer limits pull, and have not been measured so: a plan has to wait for them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn unprepared(
    conn: &mut Conn,
    lines: &[DemandLine],
) -> Result<Vec<(Sculpt, Preparing)>, StoreError> {
    let mut waiting = Vec::new();
    // Where pull is limited, it has to be known of everything.
    let limited = printers::list(conn)?
        .iter()
        .any(|p| p.part_pull > 0.0 || p.plate_pull > 0.0);
    for line in lines {
        let version = recipes::version(conn, line.recipe_version)?;
        let plain = Hang {
            pose: version.pose,
            supports: version.supports,
        } == Hang::PLAIN;
        let sculpt = sculpts::load(conn, line.sculpt)?;
        let what = Preparing::of(&sculpt, &version);
        let asked = waiting.iter().any(|(_, other)| *other == what);
        if (limited || !plain) && !asked && hung::of(conn, &what)?.is_none() {
            waiting.push((sculpt, what));
        }
    }
    Ok(waiting)
}

/// Everything a plan for these lines is made from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plan_request(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
) -> Result<PlanRequest, StoreError> {
    let army = army::load(conn, project)?;
    let facts = facts_of(conn, &lines.iter().map(|l| l.sculpt).collect::<Vec<_>>())?;
    let by_part: HashMap<_, _> = lines.iter().map(|l| (l.part, l)).collect();
    // One of the schools takes tall with tall over the whole army: then no unit goes first.
    let answers = practices::answers(conn, Some(project))?;
    let unit_first = answers[&Question::Order].0 == Question::Order.assumed();
    let spread = answers[&Question::Spread].0.word;
    let few_first = answers[&Question::Untried].0.word == FEW_FIRST;
    let versions: Vec<_> = lines.iter().map(|l| l.recipe_version).collect();
    let proofs = recipes::proofs(conn, &versions)?;
    let hung = hung::of_versions(
        conn,
        &lines.iter().map(|l| l.sculpt).collect::<Vec<_>>(),
        &lines.iter().map(|l| l.recipe_version).collect::<Vec<_>>(),
    )?;
    let mut parts = Vec::new();
    for (unit, _, part) in army.parts() {
        if let Some(line) = by_part.get(&part.part.id)
            && let Some(facts) = facts.get(&line.sculpt)
        {
            let priority = if unit_first { unit.unit.priority } else { 0 };
            let known = hung.get(&(line.sculpt, line.recipe_version));
            let untried = proofs.get(&line.recipe_version) != Some(&Proof::Proven);
            parts.push(PlanPart {
                unit: unit.unit.id,
                most: (few_first && untried).then_some(UNTRIED_COPIES),
                ..plan_part(part, line, facts, known, priority)?
            });
        }
    }
    let workshop = workshop::load(conn)?;
    let busy = busy_seconds(conn)?;
    let printers = printers::list(conn)?;
    Ok(PlanRequest {
        settings: settings::list(conn)?
            .into_iter()
            .map(|(setting, version)| PlanSetting {
                version: version.id,
                printer: setting.printer_id,
                resin: setting.resin_id,
                layer: setting.layer,
                timing: version.timing(),
            })
            .collect(),
        printers: printers
            .into_iter()
            .map(|p| PlanPrinter {
                id: p.id,
                kind: p.kind,
                width_mm: p.width_mm,
                depth_mm: p.depth_mm,
                height_mm: p.height_mm,
                removal_mm: p.removal_mm,
                part_pull: Some(p.part_pull).filter(|cap| *cap > 0.0),
                plate_pull: Some(p.plate_pull).filter(|cap| *cap > 0.0),
                margin_mm: p.margin_mm,
                startup_s: p.startup_s,
                busy_s: busy.get(&p.id).copied().unwrap_or(0.0),
            })
            .collect(),
        resins: resins::list(conn)?
            .into_iter()
            .map(|r| (r.id, r.facts()))
            .collect::<BTreeMap<ResinId, _>>(),
        parts,
        rates: Rates {
            clearance_mm: workshop.clearance_mm,
            waste_share: workshop.waste_share,
            hands_on_minutes: workshop.hands_on_minutes,
            hands_on_per_hour: workshop.hands_on_per_hour(),
        },
        together_s: if spread == TOGETHER { TOGETHER_S } else { 0.0 },
        apart: spread == APART,
        until_s: None,
    })
}

/// As [`plan_request`], on the printers a plan is asked for and up to its cut-off.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plan_request_in(
    conn: &mut Conn,
    project: ProjectId,
    lines: &[DemandLine],
    scope: &PlanScope,
) -> Result<PlanRequest, StoreError> {
    let mut request = plan_request(conn, project, lines)?;
    request
        .printers
        .retain(|p| PlanScope::takes(&scope.printers, p.id.0));
    request.until_s = scope.until_h.map(|hours| hours * 3600.0);
    Ok(request)
}

fn plan_part(
    part: &ArmyPart,
    line: &DemandLine,
    facts: &SculptFacts,
    hung: Option<&HungFacts>,
    priority: i64,
) -> Result<PlanPart, StoreError> {
    let scale = part.recipe.scale;
    // As it hangs where that was measured; else the file, scaled.
    let pull = hung.map_or_else(|| Ok(Vec::new()), |h| h.loads().map(|l| l.pull))?;
    let (outline, height_mm, volume_mm3, surface_mm2) = match hung {
        Some(h) => (
            h.outline()?,
            h.height_mm,
            h.part_mm3 + h.support_mm3,
            h.surface_mm2,
        ),
        None => (
            facts.outline()?.scaled(scale),
            facts.height_mm * scale,
            facts.volume_mm3 * scale.powi(3),
            facts.surface_mm2 * scale.powi(2),
        ),
    };
    Ok(PlanPart {
        id: part.part.id,
        outline,
        height_mm,
        volume_mm3,
        surface_mm2,
        resin: part.recipe.resin_id,
        layer: part.recipe.layer,
        wanted: line.wanted,
        priority,
        unit: UnitId(0),
        pull,
        most: None,
    })
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
    let rows = sculpt_facts::table
        .filter(sculpt_facts::sculpt_id.eq_any(ids))
        .select(SculptFacts::as_select())
        .load(conn)?;
    Ok(rows.into_iter().map(|f| (f.sculpt_id, f)).collect())
}

/// Hours already accepted for each printer.
fn busy_seconds(conn: &mut Conn) -> Result<HashMap<PrinterId, f64>, StoreError> {
    let open = [PlateState::Planned.as_str(), PlateState::Running.as_str()];
    let rows: Vec<(i64, f64)> = plates::table
        .filter(plates::state.eq_any(open))
        .select((plates::printer_id, plates::seconds))
        .load(conn)?;
    let mut busy = HashMap::new();
    for (printer, seconds) in rows {
        *busy.entry(PrinterId(printer)).or_default() += seconds;
    }
    Ok(busy)
}
