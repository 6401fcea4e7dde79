//! Joins the rooms: from demand, printers and timings to plates with hours, resin and money; plates
//! changed by hand; advice.

pub mod advice;
pub mod concerns;
pub mod diff;
mod edit;
mod figures;
pub mod fit;
mod gather;
mod given;
mod improve;
mod kept_clear;
pub mod layout;
mod made;
pub mod per_copy;
mod request;
mod try_out;

pub use edit::{EditedPlate, OtherWays, PlateAdvice, PlateEdit, TiltAdvice};
pub use figures::{COST_RULE, build_area, plate_figures};
pub use gather::{PlanFacts, first_copies_missing, limits_pull, plan_request};
pub use given::{GivenOn, GivenPlan};
pub use improve::{improve_plan, make_plan};
pub use kept_clear::is_slender_in;
pub use made::{NotPlanned, Plan, PlanBound, PlanError, PlannedCopy, PlannedPlate, PlateFigures};
pub use request::{ExistingPlate, PlanPart, PlanRequest};
pub use try_out::{TrialFacts, TrialPlanError, plan_first_copies, plan_trial};
