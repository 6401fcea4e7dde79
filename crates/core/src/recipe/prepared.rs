//! A part as its recipe prints it, with everything a plate needs to know of it.

use std::borrow::Cow;
use std::fmt;
use std::str::FromStr;

use super::part_setup::PartSetup;
use crate::geometry::Outline;
use crate::layers::{HeightProfile, Loads};
use crate::numbers::{self, NotNumbers, from_text, to_um};
use crate::sculpt::SculptFacts;
use crate::workshop::resin_use::Body;

/// What is drawn of a part and its supports from the front, mm above the plate.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SetupDrawing {
    /// Left, lowest, right and highest of what the picture shows.
    pub picture_mm: [f64; 4],
    /// Columns, each from its contact to its foot.
    pub columns: Vec<Vec<[f64; 2]>>,
    /// Left and right end of the raft.
    pub raft_mm: Option<[f64; 2]>,
    /// The riskiest starts, the riskiest first.
    pub riskiest: Vec<[f64; 2]>,
}

/// A drawing as it is kept: its picture, columns, raft and riskiest starts.
type Drawn = (
    [f64; 4],
    Vec<Vec<[f64; 2]>>,
    Option<[f64; 2]>,
    Vec<[f64; 2]>,
);

impl fmt::Display for SetupDrawing {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let short = |points: &[[f64; 2]]| points.iter().map(|p| p.map(to_um)).collect();
        let drawn: Drawn = (
            self.picture_mm,
            self.columns.iter().map(|c| short(c)).collect(),
            self.raft_mm,
            short(&self.riskiest),
        );
        numbers::write(&drawn, f)
    }
}

impl FromStr for SetupDrawing {
    type Err = NotNumbers;
    fn from_str(text: &str) -> Result<Self, NotNumbers> {
        let (picture_mm, columns, raft_mm, riskiest): Drawn = numbers::read(text)?;
        Ok(Self {
            picture_mm,
            columns,
            raft_mm,
            riskiest,
        })
    }
}

from_text!(SetupDrawing);

/// A part as a recipe prints it.
///
/// # Units
/// mm, mm², mm³, minutes.
#[derive(Debug, Clone, PartialEq)]
pub struct PreparedPart {
    /// Outline on the plate, supports and raft included, about the middle of its box.
    pub outline: Outline,
    /// How far it reaches at every height, supports included.
    pub profile: HeightProfile,
    /// Height above the plate.
    pub height_mm: f64,
    /// Solid of the part.
    pub part_mm3: f64,
    /// Supports and raft.
    pub support_mm3: f64,
    /// Surface of all.
    pub surface_mm2: f64,
    /// Hollows of the part that keep the resin they fill with; nothing until its file is asked, see
    /// [`Self::or_file`].
    pub inside_mm3: f64,
    /// Places where supports touch.
    pub contacts: usize,
    /// Those in zones marked fine.
    pub fine_contacts: usize,
    /// Minutes to cut it free.
    pub minutes: f64,
    /// Regions of part and supports together that start in mid-air all the same.
    pub starts_left: usize,
    /// Hardest layer of the part: its height above the plate, and its pull.
    pub peak_pull: (f64, f64),
    /// What it does to the film; empty where it was measured before that was kept.
    pub loads: Loads,
    /// For the picture.
    pub drawing: SetupDrawing,
}

impl PreparedPart {
    /// A file at a scale, as it stands, while nothing was prepared: without supports, its pull
    /// unknown.
    #[must_use]
    pub fn of_file(facts: &SculptFacts, scale: f64) -> Self {
        Self {
            outline: facts.outline.scaled(scale),
            profile: facts.profile.scaled(scale),
            height_mm: facts.height_mm * scale,
            part_mm3: facts.volume_mm3 * scale.powi(3),
            support_mm3: 0.0,
            surface_mm2: facts.surface_mm2 * scale.powi(2),
            inside_mm3: facts.undrained_mm3 * scale.powi(3),
            contacts: 0,
            fine_contacts: 0,
            minutes: 0.0,
            starts_left: 0,
            peak_pull: (0.0, 0.0),
            loads: Loads::default(),
            drawing: SetupDrawing::default(),
        }
    }

    /// As it was prepared; else its file, scaled. Plans, plates and pictures all ask here.
    #[must_use]
    pub fn or_file<'a>(kept: Option<&'a Self>, facts: &SculptFacts, scale: f64) -> Cow<'a, Self> {
        let inside_mm3 = facts.undrained_mm3 * scale.powi(3);
        match kept {
            None => Cow::Owned(Self::of_file(facts, scale)),
            Some(kept) if kept.inside_mm3 == inside_mm3 => Cow::Borrowed(kept),
            Some(kept) => Cow::Owned(Self {
                inside_mm3,
                ..kept.clone()
            }),
        }
    }

    /// What is printed of it.
    #[must_use]
    pub fn body(&self) -> Body {
        Body {
            part_mm3: self.part_mm3,
            support_mm3: self.support_mm3,
            surface_mm2: self.surface_mm2,
            inside_mm3: self.inside_mm3,
        }
    }

    /// Part and supports, mm³.
    #[must_use]
    pub fn volume_mm3(&self) -> f64 {
        self.part_mm3 + self.support_mm3
    }
}

/// The figures of a prepared part, without its outlines and drawings.
///
/// # Units
/// mm, mm³; pull is an index.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HeldFigures {
    /// What its picture is asked for by.
    pub id: i64,
    /// What it was prepared from.
    pub setup: PartSetup,
    /// The version of the measuring.
    pub measure_version: i64,
    /// How tall it hangs.
    pub height_mm: f64,
    /// The part.
    pub part_mm3: f64,
    /// Its supports.
    pub support_mm3: f64,
    /// Tips that touch it.
    pub contacts: usize,
    /// Regions that start in mid-air all the same.
    pub starts_left: usize,
    /// The hardest layer.
    pub peak_pull: f64,
}

/// A prepared part as it is kept, with what it was prepared from.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptPart {
    /// What its picture is asked for by.
    pub id: i64,
    /// What it was prepared from.
    pub setup: PartSetup,
    /// The part.
    pub part: PreparedPart,
}
