//! Long work off the async threads: one heavy task at a time, on a thread of its own. Every
//! attempt is written down before the work begins, so a crash is counted.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};
use std::sync::{Arc, Mutex};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use wembrit_core::flow::PlanEffort;
use wembrit_core::flow::{TaskKind, TaskState, after_death};
use wembrit_core::ids::{PlanId, PrintMeshId, TaskId};
use wembrit_core::layers::{Voxels, find_hollows, measure_hollowing};
use wembrit_core::mesh::{Solid, read_mesh};
use wembrit_core::pack::{PackError, PackSearch};
use wembrit_core::plan::{Plan, PlanError, improve_plan};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::orient::{
    FineZone, OrientRequest, Origin, Subject, base_under, find_poses, leaning_pulls,
};
use wembrit_core::recipe::prepare::{HangError, Hanging, Supported, hang};
use wembrit_core::recipe::register::{RegisterError, measure_print_mesh};
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::sculpt::measure::{MeasureError, MeasureOptions, measure_file};
use wembrit_core::sculpt::picture::{Side, draw_side};
use wembrit_core::watch::{Silent, Watch};
use wembrit_core::workshop::print_time::{LayerTiming, MachineKind, time_by_layers};
use wembrit_paper::write_png;
use wembrit_store::StoreError;
use wembrit_store::queries::prepared::Preparing;
use wembrit_store::queries::{
    self, demand, hollows, plans, poses, prepared, print_meshes, printers, sculpts, settings,
    tasks, workshop, zones,
};
use wembrit_store::rows::{Sculpt, Task};

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
        TaskKind::Measure
        | TaskKind::Prepare
        | TaskKind::Hollow
        | TaskKind::Poses
        | TaskKind::Register => Topic::Sculpts,
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
    // Whoever stopped it has written down so already.
    if app.is_cancelled(task.id) {
        app.forget_cancelled(task.id);
        app.tell(topic);
        return Ok(true);
    }
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
        TaskKind::Hollow => hollow(app, task, watch),
        TaskKind::Poses => find(app, task, watch),
        TaskKind::Register => register(app, task, watch),
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
    match app.store.read(|c| prepared::of_task(c, &task.input_key))? {
        Some((sculpt, of)) => prepare_one(app, &sculpt, &of, watch),
        None => Ok(End::Done),
    }
}

fn prepare_one(
    app: &App,
    sculpt: &Sculpt,
    of: &Preparing,
    watch: &dyn Watch,
) -> Result<End, StoreError> {
    let (bytes, real, zones) = app.store.read(|c| {
        let real = match of.supports {
            Supports::PrintMesh(id) => {
                let row = print_meshes::load(c, id)?;
                let file = sculpts::load(c, row.file_id)?;
                Some((sculpts::bytes(c, file.id)?, file.file_name, row))
            }
            _ => None,
        };
        let zones = zones::of_sculpt(c, sculpt.id)?;
        Ok((sculpts::bytes(c, sculpt.id)?, real, zones))
    })?;
    let mesh = match read_mesh(&bytes, &sculpt.file_name) {
        Ok(mesh) => mesh,
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    let supported = match &real {
        Some((bytes, name, row)) => match read_mesh(bytes, name) {
            Ok(mesh) => Some((mesh, row)),
            Err(error) => return Ok(End::Failed(error.to_string())),
        },
        None => None,
    };
    let zones: Vec<FineZone> = zones.into_iter().map(|(_, z)| z).collect();
    let how = Hanging {
        pose: of.pose,
        scale: of.unit_mm * of.scale,
        supports: of.supports,
        supported: supported.as_ref().map(|(mesh, row)| Supported {
            mesh,
            support_mm3: row.support_mm3.unwrap_or(0.0),
            contacts: row.contacts.unwrap_or(0).max(0) as usize,
        }),
        zones: &zones,
        layer: of.layer,
    };
    match hang(&mesh, &how, watch) {
        Ok(hung) => {
            let picture = write_png(&hung.picture).unwrap_or_default();
            let now = app.now_ms();
            app.store
                .write(|c| queries::hung::set(c, of, &hung, &picture, now))?;
            Ok(End::Done)
        }
        Err(HangError::Stopped) => Ok(End::Stopped),
        Err(error) => Ok(End::Failed(error.to_string())),
    }
}

/// Poses of a sculpt, compared.
fn find(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let read = app.store.read(|c| {
        let Some((sculpt, asking)) = poses::of_task(c, &task.input_key)? else {
            return Ok(None);
        };
        let bytes = sculpts::bytes(c, sculpt.id)?;
        let zones = zones::of_sculpt(c, sculpt.id)?;
        let timing = settings::list(c)?
            .into_iter()
            .find(|(setting, _)| setting.layer == asking.layer)
            .map(|(setting, version)| (setting.printer_id, version.timing()));
        let timing_s = match timing {
            Some((printer, timing)) => {
                let printer = printers::load(c, printer)?;
                time_by_layers(printer.kind, printer.startup_s, &timing)
            }
            None => time_by_layers(
                MachineKind::Screen,
                0.0,
                &LayerTiming::assumed(asking.layer),
            ),
        };
        Ok(Some((sculpt, asking, bytes, zones, timing_s)))
    })?;
    let Some((sculpt, asking, bytes, zones, timing_s)) = read else {
        return Ok(End::Done);
    };
    let scale = sculpt.unit_mm * asking.scale;
    let mesh = match read_mesh(&bytes, &sculpt.file_name) {
        Ok(mesh) => mesh.scaled(scale),
        Err(error) => return Ok(End::Failed(error.to_string())),
    };
    drop(bytes);
    let zones = zones.into_iter().map(|(_, z)| FineZone {
        at_mm: z.at_mm.map(|c| c * scale),
        radius_mm: z.radius_mm * scale,
    });
    let request = OrientRequest {
        layer: asking.layer,
        style: SupportStyle::USUAL,
        timing_s,
        zones: zones.collect(),
    };
    let solid = Solid::new(&mesh);
    let Some(mut found) = find_poses(&Subject::new(&solid, &request), watch) else {
        return Ok(End::Stopped);
    };
    let mut with_base = None;
    if asking.base_mm > 0.0 {
        let joined = mesh.with(&base_under(&mesh, asking.base_mm));
        let whole = Solid::new(&joined);
        let pose = Pose::new(10.0, BACK_DEG);
        found.push(Subject::new(&whole, &request).judge(pose, Origin::BaseJoined));
        with_base = Some(joined);
    }
    let mut drawn = Vec::new();
    for candidate in found {
        let shown = match (&with_base, candidate.origin) {
            (Some(joined), Origin::BaseJoined) => joined,
            _ => &mesh,
        };
        let picture = draw_side(&shown.posed(candidate.pose, 1.0), Side::Front);
        drawn.push((candidate, write_png(&picture).unwrap_or_default()));
    }
    app.store
        .write(|c| poses::set(c, sculpt.id, &task.input_key, &drawn))?;
    Ok(End::Done)
}

/// A mesh supported elsewhere, laid over its design.
fn register(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let id: PrintMeshId = task
        .input_key
        .parse()
        .map_err(|_| StoreError::BadRow("the key of a registering task".into()))?;
    let (row, design, file) = app.store.read(|c| {
        let row = print_meshes::load(c, id)?;
        let design = sculpts::load(c, row.design_id)?;
        let file = sculpts::load(c, row.file_id)?;
        let bytes = [sculpts::bytes(c, design.id)?, sculpts::bytes(c, file.id)?];
        Ok((row, (design, bytes), file))
    })?;
    let (design, [bytes, file_bytes]) = design;
    let read = |bytes: &[u8], name: &str| read_mesh(bytes, name).map_err(|e| e.to_string());
    let measured = read(&bytes, &design.file_name)
        .and_then(|mesh| Ok((mesh, read(&file_bytes, &file.file_name)?)))
        .and_then(|(mesh, supported)| {
            let exported = mesh.posed(row.pose, design.unit_mm * row.scale);
            let (low, high) = supported.bounds();
            measure_print_mesh(&exported, &supported, row.layer, watch)
                .map(|found| (found, high[2] - low[2]))
                .map_err(|e| match e {
                    RegisterError::Stopped => String::new(),
                    other => other.to_string(),
                })
        });
    let now = app.now_ms();
    match measured {
        Ok((found, height)) => {
            app.store
                .write(|c| print_meshes::set_measured(c, id, &found, height, now))?;
            Ok(End::Done)
        }
        Err(why) if why.is_empty() => Ok(End::Stopped),
        Err(why) => {
            app.store
                .write(|c| print_meshes::set_refused(c, id, &why))?;
            Ok(End::Failed(why))
        }
    }
}

/// Pictures of a sculpt, hollows of its file, and what hollowing it with its wall would do.
fn hollow(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
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
    let Some(leaning) = leaning_pulls(&mesh.scaled(sculpt.unit_mm), watch) else {
        return Ok(End::Stopped);
    };
    let voxels = Voxels::of(&solid, sculpt.unit_mm);
    let found = find_hollows(&voxels);
    let hollowing = measure_hollowing(&voxels, sculpt.wall_um as f64 / 1000.0);
    let now = app.now_ms();
    app.store.write(|c| {
        hollows::set_leaning(c, sculpt.id, leaning)?;
        hollows::set(c, &sculpt, &hollowing, &found, now)
    })?;
    Ok(End::Done)
}

fn plan(app: &App, task: &Task, watch: &TaskWatch<'_>) -> Result<End, StoreError> {
    let id: PlanId = task
        .input_key
        .parse()
        .map_err(|_| StoreError::BadRow("the key of a planning task".into()))?;
    // What hangs otherwise than its file stands has to be measured first.
    let waiting = app.store.read(|c| {
        let lines = plans::demand_of(c, id)?;
        demand::unprepared(c, &lines)
    })?;
    for (sculpt, of) in waiting {
        match prepare_one(app, &sculpt, &of, &Silent(watch))? {
            End::Done => {}
            End::Stopped => return Ok(End::Stopped),
            End::Failed(why) => {
                let why = format!("{}: {why}", sculpt.name);
                app.store.write(|c| plans::set_failed(c, id, &why))?;
                return Ok(End::Failed(why));
            }
        }
    }
    let (plan, request, standing) = app.store.read(|c| {
        let plan = plans::load(c, id)?;
        let lines = plans::demand_of(c, id)?;
        let request = demand::plan_request_in(c, plan.project_id, &lines, &plan.scope()?)?;
        Ok((plan, request, plans::standing(c, id)?))
    })?;
    let search = PackSearch {
        // A search that is taken up again goes on elsewhere.
        seed: 1 + plan.better_found.unsigned_abs(),
        steps: match plan.effort {
            PlanEffort::Repair => 0,
            PlanEffort::Anew | PlanEffort::Further => SEARCH_STEPS,
        },
    };
    let saving = Saving {
        app,
        plan: id,
        watch,
        state: Mutex::default(),
    };
    let ended = improve_plan(&request, &standing, search, &saving, &mut |better| {
        saving.offer(better);
    });
    saving.save(Duration::ZERO);
    if let Some(error) = saving.state().failed.take() {
        return Err(error);
    }
    match ended {
        Ok(()) if watch.stopped() && !app.is_cancelled(task.id) => Ok(End::Stopped),
        Ok(()) => {
            app.store.write(|c| plans::end_search(c, id))?;
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

/// Steps of the search for better plans: then it ends by itself.
const SEARCH_STEPS: u64 = 120;

/// Saves better plans, at most one a second; the last of them always.
struct Saving<'a> {
    app: &'a App,
    plan: PlanId,
    watch: &'a TaskWatch<'a>,
    state: Mutex<Unsaved>,
}

#[derive(Default)]
struct Unsaved {
    last: Option<Instant>,
    plan: Option<Plan>,
    failed: Option<StoreError>,
}

impl Saving<'_> {
    fn state(&self) -> std::sync::MutexGuard<'_, Unsaved> {
        self.state
            .lock()
            .unwrap_or_else(std::sync::PoisonError::into_inner)
    }

    fn offer(&self, better: &Plan) {
        self.state().plan = Some(better.clone());
        self.save(Duration::from_secs(1));
    }

    /// Saves what is not saved yet, when the last time is so long ago.
    fn save(&self, pause: Duration) {
        let mut state = self.state();
        if state.last.is_some_and(|at| at.elapsed() < pause) {
            return;
        }
        let Some(plan) = state.plan.take() else {
            return;
        };
        state.last = Some(Instant::now());
        let saved = self
            .app
            .store
            .write(|c| plans::save_better(c, self.plan, &plan));
        match saved {
            Ok(()) => self.app.tell(Topic::Plates),
            Err(error) => state.failed = Some(error),
        }
    }
}

impl Watch for Saving<'_> {
    fn stopped(&self) -> bool {
        self.watch.stopped()
    }
    fn report(&self, share: f64) {
        self.save(Duration::from_secs(1));
        self.watch.report(share);
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
        self.stop.load(Ordering::Relaxed) || self.app.is_cancelled(self.task)
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
