//! Long work off the async threads, a file for each kind. Two lanes: searches, one at a time, and
//! quick tasks, one at a time, which do not wait behind a search. Every attempt is written down
//! before the work begins, so a crash is counted.

mod hollow;
mod measure;
mod plan;
mod poses;
mod prepare;
mod progress;
mod register;

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use wembrit_core::flow::{Lane, Task, TaskKind, TaskState, after_death};
use wembrit_store::queries::task_inputs::{TaskInput, input_of};
use wembrit_store::{StoreError, commands};

use self::progress::TaskWatch;
use crate::error::LaunchError;
use crate::state::{App, Topic};

/// How a task ended.
enum End {
    /// Its result is written down.
    Done,
    /// It has no result; the sentence says why.
    Failed(String),
    /// The server is stopping: it waits for the next start.
    Stopped,
}

/// The threads that work through the tasks, one for each lane.
pub(crate) struct Workers {
    app: App,
    stop: Arc<AtomicBool>,
    threads: Vec<JoinHandle<()>>,
}

impl Workers {
    /// Takes up what the last stop left and begins to work.
    pub(crate) fn start(app: App) -> Result<Self, LaunchError> {
        let now = app.now_ms();
        app.store.write(|c| {
            commands::tasks::take_up_again(c, now)?;
            commands::sculpts::ask_outdated(c, now)
        })?;
        let stop = Arc::new(AtomicBool::new(false));
        let mut threads = Vec::new();
        for lane in Lane::ALL {
            threads.push(start_lane(&app, *lane, &stop)?);
        }
        Ok(Self { app, stop, threads })
    }

    /// Asks running work to stop and waits for it.
    pub(crate) fn stop(self) {
        self.stop.store(true, Ordering::Relaxed);
        self.app.ring();
        for thread in self.threads {
            if thread.join().is_err() {
                tracing::error!("a task thread died");
            }
        }
    }
}

fn start_lane(
    app: &App,
    lane: Lane,
    stop: &Arc<AtomicBool>,
) -> Result<JoinHandle<()>, LaunchError> {
    // One core stays free for the pages.
    let cores = std::thread::available_parallelism().map_or(1, |n| n.get());
    let pool = rayon::ThreadPoolBuilder::new()
        .num_threads(cores.saturating_sub(1).max(1))
        .build()
        .map_err(|error| LaunchError::Thread(std::io::Error::other(error)))?;
    let (app, stop) = (app.clone(), stop.clone());
    std::thread::Builder::new()
        .name(format!("{lane} tasks"))
        .spawn(move || work(&app, lane, &pool, &stop))
        .map_err(LaunchError::Thread)
}

fn work(app: &App, lane: Lane, pool: &rayon::ThreadPool, stop: &AtomicBool) {
    let mut heard = 0;
    while !stop.load(Ordering::Relaxed) {
        match work_one(app, lane, pool, stop) {
            Ok(true) => {}
            Ok(false) => heard = app.wait_for_bell(heard, Duration::from_secs(5)),
            Err(error) => {
                tracing::error!(%error, "a task could not be taken up");
                heard = app.wait_for_bell(heard, Duration::from_secs(1));
            }
        }
    }
}

/// What pages hear of a task.
const fn topic(kind: TaskKind) -> Topic {
    match kind {
        TaskKind::Measure
        | TaskKind::Prepare
        | TaskKind::Hollow
        | TaskKind::Poses
        | TaskKind::Register => Topic::Sculpts,
        TaskKind::Plan => Topic::Plates,
    }
}

fn work_one(
    app: &App,
    lane: Lane,
    pool: &rayon::ThreadPool,
    stop: &AtomicBool,
) -> Result<bool, StoreError> {
    let now = app.now_ms();
    let Some(task) = app
        .store
        .write_aside(|c| commands::tasks::claim(c, lane, now))?
    else {
        if lane != Lane::Quick {
            return Ok(false);
        }
        // Nothing is waiting: what parts are printed at and nobody has measured yet is next.
        let asked = app.store.write(|c| {
            let prepared = commands::layer_facts::ask_missing(c, now)?;
            Ok(prepared + commands::hollows::ask_missing(c, now)?)
        })?;
        return Ok(asked > 0);
    };
    let watch = TaskWatch::new(app, &task, topic(task.kind), stop);
    // Hollows and pictures may as well be known later.
    let waited_for = lane == Lane::Quick && task.kind != TaskKind::Hollow;
    let urgent = waited_for.then(|| app.urgent());
    let began = Instant::now();
    let end = catch_unwind(AssertUnwindSafe(|| {
        pool.install(|| run(app, &task, &watch))
    }));
    drop(urgent);
    if matches!(end, Ok(Ok(End::Done))) {
        app.pace.took(task.kind, began.elapsed());
    }
    // Whoever stopped it has written down so already: then this changes nothing.
    write_end(app, &task, end)?;
    app.tell(topic(task.kind));
    Ok(true)
}

fn write_end(
    app: &App,
    task: &Task,
    end: std::thread::Result<Result<End, StoreError>>,
) -> Result<(), StoreError> {
    let now = app.now_ms();
    app.store.write_aside(|c| {
        let mut ended = |state, why: &str| commands::tasks::end(c, task, state, why, now);
        match end {
            Ok(Ok(End::Done)) => ended(TaskState::Done, ""),
            Ok(Ok(End::Failed(why))) => ended(TaskState::Failed, &why),
            Ok(Ok(End::Stopped)) => commands::tasks::put_back(c, task, now),
            Ok(Err(error)) => ended(TaskState::Failed, &error.to_string()),
            Err(_) => {
                let message = "The program stumbled over this file or plan; please report it.";
                ended(after_death(task.attempts), message)
            }
        }
    })
}

fn run(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    match app.store.read(|c| input_of(c, task))? {
        // What it was about has changed: it is asked for anew.
        None => Ok(End::Done),
        Some(TaskInput::Measure(sculpt)) => measure::run(app, &sculpt, watch),
        Some(TaskInput::Plan(id)) => plan::run(app, id, watch),
        Some(TaskInput::Prepare(_, setup)) => prepare::run(app, &setup, watch),
        Some(TaskInput::Hollow(sculpt)) => hollow::run(app, &sculpt, watch),
        Some(TaskInput::Poses(sculpt, question)) => {
            poses::run(app, &sculpt, &question, &task.input_key, watch)
        }
        Some(TaskInput::Register(id)) => register::run(app, id, watch),
    }
}
