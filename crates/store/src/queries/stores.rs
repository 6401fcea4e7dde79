//! The books of resin: bottles, vats, and what every place holds.

use std::collections::BTreeMap;

use diesel::dsl::sql;
use diesel::prelude::*;
use diesel::sql_types::BigInt;
use wembrit_core::ids::{PrinterId, ResinId};
use wembrit_core::stores::{Books, Bottle, Move, Place, Volume};
use wembrit_core::today::StandingVat;
use wembrit_core::units::Money;
use wembrit_core::workshop::Printer;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{bottles as b, moves as m, vats as v};

/// Every bottle that ever came, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn bottles(conn: &mut Conn) -> Result<Vec<Bottle>, StoreError> {
    type Row = (i64, i64, f64, i64, i64, Option<i64>, Option<f64>);
    let rows: Vec<Row> = b::table
        .order(b::id)
        .select((
            b::id,
            b::resin_id,
            b::size_ml,
            b::price_minor,
            b::came_at_ms,
            b::best_before_ms,
            b::empty_g,
        ))
        .load(conn)?;
    let bottle = |(id, resin, size_ml, price, came_at_ms, best_before_ms, empty_g): Row| Bottle {
        id,
        empty_g,
        resin: ResinId(resin),
        size_ml,
        price: Money(price),
        came_at_ms,
        best_before_ms,
    };
    Ok(rows.into_iter().map(bottle).collect())
}

/// The least and the most that the vat of each printer holds, ml; what is usual where nobody said.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn vat_limits(
    conn: &mut Conn,
    printers: &[Printer],
) -> Result<BTreeMap<PrinterId, [f64; 2]>, StoreError> {
    let rows: Vec<(i64, f64, f64)> = v::table
        .select((v::printer_id, v::least_ml, v::most_ml))
        .load(conn)?;
    let mut all: BTreeMap<PrinterId, [f64; 2]> =
        printers.iter().map(|p| (p.id, p.usual_vat_ml())).collect();
    for (printer, least, most) in rows {
        all.insert(PrinterId(printer), [least, most]);
    }
    Ok(all)
}

/// A move as it stands in the books.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// What was moved.
    pub what: Move,
    /// Of which resin, where that had to be said.
    pub resin: Option<ResinId>,
    /// Anything that was said of it.
    pub note: String,
    /// Why it was lost, where it was written off.
    pub cause: String,
    /// When, ms since 1970.
    pub at_ms: i64,
}

/// When something was first taken out of each bottle, ms since 1970.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn opened(conn: &mut Conn) -> Result<BTreeMap<i64, i64>, StoreError> {
    let rows: Vec<(Option<i64>, Option<i64>)> = m::table
        .filter(m::from_bottle_id.is_not_null())
        .group_by(m::from_bottle_id)
        .select((m::from_bottle_id, diesel::dsl::min(m::moved_at_ms)))
        .load(conn)?;
    Ok(rows.into_iter().filter_map(|(b, at)| b.zip(at)).collect())
}

/// Why vats were written off, and how much for each cause.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn written_off(conn: &mut Conn) -> Result<Vec<(String, Volume)>, StoreError> {
    let sum = sql::<BigInt>("sum(ul)");
    let rows: Vec<(String, i64)> = m::table
        .filter(m::cause.ne(""))
        .group_by(m::cause)
        .select((m::cause, sum))
        .order(sql::<BigInt>("2").desc())
        .load(conn)?;
    let all = rows.into_iter();
    Ok(all.map(|(cause, ul)| (cause, Volume(ul))).collect())
}

/// Every move, oldest first.
///
/// # Errors
/// [`StoreError::BadRow`] for a place nobody knows.
pub fn entries(conn: &mut Conn) -> Result<Vec<Entry>, StoreError> {
    type End = (String, Option<i64>, Option<i64>);
    type Row = (End, End, i64, Option<i64>, String, i64, String);
    let rows: Vec<Row> = m::table
        .order(m::id)
        .select((
            (m::from_place, m::from_bottle_id, m::from_printer_id),
            (m::to_place, m::to_bottle_id, m::to_printer_id),
            m::ul,
            m::resin_id,
            m::note,
            m::moved_at_ms,
            m::cause,
        ))
        .load(conn)?;
    let place = |(word, bottle, printer): End| {
        Place::read(&word, bottle.or(printer))
            .ok_or_else(|| StoreError::BadRow(format!("no place is called {word}")))
    };
    let entry = |(from, to, ul, resin, note, at_ms, cause): Row| {
        Ok(Entry {
            what: Move {
                from: place(from)?,
                to: place(to)?,
                volume: Volume(ul),
            },
            resin: resin.map(ResinId),
            note,
            cause,
            at_ms,
        })
    };
    rows.into_iter().map(entry).collect()
}

/// When something was last poured into each vat or out of it, ms since 1970, with the resin in it;
/// nothing of vats that the books know to be empty.
///
/// # Errors
/// [`StoreError::BadRow`] where a move cannot have been.
pub fn vats_touched(
    conn: &mut Conn,
) -> Result<BTreeMap<PrinterId, Option<StandingVat>>, StoreError> {
    let mut touched: BTreeMap<PrinterId, i64> = BTreeMap::new();
    let entries = entries(conn)?;
    for entry in &entries {
        for place in [entry.what.from, entry.what.to] {
            if let Place::Vat(printer) = place {
                touched.insert(printer, entry.at_ms);
            }
        }
    }
    let books = books_of(&entries)?;
    let stands = |printer, at| {
        let vat = Place::Vat(printer);
        books.stands_in(vat).then(|| StandingVat {
            since_ms: at,
            resin: books.resin_in(vat),
        })
    };
    Ok(touched
        .into_iter()
        .map(|(printer, at)| (printer, stands(printer, at)))
        .collect())
}

/// Since when the mix in a vat is what it is: resin was last poured into it then, and more than one is in
/// it. Nothing where there is no mix.
///
/// # Errors
/// [`StoreError::BadRow`] where a move cannot have been.
pub fn mixed_since(conn: &mut Conn, printer: PrinterId) -> Result<Option<i64>, StoreError> {
    let vat = Place::Vat(printer);
    let entries = entries(conn)?;
    if !books_of(&entries)?.is_mixed(vat) {
        return Ok(None);
    }
    // A level that is corrected changes nothing in the mix.
    let poured = |e: &&Entry| e.what.to == vat && e.what.from != Place::Counted;
    let into = entries.iter().rev().find(poured);
    Ok(into.map(|e| e.at_ms))
}

/// What every place holds.
///
/// # Errors
/// [`StoreError::BadRow`] where a move cannot have been.
pub fn books(conn: &mut Conn) -> Result<Books, StoreError> {
    books_of(&entries(conn)?)
}

/// What every place holds after these moves.
///
/// # Errors
/// [`StoreError::BadRow`] where a move cannot have been.
pub fn books_of(entries: &[Entry]) -> Result<Books, StoreError> {
    let mut books = Books::default();
    for entry in entries {
        let made = books.make(&entry.what, entry.resin);
        made.map_err(|why| StoreError::BadRow(why.to_string()))?;
    }
    Ok(books)
}
