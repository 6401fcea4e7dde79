//! Hands on a plate, and what they take on all plates.

use askama::Template;
use wembrit_core::ids::PlateId;
use wembrit_core::learn::{Hands, HandsExpected};
use wembrit_store::queries::pages::hands::{AllHands, PlateHands};

use super::Page;
use super::show::{self, count};
use crate::forms;

/// `34 ± 12 min`, and by what that is known; the same words wherever it is told.
pub(crate) fn expected_words(of: &HandsExpected, hands: &Hands) -> String {
    let by = match hands.plates {
        0 => "nobody has timed any yet".to_owned(),
        n => format!("by {}", count(n as u64, "plate", "plates")),
    };
    format!("{:.0} ± {:.0} min, {by}", of.minutes, of.around)
}

/// Hands on one plate.
#[derive(Template)]
#[template(path = "plates/hands.html")]
pub(crate) struct PlateHandsView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) expected: String,
    /// When they began, where they are on it.
    pub(crate) since: Option<String>,
    /// Minutes so far.
    pub(crate) spent: String,
    pub(crate) spells: Vec<(String, String)>,
    pub(crate) fault: String,
}

impl PlateHandsView {
    pub(crate) fn new(page: Page, data: &PlateHands, now_ms: i64, fault: String) -> Self {
        let (copies, contacts) = data.shape;
        let expected = data.hands.expect(copies, contacts);
        let open = data.spells.iter().find(|s| s.minutes.is_none());
        let done = data.spells.iter().filter_map(|s| Some((s, s.minutes?)));
        let spent: f64 = done.clone().map(|(_, m)| m).sum();
        Self {
            id: data.plate.id,
            number: data.plate.number,
            expected: expected_words(&expected, &data.hands),
            since: open.map(|s| {
                let minutes = (now_ms - s.began_at_ms).max(0) / 60_000;
                let began = show::near(s.began_at_ms, now_ms, &page.zone);
                format!("{began}, {minutes} min ago")
            }),
            // The sum of nothing is −0.
            spent: format!("{:.0}", spent + 0.0),
            spells: done
                .map(|(s, m)| (show::when(s.began_at_ms, &page.zone), format!("{m:.0}")))
                .collect(),
            fault,
            page,
        }
    }
}

/// Hands in the workshop.
#[derive(Template)]
#[template(path = "workshop/hands.html")]
pub(crate) struct HandsView {
    pub(crate) page: Page,
    pub(crate) row_version: i64,
    /// Minutes for the plate, for a copy, for a contact.
    pub(crate) each: [String; 3],
    pub(crate) plates: String,
    /// Minutes that are counted for the mean plate of the log.
    pub(crate) in_use: String,
    /// Minutes that are counted for a plate, a copy and a contact.
    pub(crate) counted: [String; 3],
    /// Minutes that were learned of them, once some were timed.
    pub(crate) learned: Option<[String; 3]>,
    /// What the mean plate of the log takes, where it is not in use.
    pub(crate) take: Option<String>,
    /// Plate, number, copies, contacts, minutes, expected.
    pub(crate) rows: Vec<(PlateId, i64, [String; 4])>,
}

impl HandsView {
    pub(crate) fn new(page: Page, data: &AllHands) -> Self {
        let [plate, copy, contact] = data.hands.each();
        let many = data.log.len().max(1) as f64;
        let mean = |of: &dyn Fn(&wembrit_core::learn::HandsSpent) -> f64| {
            data.log.iter().map(|t| of(&t.spent)).sum::<f64>() / many
        };
        let rates = data.workshop.rates;
        let mean_plate = [mean(&|s| s.copies), mean(&|s| s.contacts)];
        let in_use = rates.minutes(if data.log.is_empty() {
            Hands::USUAL_PLATE
        } else {
            mean_plate
        });
        let usual = data.hands.expect(mean_plate[0], mean_plate[1]);
        let take = (!data.log.is_empty()).then(|| usual.minutes.round());
        let rows = data.log.iter().rev().map(|t| {
            let s = &t.spent;
            let expected = data.hands.expect(s.copies, s.contacts);
            let figures = [s.copies, s.contacts, s.minutes, expected.minutes];
            (t.plate, t.number, figures.map(|n| format!("{n:.0}")))
        });
        Self {
            row_version: data.workshop.row_version,
            each: [
                format!("{plate:.0} min"),
                format!("{copy:.1} min"),
                format!("{:.0} s", contact * 60.0),
            ],
            plates: count(data.hands.plates as u64, "plate", "plates"),
            in_use: format!("{in_use:.0}"),
            counted: [
                rates.hands_on_minutes,
                rates.copy_minutes,
                rates.contact_minutes,
            ]
            .map(forms::plain),
            learned: (!data.log.is_empty()).then(|| {
                let to = |m: f64, one: f64| forms::plain((m.max(0.0) * one).round() / one);
                [to(plate, 1.0), to(copy, 10.0), to(contact, 100.0)]
            }),
            take: take
                .filter(|m| (m - in_use).abs() >= 1.0)
                .map(|m| format!("{m:.0}")),
            rows: rows.collect(),
            page,
        }
    }
}
