//! Good copies beyond what is wanted are set aside, and come back when they are wanted again.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::army::Part;
use wembrit_core::army::demand::{Need, Settling, settle};
use wembrit_core::flow::{CopyEvent, Stage, next_stage};
use wembrit_core::ids::{ModelId, PartId, PlateId};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{kits, miniatures};
use crate::rows::{ModelRow, Nouns, PartRow};
use crate::schema::{copies, models, parts, reservations};

/// Settles the copies of every part of a model.
pub(super) fn settle_model(conn: &mut Conn, id: ModelId, now_ms: i64) -> Result<(), StoreError> {
    let model = models::table
        .find(id.0)
        .select(ModelRow::as_select())
        .noun::<ModelRow>(conn, "model")?;
    let of_model = parts::table
        .filter(parts::model_id.eq(id.0).and(parts::removed_at_ms.is_null()))
        .select(PartRow::as_select())
        .nouns::<PartRow>(conn)?;
    let takers = kits::takers(conn, &[id])?;
    for part in of_model {
        let quantity = part
            .option
            .map_or(model.quantity, |o| takers.get(&o).copied().unwrap_or(0));
        settle_part(conn, &part, quantity, now_ms)?;
    }
    Ok(())
}

/// Settles the copies of every part that stands on a plate.
pub(super) fn settle_plate(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let touched: Vec<i64> = copies::table
        .inner_join(parts::table)
        .filter(copies::plate_id.eq(id.0))
        .select(parts::model_id)
        .distinct()
        .load(conn)?;
    touched
        .into_iter()
        .try_for_each(|model| settle_model(conn, ModelId(model), now_ms))
}

/// Copies of a part by stage.
fn counts(conn: &mut Conn, id: PartId) -> Result<HashMap<Stage, u32>, StoreError> {
    let rows: Vec<(String, i64)> = copies::table
        .filter(copies::part_id.eq(id.0))
        .group_by(copies::stage)
        .select((copies::stage, diesel::dsl::count_star()))
        .load(conn)?;
    let read = |(stage, n): (String, i64)| {
        let stage = Stage::try_from(stage)?;
        Ok((stage, u32::try_from(n).unwrap_or(u32::MAX)))
    };
    rows.into_iter().map(read).collect()
}

fn settle_part(conn: &mut Conn, part: &Part, quantity: u32, now_ms: i64) -> Result<(), StoreError> {
    let by_stage = counts(conn, part.id)?;
    let of = |stage: Stage| by_stage.get(&stage).copied().unwrap_or(0);
    // What came from elsewhere is good, and stays where it is.
    let came = miniatures::came_of(conn, part.id)?;
    let need = Need {
        quantity,
        count: part.count,
        spares: part.spares,
        alive: by_stage
            .iter()
            .filter(|(s, _)| s.is_alive())
            .map(|(_, n)| n)
            .sum::<u32>()
            + came,
    };
    match settle(&need, of(Stage::Good) + came, of(Stage::Surplus)) {
        Settling::Rest => Ok(()),
        Settling::SetAside(n) => {
            shift(conn, part.id, (Stage::Good, CopyEvent::SetAside), n, now_ms)
        }
        Settling::Recall(n) => shift(
            conn,
            part.id,
            (Stage::Surplus, CopyEvent::Recall),
            n,
            now_ms,
        ),
    }
}

/// Moves so many copies on, the newest first; none that a miniature keeps.
fn shift(
    conn: &mut Conn,
    part: PartId,
    (from, event): (Stage, CopyEvent),
    many: u32,
    now_ms: i64,
) -> Result<(), StoreError> {
    let to = next_stage(from, event)?;
    let chosen: Vec<i64> = copies::table
        .left_join(reservations::table)
        .filter(
            copies::part_id
                .eq(part.0)
                .and(copies::stage.eq(from.as_str()))
                .and(reservations::id.is_null()),
        )
        .order(copies::mark.desc())
        .limit(i64::from(many))
        .select(copies::id)
        .load(conn)?;
    diesel::update(copies::table.filter(copies::id.eq_any(chosen)))
        .set((
            copies::stage.eq(to.as_str()),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}
