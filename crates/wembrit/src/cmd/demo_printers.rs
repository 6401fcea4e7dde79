//! The demo's printers: simulated ones on this machine, each connected, what runs already hanging in it.

use std::path::Path;

use tokio::net::TcpListener;
use wembrit_core::ids::PrinterId;
use wembrit_core::link::Told;
use wembrit_core::workshop::Printer;
use wembrit_sim::{Sim, Spec};
use wembrit_store::queries::{benches, links, plates, printers, stores};
use wembrit_store::{Store, StoreError, commands};

use super::CommandError;
use super::serve::asked_to_stop;

/// How many there are.
const PRINTERS: usize = 3;
/// A little way more than its plates need, mm.
const MORE_TRAVEL_MM: f64 = 20.0;

/// Makes the printers, connects them, and lets them answer until the process is asked to stop. What each remembers stands
/// in `folder`; time passes so many times as fast as outside.
pub(super) async fn start(
    store: &Store,
    folder: &Path,
    speed: f64,
    now_ms: i64,
) -> Result<(), CommandError> {
    let all = store.read(printers::list)?;
    for printer in all.into_iter().take(PRINTERS) {
        let (listener, address) = listen(store, printer.id).await?;
        connect(store, printer.id, &address)?;
        let sim = machine(store, &printer, &folder.join(printer.id.to_string()))?;
        hang(store, &sim, printer.id, now_ms)?;
        sim.with(|m| m.goes(speed))?;
        tokio::spawn(sim.serve(listener, asked_to_stop()));
    }
    Ok(())
}

/// Where it answered the last time, if that is free, else anywhere.
async fn listen(store: &Store, id: PrinterId) -> Result<(TcpListener, String), CommandError> {
    let known = store.read(|c| links::address(c, id))?;
    let known = known.and_then(|a| a.strip_prefix("http://").map(str::to_owned));
    let again = match known {
        Some(at) => TcpListener::bind(at).await.ok(),
        None => None,
    };
    let failed = |why| CommandError::Listen {
        address: ([127, 0, 0, 1], 0).into(),
        why,
    };
    let listener = match again {
        Some(listener) => listener,
        None => TcpListener::bind(("127.0.0.1", 0)).await.map_err(failed)?,
    };
    let at = listener.local_addr().map_err(failed)?;
    Ok((listener, format!("http://{at}")))
}

/// It is the same machine wherever it answers: what it was told and has not answered goes to the new place.
fn connect(store: &Store, id: PrinterId, address: &str) -> Result<(), StoreError> {
    store.write(|c| {
        // Another one may have answered there the last time.
        for (other, at) in links::list(c)? {
            if at == address && other != id {
                commands::links::give_up(c, other)?;
                commands::links::disconnect(c, other)?;
            }
        }
        commands::links::moved(c, id, address)
    })
}

fn machine(store: &Store, printer: &Printer, folder: &Path) -> Result<Sim, CommandError> {
    let all = std::slice::from_ref(printer);
    let limits = store.read(|c| stores::vat_limits(c, all))?;
    let most = limits.get(&printer.id).map_or(500.0, |l| l[1]);
    Ok(Sim::open(
        Some(folder),
        Spec {
            name: printer.name.clone(),
            travel_mm: printer.height_mm + MORE_TRAVEL_MM,
            vat_ml: most,
            seed: None,
        },
    )?)
}

/// The plate that runs on this printer by the books hangs in the machine, as far as it has come.
fn hang(store: &Store, sim: &Sim, id: PrinterId, now_ms: i64) -> Result<(), CommandError> {
    let running = store.read(|c| {
        let Some(plate) = plates::runs_on(c, id)? else {
            return Ok(None);
        };
        let Some(run) = benches::running(c, plate)? else {
            return Ok(None);
        };
        let is_known = links::of_run(c, run.id)?.is_some();
        Ok((!is_known).then_some((run, links::job(c, plate)?)))
    })?;
    let Some((run, job)) = running else {
        return Ok(());
    };
    let file = job.bytes();
    let (begun, holds_ml) = sim.with(|m| {
        let holds_ml = m.says().resin_ml;
        let checksum = m.keep(&job.name, &file).unwrap_or_default();
        let next = m.says().next_job(&job.name, &checksum);
        let answer = m.tell(&format!("demo {}", run.id), &Told::Start(next.clone()));
        m.goes(1.0);
        m.advance((now_ms - run.started_at_ms).max(0) as f64 / 1000.0);
        (answer.done.then_some(next), holds_ml)
    })?;
    if let Some(job) = begun {
        store.write(|c| commands::links::follow(c, run.id, id, &job, Some(holds_ml), now_ms))?;
    }
    Ok(())
}
