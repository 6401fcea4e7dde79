//! What each page shows, loaded in one go: a view is made from it and asks for nothing more.

pub mod bin;
pub mod build_sheet;
pub mod exposure;
pub mod finishing;
pub mod frame;
pub mod hands;
pub mod ledger;
pub mod miniatures;
pub mod paces;
pub mod plans;
pub mod plates;
pub mod progress;
pub mod projects;
pub mod recipes;
pub mod runs;
pub mod schedule;
pub mod sculpts;
pub mod search;
pub mod setups;
pub mod stores;
pub mod today;
pub mod trials;
pub mod waiting;
pub mod weighing;
pub mod workshop;
