//! What is known of printers between two runs, and of what was looked to before and in a run.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::flow::{PlateState, Run};
use wembrit_core::ids::{PlateId, PrinterId, ResinId, RunId};
use wembrit_core::today::StandingVat;

use super::stores;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, RunRow};
use crate::schema::{plates, printers, run_checks as rc, runs, vat_checks as vc};

/// Printers that are to be looked into before their next run, and why.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn to_check(conn: &mut Conn) -> Result<BTreeMap<PrinterId, String>, StoreError> {
    let rows: Vec<(i64, String)> = printers::table
        .filter(printers::to_check.ne(""))
        .select((printers::id, printers::to_check))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, why)| (PrinterId(id), why))
        .collect())
}

/// When the last run on a printer ended, and when somebody looked into its vat last.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn between(
    conn: &mut Conn,
    printer: PrinterId,
) -> Result<(Option<i64>, Option<i64>), StoreError> {
    let ended: Option<Option<i64>> = runs::table
        .inner_join(plates::table)
        .filter(plates::printer_id.eq(printer.0))
        .filter(runs::ended_at_ms.is_not_null())
        .order(runs::ended_at_ms.desc())
        .select(runs::ended_at_ms)
        .first(conn)
        .optional()?;
    let looked: Option<i64> = vc::table
        .filter(vc::printer_id.eq(printer.0))
        .order(vc::checked_at_ms.desc())
        .select(vc::checked_at_ms)
        .first(conn)
        .optional()?;
    Ok((ended.flatten(), looked))
}

/// Vats in which resin stands: since the last run in each ended, or since somebody looked into it or
/// poured after that; nothing of vats that the books know to be empty.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn standing_vats(conn: &mut Conn) -> Result<BTreeMap<PrinterId, StandingVat>, StoreError> {
    let used: Vec<i64> = printers::table
        .filter(printers::removed_at_ms.is_null())
        .select(printers::id)
        .load(conn)?;
    let mut all = BTreeMap::new();
    for id in used.into_iter().map(PrinterId) {
        if let (Some(ended), looked) = between(conn, id)? {
            let since_ms = looked.map_or(ended, |l| l.max(ended));
            all.insert(
                id,
                StandingVat {
                    since_ms,
                    resin: None,
                },
            );
        }
    }
    for (printer, touched) in stores::vats_touched(conn)? {
        match touched {
            Some(vat) => {
                let before = all.get(&printer).map_or(vat.since_ms, |v| v.since_ms);
                let since_ms = vat.since_ms.max(before);
                all.insert(printer, StandingVat { since_ms, ..vat });
            }
            // Nothing stands in it.
            None => drop(all.remove(&printer)),
        }
    }
    Ok(all)
}

/// The newest temperature of the room that was said since a time, °C.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn room_since(conn: &mut Conn, since_ms: i64) -> Result<Option<f64>, StoreError> {
    let last: Option<Option<f64>> = runs::table
        .filter(runs::started_at_ms.ge(since_ms))
        .filter(runs::room_c.is_not_null())
        .order(runs::id.desc())
        .select(runs::room_c)
        .first(conn)
        .optional()?;
    Ok(last.flatten())
}

/// What the vat of a printer held before the last run of this resin on it, and what that took, ml.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn last_vat(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
) -> Result<Option<(f64, f64)>, StoreError> {
    let last: Option<(Option<f64>, f64)> = runs::table
        .inner_join(plates::table)
        .filter(
            plates::printer_id
                .eq(printer.0)
                .and(plates::resin_id.eq(resin.0)),
        )
        .order(runs::id.desc())
        .select((runs::vat_ml, plates::resin_ml))
        .first(conn)
        .optional()?;
    Ok(last.and_then(|(held, took)| Some((held?, took))))
}

/// What was answered before a run: the check, how it was answered, in which words.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn checks_of(conn: &mut Conn, run: RunId) -> Result<Vec<(String, String, String)>, StoreError> {
    Ok(rc::table
        .filter(rc::run_id.eq(run.0))
        .order(rc::id)
        .select((rc::item, rc::answer, rc::words))
        .load(conn)?)
}

/// The run of a plate that is under way.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn running(conn: &mut Conn, plate: PlateId) -> Result<Option<Run>, StoreError> {
    runs::table
        .filter(runs::plate_id.eq(plate.0).and(runs::ended_at_ms.is_null()))
        .order(runs::id.desc())
        .select(RunRow::as_select())
        .maybe::<RunRow>(conn)
}

/// Of the runs somebody went on with after trouble: how many there were, and how many of them ended
/// badly.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn gone_on(conn: &mut Conn) -> Result<(u64, u64), StoreError> {
    let troubled = runs::table
        .inner_join(plates::table)
        .filter(runs::trouble.ne("").and(runs::ended_at_ms.is_not_null()));
    let all: i64 = troubled.count().get_result(conn)?;
    let bad: i64 = troubled
        .filter(plates::state.eq(PlateState::Lost.as_str()))
        .count()
        .get_result(conn)?;
    Ok((all.max(0) as u64, bad.max(0) as u64))
}
