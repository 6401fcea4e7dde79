//! Before the start and while a plate runs: what is checked, when to look, when resin has to be
//! added, and whether going on pays once something went wrong.

pub mod evidence;
pub mod going_on;
pub mod looks;
pub mod preflight;
mod printed_time;
pub mod printer_state;

pub use preflight::{
    Answers, Check, CheckItem, KnownBefore, Linked, Pour, Preflight, PreflightFacts, Verdict,
    plate_file,
};
pub use printed_time::{TimeDoubt, on_printer_s, printed_s};
pub use printer_state::PrinterState;
