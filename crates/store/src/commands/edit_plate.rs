//! Changes by hand on the plates of a draft: a journal with a pointer, so that undo goes back and
//! redo forward. What a change does is worked out before; here it is saved, if the plate is still
//! as it was looked at.

use diesel::prelude::*;
use wembrit_core::army::demand::{DemandLine, fingerprint};
use wembrit_core::flow::{PlacedCopy, PlanRevision};
use wembrit_core::ids::{PartId, PlanId, PlateId};
use wembrit_core::plan::{PlateEdit, TiltAdvice};
use wembrit_core::recipe::Setup;

use super::recipes::{self, RecipeChange};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::edits::{Beside, load};
use crate::queries::recipes::{newest, version};
use crate::queries::{new_uid, one_row, plans};
use crate::rows::{PlacementRow, PlateFiguresRow, read, written};
use crate::schema::{
    parts, placements as pm, plan_demand as pd, plan_edits as pe, plans as pl, plates as pt,
};

/// Saves what a change made of a plate, and how it was.
///
/// # Errors
/// [`StoreError::Conflict`] when the plate was changed since it was looked at.
pub fn save(
    conn: &mut Conn,
    edit: &PlateEdit,
    after: &[PlacedCopy],
    words: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    if after == edit.copies {
        return Ok(());
    }
    let plan = plans::load(conn, edit.plate.plan)?;
    // What was undone makes way for what is done now.
    diesel::delete(pe::table.filter(pe::plan_id.eq(plan.id.0).and(pe::seq.gt(plan.edits_held))))
        .execute(conn)?;
    diesel::insert_into(pe::table)
        .values((
            pe::uid.eq(new_uid()),
            pe::plan_id.eq(plan.id.0),
            pe::seq.eq(plan.edits_held + 1),
            pe::plate_id.eq(edit.plate.id.0),
            pe::words.eq(words),
            pe::before.eq(journal_text(&edit.copies)),
            pe::after.eq(journal_text(after)),
            pe::made_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    hold(conn, &plan, plan.edits_held + 1)?;
    put(conn, edit, after)
}

/// Prints more copies of a part on a plate than are wanted: they become spares, and the plan is
/// asked for them.
///
/// # Errors
/// As [`save`].
pub fn save_spares(
    conn: &mut Conn,
    edit: &PlateEdit,
    (part, copies): (PartId, u64),
    after: &[PlacedCopy],
    words: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plan = edit.plate.plan;
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
    same_demand(conn, plan)?;
    save(conn, edit, after, words, now_ms)
}

/// Holds the tallest part of a plate the way that saves most: its recipe gets a new version, and
/// the plate is arranged for it. Before this there was another recipe: nothing from then can be
/// taken back.
///
/// # Errors
/// As [`save`].
pub fn save_tilt(
    conn: &mut Conn,
    edit: &PlateEdit,
    found: &TiltAdvice,
    now_ms: i64,
) -> Result<(), StoreError> {
    let line = *edit
        .lines
        .get(&found.part)
        .ok_or(StoreError::NotFound { what: "part" })?;
    let before = version(conn, line.recipe_version)?;
    let setup: Setup = found.setup;
    let to = RecipeChange {
        setup: Some(setup),
        ..RecipeChange::of(&before)
    };
    recipes::change(conn, before.recipe, &to, now_ms)?;
    let newest = newest(conn, before.recipe)?.id;
    let plan = plans::load(conn, edit.plate.plan)?;
    diesel::update(pd::table.find((plan.id.0, found.part.0)))
        .set(pd::recipe_version_id.eq(newest.0))
        .execute(conn)?;
    same_demand(conn, plan.id)?;
    diesel::delete(pe::table.filter(pe::plan_id.eq(plan.id.0))).execute(conn)?;
    hold(conn, &plan, 0)?;
    let line = DemandLine {
        recipe_version: newest,
        ..line
    };
    let edit = edit.clone().with_part(found.new.clone(), line);
    put(conn, &edit, &found.after)
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
    let edit = load(conn, PlateId(plate), Beside::All)?;
    let to = read_journal(if forward { &after } else { &before })?;
    put(conn, &edit, &to)?;
    hold(conn, &plan, plan.edits_held + if forward { 1 } else { -1 })?;
    Ok((PlateId(plate), words))
}

fn hold(conn: &mut Conn, plan: &PlanRevision, edits: i64) -> Result<(), StoreError> {
    let as_seen = pl::table
        .find(plan.id.0)
        .filter(pl::edits_held.eq(plan.edits_held));
    let changed = diesel::update(as_seen)
        .set(pl::edits_held.eq(edits))
        .execute(conn)?;
    one_row(changed, "plan")
}

/// Puts these copies on a plate in place of what stood there, and its figures with them.
fn put(conn: &mut Conn, edit: &PlateEdit, copies: &[PlacedCopy]) -> Result<(), StoreError> {
    let plate = &edit.plate;
    let edited = edit
        .edited(copies)
        .ok_or(StoreError::NotFound { what: "part" })?;
    let as_seen = pt::table
        .find(plate.id.0)
        .filter(pt::row_version.eq(plate.row_version));
    let changed = diesel::update(as_seen)
        .set((
            pt::row_version.eq(pt::row_version + 1),
            PlateFiguresRow::from(&edited.figures),
        ))
        .execute(conn)?;
    one_row(changed, "plate")?;
    diesel::delete(pm::table.filter(pm::plate_id.eq(plate.id.0))).execute(conn)?;
    for (copy, line, ml, cost) in &edited.shares {
        let what = (line.sculpt, line.recipe_version);
        diesel::insert_into(pm::table)
            .values(PlacementRow::new(plate.id, copy, what, *ml, *cost))
            .execute(conn)?;
    }
    Ok(())
}

type Kept = (i64, i64, [f64; 2], f64, bool);

fn journal_text(copies: &[PlacedCopy]) -> String {
    let kept = |p: &PlacedCopy| -> Kept { (p.key, p.part.0, p.at_mm, p.rotation_deg, p.pinned) };
    written(&copies.iter().map(kept).collect::<Vec<_>>())
}

fn read_journal(text: &str) -> Result<Vec<PlacedCopy>, StoreError> {
    let rows: Vec<Kept> = read(text)?;
    let copy = |(key, part, at_mm, rotation_deg, pinned): Kept| PlacedCopy {
        key,
        part: PartId(part),
        at_mm,
        rotation_deg,
        pinned,
    };
    Ok(rows.into_iter().map(copy).collect())
}

/// What was changed in the army was changed in the plan as well: it is as fresh as before.
fn same_demand(conn: &mut Conn, plan: PlanId) -> Result<(), StoreError> {
    let lines = plans::demand_of(conn, plan)?;
    let changed = diesel::update(pl::table.find(plan.0))
        .set(pl::fingerprint.eq(fingerprint(&lines)))
        .execute(conn)?;
    one_row(changed, "plan")
}
