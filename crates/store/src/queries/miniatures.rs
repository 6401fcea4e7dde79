//! Miniatures with the copies they keep, copies nobody keeps, and those that came from elsewhere.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::army::miniatures::{
    Arrival, Arrived, BuildStep, Free, Held, HeldCopy, Miniature,
};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ArrivalId, CopyId, MiniatureId, ModelId, OptionId, PartId, ProjectId};
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::count;
use crate::schema::{
    arrivals, copies, miniature_options as mo, miniatures, models, parts, reservations, units,
};

/// The miniatures of some models that are not taken apart, by model, in the order of their numbers.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_models(
    conn: &mut Conn,
    of: &[ModelId],
) -> Result<HashMap<ModelId, Vec<Miniature>>, StoreError> {
    let of: Vec<i64> = of.iter().map(|m| m.0).collect();
    let rows: Vec<(i64, i64, i64, i64, String)> = miniatures::table
        .filter(miniatures::model_id.eq_any(of))
        .filter(miniatures::apart_at_ms.is_null())
        .order((miniatures::model_id, miniatures::number))
        .select((
            miniatures::id,
            miniatures::row_version,
            miniatures::model_id,
            miniatures::number,
            miniatures::step,
        ))
        .load(conn)?;
    let ids: Vec<i64> = rows.iter().map(|r| r.0).collect();
    let mut keeps = kept(conn, &ids)?;
    let taken: Vec<(i64, i64)> = mo::table
        .filter(mo::miniature_id.eq_any(ids))
        .select((mo::miniature_id, mo::option_id))
        .load(conn)?;
    let mut options: HashMap<i64, Vec<OptionId>> = HashMap::new();
    for (miniature, option) in taken {
        options.entry(miniature).or_default().push(OptionId(option));
    }
    let mut all: HashMap<ModelId, Vec<Miniature>> = HashMap::new();
    for (id, row_version, model, number, step) in rows {
        all.entry(ModelId(model)).or_default().push(Miniature {
            id: MiniatureId(id),
            row_version,
            model: ModelId(model),
            number,
            step: BuildStep::try_from(step)?,
            options: options.remove(&id).unwrap_or_default(),
            keeps: keeps.remove(&id).unwrap_or_default(),
        });
    }
    Ok(all)
}

/// What miniatures keep that is good still.
fn kept(conn: &mut Conn, of: &[i64]) -> Result<HashMap<i64, Vec<HeldCopy>>, StoreError> {
    let printed: Vec<(i64, i64, i64, i64)> = reservations::table
        .inner_join(copies::table)
        .filter(reservations::miniature_id.eq_any(of))
        .filter(copies::stage.eq(Stage::Good.as_str()))
        .order(copies::mark)
        .select((
            reservations::miniature_id,
            copies::mark,
            copies::part_id,
            copies::id,
        ))
        .load(conn)?;
    let came: Vec<(i64, i64, i64, i64)> = reservations::table
        .inner_join(arrivals::table)
        .filter(reservations::miniature_id.eq_any(of))
        .filter(arrivals::removed_at_ms.is_null())
        .order(arrivals::mark)
        .select((
            reservations::miniature_id,
            arrivals::mark,
            arrivals::part_id,
            arrivals::id,
        ))
        .load(conn)?;
    let mut all: HashMap<i64, Vec<HeldCopy>> = HashMap::new();
    let printed = printed.into_iter().map(|r| (r, Held::Copy(CopyId(r.3))));
    let came = came.into_iter().map(|r| (r, Held::Arrival(ArrivalId(r.3))));
    for ((miniature, mark, part, _), held) in printed.chain(came) {
        all.entry(miniature).or_default().push(HeldCopy {
            mark,
            part: PartId(part),
            held,
        });
    }
    Ok(all)
}

/// Good copies of a model's parts that no miniature keeps, the lowest mark first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn free(conn: &mut Conn, model: ModelId) -> Result<Free, StoreError> {
    let printed: Vec<(i64, i64, i64)> = copies::table
        .inner_join(parts::table)
        .left_join(reservations::table)
        .filter(parts::model_id.eq(model.0))
        .filter(copies::stage.eq(Stage::Good.as_str()))
        .filter(reservations::id.is_null())
        .select((copies::mark, copies::part_id, copies::id))
        .load(conn)?;
    let mut all: Vec<HeldCopy> = printed
        .into_iter()
        .map(|(mark, part, id)| HeldCopy {
            mark,
            part: PartId(part),
            held: Held::Copy(CopyId(id)),
        })
        .collect();
    let came = arrivals_of(conn, model)?.into_iter();
    all.extend(came.filter(|a| a.kept_by.is_none()).map(|a| HeldCopy {
        mark: a.mark,
        part: a.part,
        held: Held::Arrival(a.id),
    }));
    all.sort_unstable();
    let mut free = Free::new();
    for copy in all {
        free.entry(copy.part).or_default().push(copy);
    }
    Ok(free)
}

/// What came of a model's parts from elsewhere, the lowest mark first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn arrivals_of(conn: &mut Conn, model: ModelId) -> Result<Vec<Arrival>, StoreError> {
    type Row = (i64, i64, i64, String, i64, String, Option<i64>);
    let rows: Vec<Row> = arrivals::table
        .inner_join(parts::table)
        .left_join(reservations::table)
        .filter(parts::model_id.eq(model.0))
        .filter(arrivals::removed_at_ms.is_null())
        .order(arrivals::mark)
        .select((
            arrivals::id,
            arrivals::mark,
            arrivals::part_id,
            arrivals::how,
            arrivals::cost_minor,
            arrivals::note,
            reservations::miniature_id.nullable(),
        ))
        .load(conn)?;
    let arrival = |(id, mark, part, how, cost, note, kept_by): Row| {
        Ok(Arrival {
            id: ArrivalId(id),
            mark,
            part: PartId(part),
            how: Arrived::try_from(how)?,
            cost: Money(cost),
            note,
            kept_by: kept_by.map(MiniatureId),
        })
    };
    rows.into_iter().map(arrival).collect()
}

/// How many copies of each part of a project came from elsewhere, and what was paid for them.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn came(
    conn: &mut Conn,
    project: ProjectId,
) -> Result<BTreeMap<PartId, (u32, Money)>, StoreError> {
    let rows: Vec<(i64, i64)> = arrivals::table
        .inner_join(parts::table.inner_join(models::table.inner_join(units::table)))
        .filter(units::project_id.eq(project.0))
        .filter(arrivals::removed_at_ms.is_null())
        .select((arrivals::part_id, arrivals::cost_minor))
        .load(conn)?;
    let mut all: BTreeMap<PartId, (u32, Money)> = BTreeMap::new();
    for (part, cost) in rows {
        let of_part = all.entry(PartId(part)).or_default();
        of_part.0 += 1;
        of_part.1 += Money(cost);
    }
    Ok(all)
}

/// How many copies of a part came from elsewhere.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn came_of(conn: &mut Conn, part: PartId) -> Result<u32, StoreError> {
    let many: i64 = arrivals::table
        .filter(arrivals::part_id.eq(part.0))
        .filter(arrivals::removed_at_ms.is_null())
        .count()
        .get_result(conn)?;
    Ok(count(many))
}

/// The highest mark that was given, of copies and of what came.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn last_mark(conn: &mut Conn) -> Result<i64, StoreError> {
    let printed: Option<i64> = copies::table
        .select(diesel::dsl::max(copies::mark))
        .first(conn)?;
    let came: Option<i64> = arrivals::table
        .select(diesel::dsl::max(arrivals::mark))
        .first(conn)?;
    Ok(printed.max(came).unwrap_or(0))
}
