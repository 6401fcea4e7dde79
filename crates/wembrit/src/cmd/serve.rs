//! `wembrit serve`: one data file, one address.

use std::net::{IpAddr, SocketAddr};
use std::path::PathBuf;
use std::time::Duration;

use clap::Args;
use jiff::Timestamp;
use tokio::net::TcpListener;
use wembrit_store::queries::workshop;
use wembrit_store::{DataLock, Store};
use wembrit_web::{Clock, Settings};

use super::CommandError;

/// Where to listen, and what time it is.
#[derive(Debug, Args)]
pub(crate) struct Listening {
    /// Address and port; port 0 takes a free one.
    #[arg(long, default_value = "127.0.0.1:7411", value_name = "ADDRESS:PORT")]
    listen: SocketAddr,
    /// Start at this time instead of the clock's, such as 2026-11-24T09:00:00Z. Without a speed
    /// the time stands still there.
    #[arg(long, value_name = "TIME")]
    now: Option<Timestamp>,
    /// A further name under which requests may come: that of a proxy with TLS in front. Then, too,
    /// the passphrase is asked for.
    #[arg(long, value_name = "NAME")]
    host: Vec<String>,
    /// A host beyond this machine's own network at which a printer may answer.
    #[arg(long, value_name = "HOST")]
    allow_host: Vec<String>,
    /// How many times as fast as the clock the time passes, to try a day of work in minutes.
    #[arg(long, value_name = "TIMES", value_parser = speed)]
    speed: Option<f64>,
}

impl Listening {
    pub(crate) fn clock(&self) -> Clock {
        if self.now.is_none() && self.speed.is_none() {
            return Clock::System;
        }
        let start = self.now.unwrap_or_else(Timestamp::now);
        Clock::running(start.as_millisecond(), self.speed.unwrap_or(0.0))
    }

    /// How many times as fast as outside the time passes.
    pub(crate) fn speed(&self) -> f64 {
        self.speed.unwrap_or(1.0)
    }

    /// Serves until the process is asked to stop, with what is started `beside` it first.
    pub(crate) fn serve(
        &self,
        store: Store,
        settings: Settings,
        beside: impl Future<Output = Result<(), CommandError>>,
    ) -> Result<(), CommandError> {
        let beyond = !self.listen.ip().is_loopback() || !self.host.is_empty();
        let mut settings = settings;
        if beyond {
            if store.read(workshop::passphrase)?.is_empty() {
                return Err(CommandError::NoPassphrase(self.listen));
            }
            settings.beyond = true;
            settings.addresses = addresses(self.listen.ip());
            settings.hosts = names(&settings.addresses);
            settings.proxies.clone_from(&self.host);
        }
        settings.adapters = settings.adapters.clone().allowing(&self.allow_host);
        settings.room.in_all = settings.room.in_all.min(open_files() / 2);
        let runtime = tokio::runtime::Runtime::new().map_err(CommandError::Runtime)?;
        let served = runtime.block_on(async {
            beside.await?;
            let (listener, address) = bind(self.listen).await?;
            settings.port = address.port();
            announce(address, settings.addresses.first());
            wembrit_web::launch(store, settings, listener, asked_to_stop()).await?;
            Ok(())
        });
        // What is still worked out for a page nobody waits for any more does not hold the door.
        runtime.shutdown_timeout(Duration::from_secs(1));
        served
    }
}

/// Addresses of this machine that another one may reach, as they stand in a link.
fn addresses(listen: IpAddr) -> Vec<String> {
    let written = |ip: IpAddr| match ip {
        IpAddr::V4(ip) => ip.to_string(),
        IpAddr::V6(ip) => format!("[{ip}]"),
    };
    if listen.is_loopback() {
        return Vec::new();
    }
    if !listen.is_unspecified() {
        return vec![written(listen)];
    }
    let mut own: Vec<IpAddr> = if_addrs::get_if_addrs()
        .unwrap_or_default()
        .into_iter()
        .filter(|i| !i.is_loopback() && !i.is_link_local())
        .map(|i| i.ip())
        .filter(|ip| ip.is_ipv4() || listen.is_ipv6())
        .collect();
    own.sort_by_key(|ip| (ip.is_ipv6(), *ip));
    own.dedup();
    own.into_iter().map(written).collect()
}

/// Every name under which a request may ask for this machine itself.
fn names(addresses: &[String]) -> Vec<String> {
    let host = gethostname::gethostname().to_string_lossy().to_lowercase();
    let own = [format!("{host}.local"), host];
    addresses.iter().cloned().chain(own).collect()
}

/// How many files this process may have open: lines are files too, and the data file needs some.
#[cfg(unix)]
fn open_files() -> usize {
    let limit = rustix::process::getrlimit(rustix::process::Resource::Nofile).current;
    limit.map_or(usize::MAX, |n| usize::try_from(n).unwrap_or(usize::MAX))
}

/// How many files this process may have open.
#[cfg(not(unix))]
fn open_files() -> usize {
    usize::MAX
}

fn speed(text: &str) -> Result<f64, String> {
    match text.parse() {
        Ok(speed) if (0.0..=100_000.0).contains(&speed) => Ok(speed),
        _ => Err("give a number from 0 to 100000".into()),
    }
}

/// The first line on standard output is the address: people click it, tests read it.
#[expect(clippy::print_stdout, reason = "the one line a person waits for")]
fn announce(address: SocketAddr, reached_at: Option<&String>) {
    match reached_at {
        Some(host) => println!("Wembrit is at http://{host}:{}", address.port()),
        None => println!("Wembrit is at http://{address}"),
    }
}

/// Takes an address; with port 0 a free one of it.
pub(super) async fn bind(address: SocketAddr) -> Result<(TcpListener, SocketAddr), CommandError> {
    let failed = |why| CommandError::Listen { address, why };
    let listener = TcpListener::bind(address).await.map_err(failed)?;
    let taken = listener.local_addr().map_err(failed)?;
    Ok((listener, taken))
}

pub(super) async fn asked_to_stop() {
    use tokio::signal;
    #[cfg(unix)]
    let terminate = async {
        match signal::unix::signal(signal::unix::SignalKind::terminate()) {
            Ok(mut signal) => drop(signal.recv().await),
            Err(_) => std::future::pending().await,
        }
    };
    #[cfg(not(unix))]
    let terminate = std::future::pending::<()>();
    tokio::select! {
        _ = signal::ctrl_c() => {}
        () = terminate => {}
    }
}

/// Serve a workshop's data file.
#[derive(Debug, Args)]
pub(crate) struct Serve {
    #[command(flatten)]
    listening: Listening,
    /// The data file; made when it is not there.
    #[arg(long, default_value = "wembrit.sqlite", value_name = "FILE")]
    data: PathBuf,
}

impl Serve {
    pub(crate) fn run(&self) -> Result<(), CommandError> {
        let _held = DataLock::take(&self.data)?;
        let store = Store::open(&self.data)?;
        let settings = Settings {
            clock: self.listening.clock(),
            measure: super::apart::measure_where(),
            ..Settings::default()
        };
        self.listening.serve(store, settings, async { Ok(()) })
    }
}
