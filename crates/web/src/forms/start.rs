//! The three questions of the first run.

use wembrit_core::units::{LayerHeight, Money};

use super::{Faults, Field, Input, Reader};

/// The answers.
pub(crate) struct Start {
    pub(crate) width_mm: f64,
    pub(crate) depth_mm: f64,
    pub(crate) height_mm: f64,
    pub(crate) price_per_kg: Money,
    pub(crate) layer: LayerHeight,
    /// Where the browser says it is.
    pub(crate) time_zone: Option<String>,
}

pub(crate) fn fields() -> Vec<Field> {
    vec![
        Field::number("width_mm", "Width", "mm", ""),
        Field::number("depth_mm", "Depth", "mm", ""),
        Field::number("height_mm", "Tallest part", "mm", ""),
        Field::number("price_per_kg", "Price", "EUR", ""),
        Field::number("layer_mm", "Layer height", "mm", "0.05"),
    ]
}

pub(crate) fn read(input: &Input) -> Result<Start, Faults> {
    let mut r = Reader::new(input);
    let start = Start {
        width_mm: r.number("width_mm", 20.0, 2000.0),
        depth_mm: r.number("depth_mm", 20.0, 2000.0),
        height_mm: r.number("height_mm", 10.0, 2000.0),
        price_per_kg: r.money("price_per_kg"),
        layer: r.layer("layer_mm"),
        // A browser may say something that this program does not know: then it is as if it had not.
        time_zone: Some(input.get("time_zone").to_owned())
            .filter(|zone| jiff::tz::TimeZone::get(zone).is_ok()),
    };
    r.done(start)
}
