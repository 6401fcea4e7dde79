//! The day sheet: what needs a hand next, in every project.

mod lines;

pub use lines::{Act, IDLE_DAYS, Line, TodayBatch, TodayFacts, TodayProject, When, lines};
