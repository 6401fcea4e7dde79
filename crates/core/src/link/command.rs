//! What a connected printer is told, and what became of it.
//!
//! A command has an identity of its own, is written down before it is sent, and may be sent as often as it takes:
//! a machine answers the same identity with the same answer and does it once. What was sent and not answered is
//! asked about until it is; only what never left may be withdrawn.

use super::job_key::JobKey;
use super::told::Told;
use crate::ids::{PlateId, PrinterId};
use crate::words::words;

words! {
    /// What a machine is told.
    CommandKind, "kind of command" {
        /// To keep a plate's file.
        Send = "send",
        /// To print it.
        Start = "start",
        /// To hold.
        Pause = "pause",
        /// To go on.
        Resume = "resume",
        /// To break off.
        Stop = "stop",
        /// The plate was taken off.
        Clear = "clear",
    }
}

words! {
    /// What became of a command.
    CommandState, "state of a command" {
        /// It is written down and has not left.
        Written = "written",
        /// It has left; nobody knows whether it arrived.
        Sent = "sent",
        /// The machine has done it.
        Done = "done",
        /// The machine will not.
        Refused = "refused",
        /// It was taken back before it left.
        Withdrawn = "withdrawn",
    }
}

/// A command as it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Command {
    /// Its identity, the same however often it is sent.
    pub uid: String,
    /// To which machine.
    pub printer: PrinterId,
    /// About which plate.
    pub plate: PlateId,
    /// What it is told.
    pub kind: CommandKind,
    /// What became of it.
    pub state: CommandState,
    /// The job it is about; of what keeps a file only that.
    pub job: JobKey,
    /// Why the machine would not; empty where it did, or has not answered.
    pub why: String,
    /// When it was written down, ms since 1970.
    pub written_at_ms: i64,
    /// When it left first.
    pub sent_at_ms: Option<i64>,
}

impl Command {
    /// As the machine hears it; nothing for what keeps a file, which is no command of the protocol.
    #[must_use]
    pub fn told(&self) -> Option<Told> {
        Some(match self.kind {
            CommandKind::Send => return None,
            CommandKind::Start => Told::Start(self.job.clone()),
            CommandKind::Pause => Told::Pause(self.job.clone()),
            CommandKind::Resume => Told::Resume(self.job.clone()),
            CommandKind::Stop => Told::Stop(self.job.clone()),
            CommandKind::Clear => Told::Clear(self.job.clone()),
        })
    }
}

/// A way a command does not go.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error("a command that is {from} cannot be {to}")]
pub struct NoSuchStep {
    /// Where it stands.
    pub from: CommandState,
    /// Where it was to go.
    pub to: CommandState,
}

impl CommandState {
    /// Nobody has an answer yet.
    #[must_use]
    pub const fn is_open(self) -> bool {
        matches!(self, CommandState::Written | CommandState::Sent)
    }

    /// The one way on. A command that was sent stays sent however often it is sent again.
    ///
    /// # Errors
    /// [`NoSuchStep`].
    pub const fn step(self, to: CommandState) -> Result<CommandState, NoSuchStep> {
        use CommandState::{Done, Refused, Sent, Withdrawn, Written};
        match (self, to) {
            (Written, Sent | Withdrawn) | (Sent, Sent | Done | Refused) => Ok(to),
            (from, to) => Err(NoSuchStep { from, to }),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What has left is never taken back, what is answered stays so, and nothing is answered before it left.
    #[test]
    fn a_command_goes_one_way() {
        use CommandState::{Done, Refused, Sent, Withdrawn, Written};
        let ways = [
            (Written, Sent),
            (Written, Withdrawn),
            (Sent, Sent),
            (Sent, Done),
            (Sent, Refused),
        ];
        for from in CommandState::ALL {
            for to in CommandState::ALL {
                let goes = from.step(*to).is_ok();
                assert_eq!(goes, ways.contains(&(*from, *to)), "{from} {to}");
            }
            assert_eq!(from.is_open(), ways.iter().any(|(a, _)| a == from));
        }
    }
}
