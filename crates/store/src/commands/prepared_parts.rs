//! Parts as they hang: measured once for every sculpt, scale, layer height, orientation and
//! supports.

use diesel::prelude::*;
use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::prepare::Prepared;

use super::layer_facts;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::sculpts::MEASURE_VERSION;
use crate::schema::prepared_parts as hf;

/// Writes down how a part hangs, and what its layers alone told. Doing it twice is as good as
/// once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    of: &PartSetup,
    prepared: &Prepared,
    picture: &[u8],
    now_ms: i64,
) -> Result<(), StoreError> {
    layer_facts::set(conn, of, (&prepared.alone, &prepared.thickness), now_ms)?;
    let part = &prepared.part;
    diesel::replace_into(hf::table)
        .values((
            (
                hf::sculpt_id.eq(of.sculpt.0),
                hf::unit_mm.eq(of.unit_mm),
                hf::scale.eq(of.scale),
                hf::layer_um.eq(i64::from(of.layer.um())),
                hf::orientation.eq(of.setup.pose.to_string()),
                hf::supports.eq(of.setup.supports.to_string()),
                hf::measure_version.eq(MEASURE_VERSION),
                hf::height_mm.eq(part.height_mm),
                hf::part_mm3.eq(part.part_mm3),
                hf::support_mm3.eq(part.support_mm3),
                hf::surface_mm2.eq(part.surface_mm2),
            ),
            (
                hf::contacts.eq(part.contacts as i64),
                hf::fine_contacts.eq(part.fine_contacts as i64),
                hf::minutes.eq(part.minutes),
                hf::starts_left.eq(part.starts_left as i64),
                hf::peak_pull.eq(part.peak_pull.1),
                hf::peak_pull_at_mm.eq(part.peak_pull.0),
                hf::outline.eq(part.outline.to_string()),
                hf::height_profile.eq(part.profile.to_string()),
                hf::drawn.eq(part.drawing.to_string()),
                hf::picture.eq(picture),
                hf::loads.eq(part.loads.to_string()),
                hf::measured_at_ms.eq(now_ms),
            ),
        ))
        .execute(conn)?;
    Ok(())
}
