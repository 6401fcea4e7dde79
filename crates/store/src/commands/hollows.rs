//! Hollow facts: measured once for every sculpt and wall.

use diesel::prelude::*;
use wembrit_core::flow::{SculptState, TaskKind};
use wembrit_core::ids::SculptId;
use wembrit_core::layers::{Hollow, Hollowing};
use wembrit_core::sculpt::Sculpt;
use wembrit_core::sculpt::picture::Side;

use super::tasks;
use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries;
use crate::queries::hollows::{task_key, wall_um};
use crate::queries::one_row;
use crate::queries::sculpts::MEASURE_VERSION;
use crate::rows::{Nouns, SculptRow, drains_text, hollows_text};
use crate::schema::{hollow_facts as hf, sculpt_pictures as pictures, sculpts as s};

/// Writes down what was measured. Doing it twice is as good as once.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set(
    conn: &mut Conn,
    sculpt: &Sculpt,
    hollowing: &Hollowing,
    hollows: &[Hollow],
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::replace_into(hf::table)
        .values((
            hf::sculpt_id.eq(sculpt.id.0),
            hf::unit_mm.eq(sculpt.unit_mm),
            hf::wall_um.eq(wall_um(sculpt)),
            hf::measure_version.eq(MEASURE_VERSION),
            hf::saved_mm3.eq(hollowing.saved_mm3),
            hf::uncertain_mm3.eq(hollowing.uncertain_mm3),
            hf::pitch_mm.eq(hollowing.pitch_mm),
            hf::pockets.eq(hollowing.pockets as i64),
            hf::drains_needed.eq(hollowing.drains_needed as i64),
            hf::drains.eq(drains_text(hollowing)),
            hf::trapped_mm3.eq(hollowing.trapped_mm3),
            hf::left_hanging_mm3.eq(hollowing.left_hanging_mm3),
            hf::left_standing_mm3.eq(hollowing.left_standing_mm3),
            hf::hollows.eq(hollows_text(hollows)),
            hf::measured_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Keeps how hard a sculpt pulls leaning back by 5° and by 45°.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_tilted_pulls(conn: &mut Conn, id: SculptId, pulls: [f64; 2]) -> Result<(), StoreError> {
    use crate::schema::sculpt_facts as facts;
    diesel::update(facts::table.find(id.0))
        .set((
            facts::pull_upright.eq(pulls[0]),
            facts::pull_tilted.eq(pulls[1]),
        ))
        .execute(conn)?;
    Ok(())
}

/// Keeps the picture of a sculpt from one side, as PNG.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn set_picture(
    conn: &mut Conn,
    id: SculptId,
    side: Side,
    png: &[u8],
) -> Result<(), StoreError> {
    diesel::replace_into(pictures::table)
        .values((
            pictures::sculpt_id.eq(id.0),
            pictures::side.eq(side.as_str()),
            pictures::png.eq(png),
        ))
        .execute(conn)?;
    Ok(())
}

/// Chooses another wall; what it would do is measured next.
///
/// # Errors
/// [`StoreError::Conflict`] when the sculpt is not there.
pub fn set_wall(conn: &mut Conn, id: SculptId, wall_um: i64) -> Result<(), StoreError> {
    one_row(
        diesel::update(s::table.find(id.0))
            .set(s::wall_um.eq(wall_um))
            .execute(conn)?,
        "sculpt",
    )
}

/// Asks for every measured sculpt whose hollows are not known. Answers how many tasks that made.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask_missing(conn: &mut Conn, now_ms: i64) -> Result<usize, StoreError> {
    use diesel::dsl::{exists, not};
    let there = hf::table.filter(
        hf::sculpt_id
            .eq(s::id)
            .and(hf::unit_mm.eq(s::unit_mm))
            .and(hf::wall_um.eq(s::wall_um))
            .and(hf::measure_version.eq(MEASURE_VERSION)),
    );
    let wanted = s::table
        .filter(
            s::state
                .eq(SculptState::Measured.as_str())
                .and(s::removed_at_ms.is_null()),
        )
        .filter(not(exists(there)))
        .select(SculptRow::as_select())
        .nouns::<SculptRow>(conn)?;
    let mut asked = 0;
    for sculpt in wanted {
        let key = task_key(&sculpt);
        if queries::tasks::find(conn, TaskKind::Hollow, &key)?.is_none() {
            tasks::ask(conn, TaskKind::Hollow, &key, now_ms)?;
            asked += 1;
        }
    }
    Ok(asked)
}
