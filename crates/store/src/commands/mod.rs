//! What is changed: a file for each subject, a function for each transaction of the business. All
//! take the connection of one transaction, see [`crate::Store::write`]: they load, ask the rules,
//! save. What takes long is worked out before, and saved if nothing has changed since.

pub mod accept_plan;
pub mod ask_plan;
pub mod attendance;
pub mod batches;
pub mod by_practice;
pub mod concerns;
pub mod dismissals;
pub mod edit_plate;
pub mod exposures;
pub mod hands;
pub mod hollows;
pub mod judge_plate;
pub mod kits;
pub mod layer_facts;
pub mod move_plate;
pub mod muster;
pub mod photos;
pub mod picks;
pub mod poses;
pub mod practices;
pub mod prepared_parts;
pub mod print_meshes;
pub mod print_times;
pub mod printers;
pub mod recipes;
pub mod release_plate;
pub mod remedies;
pub mod resins;
pub mod rosters;
pub mod run_plate;
pub mod save_plan;
pub mod scales;
pub mod sculpts;
pub mod settings;
mod settle_copies;
mod step_plate;
pub mod stores;
pub mod take_plan;
pub mod tasks;
pub mod tell_plates;
pub mod trials;
pub mod unit_moves;
pub mod vat_checks;
pub mod workshop;
pub mod zones;
