//! What the books and a machine know of the same run, and what follows from the difference.

use super::command::CommandKind;
use super::job_key::JobKey;
use super::says::{MachineState, Says};

/// A run that was begun over a line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OnMachine<'a> {
    /// The job it is.
    pub job: &'a JobKey,
    /// By the books it is over: taken off, lost, put back.
    pub is_over: bool,
    /// By the books it is held.
    pub is_held: bool,
}

/// How what a machine says stands to a run of the books.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stands {
    /// It is this run.
    Ours,
    /// Nothing hangs in the machine any more.
    Gone,
    /// Another job hangs in it, by its own count.
    Other(u64),
    /// Another machine answers in its place, and nothing hangs in that.
    Replaced,
}

/// Whether what a machine says is about this job. One that counts as far and is another machine's, or prints another
/// file, is somebody else's.
#[must_use]
pub fn stands(says: &Says, ours: &JobKey) -> Stands {
    match says.job_key() {
        None if ours.is_whole() && says.machine != ours.machine => Stands::Replaced,
        None => Stands::Gone,
        Some(job) if job == *ours => Stands::Ours,
        Some(job) => Stands::Other(job.number),
    }
}

/// What a machine is to be told next because the books are further than it: the plate was taken off, so it is free; or
/// somebody gave the run up while it prints. Nothing is ever begun so, and nothing is told of a run that is not ours.
#[must_use]
pub fn due(says: &Says, ours: OnMachine<'_>) -> Option<CommandKind> {
    if stands(says, ours.job) != Stands::Ours || !ours.is_over {
        return None;
    }
    if says.state.is_over() {
        Some(CommandKind::Clear)
    } else if says.state.holds_a_plate() {
        Some(CommandKind::Stop)
    } else {
        None
    }
}

/// Whether the books hold a run where the machine goes on, or the other way round: somebody was at the machine, or it
/// holds by itself. True: it is held from now on.
#[must_use]
pub fn held_anew(says: &Says, ours: OnMachine<'_>) -> Option<bool> {
    if stands(says, ours.job) != Stands::Ours || ours.is_over {
        return None;
    }
    match (says.state, ours.is_held) {
        (MachineState::Paused, false) => Some(true),
        (MachineState::Printing, true) => Some(false),
        _ => None,
    }
}

/// Copies that were whole when layers ended at this height above the plate, and those that go on above it and would
/// show a line there, mm.
#[must_use]
pub fn cut_at(z_mm: f64, tops_mm: impl IntoIterator<Item = f64>) -> (u64, u64) {
    let mut cut = (0, 0);
    for top in tops_mm {
        if top <= z_mm {
            cut.0 += 1;
        } else {
            cut.1 += 1;
        }
    }
    cut
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::link::samples::{key, says};
    use rstest::rstest;

    /// Of run 7: the machine, whether it is over and held by the books; what is told, and what changes in the books.
    #[rstest]
    #[case::it_prints(MachineState::Printing, Some(7), (false, false), None, None)]
    #[case::it_ended(MachineState::Ended, Some(7), (false, false), None, None)]
    #[case::taken_off(MachineState::Ended, Some(7), (true, false), Some(CommandKind::Clear), None)]
    #[case::taken_off_after_a_power_cut(MachineState::Halted, Some(7), (true, false), Some(CommandKind::Clear), None)]
    #[case::given_up(MachineState::Printing, Some(7), (true, false), Some(CommandKind::Stop), None)]
    #[case::given_up_while_held(MachineState::Paused, Some(7), (true, true), Some(CommandKind::Stop), None)]
    #[case::free(MachineState::Idle, None, (true, false), None, None)]
    #[case::gone(MachineState::Idle, None, (false, false), None, None)]
    #[case::somebody_elses(MachineState::Ended, Some(8), (true, false), None, None)]
    #[case::somebody_elses_prints(MachineState::Printing, Some(8), (true, true), None, None)]
    #[case::held_at_the_machine(MachineState::Paused, Some(7), (false, false), None, Some(true))]
    #[case::gone_on_with_at_the_machine(MachineState::Printing, Some(7), (false, true), None, Some(false))]
    #[case::held_and_ours(MachineState::Paused, Some(7), (false, true), None, None)]
    fn the_books_and_the_machine(
        #[case] state: MachineState,
        #[case] job: Option<u64>,
        #[case] (is_over, is_held): (bool, bool),
        #[case] told: Option<CommandKind>,
        #[case] held: Option<bool>,
    ) {
        let key = key(7);
        let ours = OnMachine {
            job: &key,
            is_over,
            is_held,
        };
        let says = says(state, job);
        assert_eq!(due(&says, ours), told);
        assert_eq!(held_anew(&says, ours), held);
        let expected = match job {
            None => Stands::Gone,
            Some(7) => Stands::Ours,
            Some(n) => Stands::Other(n),
        };
        assert_eq!(stands(&says, &key), expected);
    }

    /// Whatever tells a job from ours, it is not ours: another machine that counts as far, the same one after it
    /// forgot its count, another file under the same name. Nothing is told of it, and nothing held.
    #[rstest]
    #[case::another_machine(|s: &mut Says| s.machine = "heron-2".into())]
    #[case::another_boot(|s: &mut Says| if let Some(j) = &mut s.job { j.boot = "9".into() })]
    #[case::another_name(|s: &mut Says| if let Some(j) = &mut s.job { j.file = "plate-4".into() })]
    #[case::another_file(|s: &mut Says| if let Some(j) = &mut s.job { j.checksum = "cd".into() })]
    #[case::another_count(|s: &mut Says| if let Some(j) = &mut s.job { j.number = 8 })]
    fn what_is_not_ours_is_never_told_anything(
        #[case] change: fn(&mut Says),
        #[values(
            MachineState::Printing,
            MachineState::Paused,
            MachineState::Ended,
            MachineState::Stopped,
            MachineState::Halted
        )]
        state: MachineState,
        #[values(false, true)] is_over: bool,
    ) {
        let key = key(7);
        let ours = OnMachine {
            job: &key,
            is_over,
            is_held: false,
        };
        let mut says = says(state, Some(7));
        assert_eq!(stands(&says, &key), Stands::Ours);
        change(&mut says);
        assert!(matches!(stands(&says, &key), Stands::Other(_)));
        assert_eq!((due(&says, ours), held_anew(&says, ours)), (None, None));
    }

    #[test]
    fn a_machine_that_is_empty_may_be_another() {
        let mut says = says(MachineState::Idle, None);
        assert_eq!(stands(&says, &key(7)), Stands::Gone);
        says.machine = "heron-2".into();
        assert_eq!(stands(&says, &key(7)), Stands::Replaced);
        // A run from before machines said which they are.
        assert_eq!(stands(&says, &JobKey::default()), Stands::Gone);
    }

    #[test]
    fn a_line_runs_through_what_goes_on_above_it() {
        assert_eq!(cut_at(20.6, [12.0, 20.6, 20.7, 41.0]), (2, 2));
        assert_eq!(cut_at(0.0, [12.0]), (0, 1));
    }
}
