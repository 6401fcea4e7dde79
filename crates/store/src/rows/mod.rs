//! The kept things as values, one file for each kind of thing.

mod hollow;
mod hung;
mod muster;
mod plate;
mod prepared;
mod recipe;
mod sculpt;
mod task;
mod trial;
mod workshop;

pub use hollow::HollowFacts;
pub(crate) use hollow::{drains_text, hollows_text};
pub use hung::{HungFacts, PoseRow};
pub(crate) use hung::{best_text, drawn_text, loads_text, scores_text};
pub use muster::{Choice, ChoiceOption, Model, Part, Piece, Project, Unit};
pub use plate::{Copy, Placement, Plan, PlanScope, Plate, Run};
pub use prepared::PreparedFacts;
pub(crate) use prepared::{cups_text, curve_text, islands_text};
pub use recipe::{PrintMeshRow, RecipeVersion};
pub use sculpt::{Sculpt, SculptFacts};
pub(crate) use sculpt::{outline_text, reach_text};
pub use task::Task;
pub use trial::{Trial, Variant};
pub use workshop::{Printer, ProcessSetting, Resin, SettingVersion, Workshop};
