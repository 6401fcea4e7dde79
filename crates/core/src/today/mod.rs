//! The day sheet: what needs a hand next, in every project, what waiting costs, and what is best done in the minutes
//! there are.

mod ahead;
mod day;
mod in_hand;
mod lines;
#[cfg(test)]
mod samples;
mod waiting;

pub use ahead::{Ahead, DayFacts};
pub use day::{Day, OnItsWay, Played, Steps};
pub use in_hand::{Did, Do, InHand};
pub use lines::{
    Act, IDLE_DAYS, Line, StandingVat, TodayBatch, TodayFacts, TodayProject, When, lines,
};
pub use waiting::{Held, Turn, Waiting, dearest_first, held_by};
