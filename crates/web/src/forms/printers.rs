//! A printer's form.

use wembrit_core::workshop::print_time::MachineKind;
use wembrit_store::queries::printers::PrinterChange;
use wembrit_store::rows::Printer;

use super::{Faults, Field, Input, Reader, mark_assumed, plain, words};

/// Rim of a plate of which nothing is known: common practice, no source.
pub(crate) const MARGIN_MM: f64 = 3.0;
/// Start-up of a printer of which nothing is known: common practice, no source.
pub(crate) const STARTUP_S: f64 = 120.0;

/// Way left free of a printer of which nothing is known.
pub(crate) const REMOVAL_MM: f64 = 0.0;

/// Pixel of a screen of which nothing is known: common practice, no source.
pub(crate) const PIXEL_UM: u32 = 35;

/// The fields, filled from a printer or with what is assumed of a new one.
pub(crate) fn fields(printer: Option<&Printer>) -> Vec<Field> {
    let of = |read: fn(&Printer) -> f64, or: f64| plain(printer.map_or(or, read));
    let fields = vec![
        Field::text("name", "Name", printer.map_or("", |p| p.name.as_str())),
        Field::new("kind", "Kind of machine", words(MachineKind::ALL), printer.map_or(MachineKind::Screen, |p| p.kind))
            .hint("A screen shows a whole layer at once; a tilting vat has a fixed cycle; a beam draws, so area counts too."),
        Field::number("width_mm", "Plate width", "mm", of(|p| p.width_mm, 130.0)),
        Field::number("depth_mm", "Plate depth", "mm", of(|p| p.depth_mm, 80.0)),
        Field::number("height_mm", "Height", "mm", of(|p| p.height_mm, 150.0)).hint("The tallest part it takes."),
        Field::number("margin_mm", "Margin", "mm", of(|p| p.margin_mm, MARGIN_MM)).hint("Rim of the plate that stays free."),
        Field::number("startup_s", "Start-up", "s", of(|p| p.startup_s, STARTUP_S)).hint("From start to the first layer, and the last rise."),
        Field::number("removal_mm", "Free for removal", "mm", of(|p| p.removal_mm, REMOVAL_MM)).hint("Way of the plate that no part may use, so that it can be taken off."),
        Field::number("part_pull", "Hardest pull of a part", "discs", of(|p| p.part_pull, 0.0)).hint("Against a disc of 20 mm; 0 for no limit."),
        Field::number("plate_pull", "Hardest pull of a plate", "discs", of(|p| p.plate_pull, 0.0)).hint("All parts together, layer by layer; 0 for no limit."),
        Field::number("pixel_um", "Pixel", "µm", printer.map_or(i64::from(PIXEL_UM), |p| p.pixel_um)).hint("Side of a pixel of the screen, or of the beam's spot."),
    ];
    mark_assumed(
        fields,
        printer.map_or("margin_mm,startup_s,removal_mm,pixel_um", |p| {
            p.assumed.as_str()
        }),
    )
}

pub(crate) fn read(input: &Input, assumed: String) -> Result<PrinterChange, Faults> {
    let mut r = Reader::new(input);
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
        part_pull: r.number("part_pull", 0.0, 1e6),
        plate_pull: r.number("plate_pull", 0.0, 1e6),
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
