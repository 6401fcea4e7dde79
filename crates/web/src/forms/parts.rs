//! A part's form, its recipe included.

use wembrit_core::army::Part;
use wembrit_core::ids::{OptionId, ResinId, SculptId};
use wembrit_core::recipe::RecipeVersion;
use wembrit_core::sculpt::Sculpt;
use wembrit_core::units::LayerHeight;
use wembrit_core::workshop::Resin;
use wembrit_store::commands::muster::PartChange;
use wembrit_store::commands::recipes::RecipeChange;

use super::{Faults, Field, Input, Kind, Reader, plain};

/// What a part can be made of.
pub(crate) struct Choices {
    pub(crate) sculpts: Vec<Sculpt>,
    pub(crate) resins: Vec<Resin>,
    pub(crate) layer: LayerHeight,
    /// Options of the model's choices: identity and name.
    pub(crate) options: Vec<(OptionId, String)>,
}

pub(crate) fn fields(part: Option<(&Part, &RecipeVersion)>, choices: &Choices) -> Vec<Field> {
    let mut sculpts = vec![(String::new(), "none yet".to_owned())];
    sculpts.extend(
        choices
            .sculpts
            .iter()
            .map(|s| (s.id.to_string(), s.name.clone())),
    );
    let resins: Vec<_> = choices
        .resins
        .iter()
        .map(|r| (r.id.to_string(), r.name.clone()))
        .collect();
    let first_resin = resins.first().map_or_else(String::new, |r| r.0.clone());
    let sculpt = part
        .and_then(|(p, _)| p.sculpt)
        .map_or_else(String::new, |id| id.to_string());
    let mut fields = vec![
        Field::text("name", "Name", part.map_or("", |(p, _)| p.name.as_str())),
        Field::number(
            "count",
            "In each model",
            "copies",
            part.map_or(1, |(p, _)| p.count),
        ),
        Field::number(
            "spares",
            "Spares",
            "copies",
            part.map_or(0, |(p, _)| p.spares),
        )
        .hint("Further copies against losses, for all models together."),
        Field::new("sculpt", "Sculpt", Kind::Choice(sculpts), sculpt),
        Field::number(
            "scale_percent",
            "Scale",
            "%",
            plain(part.map_or(100.0, |(_, r)| r.scale * 100.0)),
        )
        .hint("Of the file's size; it stands on the plate as imported."),
        Field::new(
            "resin",
            "Resin",
            Kind::Choice(resins),
            part.map_or(first_resin, |(_, r)| r.resin.to_string()),
        ),
        Field::number(
            "layer_mm",
            "Layer height",
            "mm",
            part.map_or(choices.layer, |(_, r)| r.layer),
        ),
    ];
    if !choices.options.is_empty() {
        let now = part
            .and_then(|(p, _)| p.option)
            .map_or_else(String::new, |id| id.to_string());
        fields.insert(2, option_field(&choices.options, now));
    }
    fields
}

/// Which models take it: all of them, or those with one option.
pub(super) fn option_field(options: &[(OptionId, String)], now: String) -> Field {
    let mut all = vec![(String::new(), "every model".to_owned())];
    all.extend(
        options
            .iter()
            .map(|(id, name)| (id.to_string(), format!("models with {name}"))),
    );
    Field::new("option", "Taken by", Kind::Choice(all), now)
}

/// The option a form names; none for every model.
pub(super) fn read_option(r: &mut Reader<'_>, input: &Input) -> Option<OptionId> {
    (!input.get("option").is_empty()).then(|| r.choice("option", OptionId(0)))
}

pub(crate) fn read(input: &Input) -> Result<PartChange, Faults> {
    let mut r = Reader::new(input);
    let sculpt = if input.get("sculpt").is_empty() {
        None
    } else {
        Some(r.choice("sculpt", SculptId(0)))
    };
    let option = read_option(&mut r, input);
    if input.get("resin").is_empty() {
        r.refuse("resin", "add a resin in the workshop first");
    }
    let change = PartChange {
        name: r.name("name"),
        count: r.whole("count", 1, 500),
        spares: r.whole("spares", 0, 500),
        sculpt,
        option,
        recipe: RecipeChange {
            scale: r.number("scale_percent", 1.0, 2000.0) / 100.0,
            resin: r.choice("resin", ResinId(0)),
            layer: r.layer("layer_mm"),
            setup: None,
        },
    };
    r.done(change)
}
