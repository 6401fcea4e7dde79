//! Prints are put on the scale.

use diesel::prelude::*;
use wembrit_core::ids::{PartId, PlateId};
use wembrit_core::stores::{OnScale, WeightSays, judge_weight, reckoned_g};

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::new_uid;
use crate::queries::pages::weighing;
use crate::schema::weighings as w;

/// What was put on the scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OnTheScale {
    /// Copies of one part; nothing for all that came off the plate.
    pub part: Option<PartId>,
    /// How many copies of it.
    pub copies: u64,
    /// How far they were finished.
    pub state: OnScale,
    /// What they weighed, g.
    pub grams: f64,
    /// Somebody has looked again: it weighs that, however far off it is.
    pub sure: bool,
}

/// Heaviest that a scale on a bench takes, g.
const MOST_G: f64 = 50_000.0;

/// Writes down what prints of a plate weighed, and tells what that says of them. What is far off is not written
/// down, and nothing learned from it, before somebody has looked again.
///
/// # Errors
/// [`StoreError::Refused`] for a plate that was not printed, more copies than are on it, or no weight.
pub fn weigh(
    conn: &mut Conn,
    plate: PlateId,
    what: &OnTheScale,
    now_ms: i64,
) -> Result<WeightSays, StoreError> {
    let refused = |why: &str| Err(StoreError::Refused(why.to_owned()));
    let of = weighing::load(conn, plate)?;
    if !of.can_be_weighed() {
        return refused("only what was printed to its end is weighed");
    }
    if !(0.01..=MOST_G).contains(&what.grams) {
        return refused("write what it weighs, from 0.01 to 50000 g");
    }
    let on_it = &of.on_it;
    let there = on_it.copies(what.part);
    let copies = if what.part.is_some() {
        what.copies
    } else {
        there
    };
    if !(1..=there).contains(&copies) {
        return refused(&format!(
            "there are {there} copies of that part on the plate"
        ));
    }
    let facts = of.resin.facts;
    let body = on_it.body(what.part, copies);
    let reckoned = body.map_or(0.0, |b| reckoned_g(&b, what.state, &facts));
    if reckoned <= 0.0 {
        return refused("its volume is not known: wait until it is measured");
    }
    let hollow_ml = on_it.hollow_ml(what.part, copies);
    let says = judge_weight(reckoned, what.grams, hollow_ml, &facts);
    let liquid_ml = match says {
        WeightSays::Liquid(ml) => Some(ml),
        WeightSays::Far(_) if !what.sure => return Ok(says),
        WeightSays::AsExpected | WeightSays::Far(_) => None,
    };
    diesel::insert_into(w::table)
        .values((
            w::uid.eq(new_uid()),
            w::plate_id.eq(plate.0),
            w::resin_id.eq(of.plate.resin.0),
            w::part_id.eq(what.part.map(|p| p.0)),
            w::state.eq(what.state.as_str()),
            w::copies.eq(i64::try_from(copies).unwrap_or(i64::MAX)),
            w::reckoned_g.eq(reckoned),
            w::weighed_g.eq(what.grams),
            w::liquid_ml.eq(liquid_ml),
            w::weighed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(says)
}

/// Forgets a weight that was written down wrongly.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn forget(conn: &mut Conn, plate: PlateId, id: i64) -> Result<(), StoreError> {
    let row = w::table.filter(w::id.eq(id).and(w::plate_id.eq(plate.0)));
    match diesel::delete(row).execute(conn)? {
        0 => Err(StoreError::NotFound { what: "weight" }),
        _ => Ok(()),
    }
}
