//! The commands, one file each.

pub(super) mod apart;
mod backup;
mod demo;
mod demo_printers;
mod export;
mod fit;
mod import;
mod measure;
mod odds;
mod pack;
mod passphrase;
mod schedule;
mod serve;
mod sim;
mod until;

use std::path::PathBuf;

use clap::Subcommand;
use wembrit_core::cases::CaseError;

/// What the program is asked to do.
#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Serve a workshop's data file.
    Serve(serve::Serve),
    /// Serve the demo army, made anew in a data file of its own.
    Demo(demo::Demo),
    /// A simulated printer, to try out what comes with one.
    Sim(sim::Simulated),
    /// Measure a mesh file.
    Measure(measure::Measure),
    /// Pack an instance of outlines.
    Pack(pack::Pack),
    /// Schedule an instance of plates over printers.
    Schedule(schedule::Schedule),
    /// Learn from a log of runs or tests.
    Fit(fit::Fit),
    /// How many copies to print, by what was judged.
    Odds(odds::Odds),
    /// Write a workshop, or one project of it, as an open archive of JSON and meshes.
    Export(export::Export),
    /// Bring an archive in; with --look only say what it holds.
    Import(import::Import),
    /// Copy a data file, also while it is served.
    Backup(backup::Backup),
    /// Put a copy in the place of a data file; the old one stays beside it.
    Restore(backup::Restore),
    /// Set the passphrase that lets other devices in; it is read from standard input.
    Passphrase(passphrase::Passphrase),
    /// Measure what comes on standard input, within limits: how the others measure.
    #[command(name = wembrit_web::apart::MEASURE_APART, hide = true)]
    Apart(apart::Apart),
}

/// Why a command could not be carried out.
#[derive(Debug, thiserror::Error)]
pub(crate) enum CommandError {
    #[error(transparent)]
    Store(#[from] wembrit_store::StoreError),
    #[error(transparent)]
    Launch(#[from] wembrit_web::LaunchError),
    #[error(transparent)]
    Demo(#[from] wembrit_demo::DemoError),
    #[error("cannot listen on {address}: {why}; choose another port with --listen")]
    Listen {
        address: std::net::SocketAddr,
        why: std::io::Error,
    },
    #[error(
        "{0} can be reached from other machines, and no passphrase is set: set one with 'wembrit passphrase --data FILE', or listen on 127.0.0.1 and set it under Today, The phone"
    )]
    NoPassphrase(std::net::SocketAddr),
    #[error(
        "a simulated printer asks nobody who they are: it answers on 127.0.0.1 alone, not on {0}"
    )]
    SimBeyond(std::net::SocketAddr),
    #[error(transparent)]
    Sim(#[from] wembrit_sim::SimError),
    #[error(transparent)]
    Passphrase(#[from] wembrit_web::PassphraseError),
    #[error("{path}: {why}")]
    File { path: PathBuf, why: std::io::Error },
    #[error("{path}: {why}")]
    Measure {
        path: PathBuf,
        why: wembrit_web::apart::ApartError,
    },
    #[error("measuring apart broke off: {0}")]
    Apart(std::io::Error),
    #[error("{path}: {why}")]
    Instance {
        path: PathBuf,
        why: wembrit_core::pack::InstanceError,
    },
    #[error(transparent)]
    Pack(#[from] wembrit_core::pack::PackError),
    #[error("{path}: {why}")]
    ShopInstance {
        path: PathBuf,
        why: wembrit_core::schedule::ShopInstanceError,
    },
    #[error("{path}: {why}")]
    Fit {
        path: PathBuf,
        why: CaseError<wembrit_core::learn::FitError>,
    },
    #[error("{path}: {why}")]
    Odds {
        path: PathBuf,
        why: CaseError<wembrit_core::odds::OddsError>,
    },
    #[error("no schedule: {0}")]
    Schedule(#[from] wembrit_core::schedule::ScheduleError),
    #[error("the schedule failed its check and was thrown away ({0}); please report this")]
    UnsoundSchedule(wembrit_core::schedule::ScheduleFault),
    #[error("the arrangement failed its check and was thrown away ({0}); please report this")]
    Unsound(wembrit_core::pack::PackFault),
    #[error("{0} is no mesh file: name an STL, OBJ or 3MF of at most 2 GB")]
    NotAMesh(PathBuf),
    #[error(transparent)]
    Layer(#[from] wembrit_core::units::LayerHeightError),
    #[error("a scale of {0} makes no sense: write a factor such as 1 or 0.9")]
    Scale(f64),
    #[error("{0} is there already: name another file")]
    There(PathBuf),
    #[error(
        "{0} is a workshop in which nothing is: name another copy, or add --even-if-empty if you mean it"
    )]
    Empty(PathBuf),
    #[error("there is no project '{name}'; there are: {known}")]
    NoProject { name: String, known: String },
    #[error("the server could not start: {0}")]
    Runtime(std::io::Error),
}

pub(crate) fn run(command: Command) -> Result<(), CommandError> {
    match command {
        Command::Serve(serve) => serve.run(),
        Command::Demo(demo) => demo.run(),
        Command::Sim(sim) => sim.run(),
        Command::Measure(measure) => measure.run(),
        Command::Schedule(schedule) => schedule.run(),
        Command::Fit(fit) => fit.run(),
        Command::Odds(odds) => odds.run(),
        Command::Pack(pack) => pack.run(),
        Command::Export(export) => export.run(),
        Command::Import(import) => import.run(),
        Command::Backup(backup) => backup.run(),
        Command::Restore(restore) => restore.run(),
        Command::Passphrase(set) => set.run(),
        Command::Apart(apart) => apart.run(),
    }
}
