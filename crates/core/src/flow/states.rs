//! The words for where copies and plates stand.

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
        /// Of no use, with a cause.
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
        /// It is of no use.
        Fail = "fail",
        /// Its plate was released before the start.
        Release = "release",
        /// The judgement was a mistake: back to be looked at.
        Rejudge = "rejudge",
        /// More are good than are wanted now.
        SetAside = "set aside",
        /// A copy set aside is wanted after all.
        Recall = "recall",
        /// Its plate was taken back from the printer and waits again.
        PutBack = "put back",
        /// It failed with a plate that is put back: it is printed again as the same copy.
        Recount = "recount",
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
        /// Nothing on it was of use.
        Lost = "lost",
        /// Taken off the plan before it was started.
        Released = "released",
    }
}
