//! What a plate is printed on and from: printers, resins, process settings, and the maker's practice.

pub mod attendance;
pub mod practice;
mod preset;
pub mod print_time;
mod printer;
mod rates;
pub mod resin;
pub mod resin_use;
mod setting;
pub mod upkeep;

pub use preset::Preset;
pub use printer::{
    BuildVolume, PRINTER_ASSUMED, Printer, USUAL_PIXEL_UM, finest_pixel_mm, first_fit,
};
pub use rates::{Rates, Workshop};
pub use resin::Resin;
pub use setting::{ProcessSetting, is_confirmed, without};
