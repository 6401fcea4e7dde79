//! Forms of choices and of pieces that are not printed.

use crate::currency::Amount;
use wembrit_core::army::kit::{Source, check_choice, parse_options};
use wembrit_core::army::{Choice, ChoiceOption, Piece};
use wembrit_core::ids::OptionId;
use wembrit_store::commands::kits::{ChoiceChange, OptionChange, PieceChange};

use super::parts::{option_field, read_option};
use super::{Faults, Field, Input, Kind, Reader, plain, words};

pub(crate) fn choice_fields(known: Option<(&Choice, &[ChoiceOption])>) -> Vec<Field> {
    let options = known.map_or_else(String::new, |(_, options)| options_text(options));
    let without = known.is_some_and(|(c, _)| c.may_go_without);
    let tick = vec![("yes".to_owned(), "models may go without".to_owned())];
    vec![
        Field::text("name", "Name", known.map_or("", |(c, _)| c.name.as_str())).hint("Such as weapon."),
        Field::text("options", "Options", options)
            .hint("Each with the number of models that take it: 3 spear, 2 axe. Together they are all the models."),
        Field::new("may_go_without", "Optional", Kind::Ticks(tick), if without { "yes" } else { "" }),
    ]
}

/// `3 spear, 2 axe`.
pub(crate) fn options_text(options: &[ChoiceOption]) -> String {
    options
        .iter()
        .map(|o| format!("{} {}", o.models, o.name))
        .collect::<Vec<_>>()
        .join(", ")
}

/// Options keep their identity by name; when as many are renamed as there were, by place.
pub(crate) fn read_choice(
    input: &Input,
    quantity: u32,
    known: &[ChoiceOption],
) -> Result<ChoiceChange, Faults> {
    let mut r = Reader::new(input);
    let may_go_without = input.get("may_go_without") == "yes";
    let mut options = Vec::new();
    match parse_options(input.get("options")) {
        Err(fault) => r.refuse("options", &fault.to_string()),
        Ok(read) if read.is_empty() => {
            r.refuse("options", "write at least one, such as 3 spear, 2 axe")
        }
        Ok(read) => {
            let same = |name: &str| {
                known
                    .iter()
                    .find(|k| k.name.eq_ignore_ascii_case(name))
                    .map(|k| k.id)
            };
            let by_place = read.len() == known.len();
            for (place, (name, count)) in read.into_iter().enumerate() {
                let id =
                    same(&name).or_else(|| known.get(place).filter(|_| by_place).map(|k| k.id));
                let Some(models) = count else {
                    r.refuse("options", &format!("say how many models take '{name}'"));
                    continue;
                };
                options.push(OptionChange { id, name, models });
            }
        }
    }
    let models: Vec<u32> = options.iter().map(|o| o.models).collect();
    if !options.is_empty()
        && let Err(fault) = check_choice(quantity, &models, may_go_without)
    {
        r.refuse("options", &fault.to_string());
    }
    let change = ChoiceChange {
        name: r.name("name"),
        may_go_without,
        options,
    };
    r.done(change)
}

pub(crate) fn piece_fields(piece: Option<&Piece>, options: &[(OptionId, String)]) -> Vec<Field> {
    let mut fields = vec![
        Field::text("name", "Name", piece.map_or("", |p| p.name.as_str())),
        Field::new(
            "source",
            "Comes from",
            words(Source::ALL),
            piece.map_or(Source::Box, |p| p.source),
        ),
        Field::number(
            "count",
            "In each model",
            "pieces",
            piece.map_or(1, |p| p.count),
        ),
        Field::number(
            "at_hand",
            "At hand",
            "pieces",
            piece.map_or(0, |p| p.at_hand),
        )
        .hint("They count for complete models; they are never planned or printed."),
        Field::number(
            "cost_each",
            "One costs",
            "",
            piece.map_or_else(|| "0.00".to_owned(), |p| p.cost_each.written()),
        ),
        Field::number(
            "minutes_each",
            "Work on one",
            "min",
            plain(piece.map_or(0.0, |p| p.minutes_each)),
        ),
    ];
    if !options.is_empty() {
        let now = piece
            .and_then(|p| p.option)
            .map_or_else(String::new, |id| id.to_string());
        fields.insert(2, option_field(options, now));
    }
    fields
}

pub(crate) fn read_piece(input: &Input) -> Result<PieceChange, Faults> {
    let mut r = Reader::new(input);
    let change = PieceChange {
        name: r.name("name"),
        option: read_option(&mut r, input),
        source: r.choice("source", Source::Box),
        count: r.whole("count", 1, 500),
        at_hand: r.whole("at_hand", 0, 100_000),
        cost_each: r.money("cost_each"),
        minutes_each: r.number("minutes_each", 0.0, 6000.0),
    };
    r.done(change)
}
