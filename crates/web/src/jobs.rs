//! Long work off the async threads: one heavy task at a time, on a thread of its own. Every
//! attempt is written down before the work begins, so a crash is counted.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};
use std::thread::JoinHandle;
use std::time::Duration;

use wembrit_core::ids::{PlanId, TaskId};
use wembrit_core::layers::{Voxels, find_hollows, measure_hollowing};
use wembrit_core::measure::{MeasureError, MeasureOptions, measure_file};
use wembrit_core::mesh::{Solid, read_mesh};
use wembrit_core::pack::{FirstFit, PackError};
use wembrit_core::picture::{Side, draw_side};
use wembrit_core::plan::{PlanError, make_plan};
use wembrit_core::task::{TaskKind, TaskState, after_death};
use wembrit_core::watch::Watch;
use wembrit_paper::write_png;
use wembrit_store::StoreError;
use wembrit_store::queries::{demand, hollows, plans, prepared, sculpts, tasks, workshop};
use wembrit_store::rows::Task;

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

/// The thread that works through the tasks.
pub(crate) struct Worker {
    app: App,
    stop: Arc<AtomicBool>,
    thread: JoinHandle<()>,
}

impl Worker {
    /// Takes up what the last stop left and begins to work.
    pub(crate) fn start(app: App) -> Result<Self, LaunchError> {
        let now = app.now_ms();
        app.store.write(|c| {
            tasks::take_up_again(c, now)?;
            sculpts::ask_outdated(c, now)
        })?;
        // One core stays free for the pages.
        let cores = std::thread::available_parallelism().map_or(1, |n| n.get());
        let pool = rayon::ThreadPoolBuilder::new()
            .num_threads(cores.saturating_sub(1).max(1))
            .build()
            .map_err(|error| LaunchError::Thread(std::io::Error::other(error)))?;
        let stop = Arc::new(AtomicBool::new(false));
        let (worker_app, worker_stop) = (app.clone(), stop.clone());
        let thread = std::thread::Builder::new()
            .name("tasks".into())
            .spawn(move || work(&worker_app, &pool, &worker_stop))
            .map_err(LaunchError::Thread)?;
        Ok(Self { app, stop, thread })
    }

    /// Asks running work to stop and waits for it.
    pub(crate) fn stop(self) {
        self.stop.store(true, Ordering::Relaxed);
        self.app.ring();
        if self.thread.join().is_err() {
            tracing::error!("the task thread died");
        }
    }
}

fn work(app: &App, pool: &rayon::ThreadPool, stop: &AtomicBool) {
    while !stop.load(Ordering::Relaxed) {
        match work_one(app, pool, stop) {
            Ok(true) => {}
            Ok(false) => app.wait_for_bell(Duration::from_secs(5)),
            Err(error) => {
                tracing::error!(%error, "a task could not be taken up");
                app.wait_for_bell(Duration::from_secs(1));
            }
        }
    }
}

fn work_one(app: &App, pool: &rayon::ThreadPool, stop: &AtomicBool) -> Result<bool, StoreError> {
    let now = app.now_ms();
    let Some(task) = app.store.write(|c| tasks::claim(c, now))? else {
        // Nothing is waiting: what parts are printed at and nobody has measured yet is next.
        let asked = app
            .store
            .write(|c| Ok(prepared::ask_missing(c, now)? + hollows::ask_missing(c, now)?))?;
        return Ok(asked > 0);
    };
    let topic = match task.kind {
        TaskKind::Measure | TaskKind::Prepare | TaskKind::Hollow => Topic::Sculpts,
        TaskKind::Plan => Topic::Plates,
    };
    let watch = TaskWatch {
        app,
        topic,
        task: task.id,
        stop,
        told: AtomicI64::new(0),
    };
    let end = catch_unwind(AssertUnwindSafe(|| {
        pool.install(|| run(app, &task, &watch))
    }));
    let now = app.now_ms();
    app.store.write(|c| match end {
        Ok(Ok(End::Done)) => tasks::end(c, task.id, TaskState::Done, "", now),
        Ok(Ok(End::Failed(why))) => tasks::end(c, task.id, TaskState::Failed, &why, now),
        Ok(Ok(End::Stopped)) => tasks::put_back(c, task.id, now),
        Ok(Err(error)) => tasks::end(c, task.id, TaskState::Failed, &error.to_string(), now),
        Err(_) => {
            let message = "The program stumbled over this file or plan; please report it.";
            tasks::end(c, task.id, after_death(task.attempts), message, now)
        }
    })?;
    app.tell(topic);
    Ok(true)
}

fn run(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    match task.kind {
        TaskKind::Measure => measure(app, task, watch),
        TaskKind::Plan => plan(app, task, watch),
        TaskKind::Prepare => prepare(app, task, watch),
        TaskKind::Hollow => hollow(app, task),
    }
}

fn measure(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let (sculpt, bytes, layer) = app.store.read(|c| {
        let sculpt = sculpts::of_task(c, &task.input_key)?;
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok((sculpt, bytes, workshop::load(c)?.layer))
    })?;
    let now = app.now_ms();
    match measure_file(
        &bytes,
        &sculpt.file_name,
        MeasureOptions {
            layer,
            scale: sculpt.unit_mm,
        },
        watch,
    ) {
        Ok(measured) => {
            app.store
                .write(|c| sculpts::set_measured(c, sculpt.id, layer, &measured, now))?;
            Ok(End::Done)
        }
        Err(MeasureError::Stopped) => Ok(End::Stopped),
        Err(error) => {
            let why = error.to_string();
            app.store
                .write(|c| sculpts::set_refused(c, sculpt.id, &why))?;
            Ok(End::Failed(why))
        }
    }
}

/// A sculpt as a recipe prints it. Facts that are there already cost nothing.
fn prepare(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let read = app.store.read(|c| {
        let Some((sculpt, preparing)) = prepared::of_task(c, &task.input_key)? else {
            return Ok(None);
        };
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok(Some((sculpt, preparing, bytes)))
    })?;
    let Some((sculpt, of, bytes)) = read else {
        return Ok(End::Done);
    };
    let now = app.now_ms();
    let options = MeasureOptions {
        layer: of.layer,
        scale: of.unit_mm * of.scale,
    };
    match measure_file(&bytes, &sculpt.file_name, options, watch) {
        Ok(measured) => {
            app.store
                .write(|c| prepared::set(c, &of, &measured.stack, now))?;
            Ok(End::Done)
        }
        Err(MeasureError::Stopped) => Ok(End::Stopped),
        Err(error) => Ok(End::Failed(error.to_string())),
    }
}

/// Pictures of a sculpt, hollows of its file, and what hollowing it with its wall would do.
fn hollow(app: &App, task: &Task) -> Result<End, StoreError> {
    let read = app.store.read(|c| {
        let Some(sculpt) = hollows::of_task(c, &task.input_key)? else {
            return Ok(None);
        };
        let bytes = sculpts::bytes(c, sculpt.id)?;
        Ok(Some((sculpt, bytes)))
    })?;
    let Some((sculpt, bytes)) = read else {
        return Ok(End::Done);
    };
    let mesh = match read_mesh(&bytes, &sculpt.file_name) {
        Ok(mesh) => mesh,
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    if !app.store.read(|c| hollows::has_pictures(c, sculpt.id))? {
        for side in Side::ALL {
            // A sculpt without its picture is still a sculpt.
            match write_png(&draw_side(&mesh, *side)) {
                Ok(png) => app
                    .store
                    .write(|c| hollows::set_picture(c, sculpt.id, *side, &png))?,
                Err(error) => tracing::warn!(%error, "no picture was drawn"),
            }
        }
    }
    let solid = Solid::new(&mesh);
    let voxels = Voxels::of(&solid, sculpt.unit_mm);
    let found = find_hollows(&voxels);
    let hollowing = measure_hollowing(&voxels, sculpt.wall_um as f64 / 1000.0);
    let now = app.now_ms();
    app.store
        .write(|c| hollows::set(c, &sculpt, &hollowing, &found, now))?;
    Ok(End::Done)
}

fn plan(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let id: PlanId = task
        .input_key
        .parse()
        .map_err(|_| StoreError::BadRow("the key of a planning task".into()))?;
    let request = app.store.read(|c| {
        let plan = plans::load(c, id)?;
        let lines = plans::demand_of(c, id)?;
        demand::plan_request(c, plan.project_id, &lines)
    })?;
    match make_plan(&request, &FirstFit, watch) {
        Ok(computed) => {
            app.store.write(|c| plans::set_computed(c, id, &computed))?;
            Ok(End::Done)
        }
        Err(PlanError::Pack(PackError::Stopped)) => Ok(End::Stopped),
        Err(error) => {
            let why = error.to_string();
            app.store.write(|c| plans::set_failed(c, id, &why))?;
            Ok(End::Failed(why))
        }
    }
}

/// Writes down how far a task is, in a dozen steps.
struct TaskWatch<'a> {
    app: &'a App,
    topic: Topic,
    task: TaskId,
    stop: &'a AtomicBool,
    told: AtomicI64,
}

impl Watch for TaskWatch<'_> {
    fn stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    fn report(&self, share: f64) {
        // A step is a write to the disk: a dozen of them tell enough.
        let twelfths = (share * 12.0) as i64;
        if self.told.swap(twelfths, Ordering::Relaxed) == twelfths {
            return;
        }
        match self.app.store.write(|c| tasks::report(c, self.task, share)) {
            Ok(()) => self.app.tell(self.topic),
            Err(error) => tracing::warn!(%error, "progress was not written down"),
        }
    }
}
