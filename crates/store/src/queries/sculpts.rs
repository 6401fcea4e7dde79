//! Sculpts: the bytes in compressed chunks, and what was measured.

use std::collections::HashMap;

use diesel::prelude::*;
use wembrit_core::flow::SculptState;
use wembrit_core::ids::SculptId;
use wembrit_core::sculpt::{Sculpt, SculptFacts};

use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::rows::{Nouns, SculptFactsRow, SculptRow};
use crate::schema::sculpts::dsl;
use crate::schema::{sculpt_chunks as chunks, sculpt_facts as facts};

/// Counts up whenever measuring gives other figures for the same bytes.
pub const MEASURE_VERSION: i64 = 9;

/// Compresses a piece of a file, off the transaction.
///
/// # Errors
/// [`StoreError::Other`] when memory runs out.
pub fn compress(data: &[u8]) -> Result<Vec<u8>, StoreError> {
    zstd::bulk::compress(data, 3).map_err(|e| StoreError::Other(e.to_string()))
}

/// The key of the task that measures a sculpt.
#[must_use]
pub fn task_key(sculpt: &Sculpt) -> String {
    format!("{}:{}:{MEASURE_VERSION}", sculpt.uid, sculpt.unit_mm)
}

/// The sculpt a measuring task is about.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn of_task(conn: &mut Conn, key: &str) -> Result<Sculpt, StoreError> {
    let uid = key.split(':').next().unwrap_or_default();
    dsl::sculpts
        .filter(dsl::uid.eq(uid))
        .select(SculptRow::as_select())
        .noun::<SculptRow>(conn, "sculpt")
}

/// The original bytes.
///
/// # Errors
/// [`StoreError::BadRow`] when a chunk cannot be unpacked.
pub fn bytes(conn: &mut Conn, id: SculptId) -> Result<Vec<u8>, StoreError> {
    let size: i64 = dsl::sculpts
        .find(id.0)
        .select(dsl::bytes)
        .first(conn)
        .or_not_found("sculpt")?;
    let mut all = Vec::with_capacity(usize::try_from(size).unwrap_or(0));
    let packed = chunks::table
        .filter(chunks::sculpt_id.eq(id.0))
        .order(chunks::seq)
        .select(chunks::data);
    for chunk in packed.load_iter::<Vec<u8>, _>(conn)? {
        zstd::stream::copy_decode(chunk?.as_slice(), &mut all)
            .map_err(|e| StoreError::BadRow(e.to_string()))?;
    }
    Ok(all)
}

/// A sculpt is a design that arrived and was not removed.
macro_rules! on_the_shelf {
    () => {
        dsl::removed_at_ms
            .is_null()
            .and(dsl::role.eq("design"))
            .and(dsl::state.ne(SculptState::Incoming.as_str()))
    };
}

/// The sculpts that were not removed, newest first, with what was measured.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<(Sculpt, Option<SculptFacts>)>, StoreError> {
    dsl::sculpts
        .left_join(facts::table)
        .filter(on_the_shelf!())
        .order(dsl::id.desc())
        .select((
            SculptRow::as_select(),
            Option::<SculptFactsRow>::as_select(),
        ))
        .nouns::<(SculptRow, Option<SculptFactsRow>)>(conn)
}

/// One sculpt.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: SculptId) -> Result<Sculpt, StoreError> {
    dsl::sculpts
        .find(id.0)
        .select(SculptRow::as_select())
        .noun::<SculptRow>(conn, "sculpt")
}

/// Some sculpts.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn some(conn: &mut Conn, of: &[SculptId]) -> Result<HashMap<SculptId, Sculpt>, StoreError> {
    let ids: Vec<i64> = of.iter().map(|s| s.0).collect();
    let all = dsl::sculpts
        .filter(dsl::id.eq_any(ids))
        .select(SculptRow::as_select())
        .nouns::<SculptRow>(conn)?;
    Ok(all.into_iter().map(|s| (s.id, s)).collect())
}

/// What was measured on one sculpt, if it was.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn load_facts(conn: &mut Conn, id: SculptId) -> Result<Option<SculptFacts>, StoreError> {
    facts::table
        .find(id.0)
        .select(SculptFactsRow::as_select())
        .maybe::<SculptFactsRow>(conn)
}

/// The sculpts that were not removed, newest first, without what was measured.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn names(conn: &mut Conn) -> Result<Vec<Sculpt>, StoreError> {
    dsl::sculpts
        .filter(on_the_shelf!())
        .order(dsl::id.desc())
        .select(SculptRow::as_select())
        .nouns::<SculptRow>(conn)
}

/// Sculpts that could be read and that no part is printed from.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn without_part(conn: &mut Conn) -> Result<Vec<Sculpt>, StoreError> {
    let used = super::army::sculpts_in_use(conn)?;
    let mut free = names(conn)?;
    free.retain(|s| s.state != SculptState::Refused && !used.contains(&s.id));
    Ok(free)
}
