//! A printer's link: where it answers and what it says; and a plate that waits for a connected printer.

use askama::Template;
use jiff::tz::TimeZone;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::link::{Command, NotReady, Says};
use wembrit_store::queries::pages::runs::RunSheet;

use super::Page;
use super::live::{refusal, told_but_here, waits};
use super::show::{self, tenth};
use crate::printers::Heard;

/// A file in a printer's memory.
pub(crate) struct InMemory {
    pub(crate) name: String,
    pub(crate) begins: String,
}

/// What a printer says, for people.
pub(crate) struct Word {
    pub(crate) state: String,
    pub(crate) vat: String,
    pub(crate) room: String,
    pub(crate) travel: String,
    pub(crate) files: Vec<InMemory>,
}

impl Word {
    fn new(says: &Says) -> Self {
        let trouble = says.trouble.map_or_else(String::new, |t| format!(", {t}"));
        let job = says.job.as_ref();
        let job = job.map_or_else(String::new, |j| {
            format!(", {} as its number {}", j.file, j.number)
        });
        let files = says.files.iter().map(|f| InMemory {
            name: f.name.clone(),
            begins: f.checksum.chars().take(8).collect(),
        });
        Self {
            state: format!("{}{trouble}{job}", says.state),
            vat: format!("{} ml", tenth(says.resin_ml)),
            room: format!("{:.0} °C", says.room_c),
            travel: format!("{:.0} mm", says.travel_mm),
            files: files.collect(),
        }
    }
}

/// The page of a printer's link.
#[derive(Template)]
#[template(path = "workshop/link.html")]
pub(crate) struct LinkView {
    pub(crate) page: Page,
    pub(crate) id: PrinterId,
    pub(crate) printer: String,
    pub(crate) address: String,
    pub(crate) connected: bool,
    pub(crate) word: Option<Word>,
    pub(crate) silent: String,
    /// What it was told and has not answered.
    pub(crate) waits: String,
    pub(crate) fault: String,
}

/// What it says, as a piece of the page.
#[derive(Template)]
#[template(path = "workshop/link_says.html")]
pub(crate) struct LinkSays {
    word: Option<Word>,
    silent: String,
    waits: String,
}

impl LinkView {
    /// What it says alone.
    pub(crate) fn says(self) -> LinkSays {
        LinkSays {
            word: self.word,
            silent: self.silent,
            waits: self.waits,
        }
    }

    pub(crate) fn new(
        page: Page,
        (id, printer): (PrinterId, String),
        address: Option<String>,
        (heard, waits): (Option<&Heard>, String),
    ) -> Self {
        Self {
            id,
            printer,
            connected: address.is_some(),
            address: address.unwrap_or_default(),
            word: heard.and_then(|h| h.says.as_ref()).map(Word::new),
            silent: heard.map_or_else(
                || "nothing was heard of it yet".into(),
                |h| h.silent.clone(),
            ),
            waits,
            fault: String::new(),
            page,
        }
    }
}

/// What a plate that waits for a connected printer needs before its checks.
#[derive(Template)]
#[template(path = "runs/memory.html")]
pub(crate) struct Memory {
    pub(crate) id: PlateId,
    pub(crate) printer: (PrinterId, String),
    pub(crate) file: String,
    pub(crate) waits: String,
    pub(crate) may_withdraw: bool,
    pub(crate) refused: String,
    /// It holds this very file.
    pub(crate) holds: bool,
    pub(crate) silent: String,
    /// Nothing else comes first.
    pub(crate) comes_next: bool,
    /// How it all stands in a word: once that changes, the checks beside it do too.
    pub(crate) state: String,
    /// It stands as it stood when the page was drawn.
    pub(crate) as_drawn: bool,
}

/// What stands against a start, in a word, and whether something is to be answered.
fn against(data: &RunSheet, told: Option<&Command>) -> String {
    let linked = data.known.linked.as_ref();
    let all = linked.map_or(&[][..], |l| &l.not_ready);
    let kinds: Vec<&str> = all.iter().map(NotReady::kind).collect();
    let waits = told.is_some_and(|t| t.state.is_open());
    format!("{}{}", kinds.join("."), if waits { ".waits" } else { "" })
}

impl Memory {
    pub(crate) fn new(
        data: &RunSheet,
        heard: Option<&Heard>,
        checksum: &str,
        (zone, now_ms): (&TimeZone, i64),
    ) -> Option<Self> {
        let link = data.link.as_ref()?;
        let file = data.known.file();
        let says = heard.and_then(|h| h.says.as_ref());
        let kept = says.and_then(|s| s.file(&file));
        let silent = match (heard, says) {
            (_, Some(_)) => String::new(),
            (Some(h), None) if !h.silent.is_empty() => show::sentence(&h.silent),
            _ => "Nothing was heard of it yet.".into(),
        };
        Some(Self {
            id: data.known.plate.id,
            printer: (data.known.plate.printer, data.printer.name.clone()),
            waits: waits(link.told.as_ref(), zone),
            may_withdraw: told_but_here(link),
            refused: refusal(link.told.as_ref(), now_ms),
            holds: kept.is_some_and(|f| f.checksum == checksum),
            state: against(data, link.told.as_ref()),
            as_drawn: true,
            comes_next: false,
            silent,
            file,
        })
    }
}
