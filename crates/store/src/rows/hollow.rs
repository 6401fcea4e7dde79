//! Hollows of a file, and what hollowing it would do.

use diesel::prelude::*;
use wembrit_core::layers::{Drain, Hollow, Hollowing};

use crate::error::StoreError;

/// What was measured about hollows, at the size of the file.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::hollow_facts)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct HollowFacts {
    pub wall_um: i64,
    pub saved_mm3: f64,
    pub uncertain_mm3: f64,
    pub pitch_mm: f64,
    pub pockets: i64,
    pub drains_needed: i64,
    drains: String,
    pub trapped_mm3: f64,
    pub left_hanging_mm3: f64,
    pub left_standing_mm3: f64,
    hollows: String,
}

type HollowRow = (f64, usize, f64, f64);

fn read<T: serde::de::DeserializeOwned>(text: &str) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|e| StoreError::BadRow(e.to_string()))
}

impl HollowFacts {
    /// Where drains would go.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept ones are unreadable.
    pub fn drains(&self) -> Result<Vec<Drain>, StoreError> {
        let rows: Vec<([f64; 3], bool)> = read(&self.drains)?;
        Ok(rows
            .into_iter()
            .map(|(at_mm, hidden)| Drain { at_mm, hidden })
            .collect())
    }

    /// Hollows the file has already.
    ///
    /// # Errors
    /// [`StoreError::BadRow`] when the kept ones are unreadable.
    pub fn hollows(&self) -> Result<Vec<Hollow>, StoreError> {
        let rows: Vec<HollowRow> = read(&self.hollows)?;
        let hollow = |(volume_mm3, ways_out, from_mm, to_mm)| Hollow {
            volume_mm3,
            ways_out,
            from_mm,
            to_mm,
        };
        Ok(rows.into_iter().map(hollow).collect())
    }
}

pub(crate) fn drains_text(of: &Hollowing) -> String {
    let rows: Vec<([f64; 3], bool)> = of.drains.iter().map(|d| (d.at_mm, d.hidden)).collect();
    serde_json::to_string(&rows).expect("numbers always serialise")
}

pub(crate) fn hollows_text(of: &[Hollow]) -> String {
    let row = |h: &Hollow| -> HollowRow { (h.volume_mm3, h.ways_out, h.from_mm, h.to_mm) };
    serde_json::to_string(&of.iter().map(row).collect::<Vec<_>>())
        .expect("numbers always serialise")
}
