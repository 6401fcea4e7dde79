//! What is known before a plate is started.

use std::collections::BTreeMap;

use wembrit_core::exposure::ExposureState;
use wembrit_core::flow::plate_code;
use wembrit_core::ids::PlateId;
use wembrit_core::running::KnownBefore;
use wembrit_core::stores::{Bottle, Place, Volume, WearKind};
use wembrit_core::workshop::print_time::Drawn;

use super::{benches, exposures, plates, prepared_parts, printers, settings, stores, wears};
use crate::conn::Conn;
use crate::error::StoreError;

/// What is known before a plate is started; the room counts since the day began, ms since 1970.
///
/// # Errors
/// [`StoreError::NotFound`].
pub fn known(conn: &mut Conn, id: PlateId, day_ms: i64) -> Result<KnownBefore, StoreError> {
    let plate = plates::load(conn, id)?;
    let mut of: BTreeMap<_, u64> = BTreeMap::new();
    let copies = plates::copies_of(conn, id)?;
    let code = plate_code(&copies);
    for copy in copies {
        *of.entry((copy.sculpt, copy.recipe_version)).or_default() += 1;
    }
    let mut prepared = prepared_parts::of_versions(conn, of.keys().copied())?;
    let mut drawn = Drawn::default();
    let mut areas_mm2 = Vec::new();
    for (key, n) in of {
        let Some(kept) = prepared.remove(&key) else {
            continue;
        };
        drawn.volume_mm3 += kept.part.body().volume_mm3() * n as f64;
        drawn.surface_mm2 += kept.part.body().surface_mm2 * n as f64;
        areas_mm2.push((kept.part.loads.area_mm2, n));
    }
    let setting = settings::of_plate(conn, &plate)?;
    let exposure = match &setting {
        Some(s) => {
            let state = exposures::state(conn, s, day_ms)?;
            (s.timing.exposure_s, state)
        }
        None => (0.0, ExposureState::Missing),
    };
    let vat = Place::Vat(plate.printer);
    let mixed_ms = stores::mixed_since(conn, plate.printer)?;
    let untested_mix = match (mixed_ms, &setting) {
        (Some(since), Some(setting)) => !exposures::is_right_since(conn, setting.id, since)?,
        (mixed, _) => mixed.is_some(),
    };
    let (last_end_ms, vat_looked_ms) = benches::between(conn, plate.printer)?;
    let to_check = benches::to_check(conn)?;
    let books = stores::books(conn)?;
    let all = printers::list_all(conn)?;
    let limits = stores::vat_limits(conn, &all)?;
    let worn = wears::state(conn, &[&plate])?;
    let film = worn
        .into_iter()
        .find(|w| w.wear.kind == WearKind::Film && w.wear.printer == Some(plate.printer));
    let bottles = stores::bottles(conn)?;
    Ok(KnownBefore {
        least_ml: limits.get(&plate.printer).map_or(0.0, |l| l[0]),
        film,
        bottles: Bottle::open_first(&books, &bottles, plate.resin)
            .into_iter()
            .map(|(bottle, held)| (bottle, held.in_ml()))
            .collect(),
        code,
        areas_mm2,
        drawn,
        linked: None,
        exposure,
        setting: setting.map(|s| s.id),
        room_c: benches::room_since(conn, day_ms)?,
        untested_mix,
        last_vat: match books.content(vat).get(&plate.resin) {
            // A mix is there as a whole.
            Some(held) if *held > Volume(0) => Some((books.held(vat).in_ml(), 0.0)),
            _ => benches::last_vat(conn, plate.printer, plate.resin)?,
        },
        last_end_ms,
        vat_looked_ms,
        to_check: to_check.get(&plate.printer).cloned().unwrap_or_default(),
        plate,
    })
}
