//! A model's form.

use wembrit_core::army::Model;
use wembrit_core::army::roster::MOST_MODELS;
use wembrit_store::commands::muster::ModelChange;

use super::{Faults, Field, Input, Reader, plain};

pub(crate) fn fields(model: Option<&Model>) -> Vec<Field> {
    vec![
        Field::text("name", "Name", model.map_or("", |m| m.name.as_str())),
        Field::number(
            "quantity",
            "Quantity",
            "models",
            model.map_or(1, |m| m.quantity),
        ),
        Field::text(
            "base",
            "Base size",
            model.map_or_else(|| "25".to_owned(), base_text),
        )
        .hint("Diameter in mm; 60x35 for an oval; 0 for none."),
        Field::number(
            "carries",
            "Carries",
            "models",
            model.map_or(0, |m| m.carries),
        )
        .hint("Of another unit, each of these; 0 for none."),
    ]
}

/// A base as it is typed and shown: `25`, `60x35`.
pub(crate) fn base_text(model: &Model) -> String {
    if model.base_width_mm == model.base_depth_mm {
        plain(model.base_width_mm)
    } else {
        format!(
            "{}x{}",
            plain(model.base_width_mm),
            plain(model.base_depth_mm)
        )
    }
}

/// The same with its unit; nothing for a model without a base.
pub(crate) fn base_mm(model: &Model) -> Option<String> {
    (model.base_width_mm > 0.0).then(|| format!("{} mm", base_text(model)))
}

pub(crate) fn read(input: &Input) -> Result<ModelChange, Faults> {
    let mut r = Reader::new(input);
    let [base_width_mm, base_depth_mm] = r.base("base");
    // A form without the field means that nothing is carried.
    let carries = if input.has("carries") {
        r.whole("carries", 0, 500)
    } else {
        0
    };
    let change = ModelChange {
        name: r.name("name"),
        quantity: r.whole("quantity", 0, MOST_MODELS),
        base_width_mm,
        base_depth_mm,
        carries,
    };
    r.done(change)
}
