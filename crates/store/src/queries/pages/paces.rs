//! How long a printer takes, by its runs.

use diesel::prelude::*;
use wembrit_core::flow::RunOutcome;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::learn::TimedPlate;
use wembrit_core::workshop::Printer;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{paces, printers};
use crate::schema::{plates, print_times, runs};

/// A plate that was printed to its end.
#[derive(Debug, Clone, PartialEq)]
pub struct PrintedPlate {
    /// Which one.
    pub id: PlateId,
    /// Its number in the project.
    pub number: i64,
    /// When its run began, ms since 1970.
    pub started_at_ms: i64,
    /// The run, where it was timed.
    pub timed: Option<TimedPlate>,
}

/// A printer with its log.
#[derive(Debug, Clone, PartialEq)]
pub struct PacePage {
    /// The printer, with its pace.
    pub printer: Printer,
    /// Every run that was timed against what was reckoned here, oldest first.
    pub log: Vec<TimedPlate>,
    /// The newest runs, newest first.
    pub newest: Vec<PrintedPlate>,
}

/// Runs that are listed.
const LISTED: i64 = 40;

/// Loads it.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PrinterId) -> Result<PacePage, StoreError> {
    let printer = printers::load(conn, id)?;
    let mut log = paces::log(conn)?;
    log.retain(|t| t.printer == id);
    let rows: Vec<(i64, i64, i64)> = runs::table
        .inner_join(plates::table)
        .left_join(print_times::table)
        .filter(
            plates::printer_id
                .eq(id.0)
                .and(runs::ended_at_ms.is_not_null())
                .and(runs::stopped_at_layer.is_null())
                .and(runs::outcome.ne(RunOutcome::PutBack.as_str())),
        )
        .order((runs::started_at_ms.desc(), runs::id.desc()))
        .limit(LISTED)
        .select((plates::id, plates::number, runs::started_at_ms))
        .load(conn)?;
    let newest = rows.into_iter().map(|(plate, number, started_at_ms)| {
        let id = PlateId(plate);
        let of = |t: &&TimedPlate| t.plate == id && t.run.at_ms == started_at_ms;
        PrintedPlate {
            id,
            number,
            started_at_ms,
            timed: log.iter().find(of).copied(),
        }
    });
    Ok(PacePage {
        newest: newest.collect(),
        log: log.iter().filter(|t| !t.told).copied().collect(),
        printer,
    })
}
