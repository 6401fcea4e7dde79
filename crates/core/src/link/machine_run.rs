//! A run that was begun over a link, as its machine told it last.

use super::due::{OnMachine, Stands, due, held_anew, stands};
use super::job_key::JobKey;
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
    /// The job it is.
    pub job: JobKey,
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

/// What a plate that somebody takes off came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum TakenOff {
    /// All of it was printed, in so many seconds; nothing where only the person says so.
    Whole(Option<f64>),
    /// It broke off after so many layers.
    BrokenOff(u32),
    /// It cannot be: the machine says that it is still at it.
    NotYet(MachineState),
}

impl MachineRun {
    /// What the plate came to if it is taken off now, by the machine's word, else by what it said last. Of one that is
    /// silent in the middle, or knows nothing of it any more, the person's word counts.
    #[must_use]
    pub fn taken_off(&self, says: Option<&Says>) -> TakenOff {
        let says = says.filter(|s| stands(s, &self.job) == Stands::Ours);
        let (state, layer, printed_s) = match says {
            Some(s) => (s.state, s.layer, s.printed_s),
            None => (self.state, self.layer, self.printed_s),
        };
        match state {
            MachineState::Ended => TakenOff::Whole(Some(printed_s)),
            MachineState::Stopped | MachineState::Halted => TakenOff::BrokenOff(layer),
            MachineState::Printing | MachineState::Paused if says.is_some() => {
                TakenOff::NotYet(state)
            }
            _ => TakenOff::Whole(None),
        }
    }

    /// As it stands in the books.
    #[must_use]
    pub const fn in_the_books(&self) -> OnMachine<'_> {
        OnMachine {
            job: &self.job,
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
        let is_news = stands(says, &self.job) == Stands::Ours && self.is_news(says);
        is_news || held_anew(says, ours).is_some() || due(says, ours).is_some()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::link::samples::{key, says};
    use rstest::rstest;

    /// It was said to be in a state, at layer 200 after 2,400 s; what it says now is of job 7, or nothing.
    #[rstest]
    #[case::ended(MachineState::Printing, Some((MachineState::Ended, 7)), TakenOff::Whole(Some(5000.0)))]
    #[case::power_cut(MachineState::Printing, Some((MachineState::Halted, 7)), TakenOff::BrokenOff(412))]
    #[case::prints(MachineState::Printing, Some((MachineState::Printing, 7)), TakenOff::NotYet(MachineState::Printing))]
    #[case::held(MachineState::Printing, Some((MachineState::Paused, 7)), TakenOff::NotYet(MachineState::Paused))]
    #[case::another_job(MachineState::Printing, Some((MachineState::Printing, 8)), TakenOff::Whole(None))]
    #[case::silent_in_the_middle(MachineState::Printing, None, TakenOff::Whole(None))]
    #[case::silent_since_its_end(MachineState::Ended, None, TakenOff::Whole(Some(2400.0)))]
    #[case::silent_since_it_stopped(MachineState::Stopped, None, TakenOff::BrokenOff(200))]
    fn what_is_taken_off(
        #[case] state: MachineState,
        #[case] now: Option<(MachineState, u64)>,
        #[case] came_to: TakenOff,
    ) {
        let run = MachineRun {
            run: RunId(1),
            plate: PlateId(1),
            printer: PrinterId(1),
            job: key(7),
            state,
            trouble: None,
            layer: 200,
            printed_s: 2400.0,
            began_ml: None,
            over_at_ms: None,
            is_over: false,
            is_held: false,
        };
        let now = now.map(|(state, number)| Says {
            layer: 412,
            printed_s: 5000.0,
            ..says(state, Some(number))
        });
        assert_eq!(run.taken_off(now.as_ref()), came_to);
    }
}
