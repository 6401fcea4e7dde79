//! Bottles, vats, and for which plates the resin lasts.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::flow::Plate;
use wembrit_core::ids::{PlateId, PrinterId, ResinId};
use wembrit_core::stores::{Bottle, Covered, Keeps, Lost, Order, Place, mixed_by_volume, orders};
use wembrit_core::units::Money;
use wembrit_core::workshop::Printer;
use wembrit_core::workshop::resin::ResinFacts;
use wembrit_core::workshop::resin_use::worth;
use wembrit_paper::{Vessel, draw_vessels};
use wembrit_store::queries::pages::stores::StoresPage;

use super::Page;
use super::lasts::{in_turn, lasts, lasts_words, wears, worn_words};
use super::show::{self, count, hours, tenth};

/// A plate that waits for resin.
pub(crate) struct NeedRow {
    pub(crate) plate: PlateId,
    pub(crate) number: i64,
    pub(crate) project: String,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) takes: String,
    pub(crate) pour: String,
    /// What is short by then; empty where there is enough.
    pub(crate) short: String,
    /// When its vat is filled up while it runs, and what a change of resin loses.
    pub(crate) notes: String,
}

/// A bottle that holds something.
pub(crate) struct BottleRow {
    pub(crate) id: i64,
    pub(crate) of: String,
    /// Density and price of a mix.
    pub(crate) mix: String,
    pub(crate) ml: String,
    pub(crate) worth: String,
    pub(crate) good: String,
    /// Since when it is open.
    pub(crate) opened: String,
    /// What is said of its date.
    pub(crate) keeps: &'static str,
    pub(crate) empty_g: String,
}

/// A vat.
pub(crate) struct VatRow {
    pub(crate) printer: PrinterId,
    pub(crate) name: String,
    pub(crate) holds: String,
    pub(crate) of: String,
    /// Density and price of a mix.
    pub(crate) mix: String,
    pub(crate) idle: String,
    pub(crate) limits: [String; 2],
    pub(crate) full: bool,
}

/// The page.
#[derive(Template)]
#[template(path = "stores/show.html")]
pub(crate) struct StoresView {
    pub(crate) page: Page,
    pub(crate) drawing: String,
    /// For which plates the resin lasts.
    pub(crate) words: String,
    pub(crate) needs: Vec<NeedRow>,
    /// Resin, what is short, and in which bottles to order it, at which cost.
    pub(crate) order: Vec<(String, String, String)>,
    /// What is left in bottles at the end: resin, ml.
    pub(crate) left: Vec<(String, String)>,
    /// What wears out on the way.
    pub(crate) worn: String,
    /// Where resin went: where, ml, what it was worth.
    pub(crate) gone: Vec<[String; 3]>,
    /// Why vats were written off, and how much, ml.
    pub(crate) causes: Vec<(String, String)>,
    /// What prints of each resin weighed against what was reckoned.
    pub(crate) weighed: Vec<(ResinId, String)>,
    pub(crate) vats: Vec<VatRow>,
    pub(crate) bottles: Vec<BottleRow>,
    pub(crate) resins: Vec<(ResinId, String)>,
    /// Places that resin can be moved from, and to: value and name.
    pub(crate) from: Vec<(String, String)>,
    pub(crate) to: Vec<(String, String)>,
    pub(crate) moves: Vec<[String; 4]>,
    /// What spoils a vat.
    pub(crate) spoilt: [&'static str; 5],
    pub(crate) fault: String,
}

/// Names of resins and printers.
struct Names<'a>(&'a StoresPage);

impl Names<'_> {
    fn resin(&self, id: ResinId) -> String {
        let found = self.0.resins.iter().find(|r| r.id == id);
        found.map_or_else(String::new, |r| r.name.clone())
    }

    fn printer(&self, id: PrinterId) -> String {
        let found = self.0.printers.iter().find(|p| p.id == id);
        found.map_or_else(|| "a printer out of use".to_owned(), |p| p.name.clone())
    }

    fn facts(&self, id: ResinId) -> Option<ResinFacts> {
        let found = self.0.resins.iter().find(|r| r.id == id);
        found.map(|r| r.facts)
    }

    /// What is in a place: ml of each resin with what it weighs and costs.
    fn parts(&self, place: Place) -> Vec<(f64, ResinFacts)> {
        let all = self.0.books.content(place).into_iter();
        let there = all.filter(|(_, v)| v.0 > 0);
        there
            .filter_map(|(resin, v)| Some((v.in_ml(), self.facts(resin)?)))
            .collect()
    }

    /// Density and price of a mix; empty of what is none.
    fn mix(&self, place: Place) -> String {
        let parts = self.parts(place);
        let mixed = mixed_by_volume(&parts).filter(|_| parts.len() > 1);
        mixed.map_or_else(String::new, |m| {
            let price = m.facts().price_per_kg;
            format!("{:.3} g/ml, {} a kg", m.density_g_per_ml, price.written())
        })
    }

    /// What a place holds is worth, by the prices of the resins.
    fn worth(&self, place: Place) -> Money {
        let parts = self.parts(place);
        parts.iter().map(|(ml, facts)| worth(*ml, facts)).sum()
    }

    fn content(&self, place: Place) -> String {
        let all = self.0.books.content(place);
        let there: Vec<String> = all
            .iter()
            .filter(|(_, v)| v.0 > 0)
            .map(|(resin, _)| self.resin(*resin))
            .collect();
        match there.len() {
            0 => "empty".to_owned(),
            1 => there[0].clone(),
            _ => format!("a mix of {}", there.join(" and ")),
        }
    }

    fn place(&self, place: Place) -> String {
        match place {
            Place::Seller => "bought".to_owned(),
            Place::Bottle(id) => format!("bottle {id}"),
            Place::Vat(printer) => format!("vat of {}", self.printer(printer)),
            Place::Printed => "prints".to_owned(),
            Place::Gone(Lost::Spilt) => "spilt".to_owned(),
            Place::Gone(Lost::Sheet) => "cured sheet".to_owned(),
            Place::Gone(Lost::Washed) => "bath".to_owned(),
            Place::Gone(Lost::Changed) => "vat and strainer".to_owned(),
            Place::Gone(Lost::Tools) => "gloves and tools".to_owned(),
            Place::Gone(Lost::WrittenOff) => "written off".to_owned(),
            Place::Counted => "counted".to_owned(),
        }
    }
}

/// What spoils a whole vat, as makers say it.
const SPOILT: [&str; 5] = [
    "the film tore",
    "cured by stray light",
    "full of bits",
    "mixed with another resin",
    "old and separated",
];

/// Where resin goes that leaves bottles and vats.
const GONE: [Place; 7] = [
    Place::Printed,
    Place::Gone(Lost::Washed),
    Place::Gone(Lost::Tools),
    Place::Gone(Lost::Changed),
    Place::Gone(Lost::Sheet),
    Place::Gone(Lost::Spilt),
    Place::Gone(Lost::WrittenOff),
];

impl StoresView {
    pub(crate) fn new(
        page: Page,
        data: &StoresPage,
        order: &[PlateId],
        now_ms: i64,
        fault: String,
    ) -> Self {
        let names = Names(data);
        let plates = in_turn(data.waiting.clone(), order);
        let told = lasts(data, &plates);
        let needs = plates
            .iter()
            .zip(&told.plates)
            .map(|((plate, project), covered)| NeedRow {
                plate: plate.id,
                number: plate.number,
                project: project.clone(),
                printer: names.printer(plate.printer),
                resin: names.resin(plate.resin),
                takes: tenth(plate.resin_ml),
                pour: tenth(covered.pour_ml),
                short: if covered.short_ml > 0.0 {
                    tenth(covered.short_ml)
                } else {
                    String::new()
                },
                notes: notes(plate, covered),
            });
        let held: Vec<_> = data
            .bottles
            .iter()
            .filter(|b| data.books.held(Place::Bottle(b.id)).0 > 0)
            .collect();
        let vessels = data
            .printers
            .iter()
            .map(|p| vessel_of_vat(data, &names, p.id))
            .chain(held.iter().map(|b| Vessel {
                name: format!("bottle {}", b.id),
                of: names.content(Place::Bottle(b.id)),
                holds_ml: data.books.held(Place::Bottle(b.id)).in_ml(),
                most_ml: b.size_ml,
                least_ml: None,
            }));
        let named = |place: Place, name: String| {
            let (word, id) = place.word();
            (format!("{word} {}", id.unwrap_or(0)), name)
        };
        let vats = || data.printers.iter().map(|p| Place::Vat(p.id));
        let bottles = || held.iter().map(|b| Place::Bottle(b.id));
        // What is poured most comes first: from a bottle into a vat.
        let from: Vec<Place> = bottles().chain(vats()).collect();
        let to: Vec<Place> = vats().chain(bottles()).collect();
        let place = |p: &Place| named(*p, format!("{}, {}", names.place(*p), names.content(*p)));
        let gone = [Lost::Spilt, Lost::Sheet, Lost::Changed, Lost::WrittenOff];
        let gone = gone.map(|l| named(Place::Gone(l), names.place(Place::Gone(l))));
        Self {
            drawing: draw_vessels(&vessels.collect::<Vec<_>>()),
            words: lasts_words(&told, &plates),
            order: order_rows(orders(&told, &data.bottles, |r| names.facts(r)), &names),
            left: told
                .left
                .iter()
                .filter(|(_, ml)| **ml >= 0.05)
                .map(|(resin, ml)| (names.resin(*resin), tenth(*ml)))
                .collect(),
            worn: worn_words(&wears(data, &plates), &data.printers, &plates),
            gone: gone_rows(data, &names),
            causes: data
                .written_off
                .iter()
                .map(|(cause, volume)| (cause.clone(), tenth(volume.in_ml())))
                .collect(),
            weighed: weighed_words(data),
            needs: needs.collect(),
            vats: vat_rows(data, &names, now_ms),
            bottles: held
                .iter()
                .map(|b| bottle_row(b, data, &names, (&page, now_ms)))
                .collect(),
            resins: data.resins.iter().map(|r| (r.id, r.name.clone())).collect(),
            from: from.iter().map(place).collect(),
            to: to.iter().map(place).chain(gone).collect(),
            moves: data
                .newest
                .iter()
                .map(|e| {
                    [
                        show::when(e.at_ms, &page.zone),
                        format!("{} → {}", names.place(e.what.from), names.place(e.what.to)),
                        tenth(e.what.volume.in_ml()),
                        e.note.clone(),
                    ]
                })
                .collect(),
            spoilt: SPOILT,
            fault,
            page,
        }
    }
}

fn vessel_of_vat(data: &StoresPage, names: &Names<'_>, printer: PrinterId) -> Vessel {
    let place = Place::Vat(printer);
    let [least, most] = data.limits.get(&printer).copied().unwrap_or([0.0, 1.0]);
    Vessel {
        name: names.place(place),
        of: names.content(place),
        holds_ml: data.books.held(place).in_ml(),
        most_ml: most,
        least_ml: Some(least),
    }
}

fn vat_rows(data: &StoresPage, names: &Names<'_>, now_ms: i64) -> Vec<VatRow> {
    let row = |p: &Printer| {
        let place = Place::Vat(p.id);
        let held = data.books.held(place);
        let next = data.waiting.iter().find(|(plate, _)| plate.printer == p.id);
        let next = next.map(|(plate, _)| plate.resin);
        let stands = data.standing.get(&p.id).filter(|_| held.0 > 0);
        let idle = stands.and_then(|vat| vat.idle_days(next, now_ms));
        let [least, most] = data.limits.get(&p.id).copied().unwrap_or([0.0, 0.0]);
        VatRow {
            printer: p.id,
            name: p.name.clone(),
            holds: tenth(held.in_ml()),
            of: names.content(place),
            mix: names.mix(place),
            idle: idle.map_or_else(String::new, |days| {
                let days = count(days as u64, "day", "days");
                format!("in the vat for {days}: strain it back")
            }),
            limits: [least, most].map(|ml| format!("{ml:.0}")),
            full: held.0 > 0,
        }
    };
    data.printers.iter().map(row).collect()
}

/// When a vat is filled up while a plate runs, and what the change before it loses.
fn notes(plate: &Plate, covered: &Covered) -> String {
    let at = covered.refills.iter();
    let at: Vec<String> = at.map(|share| hours(share * plate.seconds)).collect();
    let mut notes = Vec::new();
    if !at.is_empty() {
        notes.push(format!("fill up after {} h", at.join(", ")));
    }
    if covered.changed_ml > 0.0 {
        let ml = tenth(covered.changed_ml);
        notes.push(format!(
            "{ml} ml of the other resin stay in vat and strainer"
        ));
    }
    notes.join("; ")
}

fn bottle_row(
    bottle: &Bottle,
    data: &StoresPage,
    names: &Names<'_>,
    (page, now_ms): (&Page, i64),
) -> BottleRow {
    let place = Place::Bottle(bottle.id);
    let ml = data.books.held(place).in_ml();
    let alone = names.mix(place).is_empty();
    let facts = names.facts(bottle.resin).filter(|_| alone);
    let value = facts.map_or_else(|| names.worth(place), |f| bottle.worth(ml, &f));
    let good = bottle.best_before_ms.map(|ms| show::field(ms, &page.zone));
    BottleRow {
        id: bottle.id,
        of: names.content(place),
        mix: names.mix(place),
        ml: format!("{ml:.0} of {:.0}", bottle.size_ml),
        worth: value.written(),
        good: good.unwrap_or_default().chars().take(10).collect(),
        opened: data
            .opened_ms
            .get(&bottle.id)
            .map_or_else(String::new, |ms| {
                format!("opened {}", show::day(*ms, &page.zone))
            }),
        keeps: match bottle.keeps(now_ms) {
            Keeps::Well => "",
            Keeps::Soon => "use it first",
            Keeps::Over => "over: test it before a plate hangs on it",
        },
        empty_g: bottle
            .empty_g
            .map_or_else(String::new, |g| format!("{g:.0}")),
    }
}

fn order_rows(orders: Vec<Order>, names: &Names<'_>) -> Vec<(String, String, String)> {
    let row = |order: Order| {
        let way = |w: &wembrit_core::stores::OfSize| {
            let bottles = count(w.bottles, "bottle", "bottles");
            format!("{bottles} of {:.0} ml, {}", w.size_ml, w.cost.written())
        };
        let ways: Vec<String> = order.ways.iter().map(way).collect();
        (
            names.resin(order.resin),
            tenth(order.short_ml),
            ways.join("; or "),
        )
    };
    orders.into_iter().map(row).collect()
}

/// Where resin went, and what it was worth.
fn gone_rows(data: &StoresPage, names: &Names<'_>) -> Vec<[String; 3]> {
    let there = GONE.iter().filter(|p| data.books.held(**p).0 > 0);
    there
        .map(|place| {
            [
                names.place(*place),
                tenth(data.books.held(*place).in_ml()),
                names.worth(*place).written(),
            ]
        })
        .collect()
}

/// What prints of each resin that was weighed weigh against what was reckoned.
fn weighed_words(data: &StoresPage) -> Vec<(ResinId, String)> {
    let weighed = data.resins.iter().filter(|r| r.facts.weighed.prints > 0);
    weighed
        .map(|r| (r.id, weight_words(&r.name, &r.facts)))
        .collect()
}

/// What prints of a resin weigh against what was reckoned.
pub(crate) fn weight_words(name: &str, facts: &ResinFacts) -> String {
    let of = facts.weighed;
    match of.prints {
        0 => format!("Nothing of {name} was weighed yet: it is taken as reckoned."),
        n => format!(
            "Prints of {name} weigh {:.3} times what was reckoned, {:.1} % apart, by {}.",
            of.times,
            of.spread * 100.0,
            count(n as u64, "weight", "weights")
        ),
    }
}
