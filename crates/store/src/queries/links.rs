//! Printers that are connected: where they answer, what they are told, what they said of runs.

use diesel::prelude::*;
use wembrit_core::ids::{PlateId, PrinterId, RunId};
use wembrit_core::link::{Command, CommandKind, CommandState, Job, MachineRun};

use super::{preflights, printers, settings};
use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{CommandRow, MachineRunRow, Nouns};
use crate::schema::{link_commands as lc, machine_runs as mr, printer_links as pl, runs};

/// Words of the states in which a command waits for its answer.
pub(crate) fn open_states() -> Vec<&'static str> {
    let open = CommandState::ALL.iter().filter(|s| s.is_open());
    open.map(|s| s.as_str()).collect()
}

/// Every connected printer, and where it answers.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<(PrinterId, String)>, StoreError> {
    let rows: Vec<(i64, String)> = pl::table
        .order(pl::printer_id)
        .select((pl::printer_id, pl::address))
        .load(conn)?;
    Ok(rows
        .into_iter()
        .map(|(id, at)| (PrinterId(id), at))
        .collect())
}

/// Where a printer answers; nothing where it is not connected.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn address(conn: &mut Conn, printer: PrinterId) -> Result<Option<String>, StoreError> {
    let of = pl::table.find(printer.0).select(pl::address);
    Ok(of.first(conn).optional()?)
}

/// What a printer is told and has not answered yet.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn open(conn: &mut Conn, printer: PrinterId) -> Result<Option<Command>, StoreError> {
    lc::table
        .filter(
            lc::printer_id
                .eq(printer.0)
                .and(lc::state.eq_any(open_states())),
        )
        .select(CommandRow::as_select())
        .maybe::<CommandRow>(conn)
}

/// What its printer was told about a plate last.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn newest(conn: &mut Conn, plate: PlateId) -> Result<Option<Command>, StoreError> {
    lc::table
        .filter(lc::plate_id.eq(plate.0))
        .order(lc::id.desc())
        .select(CommandRow::as_select())
        .maybe::<CommandRow>(conn)
}

/// What was written down to be sent under this identity.
///
/// # Errors
/// [`StoreError::BadRow`] where that cannot be read.
pub fn sending(conn: &mut Conn, uid: &str) -> Result<Job, StoreError> {
    let of = lc::table.filter(lc::uid.eq(uid)).select(lc::said);
    let text: String = of.first(conn)?;
    read_job(&text)
}

fn read_job(text: &str) -> Result<Job, StoreError> {
    let bad = |e| StoreError::BadRow(format!("what was sent to a printer: {e}"));
    Job::read(text.as_bytes()).map_err(bad)
}

/// What a plate's printer was sent last and has kept, with the checksum of its file.
///
/// # Errors
/// [`StoreError::BadRow`] where that cannot be read.
pub fn sent(conn: &mut Conn, plate: PlateId) -> Result<Option<(Job, String)>, StoreError> {
    let of = lc::table
        .filter(lc::plate_id.eq(plate.0))
        .filter(lc::kind.eq(CommandKind::Send.as_str()))
        .filter(lc::state.eq(CommandState::Done.as_str()))
        .order(lc::id.desc())
        .select((lc::said, lc::checksum));
    let row: Option<(String, String)> = of.first(conn).optional()?;
    row.map(|(text, checksum)| Ok((read_job(&text)?, checksum)))
        .transpose()
}

/// Everything a plate's printer was told about it, in order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn told(conn: &mut Conn, plate: PlateId) -> Result<Vec<Command>, StoreError> {
    lc::table
        .filter(lc::plate_id.eq(plate.0))
        .order(lc::id)
        .select(CommandRow::as_select())
        .nouns::<CommandRow>(conn)
}

/// A run as its machine told it last; nothing for one that was begun by hand.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_run(conn: &mut Conn, run: RunId) -> Result<Option<MachineRun>, StoreError> {
    mr::table
        .inner_join(runs::table)
        .filter(mr::run_id.eq(run.0))
        .select((
            MachineRunRow::as_select(),
            runs::plate_id,
            runs::ended_at_ms,
            runs::paused_at_ms,
        ))
        .maybe::<(MachineRunRow, i64, Option<i64>, Option<i64>)>(conn)
}

/// The last run that was begun over a printer's link.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn last_run(conn: &mut Conn, printer: PrinterId) -> Result<Option<MachineRun>, StoreError> {
    mr::table
        .inner_join(runs::table)
        .filter(mr::printer_id.eq(printer.0))
        .order(mr::run_id.desc())
        .select((
            MachineRunRow::as_select(),
            runs::plate_id,
            runs::ended_at_ms,
            runs::paused_at_ms,
        ))
        .maybe::<(MachineRunRow, i64, Option<i64>, Option<i64>)>(conn)
}

/// What a plate's printer gets of it.
///
/// # Errors
/// [`StoreError::NotFound`]; [`StoreError::Refused`] where its printer has no process setting for its resin.
pub fn job(conn: &mut Conn, plate: PlateId) -> Result<Job, StoreError> {
    let known = preflights::known(conn, plate, i64::MAX)?;
    let printer = printers::load(conn, known.plate.printer)?;
    let setting = settings::of_plate(conn, &known.plate)?;
    let setting = setting.ok_or_else(|| {
        StoreError::Refused(format!(
            "{} has no process setting for the plate's resin: set one in the workshop",
            printer.name
        ))
    })?;
    Ok(known.job(&printer, &setting))
}

/// Every run that was begun over a printer's link, in order.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn runs_of(conn: &mut Conn, printer: PrinterId) -> Result<Vec<MachineRun>, StoreError> {
    mr::table
        .inner_join(runs::table)
        .filter(mr::printer_id.eq(printer.0))
        .order(mr::run_id)
        .select((
            MachineRunRow::as_select(),
            runs::plate_id,
            runs::ended_at_ms,
            runs::paused_at_ms,
        ))
        .nouns::<(MachineRunRow, i64, Option<i64>, Option<i64>)>(conn)
}
