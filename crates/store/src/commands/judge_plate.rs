//! Judging the copies of a plate: all good but these, some of them now, one that fails later.

use diesel::prelude::*;
use wembrit_core::flow::{
    CopyEvent, FailureCause, FlowError, Judgement, PlateState, Stage, check_plate_step, next_stage,
    usual_step,
};
use wembrit_core::ids::{CopyId, PlateId};

use super::step_plate::{check_layer, move_copies, step};
use super::{batches, settle_copies, vat_checks};
use crate::conn::Conn;
use crate::error::{OrNotFound, StoreError};
use crate::queries::batches::to_judge;
use crate::queries::plates::load;
use crate::schema::{copies, parts};

/// A copy that failed, and why.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Failure {
    /// The copy.
    pub copy: CopyId,
    /// The cause.
    pub cause: FailureCause,
    /// Anything worth remembering.
    pub note: String,
}

/// What becomes of the copies that are not marked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Rest {
    /// They are good, but for these, which nobody has looked at yet.
    Good {
        /// To be judged later.
        but: Vec<CopyId>,
    },
    /// They are judged later.
    Later,
}

/// All good but these: judges every copy of a printed plate.
///
/// # Errors
/// [`StoreError::Refused`] when a failed copy is not on this plate.
pub fn judge(
    conn: &mut Conn,
    id: PlateId,
    failed: &[Failure],
    now_ms: i64,
) -> Result<(), StoreError> {
    let failed = failed.iter().map(|f| {
        let failed = Judgement::Failed {
            cause: f.cause,
            at: None,
            layer: None,
            note: f.note.clone(),
        };
        (f.copy, failed)
    });
    let rest = Rest::Good { but: Vec::new() };
    judge_some(conn, id, &failed.collect::<Vec<_>>(), &rest, now_ms)
}

/// Judges some copies of a printed plate, and the rest as it says; what is to be mended or looked
/// for waits for its own word. The plate is done when none is left to be judged.
///
/// # Errors
/// [`StoreError::Refused`] when a copy is not on this plate, or nothing is said of any.
pub fn judge_some(
    conn: &mut Conn,
    id: PlateId,
    judged: &[(CopyId, Judgement)],
    rest: &Rest,
    now_ms: i64,
) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    if plate.state != PlateState::Printed {
        check_plate_step(plate.state, PlateState::Done)?;
    }
    if judged.is_empty() && *rest == Rest::Later {
        return Err(StoreError::Refused(
            "nothing was marked: pick the copies you looked at".into(),
        ));
    }
    for (copy, judgement) in judged {
        if let Judgement::Failed {
            layer: Some(layer), ..
        } = judgement
        {
            check_layer(&plate, *layer)?;
        }
        judge_one(conn, id, *copy, judgement, now_ms)?;
    }
    if let Rest::Good { but } = rest {
        let marked = judged.iter().map(|(copy, _)| copy).chain(but);
        let marked: Vec<i64> = marked.map(|copy| copy.0).collect();
        let others = on(id)
            .filter(copies::mend.eq("").and(copies::missing.eq(0)))
            .filter(copies::id.ne_all(marked));
        let others: Vec<i64> = others.select(copies::id).load(conn)?;
        pass(conn, others, now_ms)?;
    }
    if to_judge(conn, id)? == 0 {
        step(conn, &plate, PlateState::Done)?;
        batches::close(conn, id, now_ms)?;
    }
    settle_copies::settle_plate(conn, id, now_ms)
}

/// Copies of a plate that came off and are not judged.
#[diesel::dsl::auto_type]
fn on(id: PlateId) -> _ {
    let of: i64 = id.0;
    let off: &'static str = Stage::InFinishing.as_str();
    copies::table.filter(copies::plate_id.eq(of).and(copies::stage.eq(off)))
}

fn pass(conn: &mut Conn, which: Vec<i64>, now_ms: i64) -> Result<(), StoreError> {
    let good = next_stage(Stage::InFinishing, CopyEvent::Pass)?;
    let of = copies::table.filter(copies::id.eq_any(which));
    diesel::update(of)
        .set((
            copies::stage.eq(good.as_str()),
            copies::mend.eq(""),
            copies::missing.eq(0),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

fn judge_one(
    conn: &mut Conn,
    id: PlateId,
    copy: CopyId,
    judgement: &Judgement,
    now_ms: i64,
) -> Result<(), StoreError> {
    let here: i64 = on(id)
        .filter(copies::id.eq(copy.0))
        .count()
        .get_result(conn)?;
    if here != 1 {
        return Err(StoreError::Refused(
            "one of the marked copies is not on this plate any more: look at the sheet again"
                .into(),
        ));
    }
    judgement.stage_after(Stage::InFinishing)?;
    match judgement {
        Judgement::Good => pass(conn, vec![copy.0], now_ms),
        Judgement::Failed {
            cause,
            at,
            layer,
            note,
        } => {
            let at = at.unwrap_or(usual_step(*cause));
            fail(conn, copy, *cause, (at.as_str(), *layer), note, now_ms)
        }
        Judgement::ToMend { what, minutes } => {
            if what.trim().is_empty() {
                return Err(StoreError::Refused("say what is to be mended".into()));
            }
            diesel::update(copies::table.find(copy.0))
                .set((
                    copies::mend.eq(what.trim()),
                    copies::mend_minutes.eq(*minutes),
                    copies::missing.eq(0),
                    copies::row_version.eq(copies::row_version + 1),
                    copies::changed_at_ms.eq(now_ms),
                ))
                .execute(conn)?;
            Ok(())
        }
        Judgement::Missing => {
            let name: String = copies::table
                .inner_join(parts::table)
                .filter(copies::id.eq(copy.0))
                .select(parts::name)
                .first(conn)?;
            vat_checks::miss(conn, id, copy, &name, now_ms)
        }
    }
}

fn fail(
    conn: &mut Conn,
    copy: CopyId,
    cause: FailureCause,
    (at, layer): (&str, Option<i64>),
    note: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::update(copies::table.find(copy.0))
        .set((
            copies::stage.eq(Stage::Failed.as_str()),
            copies::cause.eq(cause.as_str()),
            copies::failed_at.eq(at),
            copies::failed_layer.eq(layer),
            copies::note.eq(note),
            copies::mend.eq(""),
            copies::missing.eq(0),
            copies::row_version.eq(copies::row_version + 1),
            copies::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// A copy that was good, or set aside, fails after all: it broke while it was built or used.
///
/// # Errors
/// [`StoreError::Flow`] for a copy that is neither.
pub fn fail_later(
    conn: &mut Conn,
    copy: CopyId,
    cause: FailureCause,
    note: &str,
    now_ms: i64,
) -> Result<PlateId, StoreError> {
    let (stage, plate): (String, i64) = copies::table
        .find(copy.0)
        .select((copies::stage, copies::plate_id))
        .first(conn)
        .or_not_found("copy")?;
    let from = Stage::try_from(stage)?;
    if !matches!(from, Stage::Good | Stage::Surplus) {
        return Err(FlowError::Copy {
            from,
            event: CopyEvent::Fail,
        }
        .into());
    }
    next_stage(from, CopyEvent::Fail)?;
    fail(conn, copy, cause, ("use", None), note, now_ms)?;
    settle_copies::settle_plate(conn, PlateId(plate), now_ms)?;
    Ok(PlateId(plate))
}

/// Takes a judgement back: every copy of the plate is to be looked at again.
///
/// # Errors
/// [`StoreError::Flow`] when the plate was not judged.
pub fn rejudge(conn: &mut Conn, id: PlateId, now_ms: i64) -> Result<(), StoreError> {
    let plate = load(conn, id)?;
    step(conn, &plate, PlateState::Printed)?;
    move_copies(conn, id, CopyEvent::Rejudge, now_ms)?;
    batches::look_again(conn, id)
}
