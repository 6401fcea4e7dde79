//! Sculpts and what was measured on them.

use diesel::prelude::*;
use wembrit_core::flow::SculptState;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{HeightProfile, ProfileBand};

use crate::error::StoreError;

/// A mesh file as imported.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::sculpts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Sculpt {
    #[diesel(deserialize_as = i64)]
    pub id: SculptId,
    pub uid: String,
    pub row_version: i64,
    pub name: String,
    pub file_name: String,
    pub hash: Option<String>,
    pub bytes: i64,
    #[diesel(deserialize_as = String)]
    pub state: SculptState,
    pub refusal: Option<String>,
    /// Millimetres in one unit of the file.
    pub unit_mm: f64,
    /// A unit it was probably drawn in, while the maker has not answered.
    pub unit_asked: Option<String>,
    /// Wall it would be hollowed with.
    pub wall_um: i64,
    /// What the file cost, in minor units.
    pub price_minor: i64,
}

/// What was measured on a sculpt, at the size of its file.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::sculpt_facts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct SculptFacts {
    #[diesel(deserialize_as = i64)]
    pub sculpt_id: SculptId,
    pub measure_version: i64,
    pub triangles: i64,
    pub dropped: i64,
    pub width_mm: f64,
    pub depth_mm: f64,
    pub height_mm: f64,
    pub volume_mm3: f64,
    pub surface_mm2: f64,
    pub shells: i64,
    pub inverted_shells: i64,
    pub inner_shells: i64,
    pub open_edge_mm: f64,
    pub shell_sum_mm3: f64,
    /// Hardest pull leaning back by 5°, by a quick look; nothing until that was taken.
    pub pull_upright: Option<f64>,
    /// The same leaning back by 45°.
    pub pull_tilted: Option<f64>,
    warnings: String,
    outline: String,
    reach: String,
}

impl SculptFacts {
    /// How sure the figures are, in sentences.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept ones are unreadable.
    pub fn warnings(&self) -> Result<Vec<String>, StoreError> {
        serde_json::from_str(&self.warnings).map_err(|e| StoreError::BadRow(e.to_string()))
    }

    /// The outline on the plate.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept one is unreadable.
    pub fn outline(&self) -> Result<Outline, StoreError> {
        read_outline(&self.outline)
    }

    /// The skyline.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept one is unreadable.
    pub fn reach(&self) -> Result<HeightProfile, StoreError> {
        read_reach(&self.reach)
    }
}

pub(super) fn read_outline(text: &str) -> Result<Outline, StoreError> {
    let corners = serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))?;
    Outline::try_new(corners).map_err(|e| StoreError::BadRow(e.to_string()))
}

pub(super) fn read_reach(text: &str) -> Result<HeightProfile, StoreError> {
    let bands: Vec<(f64, f64, Vec<f64>)> =
        serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))?;
    let band = |(from_mm, to_mm, reach_mm)| ProfileBand {
        from_mm,
        to_mm,
        reach_mm,
    };
    Ok(HeightProfile(bands.into_iter().map(band).collect()))
}

/// The outline as it is kept: corners to the micrometre.
pub(crate) fn outline_text(outline: &Outline) -> String {
    let corners: Vec<[f64; 2]> = outline.corners().iter().map(|c| c.map(to_um)).collect();
    serde_json::to_string(&corners).expect("numbers always serialise")
}

/// The skyline as it is kept.
pub(crate) fn reach_text(reach: &HeightProfile) -> String {
    let band = |b: &ProfileBand| {
        (
            to_um(b.from_mm),
            to_um(b.to_mm),
            b.reach_mm.iter().map(|r| to_um(*r)).collect::<Vec<f64>>(),
        )
    };
    serde_json::to_string(&reach.0.iter().map(band).collect::<Vec<_>>())
        .expect("numbers always serialise")
}

fn to_um(mm: f64) -> f64 {
    (mm * 1000.0).round() / 1000.0
}
