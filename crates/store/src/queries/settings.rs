//! Process settings: chains of versions, one for each printer, resin and layer height.

use diesel::prelude::*;
use wembrit_core::flow::Plate;
use wembrit_core::ids::ProcessSettingId;
use wembrit_core::workshop::ProcessSetting;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::rows::{Nouns, SettingRow, SettingVersionRow};
use crate::schema::{process_settings as ps, setting_versions as sv};

/// The setting a plate is printed with; nothing where its printer has none for its resin and layer height.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn of_plate(conn: &mut Conn, plate: &Plate) -> Result<Option<ProcessSetting>, StoreError> {
    let all = list(conn)?.into_iter();
    let mut of = all.filter(|s| s.is_for(plate.printer, plate.resin, plate.layer));
    Ok(of.next())
}

/// Every setting with its newest version.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn list(conn: &mut Conn) -> Result<Vec<ProcessSetting>, StoreError> {
    let all = ps::table
        .inner_join(sv::table)
        .filter(sv::for_trial.eq(0))
        .order((ps::printer_id, ps::resin_id, ps::layer_um, sv::version))
        .select((SettingRow::as_select(), SettingVersionRow::as_select()))
        .nouns::<(SettingRow, SettingVersionRow)>(conn)?;
    let mut newest: Vec<ProcessSetting> = Vec::new();
    for setting in all {
        match newest.last_mut() {
            Some(last) if last.id == setting.id => *last = setting,
            _ => newest.push(setting),
        }
    }
    Ok(newest)
}

/// One process setting with its newest version.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn load(conn: &mut Conn, id: ProcessSettingId) -> Result<ProcessSetting, StoreError> {
    ps::table
        .inner_join(sv::table)
        .filter(ps::id.eq(id.0).and(sv::for_trial.eq(0)))
        .order(sv::version.desc())
        .select((SettingRow::as_select(), SettingVersionRow::as_select()))
        .noun::<(SettingRow, SettingVersionRow)>(conn, "process setting")
}
