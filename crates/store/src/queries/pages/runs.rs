//! A plate at its printer: what is checked before the start, what is looked for while it runs.

use std::sync::Arc;

use wembrit_core::flow::Run;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::link::{Command, Job, MachineRun};
use wembrit_core::running::KnownBefore;
use wembrit_core::workshop::Printer;
use wembrit_core::workshop::resin::Resin;

use super::plates::{PlatesShown, shown};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{batches, benches, links, plates, preflights, printers, resins, settings};
use crate::until_written::kept;

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
    /// Its printer's link, where that is connected.
    pub link: Option<LinkSheet>,
}

/// What is known of a plate whose printer is connected.
#[derive(Debug, Clone, PartialEq)]
pub struct LinkSheet {
    /// What its printer gets of it; nothing where it has no process setting.
    pub job: Option<Job>,
    /// What its printer was sent last and has kept, with the checksum of its file.
    pub sent: Option<(Job, String)>,
    /// What its printer was told about it last.
    pub told: Option<Command>,
    /// Its run as its machine told it last; nothing where it was begun by hand.
    pub machine: Option<MachineRun>,
}

impl RunSheet {
    /// The run of its machine that is under way.
    #[must_use]
    pub fn on_machine(&self) -> Option<&MachineRun> {
        let machine = self.link.as_ref()?.machine.as_ref();
        machine.filter(|m| !m.is_over)
    }
}

fn link(
    conn: &mut Conn,
    known: &KnownBefore,
    printer: &Printer,
    run: Option<&Run>,
) -> Result<Option<LinkSheet>, StoreError> {
    if links::address(conn, known.plate.printer)?.is_none() {
        return Ok(None);
    }
    let setting = settings::of_plate(conn, &known.plate)?;
    Ok(Some(LinkSheet {
        job: setting.map(|s| known.job(printer, &s)),
        sent: links::sent(conn, known.plate.id)?,
        told: links::newest(conn, known.plate.id)?,
        machine: match run {
            Some(run) => links::of_run(conn, run.id)?,
            None => None,
        },
    }))
}

/// A plate that runs on a connected printer, with what its piece of the page is drawn from.
#[derive(Debug, Clone, PartialEq)]
pub struct LiveSheet {
    /// What is known of it.
    pub sheet: RunSheet,
    /// What hangs on it.
    pub shown: PlatesShown,
}

/// Loads a plate that runs on a connected printer.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn live(conn: &mut Conn, id: PlateId, day_ms: i64) -> Result<Arc<LiveSheet>, StoreError> {
    kept(conn, ("live", &[id.0, day_ms]), |conn| {
        let sheet = load(conn, id, day_ms)?;
        let shown = shown(conn, vec![sheet.known.plate.clone()])?;
        Ok(LiveSheet { sheet, shown })
    })
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
    let printer = printers::load(conn, known.plate.printer)?;
    Ok(RunSheet {
        link: link(conn, &known, &printer, run.as_ref())?,
        printer,
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
