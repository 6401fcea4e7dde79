//! Parts as they hang, with their supports; poses compared.

use diesel::prelude::*;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::HeightProfile;
use wembrit_core::layers::Loads;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::orient::{Candidate, Origin, Score, Scores};
use wembrit_core::recipe::prepare::HungDrawing;
use wembrit_core::recipe::supports::Supports;
use wembrit_core::units::LayerHeight;

use super::sculpt::{read_outline, read_reach};
use crate::error::StoreError;

/// A part with its supports, ready for a plate.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::hung_facts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct HungFacts {
    pub id: i64,
    #[diesel(deserialize_as = i64)]
    pub sculpt_id: SculptId,
    pub scale: f64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pub pose: Pose,
    #[diesel(deserialize_as = String)]
    pub supports: Supports,
    pub height_mm: f64,
    pub part_mm3: f64,
    pub support_mm3: f64,
    pub surface_mm2: f64,
    pub contacts: i64,
    pub fine_contacts: i64,
    pub minutes: f64,
    pub starts_left: i64,
    pub peak_pull: f64,
    pub peak_pull_at_mm: f64,
    outline: String,
    reach: String,
    drawn: String,
    loads: String,
}

type Drawn = (
    [f64; 4],
    Vec<Vec<[f64; 2]>>,
    Option<[f64; 2]>,
    Vec<[f64; 2]>,
);

impl HungFacts {
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

    /// What it does to the film; empty where it was measured before that was kept.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept one is unreadable.
    pub fn loads(&self) -> Result<Loads, StoreError> {
        let (pull, area_mm2) =
            serde_json::from_str(&self.loads).map_err(|e| StoreError::BadRow(e.to_string()))?;
        Ok(Loads { pull, area_mm2 })
    }

    /// What is drawn over its picture.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept one is unreadable.
    pub fn drawing(&self) -> Result<HungDrawing, StoreError> {
        let (picture_mm, columns, raft_mm, riskiest): Drawn =
            serde_json::from_str(&self.drawn).map_err(|e| StoreError::BadRow(e.to_string()))?;
        Ok(HungDrawing {
            picture_mm,
            columns,
            raft_mm,
            riskiest,
        })
    }
}

pub(crate) fn drawn_text(d: &HungDrawing) -> String {
    let um = |p: &[f64; 2]| p.map(|c| (c * 1000.0).round() / 1000.0);
    let columns: Vec<Vec<[f64; 2]>> = d
        .columns
        .iter()
        .map(|c| c.iter().map(um).collect())
        .collect();
    let riskiest: Vec<[f64; 2]> = d.riskiest.iter().map(um).collect();
    let drawn: Drawn = (d.picture_mm, columns, d.raft_mm, riskiest);
    serde_json::to_string(&drawn).expect("numbers always serialise")
}

pub(crate) fn loads_text(loads: &Loads) -> String {
    let short = |values: &[f64]| -> Vec<f64> {
        let short = |v: &f64| (v * 1000.0).round() / 1000.0;
        values.iter().map(short).collect()
    };
    serde_json::to_string(&(short(&loads.pull), short(&loads.area_mm2)))
        .expect("numbers always serialise")
}

/// A pose that was compared.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::poses)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct PoseRow {
    pub id: i64,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pub pose: Pose,
    #[diesel(deserialize_as = String)]
    pub origin: Origin,
    scores: String,
    pub height_mm: f64,
    pub contacts: i64,
    best_in: String,
    undominated: i64,
}

impl PoseRow {
    /// As the search found it.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept scores are unreadable.
    pub fn candidate(&self) -> Result<Candidate, StoreError> {
        let bad = |e: String| StoreError::BadRow(e);
        let best: Result<Vec<Score>, _> = self
            .best_in
            .split(',')
            .filter(|w| !w.is_empty())
            .map(|w| w.parse::<Score>().map_err(|e| bad(e.to_string())))
            .collect();
        Ok(Candidate {
            pose: self.pose,
            origin: self.origin,
            scores: Scores(serde_json::from_str(&self.scores).map_err(|e| bad(e.to_string()))?),
            height_mm: self.height_mm,
            contacts: usize::try_from(self.contacts).unwrap_or(0),
            best_in: best?,
            undominated: self.undominated != 0,
        })
    }
}

pub(crate) fn scores_text(c: &Candidate) -> String {
    serde_json::to_string(&c.scores.0).expect("numbers always serialise")
}

pub(crate) fn best_text(c: &Candidate) -> String {
    let words: Vec<&str> = c.best_in.iter().map(|s| s.as_str()).collect();
    words.join(",")
}
