//! A unit's form.

use wembrit_store::queries::muster::UnitChange;
use wembrit_store::rows::Unit;

use super::{Faults, Field, Input, Reader};

pub(crate) fn fields(unit: Option<&Unit>, next_priority: i64) -> Vec<Field> {
    vec![
        Field::text("name", "Name", unit.map_or("", |u| u.name.as_str())),
        Field::number(
            "priority",
            "Priority",
            "",
            unit.map_or(next_priority, |u| u.priority),
        )
        .hint("1 is printed first."),
    ]
}

pub(crate) fn read(input: &Input) -> Result<UnitChange, Faults> {
    let mut r = Reader::new(input);
    let change = UnitChange {
        name: r.name("name"),
        priority: i64::from(r.whole("priority", 1, 999)),
    };
    r.done(change)
}
