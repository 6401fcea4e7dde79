//! The stages of a copy, and the only ways from one to the next.

use super::error::FlowError;
use crate::words::words;

words! {
    /// Where a copy stands. *Wanted* is no stage: it is a number, see [`crate::army::demand`].
    Stage, "stage of a copy" {
        /// On an accepted plate that has not been started.
        Planned = "planned",
        /// On a plate in a running printer.
        Printing = "printing",
        /// Off the printer, not yet judged.
        InFinishing = "in finishing",
        /// Fit for building.
        Good = "good",
        /// Lost, with a cause.
        Failed = "failed",
        /// Good, but more than is wanted now.
        Surplus = "surplus",
        /// Taken off the plan before it was started.
        Released = "released",
    }
}

impl Stage {
    /// Counts against demand: nobody has to print another for it.
    #[must_use]
    pub const fn is_alive(self) -> bool {
        matches!(
            self,
            Stage::Planned | Stage::Printing | Stage::InFinishing | Stage::Good
        )
    }
}

words! {
    /// What happens to a copy.
    CopyEvent, "event" {
        /// Its plate is started.
        Start = "start",
        /// Its plate came off the printer.
        Finish = "finish",
        /// It was looked at and is good.
        Pass = "pass",
        /// It was lost.
        Fail = "fail",
        /// Its plate was given up before the start.
        Release = "release",
        /// The judgement was a mistake: back to be looked at.
        Rejudge = "rejudge",
        /// More are good than are wanted now.
        SetAside = "set aside",
        /// A copy set aside is wanted after all.
        Recall = "recall",
    }
}

/// Where a copy stands after an event.
///
/// # Errors
/// [`FlowError::Copy`] when the event does not apply to a copy in that stage.
pub fn next_stage(from: Stage, event: CopyEvent) -> Result<Stage, FlowError> {
    use CopyEvent as E;
    use Stage as S;
    match (from, event) {
        (S::Planned, E::Start) => Ok(S::Printing),
        (S::Planned, E::Release) => Ok(S::Released),
        (S::Printing, E::Finish) => Ok(S::InFinishing),
        (S::InFinishing, E::Pass) => Ok(S::Good),
        (S::Printing | S::InFinishing | S::Good, E::Fail) => Ok(S::Failed),
        (S::Good | S::Failed | S::Surplus, E::Rejudge) => Ok(S::InFinishing),
        (S::Good, E::SetAside) => Ok(S::Surplus),
        (S::Surplus, E::Recall) => Ok(S::Good),
        (from, event) => Err(FlowError::Copy { from, event }),
    }
}

#[cfg(test)]
mod tests {
    use super::super::causes::FailureCause;
    use super::*;

    #[test]
    fn a_copy_walks_from_plan_to_good() {
        let walk = [CopyEvent::Start, CopyEvent::Finish, CopyEvent::Pass];
        let end = walk
            .iter()
            .try_fold(Stage::Planned, |s, e| next_stage(s, *e));
        assert_eq!(end, Ok(Stage::Good));
    }

    #[test]
    fn only_these_steps_exist() {
        let steps: Vec<(Stage, CopyEvent)> = Stage::ALL
            .iter()
            .flat_map(|s| CopyEvent::ALL.iter().map(move |e| (*s, *e)))
            .filter(|(s, e)| next_stage(*s, *e).is_ok())
            .collect();
        assert_eq!(steps.len(), 12, "{steps:?}");
        assert!(next_stage(Stage::Released, CopyEvent::Start).is_err());
        assert!(next_stage(Stage::Planned, CopyEvent::Fail).is_err());
    }

    #[test]
    fn words_read_back_to_the_same_case() {
        for stage in Stage::ALL {
            assert_eq!(stage.as_str().parse(), Ok(*stage));
        }
        for cause in FailureCause::ALL {
            assert_eq!(cause.as_str().parse(), Ok(*cause));
        }
        assert!("lost".parse::<Stage>().is_err());
    }
}
