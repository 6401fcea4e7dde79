//! What was heard of each connected printer last; nothing of it has to outlive the server.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use tokio::sync::Notify;
use wembrit_core::ids::PrinterId;
use wembrit_core::link::Says;

use super::machine::{LinkError, Machine};

/// What a printer said last.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Heard {
    /// Its last word; nothing while it does not answer.
    pub(crate) says: Option<Says>,
    /// Its last word before it fell silent, or the same.
    pub(crate) last: Option<Says>,
    /// Why there is none; empty where there is.
    pub(crate) silent: String,
    /// Since when it is so, ms since 1970.
    pub(crate) since_ms: i64,
}

type Known = HashMap<PrinterId, (Arc<dyn Machine>, Heard)>;

/// All connected printers.
#[derive(Default)]
pub(crate) struct Printers {
    known: Mutex<Known>,
    /// Somebody wrote something for a printer, or another one is connected.
    pub(super) bell: Notify,
}

impl Printers {
    fn known(&self) -> std::sync::MutexGuard<'_, Known> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What a printer said last; nothing where none is connected or none was asked yet.
    pub(crate) fn heard(&self, printer: PrinterId) -> Option<Heard> {
        self.known().get(&printer).map(|(_, heard)| heard.clone())
    }

    /// The machine that is a printer.
    pub(crate) fn machine(&self, printer: PrinterId) -> Option<Arc<dyn Machine>> {
        self.known()
            .get(&printer)
            .map(|(machine, _)| machine.clone())
    }

    /// Another printer that is this machine, by what it said last.
    pub(crate) fn twin(&self, printer: PrinterId, machine: &str) -> Option<PrinterId> {
        let known = self.known();
        let same = known.iter().filter(|(id, (_, heard))| {
            **id != printer
                && heard
                    .last
                    .as_ref()
                    .is_some_and(|says| says.machine == machine)
        });
        same.map(|(id, _)| *id).min()
    }

    /// All machines.
    pub(crate) fn machines(&self) -> Vec<Arc<dyn Machine>> {
        self.known().values().map(|(m, _)| m.clone()).collect()
    }

    /// Somebody wrote something for a printer: it is told at once.
    pub(crate) fn ring(&self) {
        self.bell.notify_waiters();
    }

    pub(super) fn connected(&self, printer: PrinterId, machine: Arc<dyn Machine>) {
        self.known().insert(printer, (machine, Heard::default()));
    }

    pub(super) fn gone(&self, printer: PrinterId) {
        self.known().remove(&printer);
    }

    /// Keeps its word, with its speed against that of the clock here; says whether it is another one than before.
    pub(super) fn keep(
        &self,
        printer: PrinterId,
        word: Result<Says, LinkError>,
        (now_ms, speed): (i64, f64),
    ) -> bool {
        let mut known = self.known();
        let Some((_, heard)) = known.get_mut(&printer) else {
            return false;
        };
        let (says, silent) = match word {
            Ok(says) => {
                let speed = says.speed / speed.max(1.0);
                (Some(Says { speed, ..says }), String::new())
            }
            Err(e) => (None, e.to_string()),
        };
        let is_new = (&heard.says, &heard.silent) != (&says, &silent);
        let turned = heard.says.is_some() != says.is_some() || heard.since_ms == 0;
        let since_ms = if turned { now_ms } else { heard.since_ms };
        *heard = Heard {
            last: says.clone().or_else(|| heard.last.take()),
            says,
            silent,
            since_ms,
        };
        is_new
    }
}
