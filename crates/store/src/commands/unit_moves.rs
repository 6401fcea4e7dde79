//! Units duplicated, reordered, split and merged; many models changed at once.

use diesel::prelude::*;
use wembrit_core::army::{Model, Unit};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ModelId, PartId, ProjectId, ResinId, UnitId};
use wembrit_core::units::LayerHeight;

use super::muster::{self, ModelChange, UnitChange};
use super::recipes::{self, RecipeChange};
use super::{kits, settle_copies};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::rows::{CopyRow, ModelRow, Nouns};
use crate::schema::{copies, models, placements, reservations, units};

fn models_of(conn: &mut Conn, unit: UnitId) -> Result<Vec<Model>, StoreError> {
    models::table
        .filter(
            models::unit_id
                .eq(unit.0)
                .and(models::removed_at_ms.is_null()),
        )
        .order((models::position, models::id))
        .select(ModelRow::as_select())
        .nouns::<ModelRow>(conn)
}

fn change_of(model: &Model) -> ModelChange {
    ModelChange {
        name: model.name.clone(),
        quantity: model.quantity,
        base_width_mm: model.base_width_mm,
        base_depth_mm: model.base_depth_mm,
        carries: model.carries,
    }
}

/// The same unit once more, kits included, with no copies yet.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn duplicate(conn: &mut Conn, id: UnitId, now_ms: i64) -> Result<UnitId, StoreError> {
    let unit = queries::muster::unit(conn, id)?;
    let name = format!("{} again", unit.name);
    Ok(copy_into(conn, &unit, unit.project, name, now_ms)?.0)
}

/// A unit with its kits in a project, under a name, with no copies yet; what each of its models became.
pub(super) fn copy_into(
    conn: &mut Conn,
    unit: &Unit,
    project: ProjectId,
    name: String,
    now_ms: i64,
) -> Result<(UnitId, Vec<(ModelId, ModelId)>), StoreError> {
    let new = UnitChange {
        name,
        priority: unit.priority,
        carrier: unit.carrier,
    };
    let copy = muster::add_unit(conn, project, &new)?;
    let mut became = Vec::new();
    for model in models_of(conn, unit.id)? {
        let fresh = muster::add_model(conn, copy, &change_of(&model))?;
        kits::copy_kit(conn, model.id, fresh, now_ms)?;
        became.push((model.id, fresh));
    }
    Ok((copy, became))
}

/// Moves a unit one place up or down in its project's order. At the end nothing changes.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn reorder(conn: &mut Conn, id: UnitId, up: bool) -> Result<(), StoreError> {
    let unit = queries::muster::unit(conn, id)?;
    let in_order: Vec<(i64, i64, i64)> = units::table
        .filter(
            units::project_id
                .eq(unit.project.0)
                .and(units::removed_at_ms.is_null()),
        )
        .order((units::priority, units::position, units::id))
        .select((units::id, units::priority, units::position))
        .load(conn)?;
    let Some(here) = in_order.iter().position(|(other, ..)| *other == id.0) else {
        return Err(StoreError::NotFound { what: "unit" });
    };
    let there = if up {
        here.checked_sub(1)
    } else {
        Some(here + 1)
    };
    let Some((other, other_place)) = there
        .and_then(|t| in_order.get(t))
        .map(|o| (o.0, (o.1, o.2)))
    else {
        return Ok(());
    };
    // Units may share priority and position: positions are made different first.
    let (_, priority, position) = in_order[here];
    let apart = if (priority, position) == other_place {
        i64::from(!up) - i64::from(up)
    } else {
        0
    };
    set_place(conn, other, (priority, position))?;
    set_place(conn, id.0, (other_place.0, other_place.1 + apart))
}

fn set_place(conn: &mut Conn, id: i64, (priority, position): (i64, i64)) -> Result<(), StoreError> {
    diesel::update(units::table.find(id))
        .set((
            units::priority.eq(priority),
            units::position.eq(position),
            units::row_version.eq(units::row_version + 1),
        ))
        .execute(conn)?;
    Ok(())
}

/// Moves models into a new unit of the same project: whole kinds, or so many of a kind. Copies
/// that the rest no longer needs go along.
///
/// # Errors
/// [`StoreError::Refused`] when nothing is moved, or more than there is.
pub fn split(
    conn: &mut Conn,
    id: UnitId,
    name: &str,
    moved: &[(ModelId, u32)],
    now_ms: i64,
) -> Result<UnitId, StoreError> {
    let unit = queries::muster::unit(conn, id)?;
    if moved.iter().all(|(_, n)| *n == 0) {
        return Err(StoreError::Refused(
            "no model was chosen for the new unit: say how many move".into(),
        ));
    }
    let new = UnitChange {
        name: name.to_owned(),
        priority: unit.priority,
        carrier: None,
    };
    let fresh = muster::add_unit(conn, unit.project, &new)?;
    for (model, many) in moved.iter().filter(|(_, n)| *n > 0) {
        let row = queries::muster::model(conn, *model)?;
        if row.unit != id || *many > row.quantity {
            return Err(StoreError::Refused(format!(
                "there are not {many} of {} in this unit",
                row.name
            )));
        }
        if *many == row.quantity {
            rehome(conn, *model, fresh)?;
        } else {
            split_model(conn, &row, fresh, *many, now_ms)?;
        }
    }
    Ok(fresh)
}

fn rehome(conn: &mut Conn, model: ModelId, unit: UnitId) -> Result<(), StoreError> {
    let siblings: i64 = models::table
        .filter(models::unit_id.eq(unit.0))
        .count()
        .get_result(conn)?;
    diesel::update(models::table.find(model.0))
        .set((
            models::unit_id.eq(unit.0),
            models::position.eq(siblings),
            models::row_version.eq(models::row_version + 1),
        ))
        .execute(conn)?;
    Ok(())
}

fn split_model(
    conn: &mut Conn,
    model: &Model,
    unit: UnitId,
    many: u32,
    now_ms: i64,
) -> Result<(), StoreError> {
    let change = ModelChange {
        quantity: many,
        ..change_of(model)
    };
    let fresh = muster::add_model(conn, unit, &change)?;
    let became = kits::copy_kit(conn, model.id, fresh, now_ms)?;
    let stays = model.quantity - many;
    for part in queries::kits::parts_of(conn, model.id)? {
        // Copies of options stay: nothing says which of the models move.
        if let (None, Some(to)) = (part.option, became.get(&part.id)) {
            let keep = stays * part.count + part.spares;
            let need = many * part.count;
            move_copies(conn, part.id, *to, keep, need)?;
        }
    }
    diesel::update(models::table.find(model.id.0))
        .set((
            models::quantity.eq(i64::from(stays)),
            models::row_version.eq(models::row_version + 1),
        ))
        .execute(conn)?;
    settle_copies::settle_model(conn, model.id, now_ms)?;
    settle_copies::settle_model(conn, fresh, now_ms)
}

/// Gives living copies beyond `keep` to another part, at most as many as it needs.
fn move_copies(
    conn: &mut Conn,
    from: PartId,
    to: PartId,
    keep: u32,
    need: u32,
) -> Result<(), StoreError> {
    let alive: Vec<&str> = Stage::ALL
        .iter()
        .filter(|s| s.is_alive())
        .map(|s| s.as_str())
        .collect();
    // What a miniature keeps stays with it.
    let living = copies::table
        .left_join(reservations::table)
        .filter(copies::part_id.eq(from.0).and(copies::stage.eq_any(alive)))
        .filter(reservations::id.is_null())
        .order(copies::mark.desc())
        .select(CopyRow::as_select())
        .nouns::<CopyRow>(conn)?;
    let over = living
        .len()
        .saturating_sub(keep as usize)
        .min(need as usize);
    for copy in living.into_iter().take(over) {
        diesel::update(copies::table.find(copy.id.0))
            .set(copies::part_id.eq(to.0))
            .execute(conn)?;
        diesel::update(placements::table.filter(placements::copy_id.eq(copy.id.0)))
            .set(placements::part_id.eq(to.0))
            .execute(conn)?;
    }
    Ok(())
}

/// Puts the models of one unit into another and takes the empty one away.
///
/// # Errors
/// [`StoreError::Refused`] for a unit of another project, or itself.
pub fn merge(conn: &mut Conn, from: UnitId, into: UnitId, now_ms: i64) -> Result<(), StoreError> {
    let (a, b): (Unit, Unit) = (
        queries::muster::unit(conn, from)?,
        queries::muster::unit(conn, into)?,
    );
    if a.project != b.project || from == into {
        return Err(StoreError::Refused(
            "choose another unit of the same project to merge into".into(),
        ));
    }
    for model in models_of(conn, from)? {
        rehome(conn, model.id, into)?;
    }
    muster::set_removed(conn, muster::Entry::Unit(from), Some(now_ms))
}

/// What is changed on many models at once; what is nothing stays.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct ManyChange {
    pub base_mm: Option<[f64; 2]>,
    pub resin: Option<ResinId>,
    pub layer: Option<LayerHeight>,
    pub scale: Option<f64>,
}

/// Changes many models; recipes of their parts become new versions where they differ.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn change_many(
    conn: &mut Conn,
    of: &[ModelId],
    to: &ManyChange,
    now_ms: i64,
) -> Result<(), StoreError> {
    for id in of {
        if let Some([width, depth]) = to.base_mm {
            diesel::update(models::table.find(id.0))
                .set((
                    models::base_width_mm.eq(width),
                    models::base_depth_mm.eq(depth),
                    models::row_version.eq(models::row_version + 1),
                ))
                .execute(conn)?;
        }
        for part in queries::kits::parts_of(conn, *id)? {
            let known = queries::recipes::newest(conn, part.recipe)?;
            let recipe = RecipeChange {
                scale: to.scale.unwrap_or(known.scale),
                resin: to.resin.unwrap_or(known.resin),
                layer: to.layer.unwrap_or(known.layer),
                setup: None,
            };
            recipes::change(conn, part.recipe, &recipe, now_ms)?;
        }
    }
    Ok(())
}
