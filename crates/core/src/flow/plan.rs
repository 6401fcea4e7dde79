//! The states of a plan.

use crate::ids::{PlanId, PrinterId, ProjectId, ResinId, UnitId};
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

/// One revision of a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRevision {
    /// Which one.
    pub id: PlanId,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its project.
    pub project: ProjectId,
    /// Its number in the project.
    pub revision: i64,
    /// Where it stands.
    pub state: PlanState,
    /// Of the demand it was made for.
    pub fingerprint: String,
    /// Why it could not be computed.
    pub refusal: Option<String>,
    /// What it was asked for.
    pub scope: PlanScope,
    /// How much of an earlier one it keeps.
    pub effort: PlanEffort,
    /// The plan it began from.
    pub from: Option<PlanId>,
    /// No plan for this can take less on all printers together, s.
    pub bound_seconds: f64,
    /// No plan for this can take fewer plates.
    pub bound_plates: i64,
    /// Hours of the first complete plan, s.
    pub first_seconds: Option<f64>,
    /// How many better ones were found since.
    pub better_found: i64,
    /// How many of its edits hold.
    pub edits_held: i64,
}

/// What a plan is asked for: empty lists are everything there is.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PlanScope {
    /// Printers it may use.
    pub printers: Vec<PrinterId>,
    /// Units it prints.
    pub units: Vec<UnitId>,
    /// Resins it prints in.
    pub resins: Vec<ResinId>,
    /// Hours from now after which no plate may end on its printer.
    pub until_h: Option<f64>,
    /// Spares are left out.
    pub no_spares: bool,
    /// Only hours on the printers count, not when somebody is there to take plates off.
    pub by_hours: bool,
}

impl PlanScope {
    /// A choice takes this one: an empty choice takes everything.
    #[must_use]
    pub fn takes<Id: PartialEq>(chosen: &[Id], id: Id) -> bool {
        chosen.is_empty() || chosen.contains(&id)
    }
}
