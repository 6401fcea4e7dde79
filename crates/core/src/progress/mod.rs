//! What stands finished, what holds the rest back, what to print next, and when all of it is there.

mod burn_up;
mod held_back;
mod print_next;
mod rehearse;
mod rest;
mod what_if;

pub use burn_up::{Expected, plates_left};
pub use held_back::{Lack, OnPlate, coming, held_back};
pub use print_next::{Next, ReadyPlate, complete_with, print_next};
pub use rehearse::{Missing, Rehearsals, Rest, RestPlate, rehearse};
pub use rest::{RestFacts, RestPart, SAFE, THIN_MM, WholeRest, rest_of};
pub use what_if::{WhatIf, WhatIfAnswer, answers};
