//! Whether everything is done by a moment.

use super::bound::ScheduleBound;
use super::shop::Minute;

/// What can be said of a deadline.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Possible {
    /// A schedule is known that keeps it.
    Yes,
    /// No schedule keeps it.
    No,
    /// Neither is proven.
    Open,
}

/// What is to be said of a deadline, from the end of the best schedule that is known and a moment
/// before which none ends; and by how many minutes that schedule misses it.
#[must_use]
pub fn possible(end: Minute, bound: ScheduleBound, deadline: Minute) -> (Possible, Minute) {
    let found = if end <= deadline {
        Possible::Yes
    } else if bound.at > deadline {
        Possible::No
    } else {
        Possible::Open
    };
    (found, end.saturating_sub(deadline))
}
