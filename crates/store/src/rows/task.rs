//! Background work.

use diesel::prelude::*;
use wembrit_core::flow::{TaskKind, TaskState};
use wembrit_core::ids::TaskId;

/// A piece of background work.
#[derive(Debug, Clone, PartialEq, Queryable, Selectable)]
#[diesel(table_name = crate::schema::tasks)]
#[allow(missing_docs, reason = "the columns are the words of the domain")]
pub struct Task {
    #[diesel(deserialize_as = i64)]
    pub id: TaskId,
    #[diesel(deserialize_as = String)]
    pub kind: TaskKind,
    pub input_key: String,
    #[diesel(deserialize_as = String)]
    pub state: TaskState,
    pub attempts: i64,
    pub progress: f64,
    pub message: String,
}
