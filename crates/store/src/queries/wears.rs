//! What wears: what is in use, what ran since, and for which plates it lasts.

use diesel::prelude::*;
use wembrit_core::finishing::{Step, StepState};
use wembrit_core::flow::{Plate, RunOutcome};
use wembrit_core::ids::PrinterId;
use wembrit_core::stores::{Used, Wear, Wearing, Worn};

use super::printers;
use super::put_in;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::schema::{batch_steps as bs, plates, print_times as pt, runs};

/// Everything that ran, or stood under the lamp.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn log(conn: &mut Conn) -> Result<Vec<Wearing>, StoreError> {
    type Row = (i64, Option<i64>, Option<i64>, i64, f64, f64, Option<f64>);
    let back = RunOutcome::PutBack.as_str();
    let rows: Vec<Row> = runs::table
        .inner_join(plates::table)
        .left_join(pt::table)
        .filter(runs::ended_at_ms.is_not_null())
        .filter(runs::outcome.is_null().or(runs::outcome.ne(back)))
        .select((
            plates::printer_id,
            runs::ended_at_ms,
            runs::stopped_at_layer,
            plates::layers,
            plates::seconds,
            plates::film_ml,
            pt::printed_s.nullable(),
        ))
        .load(conn)?;
    let ran = |(printer, ended, stopped, layers, seconds, film_ml, printed): Row| {
        let share = stopped.map_or(1.0, |n| n as f64 / layers.max(1) as f64);
        Wearing {
            printer: Some(PrinterId(printer)),
            at_ms: ended.unwrap_or_default(),
            used: Used {
                layers: stopped.unwrap_or(layers) as f64,
                prints: 1.0,
                hours: printed.unwrap_or(seconds * share) / 3600.0,
                drained_ml: film_ml * share,
                cured_h: 0.0,
            },
        }
    };
    let cured: Vec<(f64, Option<i64>, Option<i64>)> = bs::table
        .filter(bs::step.eq(Step::Cure.as_str()))
        .filter(bs::state.eq(StepState::Done.as_str()))
        .select((bs::minutes, bs::began_at_ms, bs::ends_at_ms))
        .load(conn)?;
    let cure = |(minutes, began, ends): (f64, Option<i64>, Option<i64>)| Wearing {
        printer: None,
        at_ms: ends.or(began).unwrap_or_default(),
        used: Used {
            cured_h: minutes / 60.0,
            ..Used::default()
        },
    };
    let runs = rows.into_iter().map(ran);
    Ok(runs.chain(cured.into_iter().map(cure)).collect())
}

/// Everything that is in use.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn now_in_use(conn: &mut Conn) -> Result<Vec<Wear>, StoreError> {
    let printers: Vec<PrinterId> = printers::list(conn)?.iter().map(|p| p.id).collect();
    Ok(Wear::in_use(&put_in::load(conn)?, &printers))
}

/// How worn everything in use is, and for which of these plates it lasts, in their order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn state(conn: &mut Conn, plates: &[&Plate]) -> Result<Vec<Worn>, StoreError> {
    let takes = |p: &&Plate| (p.id, Some(p.printer), Used::of(p));
    let waiting: Vec<_> = plates.iter().map(takes).collect();
    Ok(Worn::all(&now_in_use(conn)?, &log(conn)?, &waiting))
}
