//! One step of a plate and of its copies, by the ways the rules know.

use diesel::prelude::*;
use wembrit_core::flow::{
    CopyEvent, FailedAt, FailureCause, FlowError, Plate, PlateState, Stage, check_plate_step,
    next_stage,
};
use wembrit_core::ids::PlateId;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::{one_row, weighings};
use crate::rows::PlateResinRow;
use crate::schema::{copies, plates};

/// Takes a plate to another state.
pub(super) fn step(conn: &mut Conn, plate: &Plate, to: PlateState) -> Result<(), StoreError> {
    check_plate_step(plate.state, to)?;
    let as_seen = plates::table
        .find(plate.id.0)
        .filter(plates::state.eq(plate.state.as_str()));
    let changed = diesel::update(as_seen)
        .set((
            plates::state.eq(to.as_str()),
            plates::row_version.eq(plates::row_version + 1),
        ))
        .execute(conn)?;
    one_row(changed, "plate")
}

/// What a plate that waited is expected to take stays as it is now that it runs, whatever is weighed later.
pub(super) fn settle_resin(conn: &mut Conn, plate: &Plate) -> Result<(), StoreError> {
    let times = weighings::weights(conn)?.of(plate.resin).times;
    let row = plates::table.find(plate.id.0);
    let (then, resin_g): (f64, f64) = row
        .select((plates::weighed_times, plates::resin_g))
        .first(conn)?;
    let kept: PlateResinRow = row.select(PlateResinRow::as_select()).first(conn)?;
    let now = kept.weighing(times / then);
    let grams = resin_g * now.resin_ml / kept.resin_ml.max(f64::EPSILON);
    diesel::update(row)
        .set((
            &now,
            plates::resin_g.eq(grams),
            plates::weighed_times.eq(times),
        ))
        .execute(conn)?;
    Ok(())
}

/// Whether a plate has this layer, from 1.
pub(super) fn check_layer(plate: &Plate, layer: i64) -> Result<(), StoreError> {
    if (1..=plate.layers).contains(&layer) {
        return Ok(());
    }
    Err(StoreError::Refused(format!(
        "the plate has {} layers: write the one at which it ended",
        plate.layers
    )))
}

/// Moves every copy of a plate to which the event applies. An event that applies to none of
/// them is refused, so that nothing is skipped in silence.
pub(super) fn move_copies(
    conn: &mut Conn,
    plate: PlateId,
    event: CopyEvent,
    now_ms: i64,
) -> Result<(), StoreError> {
    let mut moved = 0;
    for from in Stage::ALL {
        let Ok(to) = next_stage(*from, event) else {
            continue;
        };
        if to == Stage::Failed {
            continue;
        }
        moved += diesel::update(
            copies::table.filter(
                copies::plate_id
                    .eq(plate.0)
                    .and(copies::stage.eq(from.as_str())),
            ),
        )
        .set((
            copies::stage.eq(to.as_str()),
            copies::cause.eq(None::<String>),
            copies::failed_at.eq(None::<String>),
            copies::failed_layer.eq(None::<i64>),
            copies::missing.eq(0),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    }
    let everything_lost = event == CopyEvent::Pass;
    if moved == 0 && !everything_lost {
        return Err(FlowError::Copy {
            from: Stage::Released,
            event,
        }
        .into());
    }
    Ok(())
}

/// Every copy of a plate that is printing fails for one cause.
pub(super) fn fail_all(
    conn: &mut Conn,
    plate: PlateId,
    cause: FailureCause,
    now_ms: i64,
) -> Result<(), StoreError> {
    let from = Stage::Printing;
    let to = next_stage(from, CopyEvent::Fail)?;
    let printing = copies::table.filter(
        copies::plate_id
            .eq(plate.0)
            .and(copies::stage.eq(from.as_str())),
    );
    diesel::update(printing)
        .set((
            copies::stage.eq(to.as_str()),
            copies::cause.eq(cause.as_str()),
            copies::failed_at.eq(FailedAt::Printing.as_str()),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}
