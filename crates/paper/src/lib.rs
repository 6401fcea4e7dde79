//! Drawings from core's values, as SVG text: the plate sheet, figures of an army, specimen
//! plates of sculpts, parts as they hang, build volumes of printers.
//!
//! Colours are never in a drawing: marks carry classes (`h0` to `h7` along the height ramp,
//! `is-failed`, `is-tallest` …) that the style sheet inks for paper, safelight and print.

mod a4;
mod alarm;
mod exposure;
mod figures;
mod ink;
mod kit;
mod ledger;
mod pace;
mod pdf;
mod per_copy;
mod plate_sheet;
mod plate_thumb;
mod png;
mod progress;
mod rail;
mod ruler;
mod run_elevation;
mod setup;
mod shared;
mod sorting;
mod specimen;
mod stores;
mod tables;
mod volumes;

pub use a4::{PlatePage, SchedulePage, SheetPart, write_plate_page, write_schedule_page};
pub use alarm::{CalendarEntry, write_alarm, write_calendar};
pub use exposure::{ExposureMark, draw_exposures, draw_test_piece};
pub use figures::{FigureCounts, draw_figures};
pub use ink::ramp_class;
pub use kit::{KitPart, draw_kit};
pub use ledger::{Paired, draw_bars, draw_chance, draw_flow, draw_paired, draw_spent, draw_stood};
pub use pace::draw_pace;
pub use pdf::{PdfError, write_pdf};
pub use per_copy::draw_per_copy;
pub use plate_sheet::{DrawnCopy, DrawnLoad, PlateDrawing, draw_plate_sheet};
pub use plate_thumb::{PlateThumbs, draw_plate_thumbs};
pub use png::{PngError, write_png};
pub use progress::{BurnUp, draw_burn_up};
pub use rail::{RailRow, draw_rail};
pub use ruler::{Ruler, RulerBar, RulerRow, draw_ruler};
pub use run_elevation::draw_run_elevation;
pub use setup::{draw_setup, letter};
pub use sorting::{NumberedCopy, draw_numbered_plan, draw_silhouette};
pub use specimen::{Specimen, draw_specimen};
pub use stores::{Vessel, draw_vessels};
pub use tables::{
    FORMAT, ListedCopy, ListedPlate, write_plates_csv, write_plates_json, write_table_csv,
};
pub use volumes::{Volume, draw_volumes};
