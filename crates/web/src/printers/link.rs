//! The talk with one printer, turn by turn. What it is told stands in the data file before it leaves, and is told again
//! under the same identity until it is answered: whichever side breaks off, the next turn takes it up.

use std::collections::HashMap;
use std::sync::Arc;
use std::time::{Duration, Instant};

use tokio::task::JoinHandle;
use wembrit_core::ids::PrinterId;
use wembrit_core::link::{Answer, Command, CommandState, Live, MachineState, Says, Stands, stands};
use wembrit_store::queries::{benches, links, plates};
use wembrit_store::{StoreError, commands};

use super::machine::{LinkError, Machine};
use crate::error::WebError;
use crate::state::{App, Topic};

/// How long between two turns.
const PAUSE: Duration = Duration::from_millis(1000);
/// The same for a printer that goes faster than the clock, and while it has something to answer.
const SHORT_PAUSE: Duration = Duration::from_millis(250);

/// So often the end of a run is looked at.
const TIMED: Duration = Duration::from_secs(2);
/// Ends that differ by less are the same.
const A_MINUTE_MS: i64 = 60_000;

/// The tasks of all connected printers; they end with this.
pub struct Links(JoinHandle<()>);

impl Drop for Links {
    fn drop(&mut self) {
        self.0.abort();
    }
}

/// A task that ends with this.
struct Talk(String, JoinHandle<()>);

impl Drop for Talk {
    fn drop(&mut self) {
        self.1.abort();
    }
}

impl Links {
    /// Begins to talk with every connected printer, and with those that are connected later.
    #[must_use]
    pub fn start(app: App) -> Self {
        Self(tokio::spawn(async move {
            let mut talks: HashMap<PrinterId, Talk> = HashMap::new();
            loop {
                let rung = app.printers.bell.notified();
                match app.read(links::list).await {
                    Ok(all) => follow(&app, &mut talks, all),
                    Err(error) => tracing::error!(%error, "connected printers could not be listed"),
                }
                tokio::select! {
                    () = rung => {}
                    () = tokio::time::sleep(5 * PAUSE) => {}
                }
            }
        }))
    }
}

/// One task for each printer that is connected, at the address it is connected to.
fn follow(app: &App, talks: &mut HashMap<PrinterId, Talk>, all: Vec<(PrinterId, String)>) {
    let gone = |printer: &PrinterId, talk: &Talk| !all.contains(&(*printer, talk.0.clone()));
    let ended: Vec<PrinterId> = talks
        .iter()
        .filter(|(printer, talk)| gone(printer, talk))
        .map(|(printer, _)| *printer)
        .collect();
    for printer in ended {
        talks.remove(&printer);
        app.printers.gone(printer);
        app.tell(Topic::Printers);
    }
    for (printer, address) in all {
        if talks.contains_key(&printer) {
            continue;
        }
        match app.settings.adapters.machine(&address) {
            Ok(machine) => {
                app.printers.connected(printer, machine.clone());
                let task = tokio::spawn(talk(app.clone(), printer, machine));
                talks.insert(printer, Talk(address, task));
            }
            Err(error) => tracing::error!(%error, %address, "a printer cannot be connected"),
        }
    }
}

async fn talk(app: App, printer: PrinterId, machine: Arc<dyn Machine>) {
    let mut timed = Instant::now();
    loop {
        let rung = app.printers.bell.notified();
        let pause = match turn(&app, printer, &*machine, &mut timed).await {
            Ok(pause) => pause,
            Err(error) => {
                tracing::error!(%error, %printer, "a printer's word could not be kept");
                PAUSE
            }
        };
        tokio::select! {
            () = rung => {}
            () = tokio::time::sleep(pause) => {}
        }
    }
}

/// One turn: tells what is written down, hears what it says, writes down what is new. Says how long until the next.
///
/// # Errors
/// [`WebError`] of the data file.
async fn turn(
    app: &App,
    printer: PrinterId,
    machine: &dyn Machine,
    timed: &mut Instant,
) -> Result<Duration, WebError> {
    let open = app.read(move |c| links::open(c, printer)).await?;
    let mut pause = PAUSE;
    if let Some(command) = open {
        pause = SHORT_PAUSE;
        if tell(app, machine, command).await? {
            app.tell(Topic::Printers);
            app.tell(Topic::Plates);
        }
    }
    let mut word = machine.says().await;
    // Whoever was first is that machine; the other hears nothing of it, and tells it nothing.
    if let Ok(says) = &word
        && app.printers.twin(printer, &says.machine).is_some()
    {
        word = Err(LinkError::Twin);
    }
    if let Ok(says) = &word {
        if says.speed > 1.0 {
            pause = SHORT_PAUSE;
        }
        if hear(app, printer, says).await? {
            app.tell(Topic::Plates);
            pause = Duration::ZERO;
        }
        if says.state == MachineState::Printing && timed.elapsed() >= TIMED {
            *timed = Instant::now();
            let speed = says.speed / f64::from(app.clock().speed().unwrap_or(1));
            let says = Says {
                speed,
                ..says.clone()
            };
            keep_time(app, printer, says).await?;
        }
    }
    let speed = f64::from(app.clock().speed().unwrap_or(1));
    if app.printers.keep(printer, word, (app.now_ms(), speed)) {
        app.tell(Topic::Printers);
    }
    Ok(pause)
}

/// Takes in what it says, where any of it is to be written down.
async fn hear(app: &App, printer: PrinterId, says: &Says) -> Result<bool, WebError> {
    let run = app.read(move |c| links::last_run(c, printer)).await?;
    if !run.is_some_and(|run| run.is_to_be_written(says)) {
        return Ok(false);
    }
    let (says, now_ms) = (says.clone(), app.now_ms());
    app.write(move |c| commands::links::heard(c, printer, &says, now_ms))
        .await
}

/// Keeps when a run ends by what its machine says is left, where that is another minute than the books say.
async fn keep_time(app: &App, printer: PrinterId, said: Says) -> Result<(), WebError> {
    let now_ms = app.now_ms();
    let found = app.read(move |c| {
        let ours = links::last_run(c, printer)?;
        let ours = ours.filter(|m| !m.is_over && stands(&said, &m.job) == Stands::Ours);
        let Some(machine) = ours else {
            return Ok(None);
        };
        let Some(run) = benches::running(c, machine.plate)? else {
            return Ok(None);
        };
        let plate = plates::load(c, machine.plate)?;
        let job = links::job(c, machine.plate)?;
        let left_s = Live::of(&job, &said, plate.seconds, None).left_s;
        let off_ms = run.ends_at_ms(plate.seconds, now_ms) - now_ms - (left_s * 1000.0) as i64;
        Ok((off_ms.abs() > A_MINUTE_MS).then_some((run.id, run.ahead_ms + off_ms)))
    });
    match found.await {
        Ok(Some((run, ahead_ms))) => {
            app.write(move |c| commands::links::ends_sooner(c, run, ahead_ms))
                .await?;
            app.tell(Topic::Plates);
            Ok(())
        }
        // Without a process setting nobody knows.
        Ok(None) | Err(WebError::Store(StoreError::Refused(_))) => Ok(()),
        Err(other) => Err(other),
    }
}

/// Tells a printer one thing, and writes its answer down. Says whether there is one.
async fn tell(app: &App, machine: &dyn Machine, command: Command) -> Result<bool, WebError> {
    if command.state == CommandState::Written {
        let (leaving, now_ms) = (command.clone(), app.now_ms());
        let left = app.write(move |c| commands::links::leaves(c, &leaving, now_ms));
        match left.await {
            // Withdrawn meanwhile: nothing leaves.
            Err(WebError::Store(StoreError::Refused(_))) => return Ok(true),
            left => left?,
        }
    }
    let answer = match ask(app, machine, &command).await? {
        Ok(answer) => answer,
        // What cannot be read may be a yes: it is told again, under the same identity.
        Err(LinkError::Silent(_) | LinkError::Unread) => return Ok(false),
        // It has an answer, and that is no: it did nothing.
        Err(no) => refusal(no.to_string()),
    };
    let now_ms = app.now_ms();
    app.write(move |c| {
        let day_ms = crate::attended::day_ms(c, now_ms)?;
        commands::links::answered(c, &command.uid, &answer, (day_ms, now_ms))
    })
    .await?;
    Ok(true)
}

fn refusal(why: String) -> Answer {
    Answer {
        done: false,
        why,
        number: 0,
        layer: 0,
    }
}

async fn ask(
    app: &App,
    machine: &dyn Machine,
    command: &Command,
) -> Result<Result<Answer, LinkError>, WebError> {
    if let Some(told) = command.told() {
        return Ok(machine.tell(&command.uid, &told).await);
    }
    let uid = command.uid.clone();
    let job = app.read(move |c| links::sending(c, &uid)).await?;
    let file = machine.file(&job);
    Ok(machine.keep(&command.job.file, file).await.map(|kept| {
        if kept.checksum == command.job.checksum {
            Answer {
                done: true,
                ..refusal(String::new())
            }
        } else {
            refusal("what it kept is another file: send it again".into())
        }
    }))
}
