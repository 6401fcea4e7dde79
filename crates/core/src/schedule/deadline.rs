//! Whether everything is done by a moment.

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
/// before which none ends, all in one unit.
#[must_use]
pub fn possible<T: Ord>(end: T, bound: T, deadline: T) -> Possible {
    if end <= deadline {
        Possible::Yes
    } else if bound > deadline {
        Possible::No
    } else {
        Possible::Open
    }
}
