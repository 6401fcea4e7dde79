//! What wears is replaced.

use diesel::prelude::*;
use wembrit_core::ids::PrinterId;
use wembrit_core::stores::{Wear, WearKind};

use super::exposures::{self, Changed};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{new_uid, printers, put_in};
use crate::schema::wears as w;

fn add(conn: &mut Conn, wear: &Wear, since_ms: i64) -> Result<(), StoreError> {
    let sensible = |n: f64| (0.1..=10_000_000.0).contains(&n);
    let refused = |why: String| Err(StoreError::Refused(why));
    if !sensible(wear.life) || !sensible(wear.second) {
        let [life, second] = wear.kind.figures();
        return refused(match second {
            "" => format!("write how many {life} the {} lasts", wear.kind),
            _ => format!("write {life} and {second} of the {}", wear.kind),
        });
    }
    if wear.kind.of_a_printer() != wear.printer.is_some() {
        return refused(format!("say of which printer the {} is", wear.kind));
    }
    if let Some(printer) = wear.printer {
        printers::load(conn, printer)?;
    }
    diesel::insert_into(w::table)
        .values((
            w::uid.eq(new_uid()),
            w::kind.eq(wear.kind.as_str()),
            w::printer_id.eq(wear.printer.map(|p| p.0)),
            w::life.eq(wear.life),
            w::second.eq(wear.second),
            w::since_ms.eq(since_ms),
            w::price_minor.eq(wear.price.0),
        ))
        .execute(conn)?;
    Ok(())
}

/// A new one was put in. After a film or a screen exposures are to be tested again.
///
/// # Errors
/// [`StoreError::Refused`] for figures that cannot be, or the wrong printer.
pub fn replace(conn: &mut Conn, wear: &Wear, now_ms: i64) -> Result<(), StoreError> {
    add(conn, wear, now_ms)?;
    match (wear.kind, wear.printer) {
        (WearKind::Film, Some(printer)) => exposures::changed(conn, Changed::Film(printer), now_ms),
        (WearKind::Screen, Some(printer)) => {
            exposures::changed(conn, Changed::Screen(printer), now_ms)
        }
        _ => Ok(()),
    }
}

/// A film or a screen was changed where only that was said: it is as long-lived as the one before.
///
/// # Errors
/// As [`replace`].
pub fn renew(
    conn: &mut Conn,
    kind: WearKind,
    printer: PrinterId,
    now_ms: i64,
) -> Result<(), StoreError> {
    let known = put_in::load(conn)?;
    let of = |w: &Wear| w.kind == kind && w.printer == Some(printer);
    let usual = Wear::usual(kind, Some(printer));
    replace(
        conn,
        &known.into_iter().rev().find(of).unwrap_or(usual),
        now_ms,
    )
}

/// How long one lasts is said anew; it is no newer for that.
///
/// # Errors
/// As [`replace`].
pub fn set_life(conn: &mut Conn, wear: &Wear) -> Result<(), StoreError> {
    add(conn, wear, wear.since_ms.unwrap_or(0))
}
