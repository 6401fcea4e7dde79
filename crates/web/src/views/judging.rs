//! The copies of a plate that are to be judged, and what can be said of one that is not simply good.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::army::part_name;
use wembrit_core::flow::{FailedAt, FailureCause, PlateCopy, PrintedCopy, Stage};
use wembrit_core::ids::PartId;

use super::shapes::{key, label};

/// A copy that can be marked as failed.
#[derive(Default)]
pub(crate) struct Judged {
    pub(crate) key: String,
    pub(crate) label: String,
    pub(crate) mark: i64,
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

/// Copies of one part that are to be judged.
pub(crate) struct JudgedPart {
    pub(crate) name: String,
    pub(crate) copies: Vec<Judged>,
}

impl JudgedPart {
    /// Those of a plate's copies that are not judged yet, part by part: who holds a bad one in the hand knows the
    /// part first.
    pub(crate) fn of(copies: &[PlateCopy]) -> Vec<Self> {
        let open = |c: &&PlateCopy| {
            let off = |c: &PrintedCopy| c.stage == Stage::InFinishing;
            c.copy.as_ref().is_some_and(off)
        };
        let mut parts: BTreeMap<(String, PartId), Vec<Judged>> = BTreeMap::new();
        for copy in copies.iter().filter(open) {
            let name = part_name(&copy.model_name, &copy.part_name);
            let part = parts.entry((name, copy.placed.part)).or_default();
            part.push(Judged::new(copy));
        }
        let part = |((name, _), mut copies): (_, Vec<Judged>)| {
            copies.sort_by_key(|j| j.mark);
            Self { name, copies }
        };
        parts.into_iter().map(part).collect()
    }
}

impl Judged {
    fn new(copy: &PlateCopy) -> Self {
        Self {
            key: key(copy),
            label: label(copy),
            mark: copy.mark(),
            waits: copy.copy.as_ref().map_or_else(String::new, waits_for),
            ..Self::default()
        }
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
