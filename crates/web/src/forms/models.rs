//! A model's form.

use wembrit_store::queries::muster::ModelChange;
use wembrit_store::rows::Model;

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

pub(crate) fn read(input: &Input) -> Result<ModelChange, Faults> {
    let mut r = Reader::new(input);
    let side = |text: &str| {
        text.trim()
            .replace(',', ".")
            .parse::<f64>()
            .ok()
            .filter(|mm| (0.0..=500.0).contains(mm))
    };
    let text = input.get("base").to_lowercase().replace('×', "x");
    let (width, depth) = text.split_once('x').unwrap_or((&text, &text));
    let (base_width_mm, base_depth_mm) = side(width).zip(side(depth)).unwrap_or_else(|| {
        r.refuse(
            "base",
            "write a diameter such as 25, an oval such as 60x35, or 0 for none",
        );
        (0.0, 0.0)
    });
    let change = ModelChange {
        name: r.name("name"),
        quantity: r.whole("quantity", 0, 5000),
        base_width_mm,
        base_depth_mm,
    };
    r.done(change)
}
