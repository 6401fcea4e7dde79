//! Supports as they are planned: how thick, how close, how high; what they take.

mod plan;
mod shape;

pub use plan::{Column, SupportPlan, plan_supports};

use crate::words::words;

words! {
    /// Where the supports of a recipe come from.
    SupportSource, "source of supports" {
        /// None: it stands on the plate.
        None = "none",
        /// Planned here: an estimate.
        Planned = "planned",
        /// The file brings its own.
        InFile = "in the file",
        /// Measured on the mesh the maker supported elsewhere.
        PrintMesh = "print mesh",
    }
}

/// How supports are planned.
///
/// # Units
/// mm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SupportStyle {
    /// Diameter of a tip where it touches the part.
    pub tip_mm: f64,
    /// Distance of contacts on an overhang.
    pub spacing_mm: f64,
    /// How far the lowest point of the part hangs off the raft.
    pub lift_mm: f64,
}

impl SupportStyle {
    /// Tips of half a millimetre: common practice for miniatures, no source.
    pub const USUAL: Self = Self {
        tip_mm: 0.5,
        spacing_mm: 3.0,
        lift_mm: 5.0,
    };

    /// Diameter of a column, mm: some times its tip, never under a millimetre (common practice,
    /// no source).
    #[must_use]
    pub fn column_mm(&self) -> f64 {
        (2.0 * self.tip_mm + 0.2).max(1.0)
    }

    /// Volume of a column of this length with its tip, mm³.
    #[must_use]
    pub fn column_mm3(&self, length_mm: f64) -> f64 {
        let (r, t) = (self.column_mm() / 2.0, self.tip_mm / 2.0);
        let cone = TIP_LENGTH_MM.min(length_mm);
        std::f64::consts::PI * (r * r * (length_mm - cone) + cone * (r * r + r * t + t * t) / 3.0)
    }
}

/// Length of the cone at the end of a column, mm.
pub const TIP_LENGTH_MM: f64 = 1.5;
/// Thickness of the raft, mm.
pub const RAFT_MM: f64 = 0.8;
/// How far the raft reaches around the feet of the columns, mm.
pub const RAFT_RIM_MM: f64 = 1.5;

/// Minutes to cut a part free and smooth its marks: common practice, no source (half a minute to
/// begin with, six seconds for a contact, half as much again where it is marked fine).
#[must_use]
pub fn clean_up_minutes(contacts: usize, fine: usize) -> f64 {
    if contacts == 0 {
        0.0
    } else {
        0.5 + 0.1 * contacts as f64 + 0.05 * fine as f64
    }
}
