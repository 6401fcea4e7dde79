//! Background work: attempts are written down before the work begins.

use diesel::prelude::*;
use wembrit_core::flow::{Lane, MAX_ATTEMPTS, Task, TaskKind, TaskState, after_death};
use wembrit_core::sculpt::Sculpt;

use crate::conn::Conn;
use crate::error::StoreError;
use crate::queries::new_uid;
use crate::queries::task_inputs::given_up;
use crate::queries::tasks::list;
use crate::rows::{Nouns, TaskRow};
use crate::schema::tasks::dsl;

/// Asks for work; the same kind and key twice is one task, begun anew unless it is open.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn ask(
    conn: &mut Conn,
    kind: TaskKind,
    input_key: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    let open = [TaskState::Waiting.as_str(), TaskState::Running.as_str()];
    let same = dsl::tasks.filter(
        dsl::kind
            .eq(kind.as_str())
            .and(dsl::input_key.eq(input_key)),
    );
    if let Some(task) = same.select(TaskRow::as_select()).maybe::<TaskRow>(conn)? {
        diesel::update(dsl::tasks.find(task.id.0).filter(dsl::state.ne_all(open)))
            .set((
                dsl::state.eq(TaskState::Waiting.as_str()),
                dsl::attempts.eq(0),
                dsl::progress.eq(0.0),
                dsl::message.eq(""),
                dsl::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
        return Ok(());
    }
    diesel::insert_into(dsl::tasks)
        .values((
            dsl::uid.eq(new_uid()),
            dsl::kind.eq(kind.as_str()),
            dsl::input_key.eq(input_key),
            dsl::state.eq(TaskState::Waiting.as_str()),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Asks anew for everything about a sculpt that ended without a result; says how much that is.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn try_again(conn: &mut Conn, sculpt: &Sculpt, now_ms: i64) -> Result<usize, StoreError> {
    let all = given_up(conn, sculpt)?;
    for task in &all {
        ask(conn, task.kind, &task.input_key, now_ms)?;
    }
    Ok(all.len())
}

/// Ends everything that is asked for about a sculpt: nobody waits for it any more.
///
/// # Errors
/// [`StoreError`] of the data file.
pub(super) fn end_about(conn: &mut Conn, uid: &str, now_ms: i64) -> Result<(), StoreError> {
    let open = [TaskState::Waiting.as_str(), TaskState::Running.as_str()];
    let about = dsl::tasks.filter(
        dsl::input_key
            .like(format!("{uid}:%"))
            .and(dsl::state.eq_any(open)),
    );
    diesel::update(about)
        .set((
            dsl::state.eq(TaskState::Done.as_str()),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// At start: what was running died with the program; it waits again, or is parked with a
/// sentence after its third death.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn take_up_again(conn: &mut Conn, now_ms: i64) -> Result<(), StoreError> {
    for task in list(conn, TaskState::Running)? {
        let state = after_death(task.attempts);
        let message = match state {
            TaskState::Parked => {
                format!("Given up: the program stopped during each of {MAX_ATTEMPTS} attempts.")
            }
            _ => String::new(),
        };
        diesel::update(dsl::tasks.find(task.id.0))
            .set((
                dsl::state.eq(state.as_str()),
                dsl::message.eq(message),
                dsl::changed_at_ms.eq(now_ms),
            ))
            .execute(conn)?;
    }
    Ok(())
}

/// What somebody waits for comes first, what may as well be known later last.
fn urgency() -> diesel::expression::SqlLiteral<diesel::sql_types::Integer> {
    diesel::dsl::sql(
        "CASE kind WHEN 'plan' THEN 0 WHEN 'measure' THEN 1 WHEN 'register' THEN 2 WHEN 'prepare' THEN 3 WHEN 'poses' THEN 4 ELSE 5 END",
    )
}

fn turn() -> diesel::expression::SqlLiteral<diesel::sql_types::BigInt> {
    diesel::dsl::sql("CASE WHEN kind IN ('plan', 'poses') THEN -id ELSE id END")
}

/// Takes the most urgent waiting task and counts the attempt: the newest search, which somebody looks
/// at, else the oldest of its kind.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn claim(conn: &mut Conn, lane: Lane, now_ms: i64) -> Result<Option<Task>, StoreError> {
    let kinds = TaskKind::ALL.iter().filter(|k| k.lane() == lane);
    let kinds: Vec<&str> = kinds.map(|k| k.as_str()).collect();
    let waiting = dsl::tasks.filter(
        dsl::state
            .eq(TaskState::Waiting.as_str())
            .and(dsl::kind.eq_any(kinds)),
    );
    let Some(mut task) = waiting
        .order((urgency(), turn()))
        .select(TaskRow::as_select())
        .maybe::<TaskRow>(conn)?
    else {
        return Ok(None);
    };
    task.attempts += 1;
    task.claim += 1;
    task.state = TaskState::Running;
    diesel::update(dsl::tasks.find(task.id.0))
        .set((
            dsl::state.eq(TaskState::Running.as_str()),
            dsl::attempts.eq(task.attempts),
            dsl::claim.eq(task.claim),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(Some(task))
}

/// A task as somebody has taken it up, who may still write to it.
type Held = diesel::dsl::Filter<
    diesel::dsl::Find<dsl::tasks, i64>,
    diesel::dsl::And<diesel::dsl::Eq<dsl::state, &'static str>, diesel::dsl::Eq<dsl::claim, i64>>,
>;

fn held(task: &Task) -> Held {
    let running = dsl::state.eq(TaskState::Running.as_str());
    dsl::tasks
        .find(task.id.0)
        .filter(running.and(dsl::claim.eq(task.claim)))
}

/// Whether a task is still that of who has taken it up: not ended from outside, nor asked for
/// again meanwhile.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn is_held(conn: &mut Conn, task: &Task) -> Result<bool, StoreError> {
    let many: i64 = held(task).count().get_result(conn)?;
    Ok(many > 0)
}

/// Tells how far a running task is.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn report(conn: &mut Conn, task: &Task, progress: f64) -> Result<(), StoreError> {
    diesel::update(held(task))
        .set(dsl::progress.eq(progress))
        .execute(conn)?;
    Ok(())
}

/// Ends a task from outside: who has taken it up sees so at its next look, and its end counts no
/// more.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn end_asked(
    conn: &mut Conn,
    kind: TaskKind,
    input_key: &str,
    (state, message): (TaskState, &str),
    now_ms: i64,
) -> Result<(), StoreError> {
    let open = [TaskState::Waiting.as_str(), TaskState::Running.as_str()];
    let same = dsl::tasks.filter(
        dsl::kind
            .eq(kind.as_str())
            .and(dsl::input_key.eq(input_key))
            .and(dsl::state.eq_any(open)),
    );
    diesel::update(same)
        .set((
            dsl::state.eq(state.as_str()),
            dsl::progress.eq(1.0),
            dsl::message.eq(message),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Ends a task that one has taken up; nothing happens when it is another's by now.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn end(
    conn: &mut Conn,
    task: &Task,
    state: TaskState,
    message: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    diesel::update(held(task))
        .set((
            dsl::state.eq(state.as_str()),
            dsl::progress.eq(1.0),
            dsl::message.eq(message),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}

/// Puts a task back that was stopped in good order: the attempt does not count.
///
/// # Errors
/// [`StoreError`] of the data file.
pub fn put_back(conn: &mut Conn, task: &Task, now_ms: i64) -> Result<(), StoreError> {
    diesel::update(held(task))
        .set((
            dsl::state.eq(TaskState::Waiting.as_str()),
            dsl::attempts.eq(dsl::attempts - 1),
            dsl::changed_at_ms.eq(now_ms),
        ))
        .execute(conn)?;
    Ok(())
}
