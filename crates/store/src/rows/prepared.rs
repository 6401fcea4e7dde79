//! Figures of a sculpt as it is printed.

use diesel::prelude::*;
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{Cup, CupEnd, Island, StackFigures};
use wembrit_core::pose::Pose;
use wembrit_core::units::LayerHeight;

use crate::error::StoreError;

/// What the layers of a sculpt tell, at one scale and layer height.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::prepared_facts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct PreparedFacts {
    #[diesel(deserialize_as = i64)]
    pub sculpt_id: SculptId,
    pub scale: f64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    #[diesel(deserialize_as = String, column_name = orientation)]
    pub pose: Pose,
    pub layers: i64,
    pub pitch_mm: f64,
    pub volume_mm3: f64,
    pub largest_section_mm2: f64,
    pub overhang_mm2: f64,
    pub thinnest_mm: Option<f64>,
    pub thinnest_at_mm: f64,
    pub tips_at_deg: f64,
    pub sealed_mm3: f64,
    pub peak_pull: f64,
    pub peak_pull_at_mm: f64,
    /// Supports the file brings along.
    pub support_columns: i64,
    islands: String,
    cups: String,
    area_curve: String,
}

/// Points kept of a curve at most; of each stretch its largest value.
const CURVE_POINTS: usize = 400;

type IslandRow = (f64, f64, f64, [f64; 2], Option<f64>);
type CupRow = (f64, f64, f64, f64, String);

fn read<T: serde::de::DeserializeOwned>(text: &str) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))
}

fn written(value: &impl serde::Serialize) -> String {
    serde_json::to_string(value).expect("numbers and words always serialise")
}

impl PreparedFacts {
    /// Regions that start in mid-air, lowest first.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept ones are unreadable.
    pub fn islands(&self) -> Result<Vec<Island>, StoreError> {
        let rows: Vec<IslandRow> = read(&self.islands)?;
        let island = |(z_mm, area_mm2, grown_mm2, at_mm, joins_mm)| Island {
            z_mm,
            area_mm2,
            grown_mm2,
            at_mm,
            joins_mm,
        };
        Ok(rows.into_iter().map(island).collect())
    }

    /// Pockets that hold suction.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept ones are unreadable.
    pub fn cups(&self) -> Result<Vec<Cup>, StoreError> {
        let rows: Vec<CupRow> = read(&self.cups)?;
        let cup = |(from_mm, to_mm, area_mm2, volume_mm3, end): CupRow| {
            let end = match end.as_str() {
                "vented" => CupEnd::Vented,
                "roofed" => CupEnd::Roofed,
                _ => CupEnd::Open,
            };
            Cup {
                from_mm,
                to_mm,
                area_mm2,
                volume_mm3,
                end,
            }
        };
        Ok(rows.into_iter().map(cup).collect())
    }

    /// Section area in mm² from the lowest layer to the highest, in equal steps.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept one is unreadable.
    pub fn area_curve(&self) -> Result<Vec<f64>, StoreError> {
        read(&self.area_curve)
    }
}

pub(crate) fn islands_text(stack: &StackFigures) -> String {
    let row = |i: &Island| -> IslandRow { (i.z_mm, i.area_mm2, i.grown_mm2, i.at_mm, i.joins_mm) };
    written(&stack.islands.iter().map(row).collect::<Vec<_>>())
}

pub(crate) fn cups_text(stack: &StackFigures) -> String {
    let row = |c: &Cup| -> CupRow {
        let end = match c.end {
            CupEnd::Vented => "vented",
            CupEnd::Roofed => "roofed",
            CupEnd::Open => "open",
        };
        (c.from_mm, c.to_mm, c.area_mm2, c.volume_mm3, end.to_owned())
    };
    written(&stack.cups.iter().map(row).collect::<Vec<_>>())
}

pub(crate) fn curve_text(values: &[f64]) -> String {
    let step = values.len().div_ceil(CURVE_POINTS).max(1);
    let largest = |some: &[f64]| some.iter().copied().fold(0.0, f64::max);
    written(
        &values
            .chunks(step)
            .map(|s| (largest(s) * 100.0).round() / 100.0)
            .collect::<Vec<f64>>(),
    )
}
