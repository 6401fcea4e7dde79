//! The states of a plan.

use crate::words::words;

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
