//! One form for many models.

use wembrit_core::ids::{ModelId, ResinId};
use wembrit_core::workshop::Resin;
use wembrit_store::commands::unit_moves::ManyChange;

use super::{Faults, Field, Input, Kind, Reader};

pub(crate) fn fields(resins: &[Resin]) -> Vec<Field> {
    let mut all = vec![(String::new(), "as it is".to_owned())];
    all.extend(resins.iter().map(|r| (r.id.to_string(), r.name.clone())));
    vec![
        Field::text("base", "Base size", "")
            .hint("Empty leaves it as it is; 25, or 60x35 for an oval."),
        Field::new("resin", "Resin", Kind::Choice(all), ""),
        Field::number("layer_mm", "Layer height", "mm", ""),
        Field::number("scale_percent", "Scale", "%", ""),
    ]
}

/// The chosen models and what is changed on them.
pub(crate) fn read(input: &Input) -> Result<(Vec<ModelId>, ManyChange), Faults> {
    let mut r = Reader::new(input);
    let given = |name: &str| !input.get(name).is_empty();
    let change = ManyChange {
        base_mm: given("base").then(|| r.base("base")),
        resin: given("resin").then(|| r.choice("resin", ResinId(0))),
        layer: given("layer_mm").then(|| r.layer("layer_mm")),
        scale: given("scale_percent").then(|| r.number("scale_percent", 1.0, 2000.0) / 100.0),
    };
    let models: Vec<ModelId> = input
        .all("model")
        .filter_map(|id| id.parse().ok())
        .collect();
    if models.is_empty() {
        r.refuse("base", "tick the models to change first");
    } else if change == ManyChange::default() {
        r.refuse(
            "base",
            "nothing is to be changed yet: fill in at least one of these",
        );
    }
    r.done((models, change))
}
