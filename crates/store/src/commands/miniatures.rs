//! Miniatures: put together, brought a step further, taken apart; copies that come from elsewhere.

use diesel::prelude::*;
use wembrit_core::army::miniatures::{Arrived, BuildStep, Held, HeldCopy, may_go_to, put_together};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ArrivalId, MiniatureId, ModelId, PartId};
use wembrit_core::units::Money;

use super::settle_copies;
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{army, last_id, miniatures as asked, muster, new_uid, one_row};
use crate::schema::{arrivals, copies, miniature_options as mo, miniatures, reservations};

/// Most copies that come at once.
const MOST: u32 = 500;

/// What was put together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Built {
    /// New miniatures, all complete.
    pub new: usize,
    /// Those that got pieces they lacked.
    pub filled: usize,
}

/// Gives good copies that nobody keeps to miniatures that lack some, then to new ones: `most` at most.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn put(conn: &mut Conn, model: ModelId, most: u32, now_ms: i64) -> Result<Built, StoreError> {
    let (_, of) = army::model(conn, model)?;
    drop_what_failed(conn, model)?;
    let standing = asked::of_models(conn, &[model])?
        .remove(&model)
        .unwrap_or_default();
    let free = asked::free(conn, model)?;
    let (filled, new) = put_together(&of, &standing, &free, most);
    let built = Built {
        new: new.len(),
        filled: filled.len(),
    };
    for (miniature, put) in filled {
        keep(conn, miniature.0, &put.takes)?;
    }
    let last: Option<i64> = miniatures::table
        .filter(miniatures::model_id.eq(model.0))
        .select(diesel::dsl::max(miniatures::number))
        .first(conn)?;
    for (number, put) in (last.unwrap_or(0) + 1..).zip(new) {
        diesel::insert_into(miniatures::table)
            .values((
                miniatures::uid.eq(new_uid()),
                miniatures::model_id.eq(model.0),
                miniatures::number.eq(number),
                miniatures::step.eq(BuildStep::Apart.as_str()),
                miniatures::begun_at_ms.eq(now_ms),
                miniatures::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        let id = last_id(conn)?;
        for option in &put.options {
            diesel::insert_into(mo::table)
                .values((mo::miniature_id.eq(id), mo::option_id.eq(option.0)))
                .execute(conn)?;
        }
        keep(conn, id, &put.takes)?;
    }
    Ok(built)
}

/// A copy that failed, or was set aside, is kept no longer: its place is free for another.
fn drop_what_failed(conn: &mut Conn, model: ModelId) -> Result<(), StoreError> {
    let not_good: Vec<i64> = reservations::table
        .inner_join(copies::table)
        .inner_join(miniatures::table)
        .filter(miniatures::model_id.eq(model.0))
        .filter(copies::stage.ne(Stage::Good.as_str()))
        .select(reservations::id)
        .load(conn)?;
    let gone: Vec<i64> = reservations::table
        .inner_join(arrivals::table)
        .inner_join(miniatures::table)
        .filter(miniatures::model_id.eq(model.0))
        .filter(arrivals::removed_at_ms.is_not_null())
        .select(reservations::id)
        .load(conn)?;
    let all = not_good.into_iter().chain(gone).collect::<Vec<_>>();
    diesel::delete(reservations::table.filter(reservations::id.eq_any(all))).execute(conn)?;
    Ok(())
}

fn keep(conn: &mut Conn, miniature: i64, takes: &[HeldCopy]) -> Result<(), StoreError> {
    for copy in takes {
        let (printed, came) = match copy.held {
            Held::Copy(id) => (Some(id.0), None),
            Held::Arrival(id) => (None, Some(id.0)),
        };
        diesel::insert_into(reservations::table)
            .values((
                reservations::uid.eq(new_uid()),
                reservations::miniature_id.eq(miniature),
                reservations::copy_id.eq(printed),
                reservations::arrival_id.eq(came),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// Brings miniatures of a model to a step, all or none.
///
/// # Errors
/// [`StoreError::Refused`] where one lacks pieces; [`StoreError::Conflict`] where one is not there any more.
pub fn go_to(
    conn: &mut Conn,
    model: ModelId,
    which: &[MiniatureId],
    step: BuildStep,
    now_ms: i64,
) -> Result<(), StoreError> {
    let (_, of) = army::model(conn, model)?;
    let standing = asked::of_models(conn, &[model])?
        .remove(&model)
        .unwrap_or_default();
    for id in which {
        let miniature = standing.iter().find(|m| m.id == *id);
        let miniature = miniature.ok_or(StoreError::Conflict { what: "miniature" })?;
        may_go_to(miniature, &of, step).map_err(|e| StoreError::Refused(e.to_string()))?;
        let changed = diesel::update(miniatures::table.find(id.0))
            .set((
                miniatures::step.eq(step.as_str()),
                miniatures::row_version.eq(miniatures::row_version + 1),
                miniatures::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        one_row(changed, "miniature")?;
    }
    Ok(())
}

/// Takes a miniature apart: its copies are free again.
///
/// # Errors
/// [`StoreError::Conflict`] when it was taken apart before.
pub fn take_apart(conn: &mut Conn, id: MiniatureId, now_ms: i64) -> Result<ModelId, StoreError> {
    let model: i64 = miniatures::table
        .find(id.0)
        .select(miniatures::model_id)
        .first(conn)
        .or_not_found("miniature")?;
    let changed = diesel::update(
        miniatures::table
            .find(id.0)
            .filter(miniatures::apart_at_ms.is_null()),
    )
    .set((
        miniatures::apart_at_ms.eq(now_ms),
        miniatures::step.eq(BuildStep::Apart.as_str()),
        miniatures::row_version.eq(miniatures::row_version + 1),
    ))
    .execute(conn)?;
    one_row(changed, "miniature")?;
    diesel::delete(reservations::table.filter(reservations::miniature_id.eq(id.0)))
        .execute(conn)?;
    settle_copies::settle_model(conn, ModelId(model), now_ms)?;
    Ok(ModelId(model))
}

/// How copies came.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the fields are the words of the domain")]
pub struct Coming {
    pub part: PartId,
    pub how: Arrived,
    pub copies: u32,
    /// What one of them cost.
    pub each: Money,
    pub note: String,
}

/// Copies come from elsewhere; each gets its mark.
///
/// # Errors
/// [`StoreError::Refused`] for none, or for more than anybody gets at once.
pub fn come(conn: &mut Conn, coming: &Coming, now_ms: i64) -> Result<ModelId, StoreError> {
    if !(1..=MOST).contains(&coming.copies) {
        return Err(StoreError::Refused(format!(
            "say how many came, from 1 to {MOST}"
        )));
    }
    let model = muster::part(conn, coming.part)?.model;
    let last = asked::last_mark(conn)?;
    for n in 1..=i64::from(coming.copies) {
        diesel::insert_into(arrivals::table)
            .values((
                arrivals::uid.eq(new_uid()),
                arrivals::mark.eq(last + n),
                arrivals::part_id.eq(coming.part.0),
                arrivals::how.eq(coming.how.as_str()),
                arrivals::cost_minor.eq(coming.each.0),
                arrivals::note.eq(coming.note.trim()),
                arrivals::arrived_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
    }
    settle_copies::settle_model(conn, model, now_ms)?;
    Ok(model)
}

/// A copy that came is gone again.
///
/// # Errors
/// [`StoreError::Refused`] while a miniature keeps it.
pub fn leave(conn: &mut Conn, id: ArrivalId, now_ms: i64) -> Result<ModelId, StoreError> {
    let part: i64 = arrivals::table
        .find(id.0)
        .select(arrivals::part_id)
        .first(conn)
        .or_not_found("copy")?;
    let kept: i64 = reservations::table
        .filter(reservations::arrival_id.eq(id.0))
        .count()
        .get_result(conn)?;
    if kept > 0 {
        return Err(StoreError::Refused(
            "a miniature keeps it: take that apart first".into(),
        ));
    }
    let changed = diesel::update(
        arrivals::table
            .find(id.0)
            .filter(arrivals::removed_at_ms.is_null()),
    )
    .set(arrivals::removed_at_ms.eq(now_ms))
    .execute(conn)?;
    one_row(changed, "copy")?;
    let model = muster::part(conn, PartId(part))?.model;
    settle_copies::settle_model(conn, model, now_ms)?;
    Ok(model)
}
