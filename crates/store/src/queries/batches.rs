//! Batches on their way through finishing, and what their routes are made for.

use std::collections::{BTreeMap, HashMap};

use diesel::prelude::*;
use wembrit_core::finishing::cure::{Feel, Felt, UnderLamp};
use wembrit_core::finishing::{Batch, BatchStep};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{BatchId, PlateId, ResinId, RunId};

use super::{hollows, plates, prepared_parts};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{BatchRow, BatchStepRow, Row};
use crate::schema::{batch_steps as bs, batches as b, copies, cures, joints, plates as p, runs};

/// What a route is made for, as far as copies tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Finishing {
    /// Copies that came off.
    pub copies: u64,
    /// Supports touch them at so many places.
    pub contacts: u64,
    /// Copies whose hollow has a way out.
    pub hollow: u64,
    /// Copies with joints.
    pub jointed: u64,
}

/// What the copies of a plate that came off ask of finishing.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn finishing_of(conn: &mut Conn, plate: PlateId) -> Result<Finishing, StoreError> {
    let off = |s: Stage| s == Stage::InFinishing;
    let mut on = plates::copies_of(conn, plate)?;
    on.retain(|c| c.copy.as_ref().is_some_and(|c| off(c.stage)));
    let mut of: BTreeMap<_, u64> = BTreeMap::new();
    for copy in &on {
        *of.entry((copy.sculpt, copy.recipe_version)).or_default() += 1;
    }
    let sculpts: Vec<_> = of.keys().map(|k| k.0).collect();
    let held = prepared_parts::held(conn, of.keys().copied())?;
    let raw: Vec<i64> = sculpts.iter().map(|s| s.0).collect();
    let with_joints: Vec<i64> = joints::table
        .filter(joints::sculpt_id.eq_any(&raw))
        .select(joints::sculpt_id)
        .distinct()
        .load(conn)?;
    let mut all = Finishing::default();
    for (key, copies) in of {
        all.copies += copies;
        all.contacts += copies * held.get(&key).map_or(0, |(contacts, _)| *contacts as u64);
        if with_joints.contains(&key.0.0) {
            all.jointed += copies;
        }
        let found = hollows::of_sculpt(conn, key.0)?;
        if found.is_some_and(|h| h.hollows.iter().any(|h| !h.ways_out.is_empty())) {
            all.hollow += copies;
        }
    }
    Ok(all)
}

/// How parts of a resin felt after the lamp, the newest last.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn felt(conn: &mut Conn, resin: ResinId) -> Result<Vec<Felt>, StoreError> {
    let rows: Vec<(String, String, f64, String)> = cures::table
        .inner_join(b::table.inner_join(runs::table.inner_join(p::table)))
        .filter(p::resin_id.eq(resin.0))
        .order(cures::id)
        .select((cures::lamp, cures::kind, cures::minutes, cures::feel))
        .load(conn)?;
    let noun = |(lamp, kind, minutes, feel): (String, String, f64, String)| {
        Ok(Felt {
            lamp,
            kind: UnderLamp::try_from(kind)?,
            minutes,
            feel: Feel::try_from(feel)?,
        })
    };
    rows.into_iter().map(noun).collect()
}

/// One batch.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: BatchId) -> Result<Batch, StoreError> {
    let row = b::table
        .inner_join(runs::table)
        .filter(b::id.eq(id.0))
        .select((BatchRow::as_select(), runs::plate_id))
        .first(conn)
        .or_not_found("batch")?;
    let mut all = with_steps(conn, vec![row])?;
    all.pop().ok_or(StoreError::NotFound { what: "batch" })
}

/// The batch of a run, if it has one.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_run(conn: &mut Conn, run: RunId) -> Result<Option<Batch>, StoreError> {
    let row = b::table
        .inner_join(runs::table)
        .filter(b::run_id.eq(run.0))
        .select((BatchRow::as_select(), runs::plate_id))
        .load(conn)?;
    Ok(with_steps(conn, row)?.pop())
}

/// Every batch that has a step before it or under way, the one that came off first before the
/// others.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open(conn: &mut Conn) -> Result<Vec<Batch>, StoreError> {
    let unfinished = bs::table
        .filter(bs::state.eq_any(["ahead", "now"]))
        .select(bs::batch_id);
    let rows = b::table
        .inner_join(runs::table)
        .filter(b::id.eq_any(unfinished))
        .order((b::off_at_ms, b::id))
        .select((BatchRow::as_select(), runs::plate_id))
        .load(conn)?;
    with_steps(conn, rows)
}

fn with_steps(conn: &mut Conn, rows: Vec<(BatchRow, i64)>) -> Result<Vec<Batch>, StoreError> {
    let ids: Vec<i64> = rows.iter().map(|(row, _)| row.id()).collect();
    let mut steps: HashMap<i64, Vec<BatchStep>> = HashMap::new();
    let all = bs::table
        .filter(bs::batch_id.eq_any(ids))
        .order((bs::batch_id, bs::seq))
        .select(BatchStepRow::as_select())
        .load(conn)?;
    for row in all {
        let batch = row.batch_id;
        steps.entry(batch).or_default().push(row.noun()?);
    }
    let whole = |(row, plate): (BatchRow, i64)| {
        let of = steps.remove(&row.id()).unwrap_or_default();
        row.with(plate, of)
    };
    Ok(rows.into_iter().map(whole).collect())
}

/// Copies of a plate that are to be mended.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Marked {
    /// How many.
    pub to_mend: u64,
    /// How long that takes, min, as far as somebody said.
    pub mend_minutes: f64,
}

/// Copies that are to be mended, by plate.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn marked(conn: &mut Conn) -> Result<HashMap<PlateId, Marked>, StoreError> {
    let rows: Vec<(i64, Option<f64>)> = copies::table
        .filter(copies::stage.eq(Stage::InFinishing.as_str()))
        .filter(copies::mend.ne(""))
        .select((copies::plate_id, copies::mend_minutes))
        .load(conn)?;
    let mut all: HashMap<PlateId, Marked> = HashMap::new();
    for (plate, minutes) in rows {
        let of = all.entry(PlateId(plate)).or_default();
        of.to_mend += 1;
        of.mend_minutes += minutes.unwrap_or(0.0);
    }
    Ok(all)
}

/// Copies of a plate that came off and wait to be judged.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn to_judge(conn: &mut Conn, plate: PlateId) -> Result<i64, StoreError> {
    let off = copies::stage.eq(Stage::InFinishing.as_str());
    let open = copies::table.filter(copies::plate_id.eq(plate.0).and(off));
    Ok(open.count().get_result(conn)?)
}
