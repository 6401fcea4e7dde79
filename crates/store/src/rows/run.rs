//! Runs, and batches on their way through finishing.

use diesel::prelude::*;
use wembrit_core::finishing::{Batch, BatchStep, Step, StepState};
use wembrit_core::flow::{Run, RunOutcome};
use wembrit_core::ids::{BatchId, PlateId, RunId};

use super::{Row, read, written};
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::runs)]
pub(crate) struct RunRow {
    id: i64,
    plate_id: i64,
    started_at_ms: i64,
    ended_at_ms: Option<i64>,
    outcome: Option<String>,
    stopped_at_layer: Option<i64>,
    room_c: Option<f64>,
    vat_ml: Option<f64>,
    refill_after_s: Option<f64>,
    paused_at_ms: Option<i64>,
    paused_ms: i64,
    ahead_ms: i64,
    looked_at_ms: Option<i64>,
    refilled_at_ms: Option<i64>,
    trouble: String,
    note: String,
}

impl Row for RunRow {
    type Noun = Run;
    fn noun(self) -> Result<Run, StoreError> {
        Ok(Run {
            ended_at_ms: self.ended_at_ms,
            outcome: self.outcome.map(RunOutcome::try_from).transpose()?,
            stopped_at_layer: self.stopped_at_layer,
            room_c: self.room_c,
            vat_ml: self.vat_ml,
            refill_after_s: self.refill_after_s,
            paused_at_ms: self.paused_at_ms,
            paused_ms: self.paused_ms,
            ahead_ms: self.ahead_ms,
            looked_at_ms: self.looked_at_ms,
            refilled_at_ms: self.refilled_at_ms,
            trouble: self.trouble,
            note: self.note,
            ..Run::begun(RunId(self.id), PlateId(self.plate_id), self.started_at_ms)
        })
    }
}

/// How long a run printed.
#[derive(Queryable, Selectable, Insertable, AsChangeset)]
#[diesel(table_name = crate::schema::print_times)]
pub(crate) struct PrintTimeRow {
    pub(crate) run_id: i64,
    pub(crate) printer_id: i64,
    pub(crate) reckoned_s: f64,
    pub(crate) told: i64,
    pub(crate) printed_s: f64,
    pub(crate) said_at_ms: i64,
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::batches)]
pub(crate) struct BatchRow {
    id: i64,
    row_version: i64,
    run_id: i64,
    off_at_ms: i64,
    counted: Option<i64>,
    wash_agent: String,
}

impl BatchRow {
    /// With its plate and its steps.
    pub(crate) fn with(self, plate: i64, steps: Vec<BatchStep>) -> Batch {
        Batch {
            id: BatchId(self.id),
            row_version: self.row_version,
            run: RunId(self.run_id),
            plate: PlateId(plate),
            off_at_ms: self.off_at_ms,
            steps,
            counted: self.counted,
            washed_in: self.wash_agent.parse().ok(),
        }
    }

    pub(crate) fn id(&self) -> i64 {
        self.id
    }
}

#[derive(Queryable, Selectable, Insertable)]
#[diesel(table_name = crate::schema::batch_steps)]
pub(crate) struct BatchStepRow {
    pub(crate) batch_id: i64,
    seq: i64,
    step: String,
    minutes: f64,
    notes: String,
    state: String,
    began_at_ms: Option<i64>,
    ends_at_ms: Option<i64>,
    reason: String,
}

impl BatchStepRow {
    pub(crate) fn new(batch: BatchId, seq: usize, step: &BatchStep) -> Self {
        Self {
            batch_id: batch.0,
            seq: seq as i64,
            step: step.step.to_string(),
            minutes: step.minutes,
            notes: written(&step.notes),
            state: step.state.to_string(),
            began_at_ms: step.began_at_ms,
            ends_at_ms: step.ends_at_ms,
            reason: step.reason.clone(),
        }
    }
}

impl Row for BatchStepRow {
    type Noun = BatchStep;
    fn noun(self) -> Result<BatchStep, StoreError> {
        Ok(BatchStep {
            step: Step::try_from(self.step)?,
            minutes: self.minutes,
            notes: read(&self.notes)?,
            state: StepState::try_from(self.state)?,
            began_at_ms: self.began_at_ms,
            ends_at_ms: self.ends_at_ms,
            reason: self.reason,
        })
    }
}
