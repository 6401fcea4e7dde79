//! Bottles, vats, and for which plates the resin lasts.

use askama::Template;
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PlateId, PrinterId, ResinId};
use wembrit_core::stores::{Enough, Lost, Place, PlateNeed, Stock, enough, worth};
use wembrit_core::today::IDLE_DAYS;
use wembrit_core::workshop::{Printer, Resin};
use wembrit_paper::{Vessel, draw_vessels};
use wembrit_store::queries::pages::stores::StoresPage;

use super::Page;
use super::show::{self, count, tenth};

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
}

/// A vat.
pub(crate) struct VatRow {
    pub(crate) printer: PrinterId,
    pub(crate) name: String,
    pub(crate) holds: String,
    pub(crate) of: String,
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
    /// Resin, what is short, bottles of a litre, and what they cost.
    pub(crate) order: Vec<(String, String, String)>,
    pub(crate) vats: Vec<VatRow>,
    /// Bottles that hold something: id, name, resin, what they hold, what that is worth, until when good.
    pub(crate) bottles: Vec<(i64, [String; 4])>,
    pub(crate) resins: Vec<(ResinId, String)>,
    /// Places that resin can be moved from, and to: value and name.
    pub(crate) from: Vec<(String, String)>,
    pub(crate) to: Vec<(String, String)>,
    pub(crate) moves: Vec<[String; 4]>,
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
            Place::Gone(Lost::Changed) => "lost with a change".to_owned(),
            Place::Gone(Lost::WrittenOff) => "written off".to_owned(),
            Place::Counted => "counted".to_owned(),
        }
    }
}

/// What is needed, in the order of the schedule as far as that is known, else of their numbers.
pub(crate) fn in_turn(mut all: Vec<(Plate, String)>, order: &[PlateId]) -> Vec<(Plate, String)> {
    let at = |p: &Plate| order.iter().position(|id| *id == p.id);
    all.sort_by_key(|(p, _)| (at(p).unwrap_or(usize::MAX), p.project.0, p.number));
    all
}

/// For which plates the resin lasts; the same wherever it is told.
pub(crate) fn lasts(data: &StoresPage, plates: &[(Plate, String)]) -> Enough {
    let least = |p: &Printer| (p.id, data.limits.get(&p.id).map_or(0.0, |l| l[0]));
    let vats: Vec<(PrinterId, f64)> = data.printers.iter().map(least).collect();
    let stock = Stock::of(&data.books, &data.bottles, &vats);
    let need = |(plate, _): &(Plate, String)| PlateNeed {
        plate: plate.id,
        printer: plate.printer,
        resin: plate.resin,
        ml: plate.resin_ml,
    };
    enough(&stock, &plates.iter().map(need).collect::<Vec<_>>())
}

/// The same in a sentence.
pub(crate) fn lasts_words(told: &Enough, plates: &[(Plate, String)]) -> String {
    let name = |n: usize| match plates.get(n) {
        Some((p, _)) if p.state == PlateState::Draft => format!("plate {} of this plan", p.number),
        Some((p, _)) => format!("plate {}", p.number),
        None => String::new(),
    };
    let short = |n: usize| tenth(told.plates.get(n).map_or(0.0, |p| p.short_ml));
    match (plates.len(), told.lasts()) {
        (0, _) => "No plate waits for resin.".to_owned(),
        (all, lasts) if lasts == all => {
            let plates = count(all as u64, "plate that waits", "plates that wait");
            format!("Enough for {plates}.")
        }
        (_, 0) => format!("Not enough for {}: {} ml short.", name(0), short(0)),
        (_, n) => format!(
            "Enough for {}, up to {}; {} is {} ml short.",
            count(n as u64, "plate", "plates"),
            name(n - 1),
            name(n),
            short(n)
        ),
    }
}

/// A litre: what is ordered is told in bottles of it.
const LITRE_ML: f64 = 1000.0;

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
            });
        let held: Vec<_> = data
            .bottles
            .iter()
            .filter(|b| data.books.held(Place::Bottle(b.id)).0 > 0)
            .collect();
        let resin_of = |id: ResinId| data.resins.iter().find(|r: &&Resin| r.id == id);
        let bottle = |b: &&wembrit_core::stores::Bottle| {
            let ml = data.books.held(Place::Bottle(b.id)).in_ml();
            let value = resin_of(b.resin).map(|r| b.worth(ml, &r.facts).to_string());
            let good = b.best_before_ms.map(|ms| show::field(ms, &page.zone));
            (
                b.id,
                [
                    names.content(Place::Bottle(b.id)),
                    format!("{ml:.0} of {:.0}", b.size_ml),
                    value.unwrap_or_default(),
                    good.unwrap_or_default().chars().take(10).collect(),
                ],
            )
        };
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
            order: order_rows(&told, &names, data),
            needs: needs.collect(),
            vats: vat_rows(data, &names, now_ms),
            bottles: held.iter().map(bottle).collect(),
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
        let idle = data.idle_since_ms.get(&p.id).filter(|_| held.0 > 0);
        let days = idle.map_or(0, |since| (now_ms - since).max(0) / 86_400_000);
        let waits = data.waiting.iter().any(|(plate, _)| plate.printer == p.id);
        let [least, most] = data.limits.get(&p.id).copied().unwrap_or([0.0, 0.0]);
        VatRow {
            printer: p.id,
            name: p.name.clone(),
            holds: tenth(held.in_ml()),
            of: names.content(place),
            idle: if days >= IDLE_DAYS && !waits {
                format!(
                    "in the vat for {}: strain it back",
                    count(days as u64, "day", "days")
                )
            } else {
                String::new()
            },
            limits: [least, most].map(|ml| format!("{ml:.0}")),
            full: held.0 > 0,
        }
    };
    data.printers.iter().map(row).collect()
}

fn order_rows(
    told: &Enough,
    names: &Names<'_>,
    data: &StoresPage,
) -> Vec<(String, String, String)> {
    let row = |(resin, short): (&ResinId, &f64)| {
        let bottles = told.bottles(*resin, LITRE_ML);
        let facts = data.resins.iter().find(|r| r.id == *resin).map(|r| r.facts);
        let cost = facts.map(|f| worth(LITRE_ML * bottles as f64, &f).to_string());
        (
            names.resin(*resin),
            format!("{} ml", tenth(*short)),
            format!(
                "{}, {}",
                count(bottles, "bottle of a litre", "bottles of a litre"),
                cost.unwrap_or_default()
            ),
        )
    };
    told.short.iter().map(row).collect()
}
