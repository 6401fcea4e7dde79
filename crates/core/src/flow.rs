//! The states copies, plates and runs pass through, and the only ways from one to the next.

use crate::words::words;

words! {
    /// Where a copy stands. *Wanted* is no stage: it is a number, see [`crate::demand`].
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

words! {
    /// Where a plate stands.
    PlateState, "state of a plate" {
        /// Part of a plan that nobody has accepted.
        Draft = "draft",
        /// Accepted, waiting for its printer.
        Planned = "planned",
        /// In the printer.
        Running = "running",
        /// Off the printer, its copies not judged yet.
        Printed = "printed",
        /// Every copy judged.
        Done = "done",
        /// Given up before the start.
        Released = "released",
    }
}

words! {
    /// Where a revision of a plan stands.
    PlanState, "state of a plan" {
        /// Being computed.
        Computing = "computing",
        /// Shown, not accepted.
        Draft = "draft",
        /// Accepted: its plates and copies exist.
        Accepted = "accepted",
        /// Replaced by a later revision or thrown away.
        Dropped = "dropped",
        /// Could not be computed.
        Failed = "failed",
    }
}

words! {
    /// How much of an earlier plan a new one keeps.
    PlanEffort, "effort of a plan" {
        /// Nothing: it is laid out anew.
        Anew = "anew",
        /// As much as can be: only what has to change does.
        Repair = "repair",
        /// It begins there and looks for something better.
        Further = "further",
    }
}

words! {
    /// Where a mesh file stands.
    SculptState, "state of a sculpt" {
        /// Being uploaded; swept at the next start if the upload broke off.
        Incoming = "incoming",
        /// Complete, not measured yet.
        Waiting = "waiting",
        /// Measured.
        Measured = "measured",
        /// Not readable; the refusal says why.
        Refused = "refused",
    }
}

words! {
    /// Where a piece that is not printed comes from.
    Source, "source of a piece" {
        /// Out of a box or off a shelf.
        Box = "box",
        /// Built by hand.
        ScratchBuilt = "scratch-built",
        /// Cast, laser-cut, printed elsewhere …
        AnotherProcess = "another process",
    }
}

words! {
    /// Causes of a lost copy, as makers tell them apart.
    FailureCause, "cause of failure" {
        /// The whole plate, or this place of it, came up empty.
        NothingOnPlate = "nothing on the plate",
        /// It stayed on the film.
        StuckToFilm = "stuck to the film",
        /// It tore off its supports.
        TornOff = "torn off its supports",
        /// Something that began in mid-air is not there.
        MissingFeature = "a feature is missing",
        /// Joints or gaps have grown together.
        Fused = "joints fused",
        /// Detail is soft or incomplete.
        SoftDetail = "soft detail",
        /// It is bent.
        Warped = "warped",
        /// It broke coming off the plate.
        BrokenAtRemoval = "broken at removal",
        /// It broke when the supports came off.
        BrokenAtSupports = "broken at the supports",
        /// White film or residue.
        Residue = "residue",
        /// A hollow that leaks or has cracked.
        Leaking = "hollow leaks",
        /// The size is wrong or it does not fit.
        WrongSize = "wrong size",
        /// The vat ran dry.
        OutOfResin = "out of resin",
        /// Skin on the resin, or floating debris.
        Debris = "debris in the vat",
        /// None of these; the note says what.
        Other = "something else",
    }
}

/// A step that does not lead on from where a thing stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum FlowError {
    /// A copy cannot take this step.
    #[error("a copy that is {from} cannot {event}")]
    Copy {
        /// Where it stands.
        from: Stage,
        /// What was asked.
        event: CopyEvent,
    },
    /// A plate cannot take this step.
    #[error("a plate that is {from} cannot become {to}")]
    Plate {
        /// Where it stands.
        from: PlateState,
        /// What was asked.
        to: PlateState,
    },
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

/// Whether a plate may go from one state to another.
///
/// # Errors
/// [`FlowError::Plate`] when it may not.
pub fn check_plate_step(from: PlateState, to: PlateState) -> Result<(), FlowError> {
    use PlateState as P;
    match (from, to) {
        (P::Draft, P::Planned)
        | (P::Planned, P::Running | P::Printed | P::Released)
        | (P::Running, P::Printed)
        | (P::Printed, P::Done)
        | (P::Done, P::Printed) => Ok(()),
        (from, to) => Err(FlowError::Plate { from, to }),
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

#[cfg(test)]
mod tests {
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
