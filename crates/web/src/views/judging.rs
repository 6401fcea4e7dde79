//! The copies of a plate that are to be judged, and what can be said of one that is not simply good.

use askama::Template;
use wembrit_core::flow::{FailedAt, FailureCause, PlateCopy, PrintedCopy, Stage};

use super::shapes::{key, label};

/// A copy that can be marked as failed.
#[derive(Default)]
pub(crate) struct Judged {
    pub(crate) key: String,
    pub(crate) label: String,
    /// Marked: it is not simply good.
    pub(crate) failed: bool,
    /// What a marked one is; empty for failed.
    pub(crate) becomes: String,
    pub(crate) cause: String,
    pub(crate) at: String,
    pub(crate) layer: String,
    pub(crate) minutes: String,
    pub(crate) note: String,
    /// That it is to be mended or looked for.
    pub(crate) waits: String,
}

impl Judged {
    /// Those of a plate's copies that are not judged yet.
    pub(crate) fn of(copies: &[PlateCopy]) -> Vec<Self> {
        let judged = |c: &PlateCopy| Self {
            key: key(c),
            label: label(c),
            waits: c.copy.as_ref().map_or_else(String::new, waits_for),
            ..Self::default()
        };
        let open = |c: &&PlateCopy| {
            let off = |c: &PrintedCopy| c.stage == Stage::InFinishing;
            c.copy.as_ref().is_some_and(off)
        };
        copies.iter().filter(open).map(judged).collect()
    }

    /// What else is said of it stands there: of those that are marked, or wait for something. A plate of many copies
    /// would be a page of many times as many choices.
    pub(crate) fn is_open(&self) -> bool {
        self.failed || !self.waits.is_empty()
    }

    pub(crate) fn say(&self) -> SayMore<'_> {
        SayMore { j: self }
    }
}

/// What a copy waits for before it is good or failed.
fn waits_for(copy: &PrintedCopy) -> String {
    match (copy.missing, copy.mend.as_str(), copy.mend_minutes) {
        (true, _, _) => "missing: search the vat".to_owned(),
        (_, "", _) => String::new(),
        (_, what, Some(minutes)) => format!("to mend: {what}, {minutes:.0} min"),
        (_, what, None) => format!("to mend: {what}"),
    }
}

/// What can be said of one copy.
#[derive(Template)]
#[template(path = "plates/say_more.html")]
pub(crate) struct SayMore<'a> {
    pub(crate) j: &'a Judged,
}
