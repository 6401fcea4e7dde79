//! What wears, and when it is due.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::ids::PlateId;
use wembrit_core::stores::{WearKind, Worn};
use wembrit_store::queries::pages::stores::StoresPage;

use super::Page;
use super::lasts::{in_turn, wear_name, wear_words, wears};
use super::show;
use crate::forms;

/// Something that wears.
pub(crate) struct WearRow {
    pub(crate) name: String,
    pub(crate) kind: WearKind,
    /// Its printer; empty where it is of no printer.
    pub(crate) printer: String,
    /// How worn it is, percent.
    pub(crate) percent: String,
    /// The same as a length of its bar, up to 100.
    pub(crate) bar: String,
    pub(crate) words: String,
    /// What is said of it where it is due, or will be.
    pub(crate) due: String,
    pub(crate) is_due: bool,
    pub(crate) since: String,
    pub(crate) figures: [&'static str; 2],
    pub(crate) life: String,
    pub(crate) second: String,
    pub(crate) price: String,
    /// Nobody has said how long it lasts.
    pub(crate) assumed: bool,
    pub(crate) after: &'static str,
}

/// The page.
#[derive(Template)]
#[template(path = "stores/wear.html")]
pub(crate) struct WearView {
    pub(crate) page: Page,
    pub(crate) rows: Vec<WearRow>,
    /// There is one bath only.
    pub(crate) one_bath: bool,
    pub(crate) fault: String,
}

impl WearView {
    pub(crate) fn new(page: Page, data: &StoresPage, order: &[PlateId], fault: String) -> Self {
        let plates = in_turn(data.waiting.clone(), order);
        let all = wears(data, &plates);
        let row = |w: &Worn| WearRow {
            name: wear_name(w, &data.printers),
            kind: w.wear.kind,
            printer: w.wear.printer.map_or_else(String::new, |p| p.to_string()),
            percent: format!("{:.0}", w.worn * 100.0),
            bar: format!("{:.1}", (w.worn * 100.0).min(100.0)),
            words: w.words(),
            due: wear_words(w, &plates),
            is_due: w.is_due(),
            since: w.wear.since_ms.map_or_else(
                || "the first run".to_owned(),
                |ms| show::when(ms, &page.zone),
            ),
            figures: w.wear.kind.figures(),
            life: forms::plain(w.wear.life),
            second: forms::plain(w.wear.second),
            price: w.wear.price.written(),
            assumed: !w.wear.said,
            after: if w.wear.kind.of_a_printer() {
                "exposures on it are due then"
            } else {
                ""
            },
        };
        Self {
            rows: all.iter().map(row).collect(),
            one_bath: all.iter().all(|w| w.wear.kind != WearKind::CleanBath),
            fault,
            page,
        }
    }
}
