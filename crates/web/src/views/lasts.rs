//! For which plates resin and films last: told the same wherever it is told.

use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{PlateId, PrinterId};
use wembrit_core::stores::{Enough, PlateNeed, Stock, Used, VatLevel, WearKind, Worn, enough};
use wembrit_core::workshop::Printer;
use wembrit_store::queries::pages::stores::StoresPage;

use super::show::{count, tenth};

/// What is needed, in the order of the schedule as far as that is known, else of their numbers.
pub(crate) fn in_turn(mut all: Vec<(Plate, String)>, order: &[PlateId]) -> Vec<(Plate, String)> {
    let at = |p: &Plate| order.iter().position(|id| *id == p.id);
    all.sort_by_key(|(p, _)| (at(p).unwrap_or(usize::MAX), p.project.0, p.number));
    all
}

/// For which plates the resin lasts; the same wherever it is told.
pub(crate) fn lasts(data: &StoresPage, plates: &[(Plate, String)]) -> Enough {
    let level = |p: &Printer| {
        let limits = data.limits.get(&p.id).copied();
        VatLevel::empty(p, limits.unwrap_or([0.0, f64::MAX]))
    };
    let vats: Vec<VatLevel> = data.printers.iter().map(level).collect();
    let stock = Stock::of(&data.books, &data.bottles, &vats);
    let needs: Vec<PlateNeed> = plates.iter().map(|(p, _)| PlateNeed::of(p)).collect();
    enough(&stock, &needs)
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

/// How worn everything is, and for which of these plates it lasts.
pub(crate) fn wears(data: &StoresPage, plates: &[(Plate, String)]) -> Vec<Worn> {
    let takes = |(p, _): &(Plate, String)| (p.id, Some(p.printer), Used::of(p));
    let waiting: Vec<(PlateId, Option<PrinterId>, Used)> = plates.iter().map(takes).collect();
    Worn::all(&data.in_use, &data.wearing, &waiting)
}

/// Name of what wears, with its printer.
pub(crate) fn wear_name(of: &Worn, printers: &[Printer]) -> String {
    let found = |id| printers.iter().find(|p| p.id == id);
    match of.wear.printer.and_then(found) {
        Some(printer) => format!("{} of {}", of.wear.kind, printer.name),
        None => of.wear.kind.to_string(),
    }
}

/// How long something lasts, in words; empty while it need not be told.
pub(crate) fn wear_words(of: &Worn, plates: &[(Plate, String)]) -> String {
    let number = |id: PlateId| {
        let found = plates.iter().find(|(p, _)| p.id == id);
        found.map_or(0, |(p, _)| p.number)
    };
    match of.ends_in {
        _ if !of.is_told() => String::new(),
        _ if of.is_due() => format!("due: {}", of.wear.kind.todo()),
        Some(plate) => format!("due in plate {}: {}", number(plate), of.wear.kind.todo()),
        None => format!("nearly due: {}", of.wear.kind.todo()),
    }
}

/// What wears out before a plan is printed, in a sentence; empty where all of it lasts. Gloves and towels can be
/// bought on the way.
pub(crate) fn worn_words(all: &[Worn], printers: &[Printer], plates: &[(Plate, String)]) -> String {
    let bought = |w: &&Worn| matches!(w.wear.kind, WearKind::Gloves | WearKind::Towels);
    let told = all.iter().filter(|w| w.is_told() && !bought(w));
    let words = told.map(|w| format!("{} {}", wear_name(w, printers), wear_words(w, plates)));
    words.collect::<Vec<_>>().join("; ")
}
