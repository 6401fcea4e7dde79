//! Background work.

use diesel::prelude::*;
use wembrit_core::flow::{Task, TaskKind, TaskState};
use wembrit_core::ids::TaskId;

use super::Row;
use crate::error::StoreError;

#[derive(Queryable, Selectable)]
#[diesel(table_name = crate::schema::tasks)]
pub(crate) struct TaskRow {
    id: i64,
    #[diesel(deserialize_as = String)]
    kind: TaskKind,
    input_key: String,
    #[diesel(deserialize_as = String)]
    state: TaskState,
    attempts: i64,
    progress: f64,
    message: String,
    claim: i64,
}

impl Row for TaskRow {
    type Noun = Task;
    fn noun(self) -> Result<Task, StoreError> {
        Ok(Task {
            id: TaskId(self.id),
            kind: self.kind,
            input_key: self.input_key,
            state: self.state,
            attempts: self.attempts,
            progress: self.progress,
            message: self.message,
            claim: self.claim,
        })
    }
}
