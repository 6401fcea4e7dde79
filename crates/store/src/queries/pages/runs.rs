//! A plate at its printer: what is checked before the start, what is looked for while it runs.

use wembrit_core::flow::Run;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::running::KnownBefore;
use wembrit_core::workshop::Printer;
use wembrit_core::workshop::resin::Resin;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{batches, benches, plates, preflights, printers, resins};

/// A plate at its printer.
#[derive(Debug, Clone, PartialEq)]
pub struct RunSheet {
    /// What is known before a start.
    pub known: KnownBefore,
    /// Its printer.
    pub printer: Printer,
    /// Its resin.
    pub resin: Resin,
    /// The number of another plate that runs there.
    pub other_running: Option<i64>,
    /// The run under way, or the last one.
    pub run: Option<Run>,
    /// What was answered before it: the check, how, in which words.
    pub checks: Vec<(String, String, String)>,
    /// Copies on the plate.
    pub copies: u64,
    /// Of the runs somebody went on with after trouble: how many, and how many ended badly.
    pub gone_on: (u64, u64),
    /// The batch it became.
    pub batch: Option<wembrit_core::finishing::Batch>,
}

/// Loads a plate at its printer; the day began at `day_ms`.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: PlateId, day_ms: i64) -> Result<RunSheet, StoreError> {
    let known = preflights::known(conn, id, day_ms)?;
    let run = plates::runs_of(conn, &[id])?.remove(&id);
    let (checks, batch) = match &run {
        Some(run) => (
            benches::checks_of(conn, run.id)?,
            batches::of_run(conn, run.id)?,
        ),
        None => (Vec::new(), None),
    };
    Ok(RunSheet {
        printer: printers::load(conn, known.plate.printer)?,
        resin: resins::load(conn, known.plate.resin)?,
        other_running: plates::running_on(conn, known.plate.printer, id)?,
        run,
        checks,
        copies: plates::copies_of(conn, id)?.len() as u64,
        gone_on: benches::gone_on(conn)?,
        batch,
        known,
    })
}

/// The name of a printer, and why its vat is to be looked into; empty where it is not.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn vat(conn: &mut Conn, id: PrinterId) -> Result<(String, String), StoreError> {
    let printer = printers::load(conn, id)?;
    let why = benches::to_check(conn)?.remove(&id);
    Ok((printer.name, why.unwrap_or_default()))
}
