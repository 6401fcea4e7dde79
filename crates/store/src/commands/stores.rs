//! Resin is bought, moved, counted, weighed in its bottle.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::ids::{ResinId, RunId};
use wembrit_core::stores::{Books, Move, Place, Volume, mixed_by_volume};
use wembrit_core::units::Money;
use wembrit_core::workshop::resin::ResinFacts;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::stores as books;
use crate::queries::{last_id, new_uid, printers, resins};
use crate::schema::{bottles as b, moves as m};

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
    /// Why it was lost, where it was written off.
    pub cause: String,
}

pub(super) fn refused(why: impl ToString) -> StoreError {
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

pub(super) fn add_bottle(conn: &mut Conn, what: &Bought, now_ms: i64) -> Result<Place, StoreError> {
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

/// The same where it was weighed, g: by the density of what is in there.
///
/// # Errors
/// As [`make`]; [`StoreError::Refused`] where nothing is in there.
pub fn make_by_mass(
    conn: &mut Conn,
    (from, to): (Place, Place),
    grams: f64,
    said: &Said,
    now_ms: i64,
) -> Result<(), StoreError> {
    let content = books::books(conn)?.content(from);
    let density = density_in(&content, |id| resins::load(conn, id).map(|r| r.facts))?;
    let density = density.ok_or_else(|| refused("the books know of nothing in it"))?;
    let what = Move {
        from,
        to,
        volume: Volume::ml(grams / density).map_err(refused)?,
    };
    let note = format!("{grams} g {}", said.note);
    let said = Said {
        note,
        ..said.clone()
    };
    make(conn, &what, &said, now_ms)
}

/// Somebody has done that already: it went in, whatever a vat is thought to take.
pub(super) fn done(
    conn: &mut Conn,
    what: &Move,
    said: &Said,
    now_ms: i64,
) -> Result<(), StoreError> {
    books::books(conn)?
        .make(what, said.resin)
        .map_err(refused)?;
    write(conn, what, said, now_ms)
}

/// A place holds no more than it is large.
fn fits(conn: &mut Conn, known: &Books, place: Place) -> Result<(), StoreError> {
    has_room(conn, place, known.held(place))
}

/// Refuses what is to be in a place where that is more than it takes.
///
/// # Errors
/// [`StoreError::Refused`] with what it takes.
pub(super) fn has_room(conn: &mut Conn, place: Place, holds: Volume) -> Result<(), StoreError> {
    let (most, name, then) = match place {
        Place::Vat(printer) => {
            let known = printers::load(conn, printer)?;
            let limits = books::vat_limits(conn, &[known])?;
            let most = limits.get(&printer).map_or(f64::INFINITY, |l| l[1]);
            (most, "vat", ", or set another limit for this vat in Stores")
        }
        Place::Bottle(id) => {
            let size: f64 = b::table.find(id).select(b::size_ml).first(conn)?;
            (size, "bottle", "")
        }
        _ => return Ok(()),
    };
    // A bottle is filled a little more than its label says, a vat more than its mark.
    let held = holds.in_ml();
    if held > most * 1.1 {
        return Err(refused(format!(
            "the {name} would hold {held:.0} ml, and it takes {most:.0} ml: correct the amount{then}"
        )));
    }
    Ok(())
}

/// Somebody says what is in a bottle or a vat.
///
/// # Errors
/// [`StoreError::Refused`] where more is found of nobody knows what, or more than it takes.
pub fn count(
    conn: &mut Conn,
    place: Place,
    holds: Volume,
    said: &Said,
    now_ms: i64,
) -> Result<(), StoreError> {
    has_room(conn, place, holds)?;
    found(conn, place, holds, said, now_ms)
}

/// So much is in a bottle or a vat, whatever it is thought to take: a machine says so, or a print came from it.
///
/// # Errors
/// [`StoreError::Refused`] where more is found of nobody knows what.
pub(super) fn found(
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

/// Words as they are kept: no novel stands beside a move.
fn short(words: &str) -> String {
    words.trim().chars().take(200).collect()
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
            m::note.eq(short(&said.note)),
            m::moved_at_ms.eq(now_ms),
            m::cause.eq(short(&said.cause)),
        ))
        .execute(conn)?;
    Ok(())
}

/// A bottle was put on the scale: what it holds is counted by that, and by what it weighs empty.
///
/// # Errors
/// [`StoreError::Refused`] where it weighs less than empty, or more than it could.
pub fn weigh_bottle(
    conn: &mut Conn,
    id: i64,
    grams: f64,
    empty_g: f64,
    now_ms: i64,
) -> Result<(), StoreError> {
    let bottle = books::bottles(conn)?.into_iter().find(|b| b.id == id);
    let bottle = bottle.ok_or_else(|| refused("that bottle is not there: load the page again"))?;
    let place = Place::Bottle(id);
    let content = books::books(conn)?.content(place);
    // Of what it was bought as, where it is empty.
    let density = match density_in(&content, |id| resins::load(conn, id).map(|r| r.facts))? {
        Some(density) => density,
        None => resins::load(conn, bottle.resin)?.facts.density_g_per_ml,
    };
    let ml = bottle
        .weighed_ml(grams, empty_g, density)
        .map_err(refused)?;
    diesel::update(b::table.find(id))
        .set(b::empty_g.eq(empty_g))
        .execute(conn)?;
    let said = Said {
        resin: Some(bottle.resin),
        note: format!("weighed, {grams:.0} g"),
        ..Said::default()
    };
    count(conn, place, Volume::ml(ml).map_err(refused)?, &said, now_ms)
}

/// Density of what is in a place, g/ml; nothing where that is empty.
fn density_in(
    content: &BTreeMap<ResinId, Volume>,
    mut facts: impl FnMut(ResinId) -> Result<ResinFacts, StoreError>,
) -> Result<Option<f64>, StoreError> {
    let mut parts = Vec::new();
    for (resin, volume) in content.iter().filter(|(_, v)| v.0 > 0) {
        parts.push((volume.in_ml(), facts(*resin)?));
    }
    Ok(mixed_by_volume(&parts).map(|mixed| mixed.density_g_per_ml))
}
