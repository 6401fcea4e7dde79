//! What happens to a vat: it is filled, printed from, strained back, written off.

use diesel::prelude::*;
use wembrit_core::flow::Plate;
use wembrit_core::ids::{PrinterId, ResinId, RunId};
use wembrit_core::stores::{Bottle, Lost, Move, Place, Volume, sheet_ml};
use wembrit_core::units::Money;

use super::stores::{Bought, Said, add_bottle, done, found, has_room, make, refused};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::printers;
use crate::queries::stores as books;
use crate::schema::vats as v;

/// A vat is strained back into a bottle of what is in it, a new one where none has room. What clings to vat
/// and strainer is lost.
///
/// # Errors
/// [`StoreError::Refused`] where the books know of nothing in it.
pub fn strain_back(conn: &mut Conn, printer: PrinterId, now_ms: i64) -> Result<(), StoreError> {
    let known = books::books(conn)?;
    let vat = Place::Vat(printer);
    let held = known.held(vat);
    let Some(resin) = known.resin_in(vat) else {
        return Err(nothing_in_it());
    };
    let clings = Volume::ml(printers::load(conn, printer)?.change_ml).map_err(refused)?;
    let clings = clings.min(held);
    let volume = held - clings;
    let said = Said {
        note: "strained back".into(),
        ..Said::default()
    };
    if clings > Volume(0) {
        let what = Move {
            from: vat,
            to: Place::Gone(Lost::Changed),
            volume: clings,
        };
        make(conn, &what, &said, now_ms)?;
    }
    if volume == Volume(0) {
        return Ok(());
    }
    // What is mixed goes into a bottle of its own.
    let alone = |place| {
        let content = known.content(place);
        content.iter().all(|(r, v)| v.0 == 0 || *r == resin)
    };
    let all = books::bottles(conn)?;
    let room = all.iter().find(|bottle| {
        let place = Place::Bottle(bottle.id);
        let holds = (known.held(place) + volume).in_ml();
        bottle.resin == resin && alone(vat) && alone(place) && holds <= bottle.size_ml
    });
    let to = match room {
        Some(bottle) => Place::Bottle(bottle.id),
        None => {
            let own = Bought {
                resin,
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
    make(conn, &what, &said, now_ms)
}

fn nothing_in_it() -> StoreError {
    refused("the books know of nothing in this vat: count it first")
}

/// All that is in a vat is no good any more: it is lost for a cause, and charged to a run where it was one.
///
/// # Errors
/// [`StoreError::Refused`] without a cause, or where the books know of nothing in it.
pub fn write_off(
    conn: &mut Conn,
    printer: PrinterId,
    cause: &str,
    run: Option<RunId>,
    now_ms: i64,
) -> Result<(), StoreError> {
    if cause.trim().is_empty() {
        return Err(refused("say in a word why it is written off"));
    }
    let from = Place::Vat(printer);
    let volume = books::books(conn)?.held(from);
    if volume == Volume(0) {
        return Err(nothing_in_it());
    }
    let what = Move {
        from,
        to: Place::Gone(Lost::WrittenOff),
        volume,
    };
    let said = Said {
        run,
        cause: cause.to_owned(),
        ..Said::default()
    };
    make(conn, &what, &said, now_ms)
}

/// A sheet was cured over the whole film of a printer and thrown away.
///
/// # Errors
/// [`StoreError::Refused`] for no sensible thickness, or where the vat holds less.
pub fn cure_sheet(
    conn: &mut Conn,
    printer: PrinterId,
    thickness_mm: f64,
    now_ms: i64,
) -> Result<(), StoreError> {
    if !(0.05..=5.0).contains(&thickness_mm) {
        return Err(refused("write how thick the sheet is, from 0.05 to 5 mm"));
    }
    let of = printers::load(conn, printer)?;
    let ml = sheet_ml(of.width_mm * of.depth_mm, thickness_mm);
    let what = Move {
        from: Place::Vat(printer),
        to: Place::Gone(Lost::Sheet),
        volume: Volume::ml(ml).map_err(refused)?,
    };
    let said = Said {
        note: format!("{thickness_mm} mm"),
        ..Said::default()
    };
    make(conn, &what, &said, now_ms)
}

/// A vat holds so much of a resin before a run. Another one that was in it is strained back; what is more than
/// the books say was poured from bottles of it, those that are open first, as far as they go, and is found for
/// the rest.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn filled(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
    holds: Volume,
    run: RunId,
    now_ms: i64,
) -> Result<(), StoreError> {
    let vat = Place::Vat(printer);
    let inside = books::books(conn)?.resin_in(vat);
    if inside.is_some_and(|r| r != resin) {
        strain_back(conn, printer, now_ms)?;
    }
    let held = books::books(conn)?.held(vat);
    let said = Said {
        resin: Some(resin),
        run: Some(run),
        ..Said::default()
    };
    pour(conn, printer, resin, holds - held, &said, now_ms)?;
    found(conn, vat, holds, &said, now_ms)
}

/// A vat was filled up by so much while it was printed from.
///
/// # Errors
/// [`StoreError::Refused`] where it takes no more.
pub fn filled_up(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
    by: Volume,
    run: RunId,
    now_ms: i64,
) -> Result<(), StoreError> {
    let vat = Place::Vat(printer);
    let held = books::books(conn)?.held(vat);
    let said = Said {
        resin: Some(resin),
        run: Some(run),
        note: "filled up".into(),
        ..Said::default()
    };
    has_room(conn, vat, held + by)?;
    pour(conn, printer, resin, by, &said, now_ms)?;
    found(conn, vat, held + by, &said, now_ms)
}

/// Pours from bottles of a resin, those that are open first, as far as they go.
fn pour(
    conn: &mut Conn,
    printer: PrinterId,
    resin: ResinId,
    volume: Volume,
    said: &Said,
    now_ms: i64,
) -> Result<(), StoreError> {
    let known = books::books(conn)?;
    let bottles = Bottle::open_first(&known, &books::bottles(conn)?, resin);
    let mut rest = volume;
    for (bottle, held) in bottles {
        let some = rest.min(held);
        if some <= Volume(0) {
            break;
        }
        let what = Move {
            from: Place::Bottle(bottle.id),
            to: Place::Vat(printer),
            volume: some,
        };
        done(conn, &what, said, now_ms)?;
        rest -= some;
    }
    Ok(())
}

/// A plate was printed, or that share of it: what it takes leaves its vat, where the books know what is in
/// there, each part to where it goes. A vat that is said to hold less held more after all: the print is there.
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
    let goes = plate.goes.share(share);
    let took = Volume::ml(goes.ml()).map_err(refused)?;
    if held == Volume(0) || took == Volume(0) {
        return Ok(());
    }
    let said = Said {
        run,
        ..Said::default()
    };
    if held < took {
        found(conn, vat, took, &said, now_ms)?;
    }
    let film = Volume::ml(goes.film_ml).map_err(refused)?;
    // Of plates planned before it was kept apart, what is lost besides is most of them: it was printed.
    let waste = if goes.is_split() { goes.waste_ml } else { 0.0 };
    let waste = Volume::ml(waste).map_err(refused)?;
    let parts = [
        (Place::Printed, took - film - waste),
        (Place::Gone(Lost::Washed), film),
        (Place::Gone(Lost::Tools), waste),
    ];
    for (to, volume) in parts.into_iter().filter(|(_, v)| v.0 > 0) {
        let what = Move {
            from: vat,
            to,
            volume,
        };
        make(conn, &what, &said, now_ms)?;
    }
    Ok(())
}

/// The least and the most that a vat holds.
///
/// # Errors
/// [`StoreError::Refused`] for no sensible figures.
pub fn limit(
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
