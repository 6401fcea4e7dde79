//! The workshop: its figures, printers, resins and process settings.

use diesel::prelude::*;
use wembrit_core::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use wembrit_core::learn::{Paces, Weights};
use wembrit_core::stores::Wear;
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::workshop::print_time::{LayerTiming, MachineKind};
use wembrit_core::workshop::resin::{Nature, ResinFacts, Viscosity};
use wembrit_core::workshop::upkeep::Upkeep;
use wembrit_core::workshop::{Printer, ProcessSetting, Rates, Resin, Workshop};

use super::{Row, count};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::workshop)]
pub(crate) struct WorkshopRow {
    row_version: i64,
    name: String,
    currency: String,
    time_zone: String,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
    clearance_mm: f64,
    waste_share: f64,
    hands_on_minutes: f64,
    hands_on_per_hour_minor: i64,
    copy_minutes: f64,
    contact_minutes: f64,
    kwh_minor: i64,
    assumed: String,
}

impl Row for WorkshopRow {
    type Noun = Workshop;
    fn noun(self) -> Result<Workshop, StoreError> {
        Ok(Workshop {
            row_version: self.row_version,
            name: self.name,
            currency: self.currency,
            time_zone: self.time_zone,
            layer: self.layer,
            rates: Rates {
                clearance_mm: self.clearance_mm,
                waste_share: self.waste_share,
                hands_on_minutes: self.hands_on_minutes,
                hands_on_per_hour: Money(self.hands_on_per_hour_minor),
                copy_minutes: self.copy_minutes,
                contact_minutes: self.contact_minutes,
                kwh: Money(self.kwh_minor),
            },
            assumed: self.assumed,
        })
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::printers)]
pub(crate) struct PrinterRow {
    id: i64,
    row_version: i64,
    name: String,
    #[diesel(deserialize_as = String)]
    kind: MachineKind,
    width_mm: f64,
    depth_mm: f64,
    height_mm: f64,
    margin_mm: f64,
    startup_s: f64,
    pixel_um: i64,
    assumed: String,
    removal_mm: f64,
    /// 0 for no limit.
    part_pull: f64,
    /// 0 for no limit.
    plate_pull: f64,
    change_minutes: f64,
    change_ml: f64,
    watts: f64,
    price_minor: i64,
    life_h: f64,
    /// Empty for none.
    kept_clear: String,
}

impl PrinterRow {
    /// With its pace, and what wears in it.
    pub(crate) fn with(self, paces: &Paces, put_in: &[Wear]) -> Printer {
        let limit = |pull: f64| Some(pull).filter(|p| *p > 0.0);
        let id = PrinterId(self.id);
        Printer {
            pace: paces.of(id),
            id,
            row_version: self.row_version,
            name: self.name,
            kind: self.kind,
            width_mm: self.width_mm,
            depth_mm: self.depth_mm,
            height_mm: self.height_mm,
            removal_mm: self.removal_mm,
            margin_mm: self.margin_mm,
            startup_s: self.startup_s,
            pixel_um: count(self.pixel_um),
            part_pull: limit(self.part_pull),
            plate_pull: limit(self.plate_pull),
            change_minutes: self.change_minutes,
            change_ml: self.change_ml,
            watts: self.watts,
            price: Money(self.price_minor),
            life_h: self.life_h,
            kept_clear: self.kept_clear.parse().ok(),
            upkeep: Wear::upkeep(
                Upkeep::of_machine(self.watts, self.price_minor, self.life_h),
                put_in,
                id,
            ),
            assumed: self.assumed,
        }
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::resins)]
pub(crate) struct ResinRow {
    id: i64,
    row_version: i64,
    name: String,
    price_per_kg_minor: i64,
    density_g_per_ml: f64,
    #[diesel(deserialize_as = String)]
    viscosity: Viscosity,
    #[diesel(deserialize_as = String)]
    nature: Nature,
    wash_agents: String,
    assumed: String,
    safe_um: i64,
    fuses_um: i64,
    data_sheet: String,
    cured_g_per_ml: f64,
    film_um: i64,
}

impl ResinRow {
    /// With what prints of it weighed.
    pub(crate) fn with(self, weights: &Weights) -> Resin {
        let id = ResinId(self.id);
        Resin {
            id,
            row_version: self.row_version,
            name: self.name,
            facts: ResinFacts {
                price_per_kg: Money(self.price_per_kg_minor),
                density_g_per_ml: self.density_g_per_ml,
                cured_g_per_ml: self.cured_g_per_ml,
                film_mm: self.film_um as f64 / 1000.0,
                weighed: weights.of(id),
            },
            viscosity: self.viscosity,
            nature: self.nature,
            wash_agents: self.wash_agents,
            assumed: self.assumed,
            safe_mm: self.safe_um as f64 / 1000.0,
            fuses_mm: self.fuses_um as f64 / 1000.0,
            data_sheet: self.data_sheet,
        }
    }
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::process_settings)]
pub(crate) struct SettingRow {
    id: i64,
    printer_id: i64,
    resin_id: i64,
    #[diesel(deserialize_as = i64, column_name = layer_um)]
    layer: LayerHeight,
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::setting_versions)]
pub(crate) struct SettingVersionRow {
    id: i64,
    version: i64,
    exposure_s: f64,
    bottom_layers: i64,
    bottom_exposure_s: f64,
    lift_mm: f64,
    lift_mm_per_min: f64,
    retract_mm_per_min: f64,
    rest_s: f64,
    tilt_cycle_s: f64,
    beam_mm2_per_s: f64,
    beam_mm_per_s: f64,
    assumed: String,
    light_off_s: f64,
    transition_layers: i64,
    second_lift_mm: f64,
    second_lift_mm_per_min: f64,
    last_retract_mm: f64,
    last_retract_mm_per_min: f64,
    bottom_lift_mm: f64,
    bottom_lift_mm_per_min: f64,
}

/// A process setting with one of its versions.
impl Row for (SettingRow, SettingVersionRow) {
    type Noun = ProcessSetting;
    fn noun(self) -> Result<ProcessSetting, StoreError> {
        let (setting, v) = self;
        Ok(ProcessSetting {
            id: ProcessSettingId(setting.id),
            printer: PrinterId(setting.printer_id),
            resin: ResinId(setting.resin_id),
            layer: setting.layer,
            version: SettingVersionId(v.id),
            number: v.version,
            timing: LayerTiming {
                exposure_s: v.exposure_s,
                bottom_layers: count(v.bottom_layers),
                bottom_exposure_s: v.bottom_exposure_s,
                lift_mm: v.lift_mm,
                lift_mm_per_min: v.lift_mm_per_min,
                retract_mm_per_min: v.retract_mm_per_min,
                rest_s: v.rest_s,
                tilt_cycle_s: v.tilt_cycle_s,
                beam_mm2_per_s: v.beam_mm2_per_s,
                beam_mm_per_s: v.beam_mm_per_s,
                light_off_s: v.light_off_s,
                transition_layers: count(v.transition_layers),
                second_lift_mm: v.second_lift_mm,
                second_lift_mm_per_min: v.second_lift_mm_per_min,
                last_retract_mm: v.last_retract_mm,
                last_retract_mm_per_min: v.last_retract_mm_per_min,
                bottom_lift_mm: v.bottom_lift_mm,
                bottom_lift_mm_per_min: v.bottom_lift_mm_per_min,
            },
            assumed: v.assumed,
        })
    }
}
