//! What plates were planned to cost, and what they really took.

use std::collections::{BTreeSet, HashMap};

use diesel::prelude::*;
use wembrit_core::cost::{Basis, Took};
use wembrit_core::flow::RunOutcome;
use wembrit_core::ids::PlateId;
use wembrit_core::stores::{Lost, Place, Volume};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{hand_spells as hs, moves as m, plates, print_times as pt, runs};

/// What a plate was planned with, and what it took.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlateTook {
    /// As it was planned; nothing where that was not kept.
    pub planned: Option<Basis>,
    /// What was written down of its runs; nothing while none has ended.
    pub took: Option<Took>,
}

/// What the costs of some plates are reckoned from, where that was kept.
pub(super) fn bases(
    conn: &mut Conn,
    of: BTreeSet<i64>,
) -> Result<HashMap<PlateId, Basis>, StoreError> {
    let rows: Vec<(i64, String)> = plates::table
        .filter(plates::id.eq_any(of.into_iter().collect::<Vec<_>>()))
        .select((plates::id, plates::cost_basis))
        .load(conn)?;
    let read = |(id, text): (i64, String)| {
        let basis = serde_json::from_str(&text).ok()?;
        Some((PlateId(id), basis))
    };
    Ok(rows.into_iter().filter_map(read).collect())
}

/// Loads it for some plates.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plates(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<HashMap<PlateId, PlateTook>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|p| p.0).collect();
    let planned: Vec<(i64, String, i64)> = plates::table
        .filter(plates::id.eq_any(&ids))
        .select((plates::id, plates::cost_basis, plates::layers))
        .load(conn)?;
    let mut all: HashMap<PlateId, (PlateTook, i64)> = planned
        .into_iter()
        .map(|(id, basis, layers)| {
            let took = PlateTook {
                planned: serde_json::from_str(&basis).ok(),
                took: None,
            };
            (PlateId(id), (took, layers))
        })
        .collect();
    let back = RunOutcome::PutBack.as_str();
    type Run = (i64, Option<i64>, Option<f64>);
    let ran: Vec<Run> = runs::table
        .left_join(pt::table)
        .filter(
            runs::plate_id
                .eq_any(&ids)
                .and(runs::ended_at_ms.is_not_null()),
        )
        .filter(runs::outcome.is_null().or(runs::outcome.ne(back)))
        .select((
            runs::plate_id,
            runs::stopped_at_layer,
            pt::printed_s.nullable(),
        ))
        .load(conn)?;
    for (plate, stopped, printed_s) in ran {
        let Some((of, layers)) = all.get_mut(&PlateId(plate)) else {
            continue;
        };
        let took = of.took.get_or_insert(Took::default());
        took.runs += 1.0;
        took.share += stopped.map_or(1.0, |n| n as f64 / (*layers).max(1) as f64);
        if let Some(seconds) = printed_s {
            *took.hours.get_or_insert(0.0) += seconds / 3600.0;
        }
    }
    let used = [
        Place::Printed,
        Place::Gone(Lost::Washed),
        Place::Gone(Lost::Tools),
    ];
    let left: Vec<(i64, i64)> = m::table
        .inner_join(runs::table)
        .filter(runs::plate_id.eq_any(&ids))
        .filter(m::to_place.eq_any(used.map(|p| p.word().0)))
        .select((runs::plate_id, m::ul))
        .load(conn)?;
    let timed: Vec<(i64, Option<f64>)> = hs::table
        .filter(hs::plate_id.eq_any(&ids))
        .select((hs::plate_id, hs::minutes))
        .load(conn)?;
    let mut took_of = |plate: i64, add: &dyn Fn(&mut Took)| {
        if let Some(took) = all
            .get_mut(&PlateId(plate))
            .and_then(|(of, _)| of.took.as_mut())
        {
            add(took);
        }
    };
    for (plate, ul) in left {
        took_of(plate, &|t| *t.ml.get_or_insert(0.0) += Volume(ul).in_ml());
    }
    for (plate, minutes) in timed {
        if let Some(minutes) = minutes {
            took_of(plate, &|t| *t.minutes.get_or_insert(0.0) += minutes);
        }
    }
    Ok(all.into_iter().map(|(id, (of, _))| (id, of)).collect())
}
