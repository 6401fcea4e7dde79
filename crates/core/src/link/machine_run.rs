//! A run that was begun over a link, as its machine told it last.

use super::due::{OnMachine, Stands, due, held_anew, stands};
use super::says::{MachineState, Says, Trouble};
use crate::ids::{PlateId, PrinterId, RunId};

/// What is kept of a machine's word about a run.
#[derive(Debug, Clone, PartialEq)]
pub struct MachineRun {
    /// The run.
    pub run: RunId,
    /// Its plate.
    pub plate: PlateId,
    /// Its machine.
    pub printer: PrinterId,
    /// The machine's own count of it.
    pub number: u64,
    /// Where it stood.
    pub state: MachineState,
    /// What went wrong.
    pub trouble: Option<Trouble>,
    /// Layers that were done.
    pub layer: u32,
    /// How long it had printed, s.
    pub printed_s: f64,
    /// What the vat held at the start, ml; nothing once it was filled up.
    pub began_ml: Option<f64>,
    /// When the machine was heard to be over with it, ms since 1970.
    pub over_at_ms: Option<i64>,
    /// By the books it is over.
    pub is_over: bool,
    /// By the books it is held.
    pub is_held: bool,
}

impl MachineRun {
    /// As it stands in the books.
    #[must_use]
    pub const fn in_the_books(&self) -> OnMachine {
        OnMachine {
            number: self.number,
            is_over: self.is_over,
            is_held: self.is_held,
        }
    }

    /// Whether a machine says another state of it than it did.
    #[must_use]
    pub fn is_news(&self, says: &Says) -> bool {
        (says.state, says.trouble) != (self.state, self.trouble)
    }

    /// Whether anything is to be written down of what a machine says.
    #[must_use]
    pub fn is_to_be_written(&self, says: &Says) -> bool {
        let ours = self.in_the_books();
        let is_news = stands(says, self.number) == Stands::Ours && self.is_news(says);
        is_news || held_anew(says, ours).is_some() || due(says, ours).is_some()
    }
}
