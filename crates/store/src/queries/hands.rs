//! How long hands were on plates.

use std::collections::BTreeMap;

use diesel::prelude::*;
use wembrit_core::flow::PlateCopy;
use wembrit_core::ids::PlateId;
use wembrit_core::learn::{Hands, HandsSpent};

use super::{plates, prepared_parts, workshop};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{hand_spells as hs, plates as p};

/// Plates that are looked at: more make it no better, and hands learn.
const NEWEST: usize = 60;

/// A spell of hands on a plate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HandSpell {
    /// When it began, ms since 1970.
    pub began_at_ms: i64,
    /// How long it was; nothing while it is under way.
    pub minutes: Option<f64>,
}

/// A plate on which hands were timed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TimedHands {
    /// Which one.
    pub plate: PlateId,
    /// Its number in the project.
    pub number: i64,
    /// What was spent on it.
    pub spent: HandsSpent,
}

/// The spells on a plate, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn spells(conn: &mut Conn, plate: PlateId) -> Result<Vec<HandSpell>, StoreError> {
    let rows: Vec<(i64, Option<f64>)> = hs::table
        .filter(hs::plate_id.eq(plate.0))
        .order((hs::began_at_ms, hs::id))
        .select((hs::began_at_ms, hs::minutes))
        .load(conn)?;
    let spell = |(began_at_ms, minutes)| HandSpell {
        began_at_ms,
        minutes,
    };
    Ok(rows.into_iter().map(spell).collect())
}

/// Copies and contacts on some plates.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn shapes(
    conn: &mut Conn,
    of: &[PlateId],
) -> Result<BTreeMap<PlateId, (f64, f64)>, StoreError> {
    let on = plates::copies_on(conn, of)?;
    let of = on.values().flatten().map(|c| (c.sculpt, c.recipe_version));
    let held = prepared_parts::held(conn, of)?;
    let shape = |copies: &Vec<PlateCopy>| {
        let of = |c: &PlateCopy| held.get(&(c.sculpt, c.recipe_version));
        let sum: f64 = copies.iter().filter_map(of).map(|(n, _)| *n as f64).sum();
        (copies.len() as f64, sum)
    };
    Ok(on
        .iter()
        .map(|(plate, copies)| (*plate, shape(copies)))
        .collect())
}

/// Every plate on which hands were timed and are done, oldest first.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn log(conn: &mut Conn) -> Result<Vec<TimedHands>, StoreError> {
    let rows: Vec<(i64, i64, Option<f64>)> = hs::table
        .inner_join(p::table)
        .order((hs::began_at_ms.desc(), hs::id.desc()))
        .select((p::id, p::number, hs::minutes))
        .load(conn)?;
    let mut all: Vec<(PlateId, i64, Option<f64>)> = Vec::new();
    for (plate, number, minutes) in rows {
        let plate = PlateId(plate);
        match all.iter_mut().find(|(known, _, _)| *known == plate) {
            // While one is under way the plate is not done with.
            Some((_, _, sum)) => *sum = sum.zip(minutes).map(|(a, b)| a + b),
            None => all.push((plate, number, minutes)),
        }
    }
    all.truncate(NEWEST);
    let of: Vec<PlateId> = all.iter().map(|(plate, _, _)| *plate).collect();
    let shapes = shapes(conn, &of)?;
    let timed = |(plate, number, minutes): &(PlateId, i64, Option<f64>)| {
        let (copies, contacts) = *shapes.get(plate)?;
        Some(TimedHands {
            plate: *plate,
            number: *number,
            spent: HandsSpent {
                copies,
                contacts,
                minutes: (*minutes)?,
            },
        })
    };
    Ok(all.iter().rev().filter_map(timed).collect())
}

/// What hands take in this workshop.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn learned(conn: &mut Conn) -> Result<Hands, StoreError> {
    let spent: Vec<HandsSpent> = log(conn)?.iter().map(|t| t.spent).collect();
    let rates = workshop::load(conn)?.rates;
    Ok(Hands::learned(rates.minutes(Hands::USUAL_PLATE), &spent))
}
