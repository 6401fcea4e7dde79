//! When each plate is printed, and where: loading and taking off need somebody who is there, one
//! thing at a time, and a printer is occupied until it is unloaded.
//!
//! [`Shop`] is what is to be done, [`Schedule`] when it is done. [`ScheduleSearch`] looks for the
//! smallest end, then for the smallest weighted ends; [`ScheduleBound`] says before which moment no
//! schedule ends; [`check_schedule`] shares nothing with either.

mod bound;
mod check;
mod deadline;
mod hands;
mod instance;
mod lay;
mod moves;
mod search;
mod shop;
mod slots;
mod timetable;
mod what_if;

#[cfg(test)]
mod schedule_tests;

pub use bound::{Because, ScheduleBound};
pub use check::{ScheduleFault, check_schedule};
pub use deadline::{Possible, possible};
pub use hands::Hands;
pub use instance::{ShopInstance, ShopInstanceError};
pub use lay::ScheduleError;
pub use moves::{CannotMove, time_on};
pub use search::ScheduleSearch;
pub use shop::{Busy, Ends, Job, LATEST, Machine, Minute, Pin, Schedule, Shop, Slot, Window};
pub use timetable::{
    Act, Bar, Due, InUse, Moments, OnPrinter, ResinChange, Timetable, Waiting, Work, weight_of,
};
pub use what_if::{Asked, WhatIf, answers};
