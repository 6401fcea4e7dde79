//! What a plate is printed on and from: printers, resins, process settings, and the maker's practice.

pub mod practice;
pub mod print_time;
pub mod resin;
