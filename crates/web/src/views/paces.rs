//! How long a printer takes, by its runs.

use askama::Template;
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::learn::{LoggedRun, PaceChange};
use wembrit_paper::draw_pace;
use wembrit_store::queries::pages::paces::{PacePage, PrintedPlate};

use super::Page;
use super::show::{self, count, give_or_take, hours};

/// A run in the list.
pub(crate) struct RunRow {
    pub(crate) plate: PlateId,
    pub(crate) number: i64,
    pub(crate) when: String,
    /// Reckoned, or told; took; room. Nothing where nobody said for how long it printed.
    pub(crate) timed: Option<(String, String, String)>,
    /// Why it is not learned from; empty where it is.
    pub(crate) apart: &'static str,
}

/// A printer's line, and the runs it comes from.
#[derive(Template)]
#[template(path = "workshop/pace.html")]
pub(crate) struct PaceView {
    pub(crate) page: Page,
    pub(crate) id: PrinterId,
    pub(crate) name: String,
    pub(crate) drawing: String,
    pub(crate) words: String,
    /// Reckoned, expected, give or take, for plates of some hours.
    pub(crate) rows: Vec<(String, String, String)>,
    pub(crate) change: String,
    pub(crate) runs: Vec<RunRow>,
}

/// What changed, and what usually does it; the same words wherever it is told.
pub(crate) fn change_words(change: &PaceChange, printer: &str, since: &str) -> String {
    let percent = (change.times - 1.0) * 100.0;
    let how = if percent >= 0.0 { "longer" } else { "less" };
    let runs = count(change.runs as u64, "run", "runs");
    let mut words = format!(
        "{printer} takes {:.0} % {how} than before, since {since} ({runs})",
        percent.abs()
    );
    words += &match change.cold {
        Some([now, before]) => {
            format!("; the room was at {now:.0} °C, {before:.0} °C before: cold resin is thick")
        }
        None if percent >= 0.0 => "; film, rail or another setting on the machine?".to_owned(),
        None => "; another setting on the machine?".to_owned(),
    };
    words
}

fn row(run: &PrintedPlate, page: &Page) -> RunRow {
    let timed = run.timed.as_ref();
    RunRow {
        plate: run.id,
        number: run.number,
        when: show::when(run.started_at_ms, &page.zone),
        timed: timed.map(|t| {
            let room = t.run.room_c;
            (
                hours(t.run.time.reckoned_s),
                hours(t.run.time.actual_s),
                room.map_or_else(String::new, |c| format!("{c:.0}")),
            )
        }),
        apart: match timed {
            Some(t) if !t.run.is_near() => "no: too far off",
            Some(t) if t.told => "apart: against what was told",
            _ => "",
        },
    }
}

impl PaceView {
    pub(crate) fn new(page: Page, data: &PacePage) -> Self {
        let log: Vec<LoggedRun> = data.log.iter().map(|t| t.run).collect();
        let pace = &data.printer.pace;
        let line = pace.line();
        let rows = [1.0, 3.0, 6.0, 10.0].map(|h: f64| {
            let time = pace.expect(h * 3600.0);
            let around = give_or_take(time.around_s());
            (hours(h * 3600.0), hours(time.seconds()), around)
        });
        let words = match pace.runs() {
            0 => format!(
                "No run of {} was timed yet: what is reckoned of layers and movement stands, with the \
                 range that is usual between printers. Say how long a plate printed when you take it off.",
                data.printer.name
            ),
            n => format!(
                "By {}: {:+.0} min with every plate, and {:+.1} % of what is reckoned. Nine of ten further \
                 runs come out within the range.",
                count(n as u64, "run", "runs"),
                line.intercept_s() / 60.0,
                (line.slope() - 1.0) * 100.0
            ),
        };
        Self {
            id: data.printer.id,
            drawing: draw_pace(pace, &log),
            words,
            rows: rows.to_vec(),
            change: pace.change().map_or_else(String::new, |c| {
                let since = show::when(c.since_ms, &page.zone);
                change_words(c, &data.printer.name, &since)
            }),
            runs: data.newest.iter().map(|r| row(r, &page)).collect(),
            name: data.printer.name.clone(),
            page,
        }
    }
}
