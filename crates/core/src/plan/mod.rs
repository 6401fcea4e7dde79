//! Joins the rooms: from demand, printers and timings to plates with hours, resin and money; plates
//! changed by hand; advice.

pub mod advice;
pub mod diff;
mod figures;
pub mod fit;
mod improve;
pub mod layout;
mod made;
pub mod per_copy;
mod request;

pub use figures::{build_area, plate_figures};
pub use improve::{improve_plan, make_plan};
pub use made::{NotPlanned, Plan, PlanBound, PlanError, PlannedCopy, PlannedPlate, PlateFigures};
pub use request::{ExistingPlate, PlanPart, PlanPrinter, PlanRequest, PlanSetting, Rates};
