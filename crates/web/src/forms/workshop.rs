//! The form of the workshop's own figures.

use crate::currency::Amount;
use wembrit_core::workshop::{Rates, Workshop};
use wembrit_store::commands::workshop::WorkshopChange;

use super::{Faults, Field, Input, Reader, mark_assumed, plain};

pub(crate) fn fields(w: &Workshop) -> Vec<Field> {
    let fields = vec![
        Field::text("name", "Name of the workshop", &w.name),
        Field::text("currency", "Currency", &w.currency)
            .hint("Three letters, such as EUR; amounts keep their digits, and are written with the decimals it has."),
        Field::text("time_zone", "Time zone", &w.time_zone)
            .hint("Such as Europe/Amsterdam or UTC."),
        Field::number("layer_mm", "Usual layer height", "mm", w.layer),
        Field::number(
            "clearance_mm",
            "Clearance between copies",
            "mm",
            plain(w.rates.clearance_mm),
        ),
        Field::number(
            "waste_percent",
            "Resin lost on top",
            "%",
            plain(w.rates.waste_share * 100.0),
        )
        .hint("What stays in the vat, on gloves and in the wash."),
        Field::number(
            "hands_on_minutes",
            "Hands on for each plate",
            "min",
            plain(w.rates.hands_on_minutes),
        )
        .hint("Loading, unloading, washing, cleaning up."),
        Field::number(
            "hands_on_per_hour",
            "An hour of your hands",
            "",
            w.rates.hands_on_per_hour.written(),
        )
        .hint("0 when you do not count your own time."),
        Field::number(
            "copy_minutes",
            "and for each copy",
            "min",
            plain(w.rates.copy_minutes),
        )
        .hint("Beside what the plate takes; 0 where you count the plate only."),
        Field::number(
            "contact_minutes",
            "and for each contact",
            "min",
            plain(w.rates.contact_minutes),
        )
        .hint("Cutting it off and sanding it down."),
        Field::number("kwh", "A kilowatt-hour", "", w.rates.kwh.written())
            .hint("0 when you do not count electricity."),
    ];
    let assumed = w
        .assumed
        .replace("layer_um", "layer_mm")
        .replace("waste_share", "waste_percent");
    mark_assumed(
        fields,
        &assumed
            .replace("hands_on_per_hour_minor", "hands_on_per_hour")
            .replace("kwh_minor", "kwh"),
    )
}

pub(crate) fn read(input: &Input, assumed: String) -> Result<WorkshopChange, Faults> {
    let mut r = Reader::new(input);
    let currency = input.get("currency").to_uppercase();
    if currency.len() != 3 || !currency.bytes().all(|b| b.is_ascii_uppercase()) {
        r.refuse(
            "currency",
            "use the three letters of a currency, such as EUR",
        );
    }
    let time_zone = input.get("time_zone").to_owned();
    if jiff::tz::TimeZone::get(&time_zone).is_err() {
        r.refuse(
            "time_zone",
            "not a known time zone: write it as Europe/Amsterdam or UTC",
        );
    }
    let change = WorkshopChange {
        name: r.name("name"),
        currency,
        time_zone,
        layer: r.layer("layer_mm"),
        rates: Rates {
            clearance_mm: r.number("clearance_mm", 0.0, 20.0),
            waste_share: r.number("waste_percent", 0.0, 200.0) / 100.0,
            hands_on_minutes: r.number("hands_on_minutes", 0.0, 600.0),
            hands_on_per_hour: r.money("hands_on_per_hour"),
            copy_minutes: r.number("copy_minutes", 0.0, 120.0),
            contact_minutes: r.number("contact_minutes", 0.0, 30.0),
            kwh: r.money("kwh"),
        },
        assumed: assumed
            .replace("layer_mm", "layer_um")
            .replace("waste_percent", "waste_share")
            .replace("hands_on_per_hour", "hands_on_per_hour_minor")
            .replace("kwh", "kwh_minor"),
    };
    r.done(change)
}
