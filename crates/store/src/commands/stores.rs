//! Resin is bought, poured, printed, lost, counted.

use diesel::prelude::*;
use wembrit_core::flow::Plate;
use wembrit_core::ids::{PrinterId, ResinId, RunId};
use wembrit_core::stores::{Books, Move, Place, Volume};
use wembrit_core::units::Money;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::stores as books;
use crate::queries::{last_id, new_uid, printers};
use crate::schema::{bottles as b, moves as m, vats as v};

/// Bottles that came.
#[derive(Debug, Clone, PartialEq)]
pub struct Bought {
    /// Of which resin.
    pub resin: ResinId,
    /// What each holds, ml.
    pub size_ml: f64,
    /// What was paid for each.
    pub price: Money,
    /// Until when they are good, ms since 1970.
    pub best_before_ms: Option<i64>,
    /// How many.
    pub bottles: u32,
}

/// Most bottles that come at once.
const MOST_BOTTLES: u32 = 100;
/// Largest bottle, ml.
const MOST_ML: f64 = 25_000.0;

/// What is said of a move beside it.
#[derive(Debug, Clone, Default)]
pub struct Said {
    /// Of which resin it is, where it comes from nowhere that knows.
    pub resin: Option<ResinId>,
    /// The run it belongs to.
    pub run: Option<RunId>,
    /// A note.
    pub note: String,
}

fn refused(why: impl ToString) -> StoreError {
    StoreError::Refused(why.to_string())
}

/// Bottles came.
///
/// # Errors
/// [`StoreError::Refused`] for none, or of no sensible size.
pub fn buy(conn: &mut Conn, what: &Bought, now_ms: i64) -> Result<(), StoreError> {
    if !(1..=MOST_BOTTLES).contains(&what.bottles) || !(1.0..=MOST_ML).contains(&what.size_ml) {
        return Err(refused(format!(
            "write 1 to {MOST_BOTTLES} bottles of 1 to {MOST_ML:.0} ml"
        )));
    }
    for _ in 0..what.bottles {
        let bottle = add_bottle(conn, what, now_ms)?;
        let came = Move {
            from: Place::Seller,
            to: bottle,
            volume: Volume::ml(what.size_ml).map_err(refused)?,
        };
        let said = Said {
            resin: Some(what.resin),
            ..Said::default()
        };
        make(conn, &came, &said, now_ms)?;
    }
    Ok(())
}

fn add_bottle(conn: &mut Conn, what: &Bought, now_ms: i64) -> Result<Place, StoreError> {
    diesel::insert_into(b::table)
        .values((
            b::uid.eq(new_uid()),
            b::resin_id.eq(what.resin.0),
            b::size_ml.eq(what.size_ml),
            b::price_minor.eq(what.price.0),
            b::came_at_ms.eq(now_ms),
            b::best_before_ms.eq(what.best_before_ms),
        ))
        .execute(conn)?;
    last_id(conn).map(Place::Bottle)
}

/// Resin goes from one place to another.
///
/// # Errors
/// [`StoreError::Refused`] where there is less, or where a vat or a bottle takes no more.
pub fn make(conn: &mut Conn, what: &Move, said: &Said, now_ms: i64) -> Result<(), StoreError> {
    let mut known = books::books(conn)?;
    known.make(what, said.resin).map_err(refused)?;
    fits(conn, &known, what.to)?;
    write(conn, what, said, now_ms)
}

/// A place holds no more than it is large.
fn fits(conn: &mut Conn, known: &Books, place: Place) -> Result<(), StoreError> {
    let (most, name) = match place {
        Place::Vat(printer) => {
            let known = printers::load(conn, printer)?;
            let limits = books::vat_limits(conn, &[known])?;
            (limits.get(&printer).map_or(f64::INFINITY, |l| l[1]), "vat")
        }
        Place::Bottle(id) => {
            let size: f64 = b::table.find(id).select(b::size_ml).first(conn)?;
            (size, "bottle")
        }
        _ => return Ok(()),
    };
    let held = known.held(place).in_ml();
    // A bottle is filled a little more than its label says.
    if held > most * 1.1 {
        return Err(refused(format!(
            "the {name} would hold {held:.0} ml, it takes {most:.0}"
        )));
    }
    Ok(())
}

/// A bottle or a vat was counted.
///
/// # Errors
/// [`StoreError::Refused`] where more is found of nobody knows what.
pub fn count(
    conn: &mut Conn,
    place: Place,
    holds: Volume,
    said: &Said,
    now_ms: i64,
) -> Result<(), StoreError> {
    let known = books::books(conn)?;
    let mut after = known.clone();
    after.count(place, holds, said.resin).map_err(refused)?;
    let off = holds - known.held(place);
    if off == Volume(0) {
        return Ok(());
    }
    let (from, to) = if off > Volume(0) {
        (Place::Counted, place)
    } else {
        (place, Place::Counted)
    };
    let resin = said.resin.or_else(|| {
        let content = known.content(place);
        content.into_iter().find(|(_, v)| v.0 > 0).map(|(r, _)| r)
    });
    let what = Move {
        from,
        to,
        volume: Volume(off.0.abs()),
    };
    let said = Said {
        resin,
        ..said.clone()
    };
    write(conn, &what, &said, now_ms)
}

fn write(conn: &mut Conn, what: &Move, said: &Said, now_ms: i64) -> Result<(), StoreError> {
    let end = |place: Place| {
        let (word, id) = place.word();
        match place {
            Place::Vat(_) => (word, None, id),
            _ => (word, id, None),
        }
    };
    let (from, to) = (end(what.from), end(what.to));
    let resin = said.resin.filter(|_| !what.from.holds());
    diesel::insert_into(m::table)
        .values((
            m::uid.eq(new_uid()),
            m::from_place.eq(from.0),
            m::from_bottle_id.eq(from.1),
            m::from_printer_id.eq(from.2),
            m::to_place.eq(to.0),
            m::to_bottle_id.eq(to.1),
            m::to_printer_id.eq(to.2),
            m::ul.eq(what.volume.0),
            m::resin_id.eq(resin.map(|r| r.0)),
            m::run_id.eq(said.run.map(|r| r.0)),
            m::note.eq(said.note.trim()),
            m::moved_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// A vat is strained back into a bottle of what is in it, a new one where none has room; what it holds is
/// no longer in the vat.
///
/// # Errors
/// [`StoreError::Refused`] where the books know of nothing in it.
pub fn strain_back(conn: &mut Conn, printer: PrinterId, now_ms: i64) -> Result<(), StoreError> {
    let known = books::books(conn)?;
    let vat = Place::Vat(printer);
    let volume = known.held(vat);
    let content = known.content(vat);
    let most = content.iter().max_by_key(|(_, v)| **v);
    let Some((resin, _)) = most.filter(|_| volume > Volume(0)) else {
        return Err(refused(
            "the books know of nothing in this vat: count it first",
        ));
    };
    // What is mixed goes into a bottle of its own.
    let alone = content.values().filter(|v| v.0 > 0).count() == 1;
    let all = books::bottles(conn)?;
    let room = all.iter().find(|bottle| {
        let place = Place::Bottle(bottle.id);
        let held = known.held(place);
        let same = known
            .content(place)
            .iter()
            .all(|(r, v)| v.0 == 0 || r == resin);
        alone && bottle.resin == *resin && same && (held + volume).in_ml() <= bottle.size_ml
    });
    let to = match room {
        Some(bottle) => Place::Bottle(bottle.id),
        None => {
            let own = Bought {
                resin: *resin,
                size_ml: volume.in_ml().ceil().max(1.0),
                price: Money(0),
                best_before_ms: None,
                bottles: 1,
            };
            add_bottle(conn, &own, now_ms)?
        }
    };
    let what = Move {
        from: vat,
        to,
        volume,
    };
    let said = Said {
        note: "strained back".into(),
        ..Said::default()
    };
    make(conn, &what, &said, now_ms)
}

/// A plate was printed, or that share of it: what it takes leaves its vat, where the books know what is in there. A vat that is
/// said to hold less held more after all: the print is there.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn printed(
    conn: &mut Conn,
    plate: &Plate,
    share: f64,
    run: Option<RunId>,
    now_ms: i64,
) -> Result<(), StoreError> {
    let vat = Place::Vat(plate.printer);
    let held = books::books(conn)?.held(vat);
    let took = Volume::ml(plate.resin_ml * share).map_err(refused)?;
    if held == Volume(0) || took == Volume(0) {
        return Ok(());
    }
    let said = Said {
        run,
        ..Said::default()
    };
    if held < took {
        count(conn, vat, took, &said, now_ms)?;
    }
    let what = Move {
        from: vat,
        to: Place::Printed,
        volume: took,
    };
    make(conn, &what, &said, now_ms)
}

/// The least and the most that a vat holds.
///
/// # Errors
/// [`StoreError::Refused`] for no sensible figures.
pub fn limit_vat(
    conn: &mut Conn,
    printer: PrinterId,
    [least_ml, most_ml]: [f64; 2],
) -> Result<(), StoreError> {
    let sensible = (0.0..=20_000.0).contains(&least_ml) && (1.0..=20_000.0).contains(&most_ml);
    if !sensible || least_ml >= most_ml {
        return Err(refused(
            "write what the vat holds at least, and more than that at most",
        ));
    }
    diesel::insert_into(v::table)
        .values((
            v::printer_id.eq(printer.0),
            v::least_ml.eq(least_ml),
            v::most_ml.eq(most_ml),
        ))
        .on_conflict(v::printer_id)
        .do_update()
        .set((v::least_ml.eq(least_ml), v::most_ml.eq(most_ml)))
        .execute(conn)?;
    Ok(())
}
