//! How copies came out, counted: those of plates lost whole left out, for they say nothing of a copy.

use std::collections::BTreeMap;

use diesel::dsl::count_star;
use diesel::prelude::*;
use wembrit_core::flow::{PlateState, Stage};
use wembrit_core::ids::PartId;
use wembrit_core::odds::Judged;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{copies, plates};

/// Part by part, in the whole workshop.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn by_part(conn: &mut Conn) -> Result<BTreeMap<PartId, Judged>, StoreError> {
    let told = [Stage::Good, Stage::Surplus, Stage::Failed].map(Stage::as_str);
    let rows: Vec<(i64, String, i64)> = copies::table
        .inner_join(plates::table)
        .filter(copies::stage.eq_any(told))
        .filter(plates::state.ne(PlateState::Lost.as_str()))
        .group_by((copies::part_id, copies::stage))
        .select((copies::part_id, copies::stage, count_star()))
        .load(conn)?;
    let mut all: BTreeMap<PartId, Judged> = BTreeMap::new();
    for (part, stage, copies) in rows {
        let of = all.entry(PartId(part)).or_default();
        let copies = copies.max(0) as u64;
        if stage == Stage::Failed.as_str() {
            of.failed += copies;
        } else {
            of.good += copies;
        }
    }
    Ok(all)
}

/// All copies of the workshop together.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_workshop(conn: &mut Conn) -> Result<Judged, StoreError> {
    Ok(Judged::sum(by_part(conn)?.into_values()))
}

/// Plates that held, and those lost whole.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn plates_lost(conn: &mut Conn) -> Result<Judged, StoreError> {
    let told = [PlateState::Done, PlateState::Lost].map(PlateState::as_str);
    let rows: Vec<(String, i64)> = plates::table
        .filter(plates::state.eq_any(told))
        .group_by(plates::state)
        .select((plates::state, count_star()))
        .load(conn)?;
    let mut all = Judged::default();
    for (state, plates) in rows {
        let plates = plates.max(0) as u64;
        if state == PlateState::Lost.as_str() {
            all.failed += plates;
        } else {
            all.good += plates;
        }
    }
    Ok(all)
}
