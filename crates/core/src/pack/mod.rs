//! Which copies share a plate, and where on it they stand.
//!
//! [`PackSearch`] is the door: [`PackSearch::AT_ONCE`] where an answer is wanted at once, more steps
//! for a plan. [`check_packing`] shares no code with it and passes every
//! result before anybody sees it.

mod again;
mod bound;
mod boxes;
mod check;
mod fill;
mod instance;
mod limits;
mod nest;
mod overlap;
mod pack_search;
mod press;
mod raise;
mod shape;
mod slots;
mod trade;
mod work;

pub use bound::{Bound, lower_bound};
pub use check::{PackFault, check_packing, in_the_way};
pub use instance::{Instance, InstanceError};
pub use limits::{halves, most_of_unit};
pub use pack_search::PackSearch;
pub use slots::Slots;

use crate::geometry::{Outline, Point};

/// A printer as the packer sees it.
///
/// # Units
/// mm and seconds.
#[derive(Debug, Clone, PartialEq)]
pub struct BuildArea {
    /// Width of its build plate, along x.
    pub width_mm: f64,
    /// Depth of its build plate, along y.
    pub depth_mm: f64,
    /// Tallest part it takes, the way it needs for removal taken off.
    pub height_mm: f64,
    /// Hardest pull of one part it may have, as an index; nothing where there is no limit.
    pub part_pull: Option<f64>,
    /// Hardest pull of all parts on a plate together, layer by layer.
    pub plate_pull: Option<f64>,
    /// Rim that stays free.
    pub margin_mm: f64,
    /// How long the plates that are accepted for it keep it, s.
    pub busy_s: f64,
    /// Time a plate takes whatever stands on it, s.
    pub constant_s: f64,
    /// Time for each mm of the tallest part, s.
    pub per_mm_s: f64,
    /// Time of the lowest plates, by how tall they are: up to so many mm, and s; both rise. Taller
    /// ones take the constant and their height.
    pub low: Vec<[f64; 2]>,
    /// How long a plate keeps it, with the hours in which nobody takes it off.
    pub slots: Slots,
}

impl BuildArea {
    /// Time of a plate whose tallest part is so tall, s.
    #[must_use]
    pub fn seconds(&self, height_mm: f64) -> f64 {
        let low = self.low.partition_point(|[up_to, _]| *up_to < height_mm);
        let linear = || self.constant_s + self.per_mm_s * height_mm;
        self.low.get(low).map_or_else(linear, |[_, s]| *s)
    }
}

/// Some equal copies to be placed.
#[derive(Debug, Clone, PartialEq)]
pub struct Item {
    /// Outline on the plate about the part's own origin, mm.
    pub outline: Outline,
    /// Height, mm.
    pub height_mm: f64,
    /// How many.
    pub copies: u64,
    /// Copies of the lower number come onto the earlier plate, where heights are alike.
    pub priority: i64,
    /// The unit its copies belong to.
    pub unit: i64,
    /// Pull in each slab of [`crate::units::PULL_SLAB_MM`] above the plate, as an index: the hardest layer of
    /// the slab. Empty where it is not known.
    pub pull: Vec<f64>,
}

impl Item {
    /// Copies without a unit, a priority or a known pull.
    #[must_use]
    pub const fn new(outline: Outline, height_mm: f64, copies: u64) -> Self {
        Self {
            outline,
            height_mm,
            copies,
            priority: 0,
            unit: 0,
            pull: Vec::new(),
        }
    }
}

/// What the maker cares for beside hours on the printers.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Wishes {
    /// What another plate costs in hands, s.
    pub plate_s: f64,
    /// What it is worth to have a unit on one plate fewer, s.
    pub together_s: f64,
    /// No plate takes more than half of a unit: one lost plate is not the whole unit.
    pub apart: bool,
}

/// What is to be packed: copies that may share a plate, and the printers they may go on.
#[derive(Debug, Clone, PartialEq)]
pub struct PackJob {
    /// What else matters.
    pub wishes: Wishes,
    /// The printers.
    pub build_areas: Vec<BuildArea>,
    /// Free space between two copies, mm.
    pub clearance_mm: f64,
    /// The copies.
    pub items: Vec<Item>,
}

/// Where one copy stands: turned counter-clockwise about its origin, then shifted. Plate
/// corners are (0, 0) and (width, depth), seen from the film.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Placement {
    /// Index into the items of the job.
    pub item: usize,
    /// Where its origin stands, mm.
    pub at_mm: Point,
    /// Its turn, degrees.
    pub rotation_deg: f64,
}

/// One filled plate.
#[derive(Debug, Clone, PartialEq)]
pub struct PackedPlate {
    /// Index into the build_areas of the job.
    pub build_area: usize,
    /// The copies on it.
    pub placements: Vec<Placement>,
    /// Nothing on it may be moved; its gaps may be filled.
    pub fixed: bool,
}

/// Why copies could not be placed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Misfit {
    /// Taller than every printer.
    TooTall,
    /// Its outline fits no plate, however it is turned.
    TooWide,
    /// It pulls harder on the film than any printer may.
    PullsTooHard,
}

/// Copies that found no place.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeftOver {
    /// Index into the items of the job.
    pub item: usize,
    /// How many.
    pub copies: u64,
    /// Why.
    pub why: Misfit,
}

/// The result: every copy of the job is on exactly one plate or left over.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Packing {
    /// The plates, in the order in which they should be printed.
    pub plates: Vec<PackedPlate>,
    /// What fits nowhere.
    pub left_over: Vec<LeftOver>,
}

/// Why packing gave no result.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum PackError {
    /// Asked to stop.
    #[error("packing was stopped")]
    Stopped,
    /// More copies than are packed in one go.
    #[error(
        "{copies} copies are more than the {limit} that are planned in one go: lower a quantity"
    )]
    TooMany {
        /// Copies asked for.
        copies: u64,
        /// The limit.
        limit: u64,
    },
}

/// Most copies packed in one go.
pub const MAX_COPIES: u64 = 20_000;

#[cfg(test)]
#[path = "pack_tests.rs"]
mod pack_tests;
