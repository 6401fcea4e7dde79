//! Printers are connected; what they are told is written down, and what they answer; what they say of runs.
//!
//! A start becomes a run in the transaction that writes its answer down, so that there is one run for one job however
//! often either side breaks off.

use diesel::prelude::*;
use wembrit_core::ids::{PlateId, PrinterId, RunId};
use wembrit_core::link::{
    Answer, Command, CommandKind, CommandState, Job, JobKey, MachineRun, Says, Stands, TakenOff,
    due, held_anew, stands,
};
use wembrit_core::running::Linked;

use super::print_times::{self, Printed};
use super::run_plate::{self, StartSaid, While, begin_checked, of_plate};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::{benches, links, new_uid, plates, preflights, printers};
use crate::rows::SaidText;
use crate::schema::{link_commands as lc, machine_runs as mr, printer_links as pl, runs};

fn refused<T>(words: String) -> Result<T, StoreError> {
    Err(StoreError::Refused(words))
}

/// Connects a printer to the machine that answers at an address, in place of another one.
///
/// # Errors
/// [`StoreError::Refused`] where another printer answers there, or while this one has something to answer.
pub fn connect(conn: &mut Conn, printer: PrinterId, address: &str) -> Result<(), StoreError> {
    let own = printers::load(conn, printer)?;
    let all = links::list(conn)?;
    if let Some((other, _)) = all.iter().find(|(id, at)| at == address && *id != printer) {
        let other = printers::load(conn, *other)?.name;
        return refused(format!(
            "{other} answers at {address}: a machine is one printer"
        ));
    }
    if all.contains(&(printer, address.to_owned())) {
        return Ok(());
    }
    nothing_sent(conn, printer, &own.name)?;
    moved(conn, printer, address)
}

/// A machine answers elsewhere now: it is the same one, so what it was told and has not answered is still told.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn moved(conn: &mut Conn, printer: PrinterId, address: &str) -> Result<(), StoreError> {
    printers::load(conn, printer)?;
    diesel::replace_into(pl::table)
        .values((pl::printer_id.eq(printer.0), pl::address.eq(address)))
        .execute(conn)?;
    Ok(())
}

/// A printer is told nothing any more: what it prints goes on, and its run is written down by hand.
///
/// # Errors
/// [`StoreError::Refused`] while it has something to answer.
pub fn disconnect(conn: &mut Conn, printer: PrinterId) -> Result<(), StoreError> {
    let own = printers::load(conn, printer)?;
    nothing_sent(conn, printer, &own.name)?;
    diesel::delete(pl::table.find(printer.0)).execute(conn)?;
    Ok(())
}

/// What never left is withdrawn; of what left nobody knows whether it arrived.
fn nothing_sent(conn: &mut Conn, printer: PrinterId, name: &str) -> Result<(), StoreError> {
    match links::open(conn, printer)? {
        None => Ok(()),
        Some(c) if c.state == CommandState::Written => step(conn, &c, CommandState::Withdrawn),
        Some(c) => refused(format!(
            "{name} was told to {} and has not answered: whether it did so is known only once it answers",
            c.kind
        )),
    }
}

/// What a printer is to be told.
#[derive(Debug, Clone, PartialEq)]
pub struct Telling {
    /// About which plate.
    pub plate: PlateId,
    /// What.
    pub kind: CommandKind,
    /// The job it is about; of what keeps a file only that.
    pub about: JobKey,
    /// What is sent.
    pub job: Option<Job>,
}

/// Writes down what the printer of a plate that runs is told about the job that it is.
///
/// # Errors
/// [`StoreError::Refused`] where the run was not begun over the link, and as [`tell`].
pub fn tell_running(
    conn: &mut Conn,
    plate: PlateId,
    kind: CommandKind,
    now_ms: i64,
) -> Result<(), StoreError> {
    let machine = on_machine(conn, plate)?;
    let Some(about) = machine.map(|m| m.job).filter(JobKey::is_whole) else {
        return refused(
            "this run was not started from here. Do it at the printer, then record here how the run ended"
                .into(),
        );
    };
    let telling = Telling {
        plate,
        kind,
        about,
        job: None,
    };
    tell(conn, &telling, now_ms)
}

/// The run of a plate as its machine told it last; nothing where none goes on that was started over the link.
fn on_machine(conn: &mut Conn, plate: PlateId) -> Result<Option<MachineRun>, StoreError> {
    match benches::running(conn, plate)? {
        Some(run) => links::of_run(conn, run.id),
        None => Ok(None),
    }
}

/// Writes down what a plate's printer is told; the same while it has not answered yet is the same command.
///
/// # Errors
/// [`StoreError::Refused`] where its printer is not connected, or has something else to answer.
pub fn tell(conn: &mut Conn, telling: &Telling, now_ms: i64) -> Result<(), StoreError> {
    let job = telling.job.as_ref().map(Job::bytes).unwrap_or_default();
    let job = String::from_utf8_lossy(&job).into_owned();
    write(conn, telling, job, now_ms)
}

fn write(conn: &mut Conn, telling: &Telling, said: String, now_ms: i64) -> Result<(), StoreError> {
    let plate = plates::load(conn, telling.plate)?;
    let name = printers::load(conn, plate.printer)?.name;
    if links::address(conn, plate.printer)?.is_none() {
        return refused(format!(
            "{name} is not connected: say where it answers first"
        ));
    }
    if let Some(open) = links::open(conn, plate.printer)? {
        if (open.plate, open.kind) == (telling.plate, telling.kind) {
            return Ok(());
        }
        return refused(format!(
            "{name} was told to {} and has not answered yet",
            open.kind
        ));
    }
    diesel::insert_into(lc::table)
        .values((
            lc::uid.eq(new_uid()),
            lc::printer_id.eq(plate.printer.0),
            lc::plate_id.eq(plate.id.0),
            lc::kind.eq(telling.kind.as_str()),
            lc::state.eq(CommandState::Written.as_str()),
            lc::machine.eq(&telling.about.machine),
            lc::boot.eq(&telling.about.boot),
            lc::number.eq(i64::try_from(telling.about.number).unwrap_or(i64::MAX)),
            lc::file.eq(&telling.about.file),
            lc::checksum.eq(&telling.about.checksum),
            lc::said.eq(said),
            lc::written_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Writes down that a printer is to start a plate, after its checks and against its own word; the day began at `day_ms`.
///
/// # Errors
/// As [`run_plate::start_checked`], and as [`tell`].
pub fn tell_start(
    conn: &mut Conn,
    plate: PlateId,
    said: &StartSaid,
    (linked, about): (Linked, JobKey),
    (day_ms, now_ms): (i64, i64),
) -> Result<(), StoreError> {
    let open = links::newest(conn, plate)?.filter(|c| c.state.is_open());
    if open.is_some_and(|c| c.kind == CommandKind::Start) {
        // Pressed again: it is under way.
        return Ok(());
    }
    let mut known = preflights::known(conn, plate, day_ms)?;
    known.linked = Some(linked);
    run_plate::allows(conn, &known, said)?;
    let facts = known.with(said.vat_ml, said.room_c);
    let text = SaidText::new(facts.vat_ml, facts.room_c, &said.answers);
    let text = serde_json::to_string(&text).map_err(|e| StoreError::Other(e.to_string()))?;
    let telling = Telling {
        plate,
        kind: CommandKind::Start,
        about,
        job: None,
    };
    write(conn, &telling, text, now_ms)
}

/// The one way on of a command.
fn step(conn: &mut Conn, command: &Command, to: CommandState) -> Result<(), StoreError> {
    let next = command.state.step(to);
    let next = next.map_err(|e| StoreError::Refused(e.to_string()))?;
    diesel::update(lc::table.filter(lc::uid.eq(&command.uid)))
        .set(lc::state.eq(next.as_str()))
        .execute(conn)?;
    Ok(())
}

/// A command leaves: from now on nobody knows whether it arrived until it is answered.
///
/// # Errors
/// [`StoreError::Refused`] where it was withdrawn or answered meanwhile.
pub fn leaves(conn: &mut Conn, command: &Command, now_ms: i64) -> Result<(), StoreError> {
    let now = by_uid(conn, &command.uid)?;
    if now.state == CommandState::Sent {
        return Ok(());
    }
    step(conn, &now, CommandState::Sent)?;
    diesel::update(lc::table.filter(lc::uid.eq(&command.uid)))
        .set(lc::sent_at_ms.eq(now_ms))
        .execute(conn)?;
    Ok(())
}

/// A machine will not answer any more: what it was told is given up, so that it can be disconnected.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn give_up(conn: &mut Conn, printer: PrinterId) -> Result<(), StoreError> {
    let Some(open) = links::open(conn, printer)?.filter(|c| c.state == CommandState::Sent) else {
        return Ok(());
    };
    step(conn, &open, CommandState::Refused)?;
    diesel::update(lc::table.filter(lc::uid.eq(&open.uid)))
        .set(lc::why.eq("it never answered, and was given up"))
        .execute(conn)?;
    Ok(())
}

/// Takes back what a plate's printer is to be told, where it has not left yet.
///
/// # Errors
/// [`StoreError::Refused`] where it has.
pub fn withdraw(conn: &mut Conn, plate: PlateId) -> Result<(), StoreError> {
    match links::newest(conn, plate)?.filter(|c| c.state.is_open()) {
        None => Ok(()),
        Some(c) if c.state == CommandState::Written => step(conn, &c, CommandState::Withdrawn),
        Some(_) => {
            refused("it has left already: whether it was done is known once it is answered".into())
        }
    }
}

/// What a printer was to be told of a run that is over by hand, and has not left, is not told any more.
fn ends_with_its_run(conn: &mut Conn, plate: PlateId) -> Result<(), StoreError> {
    let open = links::newest(conn, plate)?.filter(|c| c.state == CommandState::Written);
    match open {
        Some(command) => step(conn, &command, CommandState::Withdrawn),
        None => Ok(()),
    }
}

fn by_uid(conn: &mut Conn, uid: &str) -> Result<Command, StoreError> {
    use crate::rows::{CommandRow, Nouns as _};
    lc::table
        .filter(lc::uid.eq(uid))
        .select(CommandRow::as_select())
        .noun::<CommandRow>(conn, "command")
}

/// Writes down what a printer answered, and what follows: a start that is done is a run. An answer that is written
/// down already changes nothing.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn answered(
    conn: &mut Conn,
    uid: &str,
    answer: &Answer,
    (day_ms, now_ms): (i64, i64),
) -> Result<(), StoreError> {
    let command = by_uid(conn, uid)?;
    if command.state != CommandState::Sent {
        return Ok(());
    }
    let to = if answer.done {
        CommandState::Done
    } else {
        CommandState::Refused
    };
    step(conn, &command, to)?;
    let mut why = answer.why.clone();
    if answer.done && command.kind == CommandKind::Start {
        // It prints, whatever the books say of it: then they say why they cannot follow.
        let began = conn.transaction(|c| begin(c, &command, answer, (day_ms, now_ms)));
        match began {
            Ok(()) => {}
            Err(StoreError::Refused(words)) => why = words,
            Err(StoreError::Flow(e)) => why = e.to_string(),
            Err(other) => return Err(other),
        }
    }
    diesel::update(lc::table.filter(lc::uid.eq(uid)))
        .set((lc::why.eq(why), lc::answered_at_ms.eq(now_ms)))
        .execute(conn)?;
    Ok(())
}

fn begin(
    conn: &mut Conn,
    command: &Command,
    answer: &Answer,
    (day_ms, now_ms): (i64, i64),
) -> Result<(), StoreError> {
    let text: String = lc::table
        .filter(lc::uid.eq(&command.uid))
        .select(lc::said)
        .first(conn)
        .or_not_found("command")?;
    let text: SaidText = serde_json::from_str(&text)
        .map_err(|e| StoreError::BadRow(format!("what was said before a start: {e}")))?;
    let mut known = preflights::known(conn, command.plate, day_ms)?;
    known.linked = Some(Linked {
        not_ready: Vec::new(),
        vat_ml: text.vat_ml,
        room_c: text.room_c,
    });
    let said = StartSaid {
        vat_ml: text.vat_ml,
        room_c: text.room_c,
        answers: text.answers(),
    };
    begin_checked(conn, &known, &said, now_ms)?;
    let run = of_plate(conn, command.plate)?;
    follow(
        conn,
        RunId(run),
        command.printer,
        &JobKey {
            number: answer.number,
            ..command.job.clone()
        },
        text.vat_ml,
        now_ms,
    )
}

/// A run is this job of a machine, from now on.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn follow(
    conn: &mut Conn,
    run: RunId,
    printer: PrinterId,
    job: &JobKey,
    began_ml: Option<f64>,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::insert_into(mr::table)
        .values((
            mr::run_id.eq(run.0),
            mr::printer_id.eq(printer.0),
            mr::machine.eq(&job.machine),
            mr::boot.eq(&job.boot),
            mr::number.eq(i64::try_from(job.number).unwrap_or(i64::MAX)),
            mr::file.eq(&job.file),
            mr::checksum.eq(&job.checksum),
            mr::began_ml.eq(began_ml),
            mr::seen_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Takes in what a printer says of itself: what is new about its run is written down, it is held or goes on in the books
/// as at the machine, and what it is to be told next is written down. Says whether anything was.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn heard(
    conn: &mut Conn,
    printer: PrinterId,
    says: &Says,
    now_ms: i64,
) -> Result<bool, StoreError> {
    let Some(run) = links::last_run(conn, printer)? else {
        return Ok(false);
    };
    let ours = run.in_the_books();
    if stands(says, &run.job) != Stands::Ours {
        return Ok(false);
    }
    let mut changed = false;
    if run.is_news(says) {
        keep(conn, &run, says, now_ms)?;
        changed = true;
    }
    if let Some(held) = held_anew(says, ours) {
        let what = if held { While::Pause } else { While::Resume };
        run_plate::during(conn, run.plate, &what, now_ms)?;
        changed = true;
    }
    if let Some(kind) = due(says, ours)
        && links::open(conn, printer)?.is_none()
    {
        let telling = Telling {
            plate: run.plate,
            kind,
            about: run.job.clone(),
            job: None,
        };
        tell(conn, &telling, now_ms)?;
        changed = true;
    }
    Ok(changed)
}

/// A run ends so much sooner than it should, by the word of its machine.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ends_sooner(conn: &mut Conn, run: RunId, ahead_ms: i64) -> Result<(), StoreError> {
    diesel::update(runs::table.find(run.0))
        .set(runs::ahead_ms.eq(ahead_ms))
        .execute(conn)?;
    Ok(())
}

/// A plate is taken off its printer: by what that says, where it was begun over its link.
///
/// # Errors
/// As [`run_plate::finish`]; [`StoreError::Refused`] where the printer says that it is still at it.
pub fn take_off(
    conn: &mut Conn,
    plate: PlateId,
    says: Option<&Says>,
    now_ms: i64,
) -> Result<(), StoreError> {
    let machine = on_machine(conn, plate)?;
    let came_to = machine.map_or(TakenOff::Whole(None), |m| m.taken_off(says));
    if !matches!(came_to, TakenOff::NotYet(_)) {
        ends_with_its_run(conn, plate)?;
    }
    match came_to {
        TakenOff::NotYet(state) => {
            let of = plates::load(conn, plate)?.printer;
            let name = printers::load(conn, of)?.name;
            refused(format!("{name} says that it is {state}: stop it first"))
        }
        TakenOff::BrokenOff(layer) => {
            run_plate::finish_broken_off(conn, plate, i64::from(layer), now_ms)
        }
        TakenOff::Whole(printed_s) => {
            run_plate::finish(conn, plate, now_ms, now_ms)?;
            let Some(said_s) = printed_s else {
                return Ok(());
            };
            match print_times::say(conn, plate, Printed::For(said_s), now_ms) {
                // The plate is off all the same: its sheet asks for the time.
                Err(StoreError::Refused(_)) => Ok(()),
                said => said,
            }
        }
    }
}

fn keep(conn: &mut Conn, run: &MachineRun, says: &Says, now_ms: i64) -> Result<(), StoreError> {
    let over = run.over_at_ms.or(says.state.is_over().then_some(now_ms));
    diesel::update(mr::table.find(run.run.0))
        .set((
            mr::state.eq(says.state.as_str()),
            mr::trouble.eq(says.trouble.map_or("", |t| t.as_str())),
            mr::layer.eq(i64::from(says.layer)),
            mr::printed_s.eq(says.printed_s),
            mr::seen_at_ms.eq(now_ms),
            mr::over_at_ms.eq(over),
        ))
        .execute(conn)?;
    Ok(())
}
