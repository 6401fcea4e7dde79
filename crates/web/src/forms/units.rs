//! A unit's form.

use wembrit_core::army::Unit;
use wembrit_core::ids::ModelId;
use wembrit_store::commands::muster::UnitChange;

use super::{Faults, Field, Input, Kind, Reader};

/// A model that carries others: identity and words for the choice.
pub(crate) type Carrier = (ModelId, String);

pub(crate) fn fields(unit: Option<&Unit>, next_priority: i64, carriers: &[Carrier]) -> Vec<Field> {
    let mut fields = vec![
        Field::text("name", "Name", unit.map_or("", |u| u.name.as_str())),
        Field::number(
            "priority",
            "Priority",
            "",
            unit.map_or(next_priority, |u| u.priority),
        )
        .hint("1 is printed first."),
    ];
    if !carriers.is_empty() {
        let mut all = vec![(String::new(), "nothing".to_owned())];
        all.extend(
            carriers
                .iter()
                .map(|(id, name)| (id.to_string(), name.clone())),
        );
        let now = unit
            .and_then(|u| u.carrier)
            .map_or_else(String::new, |id| id.to_string());
        let carried = Field::new("carrier", "Carried by", Kind::Choice(all), now);
        fields.push(carried.hint("What carries a unit limits its size."));
    }
    fields
}

pub(crate) fn read(input: &Input) -> Result<UnitChange, Faults> {
    let mut r = Reader::new(input);
    let carrier = if input.get("carrier").is_empty() {
        None
    } else {
        Some(r.choice("carrier", ModelId(0)))
    };
    let change = UnitChange {
        name: r.name("name"),
        priority: i64::from(r.whole("priority", 1, 999)),
        carrier,
    };
    r.done(change)
}
