//! Changes by hand on the plates of a draft: a journal with a pointer, so that undo goes back and
//! redo forward.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::army::demand::DemandLine;
use wembrit_core::flow::{PlanState, PlateState};
use wembrit_core::ids::{PartId, PlanId, PlateId};
use wembrit_core::pack::halves;
use wembrit_core::plan::advice::{Advice, advise, lean, tallest_part};
use wembrit_core::plan::layout::{Blocked, Change, PlacedCopy, PlateLayout};
use wembrit_core::plan::{
    PlanPart, PlanPrinter, PlanRequest, PlanSetting, build_area, plate_figures,
};
use wembrit_core::workshop::resin::{ResinFacts, resin_use};

use super::prepared::Preparing;
use super::recipes::{Hang, RecipeChange};
use super::{demand, hung, new_uid, one_row, plans, plates, recipes, sculpts};
use crate::db::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{Placement, Plan, Plate};
use crate::schema::{placements as pm, plan_edits as pe, plans as pl, plates as pt};

/// A plate with everything a change on it is looked at with.
#[derive(Debug, Clone)]
pub struct PlateEdit {
    /// The plate.
    pub plate: Plate,
    /// What it is looked at with.
    pub board: PlateLayout,
    /// What stands on it.
    pub pieces: Vec<PlacedCopy>,
    request: PlanRequest,
    lines: BTreeMap<PartId, DemandLine>,
}

impl PlateEdit {
    /// What would shorten this plate or use it better.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when its printer or resin is gone.
    pub fn advice(&self) -> Result<Vec<Advice>, StoreError> {
        let (_, _, facts) = self.printing()?;
        let rates = &self.request.rates;
        let seconds = |pieces: &[PlacedCopy]| self.seconds(&self.board, pieces);
        let ml = |part: PartId| {
            let part = self.board.parts.get(&part);
            part.map_or(0.0, |p| {
                resin_use(p.volume_mm3, rates.waste_share, facts).ml
            })
        };
        Ok(advise(&self.board, &self.pieces, &seconds, &ml))
    }

    fn seconds(&self, board: &PlateLayout, pieces: &[PlacedCopy]) -> f64 {
        let Ok((printer, setting, facts)) = self.printing() else {
            return 0.0;
        };
        let on_it: Vec<&PlanPart> = pieces
            .iter()
            .filter_map(|p| board.parts.get(&p.part))
            .collect();
        plate_figures(&on_it, printer, setting, facts, &self.request.rates)
            .0
            .seconds
    }

    /// Printer, process setting and resin of the plate.
    fn printing(&self) -> Result<(&PlanPrinter, &PlanSetting, &ResinFacts), StoreError> {
        printing(&self.plate, &self.request).ok_or(StoreError::NotFound { what: "printer" })
    }
}

/// Printer, process setting and resin of a plate; nothing when one is out of use.
fn printing<'a>(
    plate: &Plate,
    request: &'a PlanRequest,
) -> Option<(&'a PlanPrinter, &'a PlanSetting, &'a ResinFacts)> {
    let printer = request.printers.iter().find(|p| p.id == plate.printer_id)?;
    let setting = request.settings.iter().find(|s| {
        s.printer == plate.printer_id && s.resin == plate.resin_id && s.layer == plate.layer
    })?;
    let facts = request.resins.get(&plate.resin_id)?;
    Some((printer, setting, facts))
}

/// Another way to hang the part that sets the hours of a plate.
#[derive(Debug, Clone)]
pub struct Leaning {
    /// The part.
    pub part: PartId,
    /// How it would hang.
    pub hang: Hang,
    /// What the plate takes less, s.
    pub saves_s: f64,
    new: PlanPart,
    after: Vec<PlacedCopy>,
}

/// The way to hang the tallest part that saves most, among those that were measured already.
/// Only where all its copies stand on this plate, and no other part shares its recipe.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn leaning(conn: &mut Conn, bench: &PlateEdit) -> Result<Option<Leaning>, StoreError> {
    use crate::schema::parts;
    let Some(tallest) = tallest_part(&bench.board, &bench.pieces) else {
        return Ok(None);
    };
    let (Some(line), Some(now)) = (bench.lines.get(&tallest), bench.board.parts.get(&tallest))
    else {
        return Ok(None);
    };
    let here = bench.pieces.iter().filter(|p| p.part == tallest).count() as u64;
    let everywhere: u64 = placed(conn, bench.plate.plan_id)?
        .into_iter()
        .filter(|(part, _)| *part == tallest)
        .map(|(_, n)| n)
        .sum();
    let version = recipes::version(conn, line.recipe_version)?;
    let sharing: i64 = parts::table
        .filter(parts::recipe_id.eq(version.recipe_id.0))
        .count()
        .get_result(conn)?;
    let pinned = bench.pieces.iter().any(|p| p.part == tallest && p.pinned);
    if here != everywhere || sharing != 1 || pinned {
        return Ok(None);
    }
    let sculpt = sculpts::load(conn, line.sculpt)?;
    let others = hung::others(conn, &Preparing::of(&sculpt, &version))?;
    let mut ways = Vec::new();
    for facts in &others {
        ways.push(PlanPart {
            outline: facts.outline()?,
            height_mm: facts.height_mm,
            volume_mm3: facts.part_mm3 + facts.support_mm3,
            surface_mm2: facts.surface_mm2,
            pull: facts.loads()?.pull,
            ..now.clone()
        });
    }
    let seconds = |board: &PlateLayout, pieces: &[PlacedCopy]| bench.seconds(board, pieces);
    let found = lean(&bench.board, &bench.pieces, &ways, &seconds);
    Ok(found.map(|found| Leaning {
        part: tallest,
        hang: Hang {
            pose: others[found.way].pose,
            supports: others[found.way].supports,
        },
        saves_s: found.saves_s,
        new: ways[found.way].clone(),
        after: found.after,
    }))
}

/// Hangs the tallest part of a plate the way that saves most: its recipe gets a new version, and
/// the plate is arranged for it.
///
/// # Errors
/// [`StoreError::Refused`] when nothing is saved any more.
pub fn hang_leaning(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    use crate::schema::plan_demand as pd;
    let mut bench = load(conn, id)?;
    let Some(found) = leaning(conn, &bench)? else {
        return Err(StoreError::Refused(
            "nothing is saved by that any more: load the page again".into(),
        ));
    };
    let line = *bench
        .lines
        .get(&found.part)
        .ok_or(StoreError::NotFound { what: "part" })?;
    let version = recipes::version(conn, line.recipe_version)?;
    let to = RecipeChange {
        hang: Some(found.hang),
        ..RecipeChange::of(&version)
    };
    recipes::change(conn, version.recipe_id, &to, now_ms)?;
    let newest = recipes::newest(conn, version.recipe_id)?.id;
    diesel::update(pd::table.find((bench.plate.plan_id.0, found.part.0)))
        .set(pd::recipe_version_id.eq(newest.0))
        .execute(conn)?;
    same_demand(conn, bench.plate.plan_id)?;
    // Before this there was another recipe: nothing from then can be taken back.
    let plan = plans::load(conn, bench.plate.plan_id)?;
    diesel::delete(pe::table.filter(pe::plan_id.eq(plan.id.0))).execute(conn)?;
    hold(conn, &plan, 0)?;
    bench.lines.insert(
        found.part,
        DemandLine {
            recipe_version: newest,
            ..line
        },
    );
    bench.board.parts.insert(found.part, found.new);
    put(conn, &bench, &found.after)
}

/// Loads a plate of a draft.
///
/// # Errors
/// [`StoreError::Refused`] when it is no draft any more, or its printer is gone.
pub fn load(conn: &mut Conn, id: PlateId) -> Result<PlateEdit, StoreError> {
    let plate = plates::load(conn, id)?;
    let plan = plans::load(conn, plate.plan_id)?;
    if plate.state != PlateState::Draft || plan.state != PlanState::Draft {
        return Err(StoreError::Refused(
            "only plates of a plan that is not accepted yet are changed by hand".into(),
        ));
    }
    let lines = plans::demand_of(conn, plan.id)?;
    let mut request = demand::plan_request(conn, plan.project_id, &lines)?;
    // Only what may share this plate.
    request
        .parts
        .retain(|p| p.resin == plate.resin_id && p.layer == plate.layer);
    let Some((printer, setting, _)) = printing(&plate, &request) else {
        return Err(StoreError::Refused(
            "its printer is out of use: plan again".into(),
        ));
    };
    // What nobody has tried is held back here as in the plan.
    let known = |part: PartId| request.parts.iter().find(|p| p.id == part);
    let may = |l: &DemandLine| known(l.part).map_or(l.wanted, PlanPart::may);
    let mut pool: BTreeMap<PartId, u64> = lines.iter().map(|l| (l.part, may(l))).collect();
    for (part, placed) in placed(conn, plan.id)? {
        if let Some(left) = pool.get_mut(&part) {
            *left = left.saturating_sub(placed);
        }
    }
    let board = PlateLayout {
        build_area: build_area(printer, setting, 0.0),
        clearance_mm: request.rates.clearance_mm,
        unit_most: if request.apart {
            halves(request.parts.iter().map(|p| (p.unit, p.may())))
        } else {
            BTreeMap::new()
        },
        parts: request.parts.iter().map(|p| (p.id, p.clone())).collect(),
        pool: pool
            .into_iter()
            .filter(|(part, n)| *n > 0 && request.parts.iter().any(|p| p.id == *part))
            .collect(),
    };
    Ok(PlateEdit {
        pieces: pieces(conn, id)?,
        lines: lines.into_iter().map(|l| (l.part, l)).collect(),
        plate,
        board,
        request,
    })
}

/// Copies of each part that stand on plates of a plan.
fn placed(conn: &mut Conn, plan: PlanId) -> Result<Vec<(PartId, u64)>, StoreError> {
    use diesel::dsl::count_star;
    let rows: Vec<(i64, i64)> = pm::table
        .inner_join(pt::table)
        .filter(pt::plan_id.eq(plan.0))
        .group_by(pm::part_id)
        .select((pm::part_id, count_star()))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(part, n)| (PartId(part), n.max(0) as u64))
        .collect())
}

fn pieces(conn: &mut Conn, plate: PlateId) -> Result<Vec<PlacedCopy>, StoreError> {
    let rows: Vec<Placement> = pm::table
        .filter(pm::plate_id.eq(plate.0))
        .order(pm::seq)
        .select(Placement::as_select())
        .load(conn)?;
    let piece = |p: &Placement| PlacedCopy {
        key: p.seq,
        part: p.part_id,
        at_mm: [p.x_mm, p.y_mm],
        rotation_deg: p.rotation_deg,
        pinned: p.pinned(),
    };
    Ok(rows.iter().map(piece).collect())
}

/// Changes a plate by hand, if the change holds.
///
/// # Errors
/// [`StoreError`] of the data file and of [`load`]; what blocks a change is no error of the store.
pub fn change(
    conn: &mut Conn,
    id: PlateId,
    change: &Change,
    words: &str,
    now_ms: i64,
) -> Result<Result<(), Blocked>, StoreError> {
    let bench = load(conn, id)?;
    let after = match bench.board.change(&bench.pieces, change) {
        Ok(after) => after,
        Err(blocked) => return Ok(Err(blocked)),
    };
    if after == bench.pieces {
        return Ok(Ok(()));
    }
    let plan = plans::load(conn, bench.plate.plan_id)?;
    // What was undone makes way for what is done now.
    diesel::delete(pe::table.filter(pe::plan_id.eq(plan.id.0).and(pe::seq.gt(plan.edits_held))))
        .execute(conn)?;
    diesel::insert_into(pe::table)
        .values((
            pe::uid.eq(new_uid()),
            pe::plan_id.eq(plan.id.0),
            pe::seq.eq(plan.edits_held + 1),
            pe::plate_id.eq(id.0),
            pe::words.eq(words),
            pe::before.eq(written(&bench.pieces)),
            pe::after.eq(written(&after)),
            pe::made_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    hold(conn, &plan, plan.edits_held + 1)?;
    put(conn, &bench, &after)?;
    Ok(Ok(()))
}

/// Takes the last change back that holds; says which plate it was on, and what it was.
///
/// # Errors
/// [`StoreError::Refused`] when there is none.
pub fn undo(conn: &mut Conn, plan: PlanId) -> Result<(PlateId, String), StoreError> {
    step(conn, plan, false)
}

/// Makes the change again that was taken back last.
///
/// # Errors
/// [`StoreError::Refused`] when there is none.
pub fn redo(conn: &mut Conn, plan: PlanId) -> Result<(PlateId, String), StoreError> {
    step(conn, plan, true)
}

fn step(conn: &mut Conn, id: PlanId, forward: bool) -> Result<(PlateId, String), StoreError> {
    let plan = plans::load(conn, id)?;
    let seq = plan.edits_held + i64::from(forward);
    let found: Option<(i64, String, String, String)> = pe::table
        .filter(pe::plan_id.eq(id.0).and(pe::seq.eq(seq)))
        .select((pe::plate_id, pe::words, pe::before, pe::after))
        .first(conn)
        .optional()?;
    let Some((plate, words, before, after)) = found else {
        let nothing = if forward {
            "there is nothing to do again"
        } else {
            "there is nothing to undo"
        };
        return Err(StoreError::Refused(nothing.into()));
    };
    let bench = load(conn, PlateId(plate))?;
    let to = read(if forward { &after } else { &before })?;
    put(conn, &bench, &to)?;
    hold(conn, &plan, plan.edits_held + if forward { 1 } else { -1 })?;
    Ok((PlateId(plate), words))
}

/// What can be undone and what can be done again, in words.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn around(conn: &mut Conn, plan: &Plan) -> Result<[Option<String>; 2], StoreError> {
    let mut words = |seq: i64| {
        pe::table
            .filter(pe::plan_id.eq(plan.id.0).and(pe::seq.eq(seq)))
            .select(pe::words)
            .first(conn)
            .optional()
    };
    Ok([words(plan.edits_held)?, words(plan.edits_held + 1)?])
}

fn hold(conn: &mut Conn, plan: &Plan, edits: i64) -> Result<(), StoreError> {
    let as_seen = pl::table
        .find(plan.id.0)
        .filter(pl::edits_held.eq(plan.edits_held));
    let changed = diesel::update(as_seen)
        .set(pl::edits_held.eq(edits))
        .execute(conn)?;
    one_row(changed, "plan")
}

/// Puts these copies on a plate in place of what stood there, and its figures with them.
fn put(conn: &mut Conn, bench: &PlateEdit, pieces: &[PlacedCopy]) -> Result<(), StoreError> {
    let plate = &bench.plate;
    let part = |id: PartId| -> Result<&PlanPart, StoreError> {
        let found = bench.board.parts.get(&id);
        found.ok_or(StoreError::NotFound { what: "part" })
    };
    let on_plate: Vec<&PlanPart> = pieces
        .iter()
        .map(|p| part(p.part))
        .collect::<Result<_, _>>()?;
    let request = &bench.request;
    let (printer, setting, facts) = bench.printing()?;
    let (figures, shares) = plate_figures(&on_plate, printer, setting, facts, &request.rates);
    // A plate that nothing stands on takes no time and no hands.
    let some = if pieces.is_empty() { 0.0 } else { 1.0 };
    diesel::update(pt::table.find(plate.id.0))
        .set((
            pt::row_version.eq(pt::row_version + 1),
            pt::height_mm.eq(figures.height_mm),
            pt::layers.eq(i64::from(figures.layers)),
            pt::seconds.eq(figures.seconds * some),
            pt::resin_ml.eq(figures.resin.ml),
            pt::resin_g.eq(figures.resin.grams),
            pt::resin_cost_minor.eq(figures.resin_cost.0),
            pt::hands_on_cost_minor.eq((figures.hands_on_cost.0 as f64 * some) as i64),
        ))
        .execute(conn)?;
    diesel::delete(pm::table.filter(pm::plate_id.eq(plate.id.0))).execute(conn)?;
    for ((piece, part), cost) in pieces.iter().zip(&on_plate).zip(shares) {
        let line = bench
            .lines
            .get(&piece.part)
            .ok_or(StoreError::NotFound { what: "part" })?;
        let used = resin_use(part.volume_mm3, request.rates.waste_share, facts);
        diesel::insert_into(pm::table)
            .values((
                pm::plate_id.eq(plate.id.0),
                pm::seq.eq(piece.key),
                pm::part_id.eq(piece.part.0),
                pm::sculpt_id.eq(line.sculpt.0),
                pm::recipe_version_id.eq(line.recipe_version.0),
                pm::x_mm.eq(piece.at_mm[0]),
                pm::y_mm.eq(piece.at_mm[1]),
                pm::rotation_deg.eq(piece.rotation_deg),
                pm::resin_ml.eq(used.ml),
                pm::cost_minor.eq(cost.0),
                pm::pinned.eq(i64::from(piece.pinned)),
            ))
            .execute(conn)?;
    }
    Ok(())
}

type Kept = (i64, i64, [f64; 2], f64, bool);

fn written(pieces: &[PlacedCopy]) -> String {
    let kept = |p: &PlacedCopy| -> Kept { (p.key, p.part.0, p.at_mm, p.rotation_deg, p.pinned) };
    serde_json::to_string(&pieces.iter().map(kept).collect::<Vec<_>>())
        .expect("numbers always serialise")
}

fn read(text: &str) -> Result<Vec<PlacedCopy>, StoreError> {
    let rows: Vec<Kept> =
        serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))?;
    let piece = |(key, part, at_mm, rotation_deg, pinned): Kept| PlacedCopy {
        key,
        part: PartId(part),
        at_mm,
        rotation_deg,
        pinned,
    };
    Ok(rows.into_iter().map(piece).collect())
}

/// Prints more copies of a part on a plate than are wanted: they become spares.
///
/// # Errors
/// As [`change`].
pub fn print_spares(
    conn: &mut Conn,
    id: PlateId,
    part: PartId,
    copies: u64,
    words: &str,
    now_ms: i64,
) -> Result<Result<(), Blocked>, StoreError> {
    let mut bench = load(conn, id)?;
    *bench.board.pool.entry(part).or_default() += copies;
    let add = Change::Add { part, copies };
    if let Err(blocked) = bench.board.change(&bench.pieces, &add) {
        return Ok(Err(blocked));
    }
    add_spares(conn, bench.plate.plan_id, part, copies)?;
    change(conn, id, &add, words, now_ms)
}

/// Raises what a plan is asked to make of a part, and the part's spares with it.
///
/// # Errors
/// [`StoreError::NotFound`] when the part is not in the plan.
fn add_spares(conn: &mut Conn, plan: PlanId, part: PartId, copies: u64) -> Result<(), StoreError> {
    use crate::schema::{parts, plan_demand as pd};
    let changed = diesel::update(pd::table.find((plan.0, part.0)))
        .set(pd::wanted.eq(pd::wanted + copies as i64))
        .execute(conn)?;
    one_row(changed, "part of the plan")?;
    diesel::update(parts::table.find(part.0))
        .set((
            parts::spares.eq(parts::spares + copies as i64),
            parts::row_version.eq(parts::row_version + 1),
        ))
        .execute(conn)?;
    same_demand(conn, plan)
}

/// What was changed in the army was changed in the plan as well: it is as fresh as before.
fn same_demand(conn: &mut Conn, plan: PlanId) -> Result<(), StoreError> {
    let lines = plans::demand_of(conn, plan)?;
    let changed = diesel::update(pl::table.find(plan.0))
        .set(pl::fingerprint.eq(wembrit_core::army::demand::fingerprint(&lines)))
        .execute(conn)?;
    one_row(changed, "plan")
}

/// The plan a plate belongs to.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn plan_of(conn: &mut Conn, plate: PlateId) -> Result<PlanId, StoreError> {
    pt::table
        .find(plate.0)
        .select(pt::plan_id)
        .first::<i64>(conn)
        .or_not_found("plate")
        .map(PlanId)
}
