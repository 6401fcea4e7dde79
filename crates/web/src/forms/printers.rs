//! A printer's form.

use crate::currency::Amount;
use wembrit_core::ids::PrinterId;
use wembrit_core::units::Money;
use wembrit_core::workshop::print_time::MachineKind;
use wembrit_core::workshop::{PRINTER_ASSUMED, Printer};
use wembrit_store::commands::printers::PrinterChange;

use super::{Faults, Field, Input, Reader, mark_assumed, plain, words};

/// The fields, filled from a printer or with what is assumed of a new one.
pub(crate) fn fields(printer: Option<&Printer>) -> Vec<Field> {
    let usual = Printer::assumed(PrinterId(0), "", [130.0, 80.0, 150.0]);
    let of = |read: fn(&Printer) -> f64| plain(read(printer.unwrap_or(&usual)));
    let fields = vec![
        Field::text("name", "Name", printer.map_or("", |p| p.name.as_str())),
        Field::new("kind", "Kind of machine", words(MachineKind::ALL), printer.map_or(MachineKind::Screen, |p| p.kind))
            .hint("A screen shows a whole layer at once; a tilting vat has a fixed cycle; a beam draws, so area counts too."),
        Field::number("width_mm", "Plate width", "mm", of(|p| p.width_mm)),
        Field::number("depth_mm", "Plate depth", "mm", of(|p| p.depth_mm)),
        Field::number("height_mm", "Height", "mm", of(|p| p.height_mm)).hint("The tallest part it takes."),
        Field::number("margin_mm", "Margin", "mm", of(|p| p.margin_mm)).hint("Rim of the plate that stays free."),
        Field::number("startup_s", "Start-up", "s", of(|p| p.startup_s)).hint("From start to the first layer, and the last rise."),
        Field::number("removal_mm", "Free for removal", "mm", of(|p| p.removal_mm)).hint("Way of the plate that no part may use, so that it can be taken off."),
        Field::number("part_pull", "Hardest pull of a part", "discs", of(|p| p.part_pull.unwrap_or(0.0))).hint("Against a disc of 20 mm; 0 for no limit."),
        Field::number("plate_pull", "Hardest pull of a plate", "discs", of(|p| p.plate_pull.unwrap_or(0.0))).hint("All parts together, layer by layer; 0 for no limit."),
        Field::number("change_minutes", "Another resin into its vat", "min", of(|p| p.change_minutes)).hint("0 where a second vat stands ready."),
        Field::number("change_ml", "Resin lost by it", "ml", of(|p| p.change_ml)).hint("What stays in the vat, the sieve and the cloth."),
        Field::number("watts", "Draws", "W", of(|p| p.watts)).hint("While it prints, heater and fan with it; off its data sheet or a meter."),
        Field::number("price", "It cost", "", printer.map_or(Money(0), |p| p.price).written()).hint("0 where plates do not pay for it."),
        Field::number("life_h", "and prints for", "h", of(|p| p.life_h)).hint("Hours until another one is bought."),
        Field::number("pixel_um", "Pixel", "µm", printer.unwrap_or(&usual).pixel_um).hint("Side of a pixel of the screen, or of the beam's spot."),
    ];
    mark_assumed(
        fields,
        printer.map_or(PRINTER_ASSUMED, |p| p.assumed.as_str()),
    )
}

pub(crate) fn read(input: &Input, assumed: String) -> Result<PrinterChange, Faults> {
    let mut r = Reader::new(input);
    // 0 says that there is no limit.
    let limit = |pull: f64| Some(pull).filter(|p| *p > 0.0);
    let change = PrinterChange {
        name: r.name("name"),
        kind: r.choice("kind", MachineKind::Screen),
        width_mm: r.number("width_mm", 20.0, 2000.0),
        depth_mm: r.number("depth_mm", 20.0, 2000.0),
        height_mm: r.number("height_mm", 10.0, 2000.0),
        margin_mm: r.number("margin_mm", 0.0, 50.0),
        startup_s: r.number("startup_s", 0.0, 7200.0),
        pixel_um: r.whole("pixel_um", 5, 500),
        removal_mm: r.number("removal_mm", 0.0, 500.0),
        part_pull: limit(r.number("part_pull", 0.0, 1e6)),
        plate_pull: limit(r.number("plate_pull", 0.0, 1e6)),
        change_minutes: r.number("change_minutes", 0.0, 240.0),
        change_ml: r.number("change_ml", 0.0, 2000.0),
        watts: r.number("watts", 0.0, 5000.0),
        price: r.money("price"),
        life_h: r.number("life_h", 10.0, 200_000.0),
        assumed,
    };
    if change.margin_mm * 2.0 >= change.width_mm.min(change.depth_mm) {
        r.refuse("margin_mm", "leaves nothing of the plate");
    }
    if change.removal_mm >= change.height_mm {
        r.refuse("removal_mm", "leaves no height for parts");
    }
    r.done(change)
}
