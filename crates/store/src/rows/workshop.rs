//! The workshop: its figures, printers, resins and process settings.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::workshop::print_time::{LayerTiming, MachineKind};
use wembrit_core::workshop::resin::{Nature, ResinFacts, Viscosity};

/// Figures that hold for the whole workshop.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::workshop)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Workshop {
    pub row_version: i64,
    pub name: String,
    pub currency: String,
    pub time_zone: String,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
    pub clearance_mm: f64,
    pub waste_share: f64,
    pub hands_on_minutes: f64,
    hands_on_per_hour_minor: i64,
    pub assumed: String,
}

impl Workshop {
    /// What an hour of the maker's hands costs.
    #[must_use]
    pub fn hands_on_per_hour(&self) -> Money {
        Money(self.hands_on_per_hour_minor)
    }
}

/// A printer.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::printers)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Printer {
    #[diesel(deserialize_as = i64)]
    pub id: PrinterId,
    pub row_version: i64,
    pub name: String,
    #[diesel(deserialize_as = String)]
    pub kind: MachineKind,
    pub width_mm: f64,
    pub depth_mm: f64,
    pub height_mm: f64,
    pub margin_mm: f64,
    pub startup_s: f64,
    /// Side of a pixel of its screen, or of its beam's spot.
    pub pixel_um: i64,
    pub assumed: String,
    /// Way that stays free above the parts to take them off.
    pub removal_mm: f64,
    /// Hardest pull of one part, as an index; 0 for no limit.
    pub part_pull: f64,
    /// Hardest pull of a plate, layer by layer, as an index; 0 for no limit.
    pub plate_pull: f64,
}

/// A resin.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::resins)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Resin {
    #[diesel(deserialize_as = i64)]
    pub id: ResinId,
    pub row_version: i64,
    pub name: String,
    price_per_kg_minor: i64,
    pub density_g_per_ml: f64,
    #[diesel(deserialize_as = String)]
    pub viscosity: Viscosity,
    #[diesel(deserialize_as = String)]
    pub nature: Nature,
    /// Words of the permitted wash agents, parted by commas.
    pub wash_agents: String,
    pub assumed: String,
    /// Thinnest feature that survives in it.
    pub safe_um: i64,
    /// Widest gap it closes.
    pub fuses_um: i64,
}

impl Resin {
    /// What core computes with.
    #[must_use]
    pub fn facts(&self) -> ResinFacts {
        ResinFacts {
            price_per_kg: Money(self.price_per_kg_minor),
            density_g_per_ml: self.density_g_per_ml,
        }
    }
}

/// A printer with a resin at a layer height.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::process_settings)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct ProcessSetting {
    #[diesel(deserialize_as = i64)]
    pub id: ProcessSettingId,
    #[diesel(deserialize_as = i64)]
    pub printer_id: PrinterId,
    #[diesel(deserialize_as = i64)]
    pub resin_id: ResinId,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    pub layer: LayerHeight,
}

/// One version of a process setting; versions are only ever added.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::setting_versions)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct SettingVersion {
    #[diesel(deserialize_as = i64)]
    pub id: SettingVersionId,
    #[diesel(deserialize_as = i64)]
    pub setting_id: ProcessSettingId,
    pub version: i64,
    pub exposure_s: f64,
    pub bottom_layers: i64,
    pub bottom_exposure_s: f64,
    pub lift_mm: f64,
    pub lift_mm_per_min: f64,
    pub retract_mm_per_min: f64,
    pub rest_s: f64,
    pub tilt_cycle_s: f64,
    pub beam_mm2_per_s: f64,
    pub beam_mm_per_s: f64,
    pub assumed: String,
}

impl SettingVersion {
    /// What core computes with.
    #[must_use]
    pub fn timing(&self) -> LayerTiming {
        LayerTiming {
            exposure_s: self.exposure_s,
            bottom_layers: u32::try_from(self.bottom_layers).unwrap_or(0),
            bottom_exposure_s: self.bottom_exposure_s,
            lift_mm: self.lift_mm,
            lift_mm_per_min: self.lift_mm_per_min,
            retract_mm_per_min: self.retract_mm_per_min,
            rest_s: self.rest_s,
            tilt_cycle_s: self.tilt_cycle_s,
            beam_mm2_per_s: self.beam_mm2_per_s,
            beam_mm_per_s: self.beam_mm_per_s,
        }
    }
}
